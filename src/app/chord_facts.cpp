// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of a chord: its name typed or chosen, what it is in the key, what may follow it.
#include "analysis/chord_layout.hpp"
#include "app/facts_column.hpp"
#include "app/facts_panel.hpp"
#include "app/painting.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "model/chord_words.hpp"
#include "model/edits/chord_parts.hpp"

#include <QTimer>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

constexpr int kHeardLayout = 1;  // among the layouts: behind it they stand as Voicing has them

}  // namespace

/// The chord's own layout: heard as it is chosen, and followed by the parts that are made of the chords.
void FactsPanel::chord_layout(const ChordEvent& chord, bool flats) {
    facts_->heading(tr("Layout"));
    QString pitches;
    for (const int p : chord.voiced) pitches += QString::fromStdString(note_name(p, flats)) + " ";
    facts_->note(chord.voiced.empty() ? tr("as each part made of the chords has it") : pitches.trimmed());
    // What this chord has: one of the layouts, else what was heard or said pitch by pitch.
    constexpr int kInversions = 4;
    const std::vector<std::pair<QString, QString>> layouts{
        {tr("As the parts"), ""}, {tr("As heard"), "heard"}, {tr("Close"), "close"}, {tr("Second dropped"), "drop_2"}, {tr("2nd and 4th dropped"), "drop_2_4"},
        {tr("Open"), "open"}};
    int layout = chord.voiced.empty() ? 0 : kHeardLayout, inversion = 0;
    if (!chord.voiced.empty())
        for (int l = kHeardLayout + 1; l < static_cast<int>(layouts.size()); ++l)
            for (int i = 0; i < kInversions; ++i)
                if (layout == kHeardLayout && laid_out(chord.chord, static_cast<Voicing>(l - kHeardLayout - 1), i) == chord.voiced) layout = l, inversion = i;
    const auto choose = [this, layouts, start = chord.start, length = chord.length, of = chord.chord](int l, int i) {
        Line line("chord.voice");
        line.with("at", place_text(session_.remake().song->meter, start));
        if (l == kHeardLayout) {
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
        } else if (l > kHeardLayout) {
            line.with("layout", layouts[static_cast<std::size_t>(l)].second.toStdString()).with("inversion", std::to_string(i));
        }
        if (!session_.documents().run(line)) return;
        if (const ChordEvent* now = session_.remake().song->chord_at(start)) hear_pitches(now->voiced.empty() ? voiced(of, Derivation()) : now->voiced);
    };
    const auto row = facts_->line();
    facts_->choice({.object = "chord_layout",
                    .tip = tr("How far this chord's tones lie apart; as heard takes the pitches that sound in the original"),
                    .items = layouts,
                    .chosen = layout,
                    .taken = [choose, inversion](int l) { choose(l, inversion); },
                    .stretch = 3,
                    .least_letters = 6});
    facts_->choice({.object = "chord_inversion",
                    .tip = tr("Which tone lies lowest"),
                    .items = {{tr("as written"), {}}, {tr("first"), {}}, {tr("second"), {}}, {tr("third"), {}}},
                    .chosen = inversion,
                    .taken = [choose, layout](int i) { choose(std::max(layout, kHeardLayout + 1), i); },
                    .stretch = 2,
                    .least_letters = 6});
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
    facts_->heading(tr("Chord at bar %1").arg(r.song->meter.position(chord_tick_).bar));
    const bool flats = r.song->flats_at(chord_tick_);
    facts_->edit({.object = "chord_name",
                  .text = chosen ? QString::fromStdString(chosen->chord.name(flats)) : QString(),
                  .tip = tr("Type a chord's name or its degree and press Return; what you begin is completed, the key's own chords first"),
                  .placeholder = "Dm7, F#m7b5, G/B, ii7, N.C.",
                  .entered =
                      [this, key](const QString& text) {
                          const auto chord = parse_chord_in(key, text.trimmed().toStdString());
                          if (chord) choose_chord(*chord);
                          else
                              emit session_.failed(
                                  tr("“%1” is not a chord this program knows: try names such as Dm7, Gsus4, F#m7b5 or G/B, or degrees such as ii7.").arg(text));
                      },
                  .on_return = true,
                  .completed =
                      [key](const QString& text) {
                          QStringList names;
                          for (const std::string& n : chord_completions(key, text.trimmed().toStdString())) names << QString::fromStdString(n);
                          return names;
                      }});
    if (chosen) {
        QString tones;
        for (const int pc : chosen->chord.tones()) tones += QString::fromStdString(std::string(pitch_class_name(pc, flats))) + " ";
        facts_->note(chosen->chord.none()
                         ? QString(tr("no chord"))
                         : tr("%1, %2").arg(tones.trimmed(), tr(std::string(chord_kinds()[static_cast<std::size_t>(chosen->chord.kind)].words).c_str())));
        if (!chosen->chord.none())
            facts_->note(tr("%1 in %2").arg(QString::fromStdString(degree_name(key, chosen->chord)), QString::fromStdString(key.name())));
        facts_->note(chosen->origin == Origin::Heard ? tr("heard, %1 sure").arg(percent_text(chosen->confidence)) : QString(tr("set by you")));
        {
            const auto row = facts_->line();
            const auto small = [&](const QString& text, const char* object, const QString& tip, FactAction run) {
                facts_->button({.text = text, .tip = tip, .object = object, .run = std::move(run), .compact = true, .width = FactWidth::Shared});
            };
            small(tr("Hear"), "hear_chord", tr("Over what is heard"), [this, c = *chosen] { c.voiced.empty() ? hear_chord(c.chord) : hear_pitches(c.voiced); });
            const auto extend = [this, key](bool up) {
                const ChordEvent* now = session_.remake().song->chord_at(chord_tick_);
                if (now) choose_chord(extended(key, now->chord, up));
            };
            small(tr("+ a third"), "extend", tr("A seventh on a triad, a ninth on that, as the key has them"), [extend] { extend(true); });
            small(tr("− a third"), "reduce", tr("Takes the highest third off"), [extend] { extend(false); });
        }
        if (!chosen->chord.none()) chord_layout(*chosen, flats);
        facts_->heading(tr("Alternatives"));
        int index = 0;
        for (const auto& [chord, confidence] : chosen->alternatives)
            facts_->button(
                QString("%1   %2").arg(QString::fromStdString(chord.name(flats)), percent_text(confidence)), tr("Take this chord instead"),
                [this, c = chord] { choose_chord(c); }, QString("alternative%1").arg(index++));
        facts_->button(tr("Split at the cursor"), tr("Cut the chord under the playhead in two"), [this] {
            const Remake& now = session_.remake();
            const Ticks beat = now.song->meter.at_bar(1).beat_ticks();
            const Ticks t = (now.song->tempo.nearest_tick(session_.transport().position_s()) + beat / 2) / beat * beat;
            session_.documents().run(Line("chord.split").with("at", place_text(now.song->meter, t)));
        });
    } else {
        facts_->note(tr("No chord here yet: type one."));
    }
    facts_->heading(tr("What may follow"));
    const Ticks next = chosen ? chosen->start + chosen->length : chord_tick_;
    {
        const auto line = facts_->line();
        int index = 0;
        for (const auto& [chord, share] : likely_next(*r.song, chord_tick_, 4)) {
            QString tones;
            for (const int pc : chord.tones()) tones += QString::fromStdString(std::string(pitch_class_name(pc, flats))) + " ";
            facts_->button(
                {.text = QString::fromStdString(chord.name(flats)),
                 .tip = tr("%1, %2 likely by this song and its key: sets the chord behind this one and goes there").arg(tones.trimmed(), percent_text(share)),
                 .object = QString("next%1").arg(index++),
                 .run =
                     [this, c = chord, next] {
                         if (!session_.documents().run(Line("chord.set").with("at", place_text(session_.remake().song->meter, next)).with("chord", c.label())))
                             return;
                         hear_chord(c);
                         emit chord_wanted(next);
                     },
                 .compact = true,
                 .width = FactWidth::Shared});
        }
    }
    facts_->heading(tr("Several"));
    facts_->edit({.object = "several_chords",
                  .tip = tr("From this bar on, a bar between bars, shared evenly; a dot goes on. Press Return"),
                  .placeholder = "Dm7 G7 | C . | Am7",
                  .entered =
                      [this](const QString& text) {
                          const MeterMap& meter = session_.remake().song->meter;
                          if (session_.documents().run(
                                  Line("chord.enter").with("at", std::to_string(meter.position(chord_tick_).bar)).with("chords", text.trimmed().toStdString())))
                              facts_->findChild<QLineEdit*>("several_chords")->clear();
                      },
                  .on_return = true});
    if (const Transport& t = session_.transport(); t.loop_end() > t.loop_start())
        facts_->button(
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
