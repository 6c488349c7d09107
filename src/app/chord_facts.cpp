// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of a chord: its name typed or chosen, what it is in the key, what may follow it.
#include "analysis/chord_layout.hpp"
#include "app/facts_panel.hpp"
#include "app/painting.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "model/chord_words.hpp"
#include "model/edits/chord_parts.hpp"

#include <QComboBox>
#include <QCompleter>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QStringListModel>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

constexpr int kHeardLayout = 1;  // among the layouts: behind it they stand as Voicing has them

}  // namespace

/// The chord's own layout: heard as it is chosen, and followed by the parts that are made of the chords.
void FactsPanel::chord_layout(const ChordEvent& chord, bool flats) {
    heading(tr("Layout"));
    QString pitches;
    for (const int p : chord.voiced) pitches += QString::fromStdString(note_name(p, flats)) + " ";
    note(chord.voiced.empty() ? tr("as each part made of the chords has it") : pitches.trimmed());
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    auto* layout = new QComboBox;
    layout->setObjectName("chord_layout");
    layout->setToolTip(tr("How far this chord's tones lie apart; as heard takes the pitches that sound in the original"));
    for (const auto& [text, value] :
         {std::pair(tr("As the parts"), ""), std::pair(tr("As heard"), "heard"), std::pair(tr("Close"), "close"), std::pair(tr("Second dropped"), "drop_2"),
          std::pair(tr("2nd and 4th dropped"), "drop_2_4"), std::pair(tr("Open"), "open")})
        layout->addItem(text, QString(value));
    auto* inversion = new QComboBox;
    inversion->setObjectName("chord_inversion");
    inversion->setToolTip(tr("Which tone lies lowest"));
    inversion->addItems({tr("as written"), tr("first"), tr("second"), tr("third")});
    for (QComboBox* box : {layout, inversion}) {
        box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        box->setMinimumContentsLength(6);
    }
    // What this chord has: one of the layouts, else what was heard or said pitch by pitch.
    if (!chord.voiced.empty()) {
        layout->setCurrentIndex(kHeardLayout);
        for (int l = kHeardLayout + 1; l < layout->count(); ++l)
            for (int i = 0; i < inversion->count(); ++i)
                if (layout->currentIndex() == kHeardLayout && laid_out(chord.chord, static_cast<Voicing>(l - kHeardLayout - 1), i) == chord.voiced)
                    layout->setCurrentIndex(l), inversion->setCurrentIndex(i);
    }
    row->addWidget(layout, 3);
    row->addWidget(inversion, 2);
    column_->addLayout(row);
    const auto choose = [this, layout, inversion, start = chord.start, length = chord.length, of = chord.chord] {
        Line line("chord.voice");
        line.with("at", place_text(session_.remake().song->meter, start));
        const QString how = layout->currentData().toString();
        if (how == "heard") {
            const TempoMap& tempo = session_.remake().song->tempo;
            const auto analysis = session_.recording().analysis;
            std::string text;
            if (analysis)
                for (const int p : heard_layout(*analysis->evidence, of, tempo.seconds(start), tempo.seconds(start + length)))
                    text.append(text.empty() ? "" : " ").append(note_name(p, false));
            if (text.empty()) {
                emit session_.told(tr("No tone of this chord sounds clearly enough there to say how it is laid out."));
                return;
            }
            line.with("pitches", text);
        } else if (!how.isEmpty()) {
            line.with("layout", how.toStdString()).with("inversion", std::to_string(inversion->currentIndex()));
        }
        if (!session_.documents().run(line)) return;
        if (const ChordEvent* now = session_.remake().song->chord_at(start)) hear_pitches(now->voiced.empty() ? voiced(of, Derivation()) : now->voiced);
    };
    connect(layout, &QComboBox::activated, this, choose);
    connect(inversion, &QComboBox::activated, this, [layout, choose] {
        if (layout->currentIndex() <= kHeardLayout) layout->setCurrentIndex(kHeardLayout + 1);
        choose();
    });
}

void FactsPanel::hear_chord(const Chord& chord) { hear_pitches(voiced(chord, Derivation())); }

/// Sounds pitches for a moment, over whatever is heard.
void FactsPanel::hear_pitches(const std::vector<int>& pitches) {
    constexpr int kHeard_ms = 900;
    session_.survey().toggle_drone({});
    if (pitches.empty()) return;
    session_.survey().toggle_drone(pitches);
    const int number = ++heard_chord_;
    QTimer::singleShot(kHeard_ms, this, [this, number] {
        if (number == heard_chord_) session_.survey().toggle_drone({});
    });
}

void FactsPanel::choose_chord(const Chord& chord) {
    if (session_.documents().run(Line("chord.set").with("at", place_text(session_.remake().song->meter, chord_tick_)).with("chord", chord.label())))
        hear_chord(chord);
}

