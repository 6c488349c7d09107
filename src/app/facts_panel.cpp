// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/facts_panel.hpp"

#include "app/command_registry.hpp"
#include "app/words.hpp"

#include "app/calm_combo.hpp"
#include "app/changes.hpp"
#include "app/number_field.hpp"
#include "app/theme.hpp"
#include "base/pitch.hpp"
#include "commands/call.hpp"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMap>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

QString percent(double v) { return QString("%1 %").arg(std::lround(v * 100)); }

NumberField* number(double value, double low, double high, double step, const QString& suffix, int decimals = 1) {
    return new NumberField(value, low, high, step, suffix, decimals);
}

}  // namespace

FactsPanel::FactsPanel(Session& session, const CommandRegistry& commands, QWidget* parent) : QScrollArea(parent), session_(session), commands_(commands) {
    setFixedWidth(272);
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Facts"));
    // Rebuilt after the event that caused it, since that event may come from a widget in here.
    const auto later = [this] {
        if (pending_) return;
        pending_ = true;
        QTimer::singleShot(0, this, &FactsPanel::rebuild_when_free);
    };
    connect(&session_, &Session::document_changed, this, later);
    connect(&session_, &Session::selection_changed, this, later);
    rebuild();
}

void FactsPanel::set_chord_tick(Ticks tick) {
    chord_tick_ = tick;
    rebuild();
}

void FactsPanel::focus_chord_name() {
    if (auto* edit = widget()->findChild<QLineEdit*>("chord_name")) {
        edit->setFocus();
        edit->selectAll();
    }
}

void FactsPanel::heading(const QString& text) {
    auto* label = new QLabel(text);
    label->setObjectName("heading");
    label->setContentsMargins(0, 8, 0, 0);
    column_->addWidget(label);
}

void FactsPanel::value(const QString& text, const QString& tip) {
    auto* label = new QLabel(text);
    label->setObjectName("value");
    label->setToolTip(tip);
    label->setWordWrap(true);
    column_->addWidget(label);
}

void FactsPanel::note(const QString& text, const QString& tip) {
    auto* label = new QLabel(text);
    label->setWordWrap(true);
    label->setToolTip(tip);
    column_->addWidget(label);
}

void FactsPanel::button(const QString& text, const QString& tip, const std::function<void()>& action, const QString& object) {
    auto* b = new QPushButton(text);
    b->setToolTip(tip);
    if (!object.isEmpty()) b->setObjectName(object);
    connect(b, &QPushButton::clicked, this, [action] { action(); });
    column_->addWidget(b);
}

void FactsPanel::rebuild_when_free() {
    if (!pending_) return;
    if (widget())
        for (const NumberField* field : widget()->findChildren<NumberField*>())
            if (field->in_hand()) return;  // its drag would end with it; once it is let go this comes again
    pending_ = false;
    rebuild();
}

void FactsPanel::rebuild() {
    auto* inner = new QWidget;
    column_ = new QVBoxLayout(inner);
    column_->setContentsMargins(14, 10, 14, 14);
    column_->setSpacing(5);
    if (session_.has_reference()) {
        const ElementId id = session_.selection().element();
        auto* title = new QLabel(QString::fromStdString(session_.remake().element_name(id)));
        title->setFont(text_font(11.5, true));
        column_->addWidget(title);
        if (id == ElementId::tempo()) tempo();
        else if (id == ElementId::key()) key();
        else if (id == ElementId::sections()) sections();
        else if (id == ElementId::chords()) chords();
        else part();
        element_state();
    }
    column_->addStretch(1);
    const QString focused = focusWidget() ? focusWidget()->objectName() : QString();
    setWidget(inner);
    if (!focused.isEmpty() && focused != "value" && focused != "heading")
        if (auto* again = inner->findChild<QWidget*>(focused)) again->setFocus();
}

