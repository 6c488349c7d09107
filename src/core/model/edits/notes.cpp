// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/notes.hpp"

#include "model/edits/parts.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <set>
#include <tuple>

namespace fw {

namespace {

/// Sees to it that a placement plays a pattern nothing else plays and no variant hangs on.
void set_apart(PartVersion& part, PlacementId id) {
    const auto placement = std::find_if(part.placements.begin(), part.placements.end(), [&](const Placement& p) { return p.id == id; });
    if (placement == part.placements.end()) return;
    const Pattern* pattern = part.pattern(placement->pattern);
    if (!pattern) return;
    const auto uses = std::count_if(part.placements.begin(), part.placements.end(), [&](const Placement& p) { return p.pattern == pattern->id; });
    const bool has_variants = std::any_of(part.patterns.begin(), part.patterns.end(), [&](const auto& p) { return p->parent == pattern->id; });
    if (uses <= 1 && !has_variants) return;
    Pattern made;
    if (pattern->parent) made = *pattern;
    else made.parent = pattern->id, made.length = pattern->length;
    made.id = PatternId(part.next_id++);
    made.letter = part.variant_letter(*part.pattern(made.parent));
    // Notes that only the copied variant has get ids of their own: two notes of one part are never one.
    const Pattern& parent = *part.pattern(made.parent);
    for (Note& n : made.notes)
        if (!parent.own(n.id)) n.id = NoteId(part.next_id++);
    placement->pattern = made.id;
    part.patterns.push_back(std::move(made));
}

/// Where a note is after set_apart: own notes of a copied variant have new ids, in the same order.
using Renamed = std::vector<std::pair<NoteId, NoteId>>;

Renamed renamed_by_setting_apart(PartVersion& part, PlacementId id) {
    const Placement* before = part.placement(id);
    if (!before) return {};
    const PatternId old_id = before->pattern;
    set_apart(part, id);
    const PatternId new_id = part.placement(id)->pattern;
    Renamed renamed;
    if (new_id == old_id) return renamed;
    const Pattern &was = *part.pattern(old_id), &is = *part.pattern(new_id);
    if (was.parent)
        for (std::size_t i = 0; i < was.notes.size(); ++i)
            if (was.notes[i].id != is.notes[i].id) renamed.emplace_back(was.notes[i].id, is.notes[i].id);
    return renamed;
}

/// The notes meant, each once; their places set apart where the edit reaches no further.
std::set<std::pair<PlacementId, NoteId>> reached(PartVersion& part, const std::vector<NoteRef>& refs, Reach reach) {
    std::set<std::pair<PlacementId, NoteId>> wanted;
    for (const NoteRef& r : refs) wanted.emplace(r.placement, r.note);
    if (reach == Reach::Everywhere) return wanted;
    std::set<PlacementId> places;
    for (const auto& [placement, note] : wanted) places.insert(placement);
    for (const PlacementId place : places)
        for (const auto& [from, to] : renamed_by_setting_apart(part, place))
            if (wanted.erase({place, from})) wanted.emplace(place, to);
    return wanted;
}

}  // namespace

Remake edit_notes(const Remake& remake, PartId part_id, const std::vector<NoteRef>& refs, Reach reach,
                  const std::function<void(Note&, Ticks placement_start)>& change) {
    return with_part(remake, part_id, [&](Part& part) {
        const auto wanted = reached(part, refs, reach);
        std::map<std::pair<PatternId, NoteId>, int> done;  // members: two placements, or a pattern and its variant, may name the same note
        std::set<PatternId> touched;
        for (const auto& [place, note] : wanted) {
            const Placement* placement = part.placement(place);
            const Pattern* pattern = placement ? part.pattern(placement->pattern) : nullptr;
            if (!pattern) continue;
            const Pattern* parent = pattern->parent ? part.pattern(pattern->parent) : nullptr;
            const Note* theirs = parent && !pattern->leaves_out(note) ? parent->own(note) : nullptr;
            const Note* ours = pattern->own(note);
            if (!ours && !theirs) continue;
            const Note before = !ours ? *theirs : theirs ? resolved(*ours, *theirs) : *ours;
            Note after = before;
            change(after, placement->start);
            const int own = !ours ? 0 : theirs ? ours->own : kAllOwn;
            const auto put = [&, note = note](PatternId where, int members) {
                int& already = done[{where, note}];
                members &= ~already;
                already |= members;
                for (Note& n : part.edit_pattern(where)->notes)
                    if (n.id == note) take_members(n, after, members);
                touched.insert(where);
            };
            if (!theirs) {
                put(pattern->id, kAllOwn);
            } else if (!ours && (reach == Reach::Everywhere || difference(before, after) == 0)) {
                if (reach == Reach::Everywhere) put(parent->id, kAllOwn);
            } else if (reach == Reach::Here) {
                const PatternId here = pattern->id;
                after.own = own | difference(after, *theirs);
                if (ours) {
                    const int members = after.own;
                    put(here, kAllOwn);
                    for (Note& n : part.edit_pattern(here)->notes)
                        if (n.id == note) n.own = members;
                } else {
                    part.edit_pattern(here)->notes.push_back(after);
                    touched.insert(here);
                }
            } else {
                // Each member where it is kept: what the variant has from its parent is changed there, and so wherever the parent plays.
                const int changed = difference(before, after);
                const PatternId here = pattern->id, above = parent->id;
                put(here, changed & own);
                put(above, changed & ~own);
            }
        }
        for (const PatternId id : touched) sort_notes(part.edit_pattern(id)->notes);
    });
}

std::vector<PlacedNote> notes_meant(const PartVersion& part, const std::vector<NoteRef>& notes) {
    std::vector<NoteRef> wanted = notes;
    std::sort(wanted.begin(), wanted.end());
    return placed_notes(part, [&](const Note& n, const Placement& at) { return std::binary_search(wanted.begin(), wanted.end(), NoteRef{at.id, n.id}); });
}

const Placement* placement_at(const PartVersion& part, Ticks tick) {
    for (const Placement& placement : part.placements) {
        const Pattern* p = part.pattern(placement.pattern);
        if (p && tick >= placement.start && tick < placement.start + p->length) return &placement;
    }
    return nullptr;
}

namespace {

/// The placement that covers a tick, made where there is none.
PlacementId place_for(Part& part, const Song& song, Ticks at) {
    if (const Placement* found = placement_at(part, at)) return found->id;
    Pattern made;
    made.id = PatternId(part.next_id++);
    made.letter = "+";
    Placement placed{made.id, 0, false, PlacementId(part.next_id++), {}};
    if (const int section = song.section_at(at); section >= 0) {
        placed.start = song.sections[static_cast<std::size_t>(section)].start;
        made.length = song.sections[static_cast<std::size_t>(section)].length;
    } else {
        const int bar = song.meter.position(at).bar;
        placed.start = song.meter.tick_of_bar(bar);
        made.length = song.meter.tick_of_bar(bar + 1) - placed.start;
    }
    part.patterns.push_back(made);
    const auto before = std::upper_bound(part.placements.begin(), part.placements.end(), placed.start, [](Ticks t, const Placement& p) { return t < p.start; });
    part.placements.insert(before, placed);
    return placed.id;
}

}  // namespace

Remake add_note(const Remake& remake, PartId part, const Note& note, Reach reach) { return add_beside(remake, part, {{NoteRef{}, note}}, reach); }

Remake add_beside(const Remake& remake, PartId part_id, const std::vector<Beside>& notes, Reach reach) {
    return with_part(remake, part_id, [&](Part& part) {
        std::set<std::tuple<PatternId, Ticks, int>> added;
        std::set<PatternId> touched;
        for (const Beside& b : notes) {
            const PlacementId place = place_for(part, *remake.song, b.note.start);
            if (reach == Reach::Here) set_apart(part, place);
            const Placement& placement = *part.placement(place);
            PatternId keeper = placement.pattern;
            if (const Pattern* here = part.pattern(keeper); here->parent && reach == Reach::Everywhere && b.of.placement == place && !here->own(b.of.note))
                keeper = here->parent;
            Note kept = b.note;
            kept.start -= placement.start;
            kept.pitch = std::clamp(kept.pitch, 0, 127);
            kept.velocity = std::clamp(kept.velocity, 1, 127);
            kept.length = std::max<Ticks>(1, kept.length);
            kept.own = kAllOwn;
            if (!added.emplace(keeper, kept.start, kept.pitch).second) continue;
            kept.id = NoteId(part.next_id++);
            part.edit_pattern(keeper)->notes.push_back(std::move(kept));
            touched.insert(keeper);
        }
        for (const PatternId p : touched) sort_notes(part.edit_pattern(p)->notes);
    });
}

Remake remove_notes(const Remake& remake, PartId part_id, const std::vector<NoteRef>& refs, Reach reach) {
    return with_part(remake, part_id, [&](Part& part) {
        const auto wanted = reached(part, refs, reach);
        std::set<std::pair<PatternId, NoteId>> doomed, left_out;
        for (const auto& [place, note] : wanted) {
            const Placement* placement = part.placement(place);
            const Pattern* pattern = placement ? part.pattern(placement->pattern) : nullptr;
            if (!pattern) continue;
            const Pattern* parent = pattern->parent ? part.pattern(pattern->parent) : nullptr;
            const bool theirs = parent && parent->own(note) && !pattern->leaves_out(note);
            if (pattern->own(note)) doomed.emplace(pattern->id, note);
            else if (theirs && reach == Reach::Everywhere) doomed.emplace(parent->id, note);
            if (theirs && (reach == Reach::Here || pattern->own(note))) left_out.emplace(pattern->id, note);
        }
        std::set<PatternId> touched;
        std::map<std::pair<PatternId, NoteId>, Note> before;
        for (const auto& [pattern, note] : doomed) {
            touched.insert(pattern);
            before.emplace(std::pair{pattern, note}, *part.pattern(pattern)->own(note));
        }
        for (const PatternId id : touched) std::erase_if(part.edit_pattern(id)->notes, [&](const Note& n) { return doomed.contains({id, n.id}); });
        for (const auto& [id, note] : left_out) {
            auto& list = part.edit_pattern(id)->left_out;
            list.insert(std::lower_bound(list.begin(), list.end(), note), note);
        }
        // What a parent no longer has cannot be left out of it, and a variant's own version of it is a note by itself now.
        for (auto& p : part.patterns) {
            if (!p->parent || !touched.contains(p->parent)) continue;
            const auto gone = [&, parent = p->parent](NoteId n) { return doomed.contains({parent, n}); };
            if (std::any_of(p->left_out.begin(), p->left_out.end(), gone)) std::erase_if(p.edit().left_out, gone);
            if (std::none_of(p->notes.begin(), p->notes.end(), [&](const Note& n) { return gone(n.id); })) continue;
            for (Note& n : p.edit().notes)
                if (gone(n.id)) {
                    take_members(n, before.at({p->parent, n.id}), kAllOwn & ~n.own);
                    n.id = NoteId(part.next_id++);
                    n.own = kAllOwn;
                }
            sort_notes(p.edit().notes);
        }
    });
}

Remake change_notes(const Remake& remake, PartId part, const std::vector<NoteRef>& notes, const NoteChange& by, Reach reach) {
    return edit_notes(remake, part, notes, reach, [&](Note& n, Ticks) {
        n.start += by.move;
        n.pitch = std::clamp(n.pitch + by.semitones, 0, 127);
        n.length = std::max<Ticks>(kTicksPerQuarter / 32, static_cast<Ticks>(std::llround(static_cast<double>(n.length) * by.times)) + by.lengthen);
        n.velocity = std::clamp(n.velocity + by.velocity, 1, 127);
        n.origin = Origin::Drawn;
    });
}

}  // namespace fw
