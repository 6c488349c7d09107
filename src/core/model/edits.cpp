// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace fw {

namespace {

void sort_notes(Pattern& pattern) {
    std::stable_sort(pattern.notes.begin(), pattern.notes.end(),
                     [](const Note& a, const Note& b) { return a.start != b.start ? a.start < b.start : a.pitch < b.pitch; });
}

Pattern* find_pattern(Part& part, int id) {
    for (Pattern& p : part.patterns)
        if (p.id == id) return &p;
    return nullptr;
}

/// Applies t -> t·factor + shift to every musical time of the document.
Remake map_ticks(const Remake& remake, double factor, Ticks shift) {
    Remake next = remake;
    const auto place = [&](Ticks t) { return std::llround(static_cast<double>(t) * factor) + shift; };
    const auto span = [&](Ticks t) { return std::max<Ticks>(1, std::llround(static_cast<double>(t) * factor)); };
    next.tempo = remake.tempo.reread(factor, shift);
    for (KeyArea& k : next.keys) k.start = place(k.start);
    for (Section& s : next.sections) s.start = place(s.start), s.length = span(s.length);
    for (ChordEvent& c : next.chords) c.start = place(c.start), c.length = span(c.length);
    for (auto& shared : next.parts) {
        Part part = *shared;
        for (Placement& p : part.placements) p.start = place(p.start);
        if (factor != 1.0)
            for (Pattern& p : part.patterns) {
                p.length = span(p.length);
                for (Note& n : p.notes) {
                    n.start = std::llround(static_cast<double>(n.start) * factor), n.length = span(n.length);
                    for (BendPoint& b : n.bend) b.tick = std::llround(static_cast<double>(b.tick) * factor);
                }
            }
        shared = std::make_shared<const Part>(std::move(part));
    }
    return next;
}

}  // namespace

Remake reread_tempo(const Remake& remake, double factor) {
    if (!(factor > 0.0) || factor == 1.0) return remake;
    Remake next = map_ticks(remake, factor, 0);
    for (Candidate& c : next.tempo_candidates)
        if (std::abs(c.bpm / (remake.tempo.bpm_at(0) * factor) - 1.0) < 0.01) c.bpm = remake.tempo.bpm_at(0);
    return next;
}

Remake set_downbeat(const Remake& remake, double time_s) {
    const auto& meter = remake.meter.changes().front();
    const Ticks beat = meter.beat_ticks(), bar = meter.bar_ticks();
    const Ticks at = static_cast<Ticks>(std::llround(remake.tempo.ticks(time_s) / static_cast<double>(beat))) * beat;
    Ticks shift = (bar - ((at % bar) + bar) % bar) % bar;
    // Count from the earliest bar: after several shifts the first beat would otherwise drift away from bar 1.
    const Ticks first = remake.tempo.anchors().front().tick + shift;
    shift -= first / bar * bar;
    return shift == 0 ? remake : map_ticks(remake, 1.0, shift);
}

Remake set_meter(const Remake& remake, int numerator, int denominator) {
    Remake next = remake;
    next.meter = MeterMap({{1, numerator, denominator}});
    return next;
}

Remake set_key(const Remake& remake, std::size_t area, const Key& key) {
    Remake next = remake;
    if (next.keys.empty()) next.keys.push_back({});
    if (area >= next.keys.size()) return remake;
    KeyArea& k = next.keys[area];
    for (auto& alternative : k.alternatives)
        if (alternative.first == key) alternative = {k.key, k.confidence};
    k.key = key;
    k.confidence = 1.0;
    return next;
}

Remake rename_section(const Remake& remake, std::size_t section, const std::string& name) {
    if (section >= remake.sections.size()) return remake;
    Remake next = remake;
    next.sections[section].name = name;
    return next;
}

Remake set_chord(const Remake& remake, Ticks tick, const Chord& chord) {
    Remake next = remake;
    for (ChordEvent& c : next.chords)
        if (tick >= c.start && tick < c.start + c.length) {
            std::erase_if(c.alternatives, [&](const auto& a) { return a.first == chord; });
            if (!(c.chord == chord)) c.alternatives.insert(c.alternatives.begin(), {c.chord, c.confidence});
            c.chord = chord;
            c.confidence = 1.0;
            c.origin = Origin::Drawn;
            return next;
        }
    const int bar = remake.meter.position(tick).bar;
    ChordEvent made{remake.meter.tick_of_bar(bar), 0, chord, 1.0, Origin::Drawn, {}};
    Ticks end = remake.meter.tick_of_bar(bar + 1);
    for (const ChordEvent& c : remake.chords) {
        if (c.start > tick) end = std::min(end, c.start);
        else made.start = std::max(made.start, c.start + c.length);
    }
    made.length = end - made.start;
    const auto at = std::find_if(next.chords.begin(), next.chords.end(), [&](const ChordEvent& c) { return c.start > made.start; });
    next.chords.insert(at, made);
    return next;
}

Remake split_chord(const Remake& remake, Ticks tick) {
    Remake next = remake;
    for (std::size_t i = 0; i < next.chords.size(); ++i) {
        ChordEvent& c = next.chords[i];
        if (tick <= c.start || tick >= c.start + c.length) continue;
        ChordEvent second = c;
        second.start = tick;
        second.length = c.start + c.length - tick;
        c.length = tick - c.start;
        next.chords.insert(next.chords.begin() + static_cast<std::ptrdiff_t>(i) + 1, std::move(second));
        return next;
    }
    return next;
}

Remake with_part(const Remake& remake, int part_id, const std::function<void(Part&)>& change) {
    Remake next = remake;
    for (auto& shared : next.parts)
        if (shared->id == part_id) {
            Part part = *shared;
            change(part);
            shared = std::make_shared<const Part>(std::move(part));
            break;
        }
    return next;
}

