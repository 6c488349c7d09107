// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/part.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace fw {

const char* part_role_name(PartRole role) {
    switch (role) {
        case PartRole::Bass: return "bass";
        case PartRole::Lead: return "lead";
        case PartRole::Chords: return "chords";
        case PartRole::Drums: return "drums";
        case PartRole::Other: break;
    }
    return "other";
}

const Pattern* PartVersion::pattern(PatternId id) const {
    for (const auto& p : patterns)
        if (p->id == id) return p.get();
    return nullptr;
}

const Placement* PartVersion::placement(PlacementId id) const {
    for (const Placement& p : placements)
        if (p.id == id) return &p;
    return nullptr;
}

std::vector<Note> PartVersion::notes(const Pattern& p) const { return notes_of(p, p.parent ? pattern(p.parent) : nullptr); }

std::string PartVersion::variant_letter(const Pattern& parent) const {
    const auto variants = std::count_if(patterns.begin(), patterns.end(), [&](const auto& p) { return p->parent == parent.id; });
    std::string letter = parent.letter;
    for (std::ptrdiff_t i = 0; i <= std::min<std::ptrdiff_t>(variants, 2); ++i) letter += "′";
    return letter;
}

Pattern* PartVersion::edit_pattern(PatternId id) {
    for (auto& p : patterns)
        if (p->id == id) return &p.edit();
    return nullptr;
}

void PartVersion::number_all() {
    for (const auto& p : patterns) {
        next_id = std::max(next_id, p->id.number + 1);
        for (const Note& n : p->notes) next_id = std::max(next_id, n.id.number + 1);
    }
    for (const Placement& p : placements) next_id = std::max(next_id, p.id.number + 1);
    for (auto& p : patterns)
        if (std::any_of(p->notes.begin(), p->notes.end(), [](const Note& n) { return !n.id; }))
            for (Note& n : p.edit().notes)
                if (!n.id) n.id = NoteId(next_id++);
    for (Placement& p : placements)
        if (!p.id) p.id = PlacementId(next_id++);
}

std::vector<PlacedNote> placed_notes(const PartVersion& part, const std::function<bool(const Note&, const Placement&)>& wanted) {
    std::vector<PlacedNote> out;
    std::map<PatternId, std::vector<Note>> variants;  // put together once each
    for (const Placement& placement : part.placements) {
        const Pattern* pattern = part.pattern(placement.pattern);
        if (!pattern) continue;
        const std::vector<Note>* notes = &pattern->notes;
        if (pattern->parent) {
            auto& together = variants[pattern->id];
            if (together.empty()) together = part.notes(*pattern);
            notes = &together;
        }
        if (!wanted && out.capacity() < out.size() + notes->size()) out.reserve(std::max(out.size() + notes->size(), 2 * out.size()));
        for (const Note& n : *notes) {
            if (wanted && !wanted(n, placement)) continue;
            PlacedNote& placed = out.emplace_back(PlacedNote{n, placement.id, placement.muted || n.muted});
            placed.note.start += placement.start;
        }
    }
    const auto before = [](const PlacedNote& a, const PlacedNote& b) { return a.note.start < b.note.start; };
    if (!std::is_sorted(out.begin(), out.end(), before)) std::stable_sort(out.begin(), out.end(), before);
    return out;
}

std::vector<Note> strokes_of(const Note& note) {
    const Roll& roll = *note.roll;
    if (roll.strokes <= 1) return {note};
    const Ticks first = roll.leads_in ? note.start - (roll.strokes - 1) * roll.apart : note.start;
    std::vector<Note> out;
    for (int i = 0; i < roll.strokes; ++i) {
        Note& stroke = out.emplace_back(note);
        const double way = static_cast<double>(i) / (roll.strokes - 1);
        // The last stroke of what leads in is the note itself; those of a roll share its length.
        const bool itself = roll.leads_in && i + 1 == roll.strokes;
        stroke.roll = {};
        stroke.start = first + i * roll.apart;
        stroke.velocity = std::clamp(static_cast<int>(std::lround(roll.first_velocity + way * (note.velocity - roll.first_velocity))), 1, 127);
        if (!itself) stroke.length = std::max<Ticks>(1, std::min(note.length, roll.apart));
        if (!itself && roll.semitones != 0.0) stroke.bend.edit() = {{0, 100.0 * roll.semitones * way}};
    }
    return out;
}

std::vector<PlacedNote> struck_notes(const PartVersion& part) {
    std::vector<PlacedNote> all = placed_notes(part);
    if (std::none_of(all.begin(), all.end(), [](const PlacedNote& n) { return n.note.roll->strokes > 1; })) return all;
    std::vector<PlacedNote> out;
    out.reserve(all.size());
    for (const PlacedNote& n : all)
        for (Note& stroke : strokes_of(n.note)) out.push_back({std::move(stroke), n.placement, n.muted});
    std::stable_sort(out.begin(), out.end(), [](const PlacedNote& a, const PlacedNote& b) { return a.note.start < b.note.start; });
    return out;
}

}  // namespace fw
