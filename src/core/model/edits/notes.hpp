// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of notes. Each says its reach.
#pragma once

#include "model/remake.hpp"

#include <vector>

namespace fw {

/// Everywhere: a note is changed where it is kept, in its pattern or, where a variant has taken it over from its parent as it is, in the parent; so it
/// changes wherever it plays. Here: only where it is meant, for which that place gets a variant of its own if it has none.
enum class Reach { Everywhere, Here };

/// Adds a note in song time to the pattern that covers it, on a placement made for it where there is none. Its id is given here.
Remake add_note(const Remake& remake, PartId part, const Note& note, Reach reach = Reach::Everywhere);
Remake remove_notes(const Remake& remake, PartId part, const std::vector<NoteRef>& notes, Reach reach = Reach::Everywhere);

/// By how much notes are changed.
struct NoteChange {
    Ticks move = 0, lengthen = 0;
    int semitones = 0, velocity = 0;
};
/// Moves, transposes, lengthens notes and plays them harder or softer; pitches, lengths and velocities stay in range.
Remake change_notes(const Remake& remake, PartId part, const std::vector<NoteRef>& notes, const NoteChange& change, Reach reach = Reach::Everywhere);
/// Moves starts onto a grid; strength 0..1 says how far. An edit, so the performed timing is one undo away.
Remake quantise_notes(const Remake& remake, PartId part, const std::vector<NoteRef>& notes, Ticks grid, double strength = 1.0, Reach reach = Reach::Everywhere);
/// Takes the bend curves off notes: they sound at their pitch from beginning to end.
Remake straighten_notes(const Remake& remake, PartId part, const std::vector<NoteRef>& notes, Reach reach = Reach::Everywhere);

/// The placement that covers a tick; null for none.
const Placement* placement_at(const PartVersion& part, Ticks tick);

}  // namespace fw