void FactsPanel::tempo() {
    const Remake& r = session_.remake();
    heading(tr("Tempo"));
    value(QString::fromStdString(r.song->tempo_text()));
    note(tr("± %1 BPM, %2 sure").arg(r.song->tempo_error_bpm, 0, 'f', 3).arg(percent(r.song->tempo_confidence)));
    auto* row = new QHBoxLayout;
    for (const auto& [text, id, tip] : {std::tuple{tr("Halve"), "song.halve", tr("Read the same music at half the tempo")},
                                        {tr("Double"), "song.double", tr("Read the same music at double the tempo")}}) {
        auto* b = new QPushButton(text);
        b->setObjectName(id);
        b->setToolTip(commands_.with_keys(tip, id));
        connect(b, &QPushButton::clicked, commands_.action(id), &QAction::trigger);
        row->addWidget(b);
    }
    column_->addLayout(row);
    button(
        tr("Downbeat at the cursor"), commands_.with_keys(tr("Make the beat nearest to the playhead the first of a bar"), "song.downbeat"),
        [this] { session_.downbeat_here(); }, "downbeat");
    if (const auto analysis = session_.recording().analysis; analysis && !analysis->tempo.free_time.empty()) {
        heading(tr("Free time"));
        for (const auto& [from, to] : analysis->tempo.free_time)
            note(QString("%1 – %2").arg(time_text(from), time_text(to)), tr("No pulse is heard here; beats are counted through from both sides"));
    }
    if (!r.song->tempo_candidates.empty()) {
        heading(tr("Other readings"));
        for (const Candidate& c : r.song->tempo_candidates)
            button(tr("%1 BPM   %2").arg(c.bpm, 0, 'f', 2).arg(percent(c.confidence)), tr("Read the music at this tempo; nothing moves in time"),
                   [this, bpm = c.bpm] {
                       session_.documents().run(Line("tempo.reread").with("factor", std::to_string(bpm / session_.remake().song->tempo.bpm_at(0))));
                   });
    }
    heading(tr("Meter"));
    auto* meter = new CalmCombo;
    meter->setObjectName("meter");
    const auto& first = r.song->meter.changes().front();
    for (const char* m : {"2/4", "3/4", "4/4", "5/4", "7/4", "6/8", "9/8", "12/8"}) meter->addItem(m);
    const QString now = QString("%1/%2").arg(first.numerator).arg(first.denominator);
    if (meter->findText(now) < 0) meter->addItem(now);
    meter->setCurrentText(now);
    meter->setToolTip(tr("Beats in a bar, counted from bar 1"));
    connect(meter, &QComboBox::textActivated, this,
            [this](const QString& text) { session_.documents().run(Line("meter.set").with("meter", text.toStdString())); });
    column_->addWidget(meter);
    if (r.song->meter.changes().size() > 1) note(tr("and %1 changes later on").arg(r.song->meter.changes().size() - 1));
    heading(tr("Feel"));
    note(std::abs(r.song->swing_ratio - 0.5) < 0.02 ? QString("straight")
                                                    : tr("swung %1ths, %2 : %3")
                                                          .arg(r.song->swing_subdivision)
                                                          .arg(std::lround(r.song->swing_ratio * 100))
                                                          .arg(std::lround(100 - r.song->swing_ratio * 100)));
}

void FactsPanel::choose_key(std::size_t area, const Key& key) {
    session_.documents().run(Line("key.set").with("key", key.name()).with("area", std::to_string(area + 1)));
}

