// SPDX-License-Identifier: GPL-3.0-or-later
// Edits: pure functions from one remake to the next. An edit that does not apply (no such part, nothing there) returns the
// document unchanged. All are thread-safe.
#pragma once

#include "model/remake.hpp"

#include <functional>
#include <utility>

namespace fw {

/// A note of a part, by where it is kept.
struct NoteRef {
    int placement = 0, index = 0;
    auto operator<=>(const NoteRef&) const = default;
};

// --- time ---
/// Reads the same music at factor times the tempo: beats and bars are counted anew, nothing moves in recording time.
Remake reread_tempo(const Remake& remake, double factor);
/// Makes the beat nearest to a recording time the first of a bar; what lies before it becomes a part bar.
Remake set_downbeat(const Remake& remake, double time_s);
/// Counts all bars from bar 1 in one meter.
Remake set_meter(const Remake& remake, int numerator, int denominator);

// --- key, sections, chords ---
Remake set_key(const Remake& remake, std::size_t area, const Key& key);
Remake rename_section(const Remake& remake, std::size_t section, const std::string& name);
/// Relabels the chord at a place; where there is none, a chord of one bar is written from the bar's start.
Remake set_chord(const Remake& remake, Ticks tick, const Chord& chord);
/// Splits the chord that covers a tick there, so that the second half can be another chord.
Remake split_chord(const Remake& remake, Ticks tick);

// --- parts ---
Remake with_part(const Remake& remake, int part_id, const std::function<void(Part&)>& change);
/// Adds a note in song time to the pattern that covers it, on a placement made for it where there is none.
Remake add_note(const Remake& remake, int part_id, const Note& note);
Remake remove_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes);
/// Moves, transposes and lengthens notes by the given amounts; pitches and lengths stay in range.
Remake change_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes, Ticks move, int semitones, Ticks lengthen, int velocity = 0);
/// Moves starts onto a grid; strength 0..1 says how far. An edit, so the performed timing is one undo away.
Remake quantise_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes, Ticks grid, double strength = 1.0);
/// Takes the bend curves off notes: they sound at their pitch from beginning to end.
Remake straighten_notes(const Remake& remake, int part_id, const std::vector<NoteRef>& notes);
/// Mutes or unmutes what a part plays in a section.
Remake mute_cell(const Remake& remake, int part_id, std::size_t section, bool muted);
Remake clear_mutes_and_solos(const Remake& remake);

// --- elements ---
Remake set_element(const Remake& remake, const std::string& element_id, const ElementState& state);

/// The placement that covers a tick, and the section index at a tick; -1 for none.
int placement_at(const Part& part, Ticks tick);
int section_at(const Remake& remake, Ticks tick);

}  // namespace fw
