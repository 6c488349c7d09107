// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/arrangement.hpp"

#include "model/edits/clips.hpp"
#include "model/edits/parts.hpp"
#include "model/edits/sections.hpp"

#include <algorithm>
#include <vector>

namespace fw {

namespace {

bool begins_in(const Placement& p, Ticks from, Ticks to) { return p.start >= from && p.start < to; }

void clear(PartVersion& part, Ticks from, Ticks to) {
    cut_patterns(part, from);
    cut_patterns(part, to);
    std::erase_if(part.placements, [&](const Placement& p) { return begins_in(p, from, to); });
}

}  // namespace

const Placement* placement_in(const PartVersion& part, const Section& section) {
    const Placement* found = nullptr;
    for (const Placement& p : part.placements)
        if (begins_in(p, section.start, section.start + section.length)) found = &p;
    return found;
}

Remake play_as(const Remake& remake, PartId id, SectionId section, SectionId like) {
    const Section *to = remake.song->section(section), *from = remake.song->section(like);
    if (!to || !from || to == from || !remake.part(id)) return remake;
    const Ticks begin = to->start, end = to->start + to->length, model = from->start, model_end = from->start + from->length;
    return with_part(remake, id, [&](Part& part) {
        cut_patterns(part, model);
        cut_patterns(part, model_end);
        std::vector<Placement> played;
        for (const Placement& p : part.placements)
            if (begins_in(p, model, model_end)) played.push_back(p);
        clear(part, begin, end);
        for (Ticks at = begin; at < end; at += model_end - model)
            for (Placement p : played) {
                p.start += at - model;
                if (p.start >= end) continue;
                p.id = PlacementId(part.next_id++);
                part.placements.push_back(p);
            }
        std::stable_sort(part.placements.begin(), part.placements.end(), [](const Placement& a, const Placement& b) { return a.start < b.start; });
        // What would go on beyond the section is cut off there; what is played from there on anyway has a number given out before.
        const int given_out = part.next_id;
        cut_patterns(part, end);
        std::erase_if(part.placements, [&](const Placement& p) { return p.start == end && p.id.number >= given_out; });
        drop_unplayed(part);
    });
}

Remake leave_out(const Remake& remake, PartId part, SectionId section) {
    const Section* s = remake.song->section(section);
    return s ? fall_out(remake, part, s->start, s->start + s->length) : remake;
}

Remake fall_out(const Remake& remake, PartId id, Ticks from, Ticks to) {
    if (to <= from || !remake.part(id)) return remake;
    return with_part(remake, id, [&](Part& part) {
        clear(part, from, to);
        drop_unplayed(part);
    });
}

Remake take_turns(const Remake& remake, PartId one, PartId other, SectionId section) {
    const Section* s = remake.song->section(section);
    if (!s || one == other || !remake.part(one) || !remake.part(other)) return remake;
    const MeterMap& meter = remake.song->meter;
    const int first = meter.position(s->start).bar;
    Remake next = remake;
    for (int bar = first; meter.tick_of_bar(bar) < s->start + s->length; ++bar)
        next = fall_out(next, (bar - first) % 2 ? one : other, meter.tick_of_bar(bar), std::min(meter.tick_of_bar(bar + 1), s->start + s->length));
    return next;
}

Remake fill_with_original(const Remake& remake, Ticks from, Ticks to, bool alone) {
    const auto& tempo = remake.song->tempo;
    Asset asset = from_original(remake, "Original", tempo.seconds(from), tempo.seconds(to));
    if (!(asset.end_s > asset.start_s)) return remake;
    // Where the map's first bars lie before the recording, there is nothing of it.
    Clip clip;
    clip.name = asset.name;
    clip.start = asset.start_s > tempo.seconds(from) + 1e-9 ? tempo.nearest_tick(asset.start_s) : from;
    // Nothing clicks where it begins and ends.
    clip.recipe = {{Treatment::Fade, 5.0, 5.0, 1.0, {}}};
    Remake next = add_clip(remake, std::move(asset), std::move(clip));
    if (!alone) return next;
    next = cut_patterns(cut_patterns(next, from), to);
    for (auto& shared : next.parts)
        if (std::any_of(shared->placements.begin(), shared->placements.end(), [&](const Placement& p) { return begins_in(p, from, to) && !p.muted; }))
            for (Placement& p : shared.edit().placements) p.muted = p.muted || begins_in(p, from, to);
    return next;
}

}  // namespace fw