void FactsPanel::key() {
    const Remake& r = session_.remake();
    heading(tr("Tuning"));
    value(tr("%1%2 cents").arg(r.song->tuning_cents >= 0 ? "+" : "−").arg(std::abs(r.song->tuning_cents), 0, 'f', 1));
    note(QString("A4 = %1 Hz").arg(440.0 * std::exp2(r.song->tuning_cents / 1200.0), 0, 'f', 2));
    if (const auto a = session_.recording().analysis) {
        const double drift = a->tuning.drift_cents;
        note(std::abs(drift) < 4.0 ? QString(tr("steady from start to end"))
                                   : tr("ends %1 cents %2 than it starts").arg(std::abs(drift), 0, 'f', 0).arg(drift > 0 ? "higher" : "lower"));
    }
    for (std::size_t i = 0; i < std::max<std::size_t>(1, r.song->keys.size()); ++i) {
        const KeyArea area = i < r.song->keys.size() ? r.song->keys[i] : KeyArea{};
        heading(r.song->keys.size() > 1 ? tr("Key from bar %1").arg(r.song->meter.position(area.start).bar) : QString(tr("Key")));
        auto* row = new QHBoxLayout;
        auto* tonic = new CalmCombo;
        auto* mode = new CalmCombo;
        tonic->setObjectName(QString("tonic%1").arg(i));
        mode->setObjectName(QString("mode%1").arg(i));
        for (int pc = 0; pc < 12; ++pc) tonic->addItem(QString::fromStdString(std::string(pitch_class_name(pc, Key{pc, area.key.mode}.flats()))));
        for (int m = 0; m < 7; ++m) mode->addItem(QString::fromStdString(std::string(mode_name(static_cast<Mode>(m)))));
        tonic->setCurrentIndex(area.key.tonic);
        mode->setCurrentIndex(static_cast<int>(area.key.mode));
        const auto set = [this, i, tonic, mode] { choose_key(i, {tonic->currentIndex(), static_cast<Mode>(mode->currentIndex())}); };
        connect(tonic, &QComboBox::activated, this, set);
        connect(mode, &QComboBox::activated, this, set);
        row->addWidget(tonic);
        row->addWidget(mode, 1);
        column_->addLayout(row);
        note(tr("%1 sure").arg(percent(area.confidence)));
        for (const auto& [key, confidence] : area.alternatives)
            button(QString("%1   %2").arg(QString::fromStdString(key.name()), percent(confidence)), tr("Take this key instead"),
                   [this, i, k = key] { choose_key(i, k); });
    }
}