void FactsPanel::chords() {
    const Remake& r = session_.remake();
    const ChordEvent* chosen = r.song->chord_at(chord_tick_);
    const Key* area = r.song->key_at(chord_tick_);
    const Key key = area ? *area : Key{};
    heading(tr("Chord at bar %1").arg(r.song->meter.position(chord_tick_).bar));
    const bool flats = r.song->flats_at(chord_tick_);
    auto* name = new QLineEdit(chosen ? QString::fromStdString(chosen->chord.name(flats)) : QString());
    name->setObjectName("chord_name");
    name->setPlaceholderText("Dm7, F#m7b5, G/B, ii7, N.C.");
    name->setToolTip(tr("Type a chord's name or its degree and press Return; what you begin is completed, the key's own chords first"));
    auto* model = new QStringListModel(name);
    auto* completer = new QCompleter(model, name);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    completer->setCompletionMode(QCompleter::PopupCompletion);
    name->setCompleter(completer);
    connect(name, &QLineEdit::textEdited, this, [model, key](const QString& text) {
        QStringList names;
        for (const std::string& n : chord_completions(key, text.trimmed().toStdString())) names << QString::fromStdString(n);
        model->setStringList(names);
    });
    connect(name, &QLineEdit::returnPressed, this, [this, name, key] {
        const auto chord = parse_chord_in(key, name->text().trimmed().toStdString());
        if (!chord) {
            emit session_.failed(
                tr("“%1” is not a chord this program knows: try names such as Dm7, Gsus4, F#m7b5 or G/B, or degrees such as ii7.").arg(name->text()));
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
                 : tr("%1, %2").arg(tones.trimmed(), tr(std::string(chord_kinds()[static_cast<std::size_t>(chosen->chord.kind)].words).c_str())));
        if (!chosen->chord.none()) note(tr("%1 in %2").arg(QString::fromStdString(degree_name(key, chosen->chord)), QString::fromStdString(key.name())));
        note(chosen->origin == Origin::Heard ? tr("heard, %1 sure").arg(percent_text(chosen->confidence)) : QString(tr("set by you")));
        auto* row = new QHBoxLayout;
        row->setSpacing(4);
        const auto small = [&](const QString& text, const char* object, const QString& tip, std::function<void()> run) {
            auto* b = new QPushButton(text);
            b->setObjectName(object);
            b->setToolTip(tip);
            b->setProperty("compact", true);
            b->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
            connect(b, &QPushButton::clicked, this, std::move(run));
            row->addWidget(b);
        };
        small(tr("Hear"), "hear_chord", tr("Over what is heard"), [this, c = *chosen] { c.voiced.empty() ? hear_chord(c.chord) : hear_pitches(c.voiced); });
        const auto extend = [this, key](bool up) {
            const ChordEvent* now = session_.remake().song->chord_at(chord_tick_);
            if (now) choose_chord(extended(key, now->chord, up));
        };
        small(tr("+ a third"), "extend", tr("A seventh on a triad, a ninth on that, as the key has them"), [extend] { extend(true); });
        small(tr("− a third"), "reduce", tr("Takes the highest third off"), [extend] { extend(false); });
        column_->addLayout(row);
        if (!chosen->chord.none()) chord_layout(*chosen, flats);
        heading(tr("Alternatives"));
        int index = 0;
        for (const auto& [chord, confidence] : chosen->alternatives)
            button(
                QString("%1   %2").arg(QString::fromStdString(chord.name(flats)), percent_text(confidence)), tr("Take this chord instead"),
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
    heading(tr("What may follow"));
    const Ticks next = chosen ? chosen->start + chosen->length : chord_tick_;
    auto* following = new QHBoxLayout;
    following->setSpacing(4);
    int index = 0;
    for (const auto& [chord, share] : likely_next(*r.song, chord_tick_, 4)) {
        QString tones;
        for (const int pc : chord.tones()) tones += QString::fromStdString(std::string(pitch_class_name(pc, flats))) + " ";
        auto* b = new QPushButton(QString::fromStdString(chord.name(flats)));
        b->setObjectName(QString("next%1").arg(index++));
        b->setProperty("compact", true);
        b->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        b->setToolTip(tr("%1, %2 likely by this song and its key: sets the chord behind this one and goes there").arg(tones.trimmed(), percent_text(share)));
        connect(b, &QPushButton::clicked, this, [this, c = chord, next] {
            if (!session_.documents().run(Line("chord.set").with("at", place_text(session_.remake().song->meter, next)).with("chord", c.label()))) return;
            hear_chord(c);
            emit chord_wanted(next);
        });
        following->addWidget(b);
    }
    column_->addLayout(following);
    heading(tr("Several"));
    auto* several = new QLineEdit;
    several->setObjectName("several_chords");
    several->setPlaceholderText("Dm7 G7 | C . | Am7");
    several->setToolTip(tr("From this bar on, a bar between bars, shared evenly; a dot goes on. Press Return"));
    connect(several, &QLineEdit::returnPressed, this, [this, several] {
        const MeterMap& meter = session_.remake().song->meter;
        session_.documents().run(
            Line("chord.enter").with("at", std::to_string(meter.position(chord_tick_).bar)).with("chords", several->text().trimmed().toStdString()));
    });
    column_->addWidget(several);
    if (const Transport& t = session_.transport(); t.loop_end() > t.loop_start())
        button(
            tr("The loop's chords once more behind it"), tr("Copies them along"),
            [this] {
                const Song& song = *session_.remake().song;
                const Ticks from = song.tempo.nearest_tick(session_.transport().loop_start()), to = song.tempo.nearest_tick(session_.transport().loop_end());
                session_.documents().run(Line("chord.copy")
                                             .with("from", place_text(song.meter, from))
                                             .with("to", place_text(song.meter, to))
                                             .with("at", place_text(song.meter, to)));
            },
            "copy_chords");
}

}  // namespace fw::app
