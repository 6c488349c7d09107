// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/remake.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>

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

const char* state_name(State state) {
    switch (state) {
        case State::Open: return "open";
        case State::Draft: return "draft";
        case State::Confirmed: return "confirmed";
        case State::LeftOut: break;
    }
    return "left out";
}

const Pattern* Part::pattern(int pattern_id) const {
    for (const Pattern& p : patterns)
        if (p.id == pattern_id) return &p;
    return nullptr;
}

const Part* Remake::part(int id) const {
    for (const auto& p : parts)
        if (p->id == id) return p.get();
    return nullptr;
}

const Key* Remake::key_at(Ticks tick) const {
    const Key* found = nullptr;
    for (const KeyArea& k : keys)
        if (!found || k.start <= tick) found = &k.key;
    return found;
}

bool Remake::flats_at(Ticks tick) const {
    const Key* key = key_at(tick);
    return key && key->flats();
}

Ticks Remake::end_tick() const {
    Ticks end = std::max<Ticks>(kTicksPerQuarter, tempo.nearest_tick(reference.duration_s));
    for (const Section& s : sections) end = std::max(end, s.start + s.length);
    return end;
}

std::vector<std::string> Remake::element_ids() const {
    std::vector<std::string> ids{"tempo", "key", "sections", "chords"};
    for (const auto& p : parts) ids.push_back("part:" + std::to_string(p->id));
    return ids;
}

std::string Remake::element_name(const std::string& id) const {
    if (id == "tempo") return "Tempo & bars";
    if (id == "key") return "Key & tuning";
    if (id == "sections") return "Sections";
    if (id == "chords") return "Chords";
    for (const auto& p : parts)
        if (id == "part:" + std::to_string(p->id)) return p->name;
    return id;
}

ElementState Remake::element(const std::string& id) const {
    const auto it = elements.find(id);
    return it == elements.end() ? ElementState{} : it->second;
}

std::string Remake::tempo_text() const {
    const double first = tempo.bpm_at(tempo.anchors().front().tick), last = tempo.bpm_at(tempo.anchors().back().tick - 1);
    char text[64];
    if (std::abs(first - last) < 0.05) std::snprintf(text, sizeof text, "%.2f BPM", first);
    else std::snprintf(text, sizeof text, "%.2f → %.2f BPM", first, last);
    return text;
}

std::vector<PlacedNote> placed_notes(const Part& part) {
    std::vector<PlacedNote> out;
    for (std::size_t i = 0; i < part.placements.size(); ++i) {
        const Placement& placement = part.placements[i];
        const Pattern* pattern = part.pattern(placement.pattern);
        if (!pattern) continue;
        for (std::size_t n = 0; n < pattern->notes.size(); ++n) {
            PlacedNote placed{pattern->notes[n], static_cast<int>(i), static_cast<int>(n), placement.muted};
            placed.note.start += placement.start;
            out.push_back(std::move(placed));
        }
    }
    std::stable_sort(out.begin(), out.end(), [](const PlacedNote& a, const PlacedNote& b) { return a.note.start < b.note.start; });
    return out;
}

}  // namespace fw