void FactsPanel::sections() {
    const Remake& r = session_.remake();
    heading(tr("Names; the letter tells what repeats"));
    for (std::size_t i = 0; i < r.song->sections.size(); ++i) {
        const Section& s = r.song->sections[i];
        auto* row = new QHBoxLayout;
        auto* label = new QLabel(tr("%1  bar %2").arg(QString::fromStdString(s.label)).arg(r.song->meter.position(s.start).bar));
        label->setMinimumWidth(66);
        auto* name = new QLineEdit(QString::fromStdString(s.name));
        name->setObjectName(QString("section%1").arg(i));
        name->setToolTip(tr("What this section is called"));
        connect(name, &QLineEdit::editingFinished, this, [this, i, name] {
            if (i < session_.remake().song->sections.size() && name->text().toStdString() != session_.remake().song->sections[i].name)
                session_.documents().run(Line("section.rename")
                                             .with("section", section_text(session_.remake(), session_.remake().song->sections[i].id))
                                             .with("name", name->text().toStdString()));
        });
        auto* loop = new QPushButton(tr("loop"));
        loop->setToolTip(tr("Loop this section"));
        connect(loop, &QPushButton::clicked, this, [this, i] {
            const Section& x = session_.remake().song->sections[i];
            session_.transport().set_loop(session_.remake().song->tempo.seconds(x.start), session_.remake().song->tempo.seconds(x.start + x.length));
            session_.transport().seek(session_.transport().loop_start());
        });
        auto* copy = new QPushButton(tr("copy…"));
        copy->setObjectName(QString("copy_section%1").arg(i));
        copy->setToolTip(tr("Play what it plays once more somewhere else, with its curves, settings and clips"));
        connect(copy, &QPushButton::clicked, this, [this, id = s.id] {
            QInputDialog dialog(this);
            dialog.setObjectName("copy section");
            dialog.setWindowTitle(tr("Copy section"));
            dialog.setLabelText(tr("Where the copy begins: a bar (21) or a section (verse 2), whose place it takes:"));
            if (dialog.exec() == QDialog::Accepted && !dialog.textValue().trimmed().isEmpty())
                session_.documents().run(
                    Line("section.copy").with("section", section_text(session_.remake(), id)).with("to", dialog.textValue().trimmed().toStdString()));
        });
        row->addWidget(label);
        row->addWidget(name, 1);
        row->addWidget(loop);
        row->addWidget(copy);
        column_->addLayout(row);
    }
    const auto analysis = session_.recording().analysis;
    if (!analysis) return;
    // Bar by bar, each with all its elements: what a rebuild that copies the first time through gets wrong.
    heading(tr("Repeats that differ"));
    int listed = 0, left_out = 0;
    constexpr int kMostBars = 12;
    for (const SectionSpan& s : analysis->sections)
        for (std::size_t i = 0; i < s.differences.size();) {
            std::vector<const BarDifference*> bar;
            for (const int number = s.differences[i].bar; i < s.differences.size() && s.differences[i].bar == number; ++i) bar.push_back(&s.differences[i]);
            if (++listed > kMostBars) {
                ++left_out;
                continue;
            }
            const double start = bar.front()->start_s;
            auto* row = new QHBoxLayout;
            auto* go = new QPushButton(QString("%1 ≠ %2").arg(bar.front()->bar).arg(bar.front()->of_bar));
            go->setObjectName(QString("change%1").arg(listed));
            go->setMinimumWidth(72);  // so that the words beside them line up
            go->setToolTip(tr("Go to bar %1, which is not quite bar %2 again").arg(bar.front()->bar).arg(bar.front()->of_bar));
            connect(go, &QPushButton::clicked, this, [this, start] { session_.transport().seek(start); });
            auto* words = new QLabel(change_words(bar));
            words->setWordWrap(true);
            row->addWidget(go);
            row->addWidget(words, 1);
            column_->addLayout(row);
        }
    if (listed == 0) note(tr("None was heard."));
    if (left_out > 0) note(tr("and %1 more, marked ≠ on the page").arg(left_out));
    heading(tr("Entries and exits"));
    QMap<QString, QStringList> spans;
    QStringList order;
    for (const Presence& p : analysis->presence) {
        const QString name = heard_element_name(p.element);
        if (!spans.contains(name)) order << name;
        spans[name] << (p.bars == 1 ? QString::number(p.start_bar) : QString("%1–%2").arg(p.start_bar).arg(p.start_bar + p.bars - 1));
    }
    for (const QString& name : order)
        note(tr("%1: bars %2").arg(name, spans[name].join(", ")), tr("The bars in which it plays; a rest of one bar does not count"));
}

void FactsPanel::choose_chord(const Chord& chord) {
    session_.documents().run(Line("chord.set").with("at", place_text(session_.remake().song->meter, chord_tick_)).with("chord", chord.label()));
}

