// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of how a part is struck: ready patterns and fills, grooves.
#include "analysis/ready_patterns.hpp"
#include "app/facts_column.hpp"
#include "app/facts_panel.hpp"
#include "app/painting.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "base/guard.hpp"
#include "formats/groove_file.hpp"
#include "model/groove.hpp"

#include <QFileDialog>
#include <algorithm>

namespace fw::app {

/// Writes a ready bar into each of some bars, beside what is there.
void FactsPanel::write_ready(PartId part, const ReadyPattern& ready, int first, int end) {
    std::vector<Note> notes;
    const MeterMap& meter = session_.remake().song->meter;
    for (int bar = first; bar < end; ++bar)
        for (Note n : fw::notes_of(ready)) {
            n.start += meter.tick_of_bar(bar);
            notes.push_back(n);
        }
    Line line("note.write");
    line.with("part", part_text(session_.remake(), part)).with("at", std::to_string(first)).with("notes", written_text(notes, meter.tick_of_bar(first)));
    if (session_.selection().reach() == Reach::Here) line.with("reach", "here");
    session_.documents().run(line);
}

/// Where one section leads into the next: what is heard there, and a fill that fits it.
void FactsPanel::fills(const Part& p) {
    const auto places = fill_places(*session_.recording().analysis->evidence, *session_.remake().song);
    if (places.empty()) return;
    facts_->heading(tr("Fills before sections"));
    for (std::size_t i = 0; i < places.size(); ++i) {
        const FillPlace& f = places[i];
        const QString name = tr(std::string(f.best.pattern->name).c_str());
        const auto line = facts_->line();
        facts_->button({.text = tr("bar %1").arg(f.bar),
                        .tip = f.heard ? tr("The drums differ from the bar before: loops it") : tr("The drums go on as in the bar before: loops it"),
                        .object = QString("hear_fill%1").arg(i),
                        .run =
                            [this, bar = f.bar] {
                                const Song& song = *session_.remake().song;
                                Transport& t = session_.transport();
                                t.set_loop(song.tempo.seconds(song.meter.tick_of_bar(bar)), song.tempo.seconds(song.meter.tick_of_bar(bar + 1)));
                                t.seek(t.loop_start());
                            },
                        .compact = true});
        facts_->button({.text = f.heard ? tr("%1   fits %2").arg(name, percent_text(f.best.fit)) : tr("no fill is heard"),
                        .tip = tr("Writes “%1” into this bar, beside what is there").arg(name),
                        .object = QString("fill%1").arg(i),
                        .run = [this, id = p.id, ready = f.best.pattern, bar = f.bar] { write_ready(id, *ready, bar, bar + 1); },
                        .compact = true,
                        .width = FactWidth::Shared,
                        .stretch = 1});
    }
}

/// Ready patterns that fit what is heard in the loop, or in the bars around the playhead.
void FactsPanel::ready(const Part& p) {
    const auto analysis = session_.recording().analysis;
    if (!analysis || session_.provisional()) return;
    const Song& song = *session_.remake().song;
    const auto [first, end] = session_.survey().bars_meant();
    const auto fits = fit_patterns(*analysis->evidence, song.tempo, song.meter, first, std::max(first, end - 1));
    fills(p);
    if (fits.empty()) return;
    facts_->heading(end - first > 1 ? tr("Ready patterns for bars %1 to %2").arg(first).arg(end - 1) : tr("Ready patterns for bar %1").arg(first));
    constexpr std::size_t kMost = 3;
    for (std::size_t i = 0; i < std::min(kMost, fits.size()); ++i)
        facts_->button(
            QString("%1   %2").arg(tr(std::string(fits[i].pattern->name).c_str()), tr("fits %1").arg(percent_text(fits[i].fit))),
            tr("Writes it into these bars, beside what is there; how far it says what is heard there, 0 is chance"),
            [this, id = p.id, ready = fits[i].pattern, first, end] { write_ready(id, *ready, first, std::max(first + 1, end)); }, QString("ready%1").arg(i));
}

/// What was heard in a part's role, as a groove.
void FactsPanel::take_groove_of_original(PartId id) {
    const Part* part = session_.remake().part(id);
    const auto analysis = session_.recording().analysis;
    if (!part || !analysis) return;
    const Song& song = *session_.remake().song;
    const Transport& t = session_.transport();
    const bool loop = t.loop_end() > t.loop_start();
    std::vector<Struck> struck;
    const auto add = [&](double time_s, int velocity, double confidence) {
        constexpr double kSure = 0.7;
        if (confidence >= kSure && (!loop || (time_s >= t.loop_start() - 0.02 && time_s < t.loop_end() - 0.02)))
            struck.push_back({song.tempo.nearest_tick(time_s), velocity});
    };
    if (part->role == PartRole::Drums)
        for (const Hit& h : analysis->drums) add(h.time_s, h.velocity, h.confidence);
    else
        for (const HeardPart& h : analysis->parts)
            if (h.role == part->role)
                for (const HeardNote& n : h.notes) add(n.onset_s, n.velocity, n.confidence);
    if (struck.empty()) {
        emit session_.told(tr("Nothing of %1 was heard surely enough there.").arg(QString::fromStdString(part->name)));
        return;
    }
    constexpr int kSixteenth = kTicksPerQuarter / 4;
    const Groove g = take_groove("original", struck, song.meter, kSixteenth);
    const std::string name = part->name + " as heard" + (loop ? " at " + place_text(song.meter, song.tempo.nearest_tick(t.loop_start())) : "");
    session_.documents().run(Line("groove.add").with("name", name).with("step", "1/16").with("steps", groove_steps_text(g)));
}

/// From a MIDI file, or as text that is a script of commands; and the remake's own as such a text, for another remake.
void FactsPanel::grooves_in_files() {
    facts_->button(
        tr("Take it from a file…"), tr("A MIDI file, whose first notes tell it, or a text of grooves written here before"),
        [this] {
            const QString path = QFileDialog::getOpenFileName(this, tr("A groove from a file"), {}, tr("Grooves (*.txt *.mid *.midi)"));
            if (path.isEmpty()) return;
            const auto lines = guarded("reading " + path.toStdString(), [&] { return read_grooves(path.toStdString()); });
            if (!lines) {
                emit session_.failed(of_core(lines.error().message()));
                return;
            }
            for (const Line& line : *lines) session_.documents().run(line, "grooves");
            session_.documents().end_gesture();
        },
        "groove_file");
    if (session_.remake().song->grooves.empty()) return;
    facts_->button(
        tr("Write them as text…"), tr("All grooves of this remake, to be taken into another one"),
        [this] {
            const QString path = QFileDialog::getSaveFileName(this, tr("Write grooves"), "grooves.txt", tr("Grooves (*.txt)"));
            if (path.isEmpty()) return;
            const auto done = write_grooves(path.toStdString(), session_.remake().song->grooves);
            if (!done) emit session_.failed(of_core(done.error().message()));
        },
        "write_grooves");
}

void FactsPanel::grooves(const Part& p) {
    const PartId id = p.id;
    const auto& known = session_.remake().song->grooves;
    const auto notes = session_.selection().notes();
    facts_->heading(tr("Groove"));
    facts_->button(
        tr("Take it from the original"), tr("As its strokes were heard in the loop, or else in the whole song: how far off the sixteenths, how hard"),
        [this, id] { take_groove_of_original(id); }, "original_groove");
    if (notes.size() > 1)
        facts_->button(
            tr("Take it from the chosen notes"), tr("How far off the sixteenths and how hard each is played, bar by bar"),
            [this, id] {
                const Part* part = session_.remake().part(id);
                if (part)
                    session_.documents().run(session_.selection()
                                                 .on_notes("groove.take", session_.remake(), id)
                                                 .with("name", part->name + " " + std::to_string(session_.remake().song->grooves.size() + 1)));
            },
            "take_groove");
    grooves_in_files();
    for (std::size_t i = 0; i < known.size(); ++i) {
        const Groove& g = known[i];
        QString steps;
        for (std::size_t k = 0; k < g.steps.size(); ++k)
            if (g.steps[k].velocity > 0)
                steps += tr("step %1: %2%3 ticks, velocity %4\n").arg(k + 1).arg(g.steps[k].late > 0 ? "+" : "").arg(g.steps[k].late).arg(g.steps[k].velocity);
        facts_->word(QString::fromStdString(g.name), 0, steps.trimmed());
        if (!notes.empty())
            tool(tr("Lay on"), tr("Moves the chosen notes onto this groove"), QString("lay_groove%1").arg(i),
                 {{"strength", 100, 0, 100, 5, " %", tr("How far in time")}, {"dynamics", 50, 0, 100, 5, " %", tr("How far in velocity")}},
                 [this, id, name = g.name](const std::vector<double>& v) {
                     session_.documents().run(session_.selection()
                                                  .on_notes("note.quantise", session_.remake(), id)
                                                  .with("groove", name)
                                                  .with("strength", QString::number(v[0] / 100.0, 'f', 2).toStdString())
                                                  .with("dynamics", QString::number(v[1] / 100.0, 'f', 2).toStdString()));
                 });
    }
}

}  // namespace fw::app
