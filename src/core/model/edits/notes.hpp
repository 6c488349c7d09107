// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of notes. Each says its reach.
#pragma once

#include "model/remake.hpp"

#include <functional>
#include <vector>

namespace fw {

/// Everywhere: a note is changed where it is kept, in its pattern or, where a variant has taken it over from its parent as it is, in the parent; so it
/// changes wherever it plays. Here: only where it is meant, for which that place gets a variant of its own if it has none.
enum class Reach { Everywhere, Here };

/// Changes notes one by one. change gets the note as it is, its start counting from its pattern's, and where that is placed.
Remake edit_notes(const Remake& remake, PartId part, const std::vector<NoteRef>& notes, Reach reach,
                  const std::function<void(Note&, Ticks placement_start)>& change);
/// The notes meant as they sound, ascending by start.
std::vector<PlacedNote> notes_meant(const PartVersion& part, const std::vector<NoteRef>& notes);

/// Adds a note in song time to the pattern that covers it, on a placement made for it where there is none. Its id is given here.
Remake add_note(const Remake& remake, PartId part, const Note& note, Reach reach = Reach::Everywhere);
/// A note that comes with another one: its second half, its octave, a grace note.
struct Beside {
    NoteRef of;
    Note note;  ///< in song time
};
/// Adds notes where those they belong to are kept, so that they are there wherever those play; what begins outside their placement, or belongs to none, as
/// add_note does. Two that come to lie on one another are one.
Remake add_beside(const Remake& remake, PartId part, const std::vector<Beside>& notes, Reach reach = Reach::Everywhere);
Remake remove_notes(const Remake& remake, PartId part, const std::vector<NoteRef>& notes, Reach reach = Reach::Everywhere);

/// By how much notes are changed.
struct NoteChange {
    Ticks move = 0, lengthen = 0;
    double times = 1.0;  ///< as long
    int semitones = 0, velocity = 0;
};
/// Moves, transposes, lengthens notes and plays them harder or softer; pitches, lengths and velocities stay in range.
Remake change_notes(const Remake& remake, PartId part, const std::vector<NoteRef>& notes, const NoteChange& change, Reach reach = Reach::Everywhere);

/// The placement that covers a tick; null for none.
const Placement* placement_at(const PartVersion& part, Ticks tick);

}  // namespace fw
