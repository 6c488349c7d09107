// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/follow_line.hpp"

#include "model/edits/notes.hpp"
#include "model/edits/patterns.hpp"

#include <algorithm>
#include <limits>

namespace fw {

namespace {

/// The same tone between a pitch and the one eleven semitones above.
int in_octave(int pitch, int low) { return low + ((pitch - low) % 12 + 12) % 12; }

std::vector<Note> line_below(const Remake& r, const Part& line, const FollowLine& how) {
    constexpr Ticks kTogether = kTicksPerQuarter / 32;
    const Ticks to = how.to > 0 ? how.to : std::numeric_limits<Ticks>::max();
    const bool drums = line.role == PartRole::Drums, top = line.role == PartRole::Lead;
    std::vector<Note> notes;
    for (const PlacedNote& p : struck_notes(line)) {
        const Note& n = p.note;
        if (p.muted || n.start < how.from || n.start >= to || (how.sound && n.pitch != *how.sound)) continue;
        // What is struck together is one note.
        if (!notes.empty() && n.start - notes.back().start < kTogether) {
            Note& last = notes.back();
            last.velocity = std::max(last.velocity, n.velocity);
            if (top ? n.pitch > last.pitch : n.pitch < last.pitch) last.pitch = n.pitch, last.length = n.length;
            continue;
        }
        Note copy;
        copy.start = n.start, copy.length = n.length, copy.pitch = n.pitch, copy.velocity = n.velocity;
        notes.push_back(copy);
    }
    for (std::size_t i = 0; i < notes.size(); ++i) {
        Note& n = notes[i];
        const Ticks next = i + 1 < notes.size() ? notes[i + 1].start : to;
        if (drums) n.length = r.song->meter.at_bar(r.song->meter.position(n.start).bar).bar_ticks();
        n.length = std::clamp<Ticks>(n.length, 1, std::max<Ticks>(1, next - n.start));
        if (how.roots) {
            const ChordEvent* now = r.song->chord_at(n.start);
            n.pitch = now && !now->chord.none() ? in_octave(now->chord.bass >= 0 ? now->chord.bass : now->chord.root, how.low) : -1;
        } else {
            n.pitch = in_octave(n.pitch, how.low);
        }
    }
    std::erase_if(notes, [](const Note& n) { return n.pitch < 0 || n.pitch > 127; });
    return notes;
}

}  // namespace

Remake follow_line(const Remake& remake, PartId bass, PartId line, const FollowLine& how) {
    const Part *into = remake.part(bass), *of = remake.part(line);
    if (!into || !of || bass == line) return remake;
    const auto notes = line_below(remake, *of, how);
    if (how.to <= 0) {
        // The whole song is laid out anew, section by section, so that repeats are patterns again.
        Remake next = remake;
        for (auto& p : next.parts)
            if (p->id == bass) {
                Part& part = p.edit();
                part.patterns.clear();
                part.placements.clear();
                part.derived = {};
                place_notes(part, notes, remake.song->sections, remake.song->meter);
            }
        return next;
    }
    std::vector<NoteRef> gone;
    for (const PlacedNote& n : placed_notes(*into))
        if (n.note.start >= how.from && n.note.start < how.to) gone.push_back(n.ref());
    Remake next = gone.empty() ? remake : remove_notes(remake, bass, gone, Reach::Here);
    for (const Note& n : notes) next = add_note(next, bass, n, Reach::Here);
    return next;
}

}  // namespace fw
