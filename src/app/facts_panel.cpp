// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/facts_panel.hpp"

#include "app/command_registry.hpp"
#include "app/words.hpp"

#include "app/calm_combo.hpp"
#include "app/changes.hpp"
#include "app/doubt_walk.hpp"
#include "app/number_field.hpp"
#include "app/survey.hpp"
#include "app/theme.hpp"
#include "base/pitch.hpp"
#include "commands/call.hpp"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QElapsedTimer>
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

FactsPanel::FactsPanel(Session& session, const CommandRegistry& commands, QWidget* parent) : QScrollArea(parent), session_(session), commands_(commands) {
    setFixedWidth(272);
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Facts"));
    constexpr int kFrame_ms = 16, kAfterwards_ms = 60, kLongest_ms = 200;
    soon_.setSingleShot(true);
    connect(&soon_, &QTimer::timeout, this, &FactsPanel::rebuild_when_free);
    // Rebuilt after the event that caused it, since that event may come from a widget in here.
    const auto later = [this] {
        made_.reset();
        if (std::exchange(pending_, true)) return;
        waiting_.start();
        soon_.start(took_ms_ > kFrame_ms ? kAfterwards_ms : 0);
    };
    // What was edited is drawn and heard first; what is told of it, or of what was chosen just before, follows a moment later.
    connect(&session_, &Session::document_changed, this, [this] {
        made_.reset();
        if (!std::exchange(pending_, true)) waiting_.start();
        else if (waiting_.elapsed() > kLongest_ms) return;
        soon_.start(kAfterwards_ms);
    });
    connect(&session_, &Session::selection_changed, this, later);
    // Rivals are rendered once what is open has been.
    connect(&session_, &Session::report_changed, this, [this, later] {
        const Part* part = session_.selection().part();
        if (part && !part->rivals.empty() && session_.rebuild_is_current() && rival_sounds_of_ != session_.documents().document()) later();
    });
    connect(&session_.survey(), &Survey::changed, this, later);
    connect(&session_.walk(), &DoubtWalk::changed, this, later);
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

void FactsPanel::commands_row(std::initializer_list<std::pair<const char*, QString>> commands) {
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    for (const auto& [id, text] : commands) {
        auto* b = new QPushButton(text);
        b->setObjectName(id);
        b->setToolTip(commands_.with_keys(commands_.sentence(id), id));
        b->setProperty("compact", true);
        b->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        connect(b, &QPushButton::clicked, commands_.action(id), &QAction::trigger);
        row->addWidget(b);
    }
    column_->addLayout(row);
}

void FactsPanel::rebuild_when_free() {
    if (!pending_) return;
    soon_.stop();
    if (widget())
        for (const NumberField* field : widget()->findChildren<NumberField*>())
            if (field->in_hand()) return;  // its drag would end with it; once it is let go this comes again
    // In two turns of the window's thread, each shorter than a frame: what was made first is laid out in the next, unless something else is to be told by then.
    if (!made_) {
        made_ = make();
        soon_.start(0);
        return;
    }
    pending_ = false;
    show_made();
}

void FactsPanel::rebuild() {
    made_ = make();
    show_made();
}

std::unique_ptr<QWidget> FactsPanel::make() {
    QElapsedTimer clock;
    clock.start();
    auto inner = std::make_unique<QWidget>();
    column_ = new QVBoxLayout(inner.get());
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
    took_ms_ = clock.elapsed();
    return inner;
}

void FactsPanel::show_made() {
    QElapsedTimer clock;
    clock.start();
    const QString focused = focusWidget() ? focusWidget()->objectName() : QString();
    setWidget(made_.release());
    if (!focused.isEmpty() && focused != "value" && focused != "heading")
        if (auto* again = widget()->findChild<QWidget*>(focused)) again->setFocus();
    took_ms_ += clock.elapsed();
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
    doubts(*p);
    heading(tr("In the original"));
    button(
        tr("Hear it where it is clearest"), commands_.with_keys(tr("Loop the next of the moments in which it stands most alone"), "song.clearest"),
        [this] { session_.survey().next_clearest(); }, "clearest");
    for (const Remark& m : session_.remake().notebook->remarks)
        if (m.kind == RemarkKind::Clearest && m.element == ElementId(id))
            button(tr("Best heard at %1").arg(QString::fromStdString(place_text(session_.remake().song->meter, m.start))), tr("Loop it"), [this, m] {
                const TempoMap& tempo = session_.remake().song->tempo;
                session_.transport().set_loop(tempo.seconds(m.start), tempo.seconds(m.start + m.length));
                session_.transport().seek(session_.transport().loop_start());
            });
    if (session_.transport().loop_end() > session_.transport().loop_start())
        button(
            tr("Keep the loop as best heard"), tr("Remembers the looped place with this element"),
            [this, id] {
                const Song& song = *session_.remake().song;
                const Ticks from = song.tempo.nearest_tick(session_.transport().loop_start()), to = song.tempo.nearest_tick(session_.transport().loop_end());
                session_.documents().run(Line("remark.add")
                                             .with("kind", "clearest")
                                             .with("element", element_text(session_.remake(), id))
                                             .with("at", place_text(song.meter, from))
                                             .with("length", length_text(std::max<Ticks>(1, to - from))));
            },
            "keep_clearest");
    heading(tr("In the mix"));
    for (const Parameter& row : kPartFields) {
        auto* line = new QHBoxLayout;
        line->addWidget(new QLabel(row.label), 1);
        auto* box = new FieldBox(session_, {id, row.id}, row);
        connect(box, &NumberField::let_go, this, [this] {
            if (pending_) soon_.start(0);
        });
        line->addWidget(box);
        column_->addLayout(line);
    }
    sound_manners(*p);
    dips(*p);
    notes_of(*p);
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
            const std::string_view which = argument;
            if (text != (which == "question" ? before.question : which == "intended" ? before.intended : before.reason))
                session_.documents().run(Line("element.note").with("element", element_text(session_.remake(), id)).with(argument, text));
        });
        column_->addWidget(edit);
    };
    words("question", tr("? an open question, in your words"), state.question);
    words("intended", tr("≈ a difference you intend"), state.intended);
    words("reason", tr("why it is close enough, or left out"), state.reason);
    questions(id);
    time_for(id);
}