void FactsPanel::chords() {
    const Remake& r = session_.remake();
    const ChordEvent* chosen = nullptr;
    for (const ChordEvent& c : r.song->chords)
        if (chord_tick_ >= c.start && chord_tick_ < c.start + c.length) chosen = &c;
    heading(tr("Chord at bar %1").arg(r.song->meter.position(chord_tick_).bar));
    const bool flats = r.song->flats_at(chord_tick_);
    auto* name = new QLineEdit(chosen ? QString::fromStdString(chosen->chord.name(flats)) : QString());
    name->setObjectName("chord_name");
    name->setPlaceholderText("Dm7, F#m7b5, G/B, N.C.");
    name->setToolTip(tr("Type a chord's name and press Return"));
    connect(name, &QLineEdit::returnPressed, this, [this, name] {
        const auto chord = parse_chord(name->text().trimmed().toStdString());
        if (!chord) {
            emit session_.failed(tr("“%1” is not a chord this program knows: try names such as Dm7, Gsus4, F#m7b5 or G/B.").arg(name->text()));
            return;
        }
        choose_chord(*chord);
    });
    column_->addWidget(name);
    if (chosen) {
        QString tones;
        for (const int pc : chosen->chord.tones()) tones += QString::fromStdString(std::string(pitch_class_name(pc, flats))) + " ";
        note(chosen->chord.none()
                 ? QString(tr("no chord"))
                 : tones.trimmed() + ", " + QString::fromStdString(std::string(chord_kinds()[static_cast<std::size_t>(chosen->chord.kind)].words)));
        note(chosen->origin == Origin::Heard ? tr("heard, %1 sure").arg(percent(chosen->confidence)) : QString(tr("set by you")));
        heading(tr("Alternatives"));
        int index = 0;
        for (const auto& [chord, confidence] : chosen->alternatives)
            button(
                QString("%1   %2").arg(QString::fromStdString(chord.name(flats)), percent(confidence)), tr("Take this chord instead"),
                [this, c = chord] { choose_chord(c); }, QString("alternative%1").arg(index++));
        button(tr("Split at the cursor"), tr("Cut the chord under the playhead in two"), [this] {
            const Remake& now = session_.remake();
            const Ticks beat = now.song->meter.at_bar(1).beat_ticks();
            const Ticks t = (now.song->tempo.nearest_tick(session_.transport().position_s()) + beat / 2) / beat * beat;
            session_.documents().run(Line("chord.split").with("at", place_text(now.song->meter, t)));
        });
    } else {
        note(tr("No chord here yet: type one."));
    }
}