int placement_at(const Part& part, Ticks tick) {
    for (std::size_t i = 0; i < part.placements.size(); ++i) {
        const Pattern* p = part.pattern(part.placements[i].pattern);
        if (p && tick >= part.placements[i].start && tick < part.placements[i].start + p->length) return static_cast<int>(i);
    }
    return -1;
}

int section_at(const Remake& remake, Ticks tick) {
    for (std::size_t i = 0; i < remake.sections.size(); ++i)
        if (tick >= remake.sections[i].start && tick < remake.sections[i].start + remake.sections[i].length) return static_cast<int>(i);
    return -1;
}

Remake add_note(const Remake& remake, int part_id, const Note& note) {
    return with_part(remake, part_id, [&](Part& part) {
        int at = placement_at(part, note.start);
        if (at < 0) {
            const int section = section_at(remake, note.start);
            Pattern made;
            for (const Pattern& p : part.patterns) made.id = std::max(made.id, p.id);
            ++made.id;
            made.letter = "+";
            Placement placed{made.id, 0, false};
            if (section >= 0) {
                placed.start = remake.sections[static_cast<std::size_t>(section)].start;
                made.length = remake.sections[static_cast<std::size_t>(section)].length;
            } else {
                const int bar = remake.meter.position(note.start).bar;
                placed.start = remake.meter.tick_of_bar(bar);
                made.length = remake.meter.tick_of_bar(bar + 1) - placed.start;
            }
            part.patterns.push_back(made);
            const auto before =
                std::upper_bound(part.placements.begin(), part.placements.end(), placed.start, [](Ticks t, const Placement& p) { return t < p.start; });
            at = static_cast<int>(before - part.placements.begin());
            part.placements.insert(before, placed);
        }
        const Placement& placement = part.placements[static_cast<std::size_t>(at)];
        Pattern* pattern = find_pattern(part, placement.pattern);
        Note kept = note;
        kept.start -= placement.start;
        kept.pitch = std::clamp(kept.pitch, 0, 127);
        kept.velocity = std::clamp(kept.velocity, 1, 127);
        kept.length = std::max<Ticks>(1, kept.length);
        pattern->notes.push_back(kept);
        sort_notes(*pattern);
    });
}

Remake remove_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes) {
    return with_part(remake, part_id, [&](Part& part) {
        std::set<std::pair<int, int>> doomed;  // (pattern, index): two placements of one pattern name the same note
        for (const NoteRef& r : notes)
            if (r.placement >= 0 && r.placement < static_cast<int>(part.placements.size()))
                doomed.insert({part.placements[static_cast<std::size_t>(r.placement)].pattern, r.index});
        for (Pattern& p : part.patterns) {
            std::vector<Note> kept;
            for (std::size_t i = 0; i < p.notes.size(); ++i)
                if (!doomed.contains({p.id, static_cast<int>(i)})) kept.push_back(p.notes[i]);
            p.notes = std::move(kept);
        }
    });
}

namespace {

Remake edit_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes, const std::function<void(Note&, Ticks placement_start)>& change) {
    return with_part(remake, part_id, [&](Part& part) {
        std::set<std::pair<int, int>> done;
        for (const NoteRef& r : notes) {
            if (r.placement < 0 || r.placement >= static_cast<int>(part.placements.size())) continue;
            const Placement& placement = part.placements[static_cast<std::size_t>(r.placement)];
            Pattern* p = find_pattern(part, placement.pattern);
            if (!p || r.index < 0 || r.index >= static_cast<int>(p->notes.size()) || !done.insert({p->id, r.index}).second) continue;
            change(p->notes[static_cast<std::size_t>(r.index)], placement.start);
        }
        for (Pattern& p : part.patterns) sort_notes(p);
    });
}

}  // namespace

Remake change_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes, Ticks move, int semitones, Ticks lengthen, int velocity) {
    return edit_notes(remake, part_id, notes, [&](Note& n, Ticks) {
        n.start += move;
        n.pitch = std::clamp(n.pitch + semitones, 0, 127);
        n.length = std::max<Ticks>(kTicksPerQuarter / 32, n.length + lengthen);
        n.velocity = std::clamp(n.velocity + velocity, 1, 127);
        n.origin = Origin::Drawn;
    });
}

Remake quantise_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes, Ticks grid, double strength) {
    if (grid <= 0) return remake;
    return edit_notes(remake, part_id, notes, [&](Note& n, Ticks placement_start) {
        const Ticks at = n.start + placement_start;
        const Ticks target = static_cast<Ticks>(std::llround(static_cast<double>(at) / static_cast<double>(grid))) * grid;
        n.start += std::llround(static_cast<double>(target - at) * std::clamp(strength, 0.0, 1.0));
    });
}

Remake straighten_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes) {
    return edit_notes(remake, part_id, notes, [](Note& n, Ticks) { n.bend.clear(); });
}

Remake mute_cell(const Remake& remake, int part_id, std::size_t section, bool muted) {
    if (section >= remake.sections.size()) return remake;
    const Section& s = remake.sections[section];
    return with_part(remake, part_id, [&](Part& part) {
        for (Placement& p : part.placements)
            if (p.start < s.start + s.length && p.start >= s.start) p.muted = muted;
    });
}

Remake clear_mutes_and_solos(const Remake& remake) {
    Remake next = remake;
    for (auto& shared : next.parts)
        if (shared->mute || shared->solo) {
            Part part = *shared;
            part.mute = part.solo = false;
            shared = std::make_shared<const Part>(std::move(part));
        }
    return next;
}

Remake set_element(const Remake& remake, const std::string& id, const ElementState& state) {
    Remake next = remake;
    next.elements[id] = state;
    return next;
}

}  // namespace fw
