// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of a chord: its name typed or chosen, what it is in the key, what may follow it.
#include "app/facts_panel.hpp"
#include "app/painting.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "model/chord_words.hpp"
#include "model/edits/chord_parts.hpp"

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

const ChordEvent* chord_at(const Remake& r, Ticks tick) {
    for (const ChordEvent& c : r.song->chords)
        if (tick >= c.start && tick < c.start + c.length) return &c;
    return nullptr;
}

}  // namespace

/// Sounds a chord for a moment, over whatever is heard.
void FactsPanel::hear_chord(const Chord& chord) {
    constexpr int kHeard_ms = 900;
    Derivation close;
    close.kind = FromChords::Block;
    const auto pitches = voiced(chord, close);
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
    const ChordEvent* chosen = chord_at(r, chord_tick_);
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
        small(tr("Hear"), "hear_chord", tr("Over what is heard"), [this, c = chosen->chord] { hear_chord(c); });
        const auto extend = [this, key](bool up) {
            const ChordEvent* now = chord_at(session_.remake(), chord_tick_);
            if (now) choose_chord(extended(key, now->chord, up));
        };
        small(tr("+ a third"), "extend", tr("A seventh on a triad, a ninth on that, as the key has them"), [extend] { extend(true); });
        small(tr("− a third"), "reduce", tr("Takes the highest third off"), [extend] { extend(false); });
        column_->addLayout(row);
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