void FactsPanel::part() {
    const Part* p = session_.selection().part();
    if (!p) return;
    const PartId id = p->id;
    heading(tr("Name"));
    auto* name = new QLineEdit(QString::fromStdString(p->name));
    name->setObjectName("part_name");
    connect(name, &QLineEdit::editingFinished, this, [this, id, name] {
        const Part* now = session_.remake().part(id);
        if (now && !name->text().trimmed().isEmpty() && name->text().toStdString() != now->name)
            session_.documents().run(Line("part.rename").with("part", part_text(session_.remake(), id)).with("name", name->text().trimmed().toStdString()));
    });
    column_->addWidget(name);
    if (const auto a = session_.recording().analysis; a && p->role == PartRole::Drums && !a->feel.drums.empty()) {
        heading(tr("Feel in the original"));
        for (const DrumFeel& d : a->feel.drums) {
            double offset = 0, velocity = 0, count = 0;
            for (const StepFeel& s : d.steps) offset += s.offset_ms * s.count, velocity += s.velocity * s.count, count += s.count;
            const double ms = offset / count;
            QString steps;
            for (const StepFeel& s : d.steps)
                steps += tr("%1 %2 ms, velocity %3\n")
                             .arg(1.0 + static_cast<double>(s.step) / a->feel.steps_per_beat, 0, 'f', 2)
                             .arg(s.offset_ms, 0, 'f', 0)
                             .arg(s.velocity, 0, 'f', 0);
            note(tr("%1: %2, velocity %3")
                     .arg(QString(drum_sound(d.kind).name),
                          std::abs(ms) < 2.0 ? QString(tr("on the grid")) : QString("%1 ms %2").arg(std::abs(ms), 0, 'f', 0).arg(ms > 0 ? "late" : "early"))
                     .arg(velocity / count, 0, 'f', 0),
                 "Against the straight grid, by beat of the bar:\n" + steps.trimmed());
        }
    }
    const bool drums = p->role == PartRole::Drums;
    heading(tr("In the mix"));
    for (const Parameter& row : kPartFields) {
        auto* line = new QHBoxLayout;
        line->addWidget(new QLabel(row.label), 1);
        auto* box = new FieldBox(session_, {id, row.id}, row);
        connect(box, &NumberField::let_go, this, [this] {
            if (pending_) QTimer::singleShot(0, this, &FactsPanel::rebuild_when_free);
        });
        line->addWidget(box);
        column_->addLayout(line);
    }
    std::size_t notes = 0, doubtful = 0;
    for (const PlacedNote& n : placed_notes(*p)) ++notes, doubtful += n.note.confidence < 0.5 && n.note.origin == Origin::Heard;
    heading(tr("Notes"));
    note(tr("%1 %2, %3 of them doubtful").arg(notes).arg(drums ? "hits" : "notes").arg(doubtful));
    if (session_.selection().notes().size() == 1) {
        for (const PlacedNote& n : placed_notes(*p)) {
            if (!(n.ref() == session_.selection().notes().front())) continue;
            const QString what = drums ? QString(drum_sound_of_key(n.note.pitch) ? drum_sound_of_key(n.note.pitch)->name : "?")
                                       : QString::fromStdString(note_name(n.note.pitch, session_.remake().song->flats_at(n.note.start)));
            note(QString("%1 at %2").arg(what, QString::fromStdString(session_.remake().song->meter.position(n.note.start).text())));
            note(tr("velocity %1, length %2 beats, %3")
                     .arg(n.note.velocity)
                     .arg(static_cast<double>(n.note.length) / kTicksPerQuarter, 0, 'f', 2)
                     .arg(n.note.origin == Origin::Heard      ? tr("heard, %1 sure").arg(percent(n.note.confidence))
                          : n.note.origin == Origin::Imported ? QString("imported")
                                                              : QString("drawn")));
        }
    }
    if (!session_.selection().notes().empty()) {
        auto* velocity = number(0, -100, 100, 4, tr(" velocity"), 0);
        velocity->setPrefix(tr("change by "));
        velocity->setToolTip(tr("Make the selected notes louder or softer, then press Return"));
        connect(velocity, &QDoubleSpinBox::editingFinished, this, [this, id, velocity] {
            const int by = static_cast<int>(velocity->value());
            velocity->blockSignals(true);
            velocity->setValue(0);
            velocity->blockSignals(false);
            if (by != 0) session_.documents().run(session_.selection().on_notes("note.change", session_.remake(), id).with("velocity", std::to_string(by)));
        });
        column_->addWidget(velocity);
        note(tr("%1 selected").arg(session_.selection().notes().size()));
    }
}

void FactsPanel::element_state() {
    const ElementId id = session_.selection().element();
    const ElementState state = session_.remake().element(id);
    heading(tr("State"));
    auto* combo = new CalmCombo;
    combo->setObjectName("state");
    for (const QString& s : {tr("open"), tr("draft"), tr("confirmed"), tr("left out")}) combo->addItem(s);
    combo->setCurrentIndex(static_cast<int>(state.state));
    combo->setToolTip(tr("Confirming is your word: the program only drafts"));
    connect(combo, &QComboBox::activated, this, [this, id](int i) {
        session_.documents().run(Line("element.note").with("element", element_text(session_.remake(), id)).with("state", state_name(static_cast<State>(i))));
    });
    column_->addWidget(combo);
    const auto words = [&](const char* argument, const QString& placeholder, const std::string& now) {
        auto* edit = new QLineEdit(QString::fromStdString(now));
        edit->setObjectName(argument);
        edit->setPlaceholderText(placeholder);
        connect(edit, &QLineEdit::editingFinished, this, [this, id, edit, argument] {
            const ElementState before = session_.remake().element(id);
            const std::string text = edit->text().toStdString();
            if (text != (std::string_view(argument) == "question" ? before.question : before.intended))
                session_.documents().run(Line("element.note").with("element", element_text(session_.remake(), id)).with(argument, text));
        });
        column_->addWidget(edit);
    };
    words("question", tr("? an open question, in your words"), state.question);
    words("intended", tr("≈ a difference you intend"), state.intended);
}

}  // namespace fw::app
