// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of chosen notes: what they are, what is heard of them, and what can be done with them by numbers.
#include "analysis/partials.hpp"
#include "app/facts_column.hpp"
#include "app/facts_panel.hpp"
#include "app/painting.hpp"
#include "app/words.hpp"
#include "audio/mono.hpp"
#include "base/pitch.hpp"
#include "fit/freed.hpp"
#include "fit/moments.hpp"
#include "model/chord_words.hpp"
#include "model/edits/parts.hpp"
#include "model/edits/phrasing.hpp"

#include <algorithm>
#include <cmath>

namespace fw::app {

void FactsPanel::chosen_notes(const Part& p) {
    const PartId id = p.id;
    const bool drums = p.role == PartRole::Drums;
    const auto notes = notes_meant(p, session_.selection().notes());
    if (notes.empty()) return;
    if (notes.size() == 1) {
        const Note& n = notes.front().note;
        const bool flats = session_.remake().song->flats_at(n.start);
        facts_->note(
            QString("%1 at %2").arg(sound_or_note(n.pitch, drums, flats), QString::fromStdString(session_.remake().song->meter.position(n.start).text())));
        facts_->note(tr("velocity %1, length %2 beats, %3")
                         .arg(n.velocity)
                         .arg(static_cast<double>(n.length) / kTicksPerQuarter, 0, 'f', 2)
                         .arg(n.origin == Origin::Heard      ? tr("heard, %1 sure").arg(percent_text(n.confidence))
                              : n.origin == Origin::Imported ? tr("imported")
                              : n.origin == Origin::Played   ? tr("played")
                                                             : tr("drawn")));
        if (!drums) partials(id, n);
        if (const double off = left_out_of_tune(n); off != 0.0 && n.origin != Origin::Heard)
            facts_->note(tr("ends %1 cents off the nearest semitone").arg(off, 0, 'f', 0));
    } else {
        facts_->note(tr("%1 selected").arg(notes.size()));
    }
    if (!drums && notes.size() > 1) {
        std::vector<int> pitches;
        for (const PlacedNote& n : notes) pitches.push_back(n.note.pitch);
        const bool flats = session_.remake().song->flats_at(notes.front().note.start);
        int i = 0;
        for (const auto& [chord, fit] : chords_of_notes(pitches, 3)) {
            const Ticks from = notes.front().note.start;
            Ticks to = from;
            for (const PlacedNote& n : notes) to = std::max(to, n.note.start + n.note.length);
            facts_->button(
                tr("%1   fits %2").arg(QString::fromStdString(chord.name(flats)), percent_text(fit)), tr("Write this chord there, as long as the notes last"),
                [this, c = chord, from, to] {
                    const MeterMap& meter = session_.remake().song->meter;
                    const Ticks beat = meter.at_bar(meter.position(from).bar).beat_ticks();
                    const auto onto = [beat](Ticks t) { return (t + beat / 2) / beat * beat; };
                    session_.documents().run(Line("chord.set")
                                                 .with("at", place_text(meter, onto(from)))
                                                 .with("chord", c.label())
                                                 .with("length", length_text(std::max(beat, onto(to) - onto(from)))));
                },
                QString("named%1").arg(i++));
        }
    }
    const auto run = [this, id](const char* command, std::initializer_list<std::pair<const char*, std::string>> arguments) {
        Line line = session_.selection().on_notes(command, session_.remake(), id);
        for (const auto& [name, text] : arguments) line.with(name, text);
        session_.documents().run(line);
    };
    const auto whole = [](double v) { return std::to_string(std::lround(v)); };
    const auto real = [](double v) { return QString::number(v, 'f', 3).toStdString(); };
    tool(tr("Velocity"), tr("Plays the chosen notes harder or softer"), "velocity", {{"by", 4, -100, 100, 4, "", tr("By how much")}}, [=](const auto& v) {
        run("note.change", {{"velocity", whole(v[0])}});
    });
    tool(tr("Nudge"), tr("Plays them later; negative earlier"), "nudge", {{"ms", 5, -500, 500, 1, tr(" ms"), tr("Milliseconds")}}, [=](const auto& v) {
        run("note.change", {{"ms", real(v[0])}});
    });
    tool(tr("Quantise"), tr("To sixteenths, flams keep together; Q takes the grid above"), "quantise",
         {{"strength", 100, 0, 100, 5, " %", tr("How far towards the grid")},
          {"window", 0, 0, 120, 5, tr(" ticks"), tr("What is farther off than so many ticks is meant so; 0: nothing is")}},
         [=](const auto& v) {
             run("note.quantise", {{"grid", "1/16"}, {"strength", real(v[0] / 100.0)}, {"window", whole(v[1]) + " ticks"}});
         });
    tool(tr("Humanise"), tr("By chance, another throw each time"), "humanise",
         {{"range", 8, 0, 120, 1, tr(" ticks"), tr("Ticks at most to either side")}, {"velocity", 6, 0, 60, 1, "", tr("Velocity at most to either side")}},
         [this, run, whole](const std::vector<double>& v) {
             run("note.humanise", {{"range", whole(v[0]) + " ticks"}, {"velocity", whole(v[1])}, {"seed", whole(++how_["humanise.seed"])}});
         });
    if (!drums) {
        tool(tr("Space"), tr("How much of the time to the next note is held, and what is left free before it"), "space",
             {{"share", 100, 5, 100, 5, " %", tr("100 % is legato")}, {"gap", 30, 0, 480, 10, tr(" ticks"), tr("Ticks left free")}}, [=](const auto& v) {
                 run("note.space", {{"share", real(v[0] / 100.0)}, {"gap", whole(v[1]) + " ticks"}});
             });
        tool(tr("Glide"), tr("Into the next note, whose pitch it reaches as that begins"), "glide",
             {{"time", 240, 10, 1920, 10, tr(" ticks"), tr("Ticks it takes")}}, [=](const auto& v) {
                 run("note.glide", {{"time", whole(v[0]) + " ticks"}});
             });
        tool(tr("Vibrato"), tr("A wave of the pitch"), "vibrato",
             {{"depth", 25, 0, 200, 5, " c", tr("Cents to either side")}, {"rate", 5.5, 0.5, 12, 0.1, " Hz", tr("Waves a second"), 1}}, [=](const auto& v) {
                 run("note.vibrato", {{"depth", real(v[0])}, {"rate", real(v[1])}});
             });
    }
    if (!drums)
        for (const auto& other : session_.remake().parts)
            if (other->role == PartRole::Drums) {
                tool(tr("Lock to the kick"), tr("Each note onto the nearest kick"), "lock",
                     {{"window", 120, 5, 480, 5, tr(" ticks"), tr("What is farther off than so many ticks stays")}},
                     [=, name = part_text(session_.remake(), other->id)](const auto& v) {
                         run("note.lock", {{"to", name}, {"sound", "Kick"}, {"window", whole(v[0]) + " ticks"}});
                     });
                break;
            }
    tool(tr("Roll"), tr("Strikes each so many times, growing from soft to its velocity; 1 for once"), "roll",
         {{"strokes", 4, 1, 64, 1, "×", tr("Strokes")}, {"apart", 120, 5, 960, 5, tr(" ticks"), tr("Ticks from one to the next")}}, [=](const auto& v) {
             run("note.roll", {{"strokes", whole(v[0])}, {"apart", whole(v[1]) + " ticks"}, {"first", "40"}});
         });
    tool(tr("Play at another rate"), tr("From where the first of them begins: 2 is twice as fast, 0.5 half as fast"), "rate",
         {{"times", 2, 0.125, 8, 0.5, "×", tr("How fast")}}, [=](const auto& v) {
             run("note.rate", {{"times", real(v[0])}});
         });
    send_to(p);
    throws(id);
}

/// What a note is in Hz, and which of its partials stand out where the original plays it: heard through the element's lens, off the window's thread, once for
/// each note that is asked for.
void FactsPanel::partials(PartId part, const Note& n) {
    const Song& song = *session_.remake().song;
    const double hz = hertz_of(n.pitch + song.tuning_cents / 100.0);
    const auto told = [&](const QString& what) {
        facts_->note(tr("%1 Hz in the original's tuning%2").arg(hz, 0, 'f', 1).arg(what),
                     tr("Measured in the original through the lens of this element while the note lasts, at most a second, against the strongest of them"));
    };
    constexpr double kLongest_s = 1.0;
    const double from_s = std::max(0.0, song.tempo.seconds(n.start)), to_s = std::min(from_s + kLongest_s, song.tempo.seconds(n.start + n.length));
    const AskedNote asked{part, n.pitch, from_s, to_s};
    if (partials_of_ == asked) return told(partials_);
    told(QString());
    const RecordingStore& recording = session_.recording();
    if (!recording.sound || !recording.analysis) return;
    jobs_.run(
        "partials", tr("listening to a note"),
        [this, asked, hz, document = session_.documents().document(), sound = recording.sound, analysis = recording.analysis]() -> JobQueue::Work {
            return [this, asked, hz, document, sound, analysis](const Progress&) -> Result<JobQueue::Delivery> {
                const Audio piece = freed(*sound, *analysis, *document, asked.part, {asked.from_s, asked.to_s, asked.pitch}, asked.to_s);
                auto all = standing_partials(mono_of(piece), piece.sample_rate_hz, hz);
                std::stable_sort(all.begin(), all.end(), [](const Partial& a, const Partial& b) { return a.db > b.db; });
                QStringList strongest;
                constexpr std::size_t kMost = 5;
                for (const Partial& p : std::span(all).first(std::min(kMost, all.size()))) strongest << tr("%1 (%2 dB)").arg(p.number).arg(p.db, 0, 'f', 0);
                const QString text =
                    strongest.isEmpty() ? tr("; none of its partials stands out there") : tr("; of its partials stand out %1").arg(strongest.join(", "));
                return JobQueue::Delivery([this, asked, text] {
                    partials_of_ = asked;
                    partials_ = text;
                    tell_again();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

/// The chosen notes for another part to play: a line over two sounds, a chord over several instruments.
void FactsPanel::send_to(const Part& p) {
    FactMenu menu;
    for (const bool keep : {false, true}) {
        if (keep && !menu.empty()) menu.emplace_back();
        for (const auto& other : session_.remake().parts) {
            if (other->id == p.id || (other->role == PartRole::Drums) != (p.role == PartRole::Drums)) continue;
            const QString name = QString::fromStdString(other->name);
            menu.emplace_back(keep ? tr("Also %1").arg(name) : tr("%1 in its place").arg(name),
                              [this, id = p.id, keep, into = part_text(session_.remake(), other->id)] {
                                  Line line = session_.selection().on_notes("note.send", session_.remake(), id);
                                  line.with("into", into);
                                  if (keep) line.with("keep", "on");
                                  session_.documents().run(line);
                              });
        }
    }
    if (!menu.empty())
        facts_->menu(tr("Played by another part"), tr("Some notes of a line on another sound, or the tones of a chord over several parts"), "send_to",
                     std::move(menu));
}

/// A send opened for the chosen notes only: to each bus there is, or to an echo made for it.
void FactsPanel::throws(PartId id) {
    const auto open_to = [this, id](const std::string& bus, double level_db) {
        const Remake& r = session_.remake();
        const Part* p = r.part(id);
        if (!p) return;
        session_.documents().run(Line("send.throw")
                                     .with("part", part_text(r, id))
                                     .with("bus", bus)
                                     .with("level", QString::number(level_db, 'f', 1).toStdString())
                                     .with("notes", notes_text(r, *p, session_.selection().notes())),
                                 "throw");
        session_.documents().end_gesture();
    };
    const QString tip = tr("Opens the send for as long as these notes sound and leaves it closed elsewhere in their sections");
    constexpr std::size_t kMost = 3;
    const auto& buses = session_.remake().mixer->buses;
    for (std::size_t i = 0; i < std::min(kMost, buses.size()); ++i)
        tool(tr("Throw to %1").arg(QString::fromStdString(buses[i].name)), tip, QString("throw%1").arg(i),
             {{"level", 0, -40, 12, 1, tr(" dB"), tr("How far the send opens")}},
             [open_to, name = bus_text(session_.remake(), buses[i].id)](const auto& v) { open_to(name, v[0]); });
    if (buses.empty())
        tool(tr("Throw into an echo"), tip + tr(". A bus with a delay is made for it"), "throw_new",
             {{"level", 0, -40, 12, 1, tr(" dB"), tr("How far the send opens")}}, [this, open_to](const auto& v) {
                 session_.documents().end_gesture();
                 if (!session_.documents().run(Line("bus.add").with("name", "Echo"), "throw")) return;
                 session_.documents().run(Line("step.add").with("bus", "Echo").with("kind", kDelay.id).with("mix", "100%"), "throw");
                 open_to("Echo", v[0]);
             });
}

}  // namespace fw::app
