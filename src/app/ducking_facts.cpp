// SPDX-License-Identifier: GPL-3.0-or-later
// Whether the original makes room for its kick, measured, and doing the same with a part.
#include "app/facts_column.hpp"
#include "app/facts_panel.hpp"
#include "app/words.hpp"

#include <algorithm>

namespace fw::app {

/// The kicks and the sections decide; a document in which they are the same ones is not measured anew.
void FactsPanel::measure_dips() {
    const auto document = session_.documents().document();
    const auto drums = [](const Remake& r) {
        std::vector<const Part*> all;
        for (const auto& p : r.parts)
            if (p->role == PartRole::Drums) all.push_back(p.get());
        return all;
    };
    if (dips_of_ && dips_of_->song->sections == document->song->sections && drums(*dips_of_) == drums(*document)) return;
    const auto sound = session_.recording().sound;
    if (!sound) return;
    jobs_.run(
        "dips", tr("measuring the original's ducking"),
        [this, document, sound]() -> JobQueue::Work {
            return [this, document, sound](const Progress& progress) -> Result<JobQueue::Delivery> {
                return JobQueue::Delivery([this, document, found = after_strokes(*document, *sound, kicks_of(*document), progress)] {
                    dips_of_ = document;
                    dips_.clear();
                    for (const auto& [section, after] : found)
                        if (after.dip) dips_.emplace_back(section, *after.dip);
                    tell_again();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

void FactsPanel::dips(const Part& p) {
    if (session_.provisional() || p.role == PartRole::Drums) return;
    measure_dips();
    const Remake& r = session_.remake();
    if (!dips_of_ || dips_of_->reference != r.reference) return;
    // What was measured may be of sections that are gone.
    double depth = 0.0, beats = 0.0;
    int strokes = 0;
    QStringList lines;
    for (const auto& [id, dip] : dips_) {
        const Section* s = r.song->section(id);
        if (!s) continue;
        const double beat_s = r.song->tempo.seconds(s->start + kTicksPerQuarter) - r.song->tempo.seconds(s->start);
        depth += dip.strokes * dip.depth_db, beats += dip.strokes * dip.release_s / beat_s, strokes += dip.strokes;
        lines << tr("%1: %2 dB, back within %3 ms")
                     .arg(QString::fromStdString(section_text(r, id)))
                     .arg(dip.depth_db, 0, 'f', 1)
                     .arg(1000.0 * dip.release_s, 0, 'f', 0);
    }
    if (strokes == 0) return;
    depth /= strokes, beats /= strokes;
    facts_->heading(tr("After the kick the original seems to dip"));
    facts_->note(lines.join("\n"),
                 tr("The level between 300 Hz and 2.5 kHz after each kick, against just before it: the median of a section's strokes, %1 in all. It is "
                    "what several elements do together; which of them ducks is for your ears.")
                     .arg(strokes));
    facts_->button(
        tr("Duck %1 so").arg(QString::fromStdString(p.name)), tr("Adds a Duck step set off by the kick, with this depth and release"),
        [this, id = p.id, depth, beats] {
            const Remake& now = session_.remake();
            const auto drums = std::find_if(now.parts.begin(), now.parts.end(), [](const auto& part) { return part->role == PartRole::Drums; });
            if (drums == now.parts.end() || !now.part(id)) return;
            session_.documents().run(Line("step.add")
                                         .with("part", part_text(now, id))
                                         .with("kind", kDuck.id)
                                         .with("by", part_text(now, (*drums)->id))
                                         .with("sound", drum_sound(DrumKind::Kick).name)
                                         .with("depth", QString::number(depth, 'f', 1).toStdString())
                                         .with("release", QString::number(std::clamp(beats, 0.0625, 8.0), 'f', 3).toStdString()));
        },
        "duck_so");
}

}  // namespace fw::app