/// What is asked at places: gone to, worded anew, taken back.
void FactsPanel::questions(ElementId id) {
    const Remake& r = session_.remake();
    bool first = true;
    for (const Remark& m : r.notebook->remarks) {
        if (m.kind != RemarkKind::Question || m.element != id) continue;
        if (std::exchange(first, false)) heading(tr("Questions at places"));
        const std::string at = place_text(r.song->meter, m.start);
        auto* row = new QHBoxLayout;
        row->setSpacing(4);
        auto* go = new QPushButton(QString::fromStdString(at));
        go->setObjectName("question.go");
        go->setProperty("compact", true);
        go->setToolTip(tr("Go there and loop it"));
        connect(go, &QPushButton::clicked, this, [this, m] {
            const TempoMap& tempo = session_.remake().song->tempo;
            session_.transport().set_loop(tempo.seconds(m.start), tempo.seconds(m.start + std::max<Ticks>(m.length, kTicksPerQuarter)));
            session_.transport().seek(session_.transport().loop_start());
        });
        auto* words = new QLineEdit(QString::fromStdString(m.words));
        words->setObjectName("question.words");
        words->setPlaceholderText(tr("what is unsure, and why"));
        connect(words, &QLineEdit::editingFinished, this, [this, words, m, at] {
            const std::string text = words->text().trimmed().toStdString();
            if (text == m.words) return;
            session_.documents().run(Line("remark.add")
                                         .with("kind", "question")
                                         .with("element", element_text(session_.remake(), m.element))
                                         .with("at", at)
                                         .with("length", length_text(m.length))
                                         .with("words", text));
        });
        auto* answered = new QPushButton("×");
        answered->setObjectName("question.answered");
        answered->setProperty("compact", true);
        answered->setFixedWidth(24);
        answered->setToolTip(tr("It is answered: the question goes; undo brings it back"));
        connect(answered, &QPushButton::clicked, this, [this, m, at] {
            session_.documents().run(Line("remark.remove").with("kind", "question").with("element", element_text(session_.remake(), m.element)).with("at", at));
        });
        row->addWidget(go);
        row->addWidget(words, 1);
        row->addWidget(answered);
        column_->addLayout(row);
    }
}

/// What was spent on it, what it may take, and a way to stop once that is used up.
void FactsPanel::time_for(ElementId id) {
    constexpr double kMore_min = 10.0;
    const ElementState state = session_.remake().element(id);
    const double spent_min = session_.documents().spent_s(id) / 60.0;
    heading(tr("Time for it"));
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel(spent_min >= 1.0 ? tr("%1 min of").arg(std::lround(spent_min)) : tr("up to")));
    auto* budget = new NumberField(state.budget_min, 0, 600, 5, tr(" min"), 0);
    budget->setObjectName("budget");
    budget->setSpecialValueText(tr("no end"));
    budget->setToolTip(
        tr("How long it may take; what was spent counts while it is chosen and something is being done.\nCheck ▸ What next says where time is worth most."));
    const auto give = [this, id](double minutes) {
        if (minutes != session_.remake().element(id).budget_min)
            session_.documents().run(
                Line("element.note").with("element", element_text(session_.remake(), id)).with("budget", QString::number(minutes).toStdString()), "budget");
    };
    connect(budget, &NumberField::let_go, this, [give, budget] { give(budget->value()); });
    connect(budget, &QDoubleSpinBox::editingFinished, this, [give, budget] { give(budget->value()); });
    row->addWidget(budget, 1);
    column_->addLayout(row);
    if (state.budget_min <= 0.0 || spent_min < state.budget_min || state.state == State::Confirmed || state.state == State::LeftOut) return;
    value(tr("Its time is used up."));
    button(
        tr("Close enough"), tr("Confirms it, with this as the reason; undo takes it back"),
        [this, id] {
            Line line = Line("element.note").with("element", element_text(session_.remake(), id)).with("state", state_name(State::Confirmed));
            if (session_.remake().element(id).reason.empty()) line.with("reason", tr("close enough for its time").toStdString());
            session_.documents().run(line);
        },
        "close_enough");
    button(
        tr("%1 min more").arg(kMore_min), tr("It may take longer; undo takes it back"), [give, now = state.budget_min] { give(now + kMore_min); }, "more_time");
}

}  // namespace fw::app
