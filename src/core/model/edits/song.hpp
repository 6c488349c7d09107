// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of the song's time, harmony and form, and of what is said of elements.
#pragma once

#include "model/remake.hpp"

namespace fw {

// --- time ---
/// Reads the same music at factor times the tempo: beats and bars are counted anew, nothing moves in recording time.
Remake reread_tempo(const Remake& remake, double factor);
/// Makes the beat nearest to a recording time the first of a bar; what lies before it becomes a part bar.
Remake set_downbeat(const Remake& remake, double time_s);
/// Counts all bars from bar 1 in one meter.
Remake set_meter(const Remake& remake, int numerator, int denominator);

// --- key, sections, chords ---
Remake set_key(const Remake& remake, std::size_t area, const Key& key);
Remake rename_section(const Remake& remake, SectionId section, const std::string& name);
/// What is played in a section, with its clips, its curves and its section settings, is played once more from a tick on, in the place of what begins there.
/// Where no section begins there one is made, as long as the copied one, if there is room; else the copy belongs to the section there.
Remake copy_section(const Remake& remake, SectionId section, Ticks to);
/// Relabels the chord at a place; where there is none, a chord of one bar is written from the bar's start.
Remake set_chord(const Remake& remake, Ticks tick, const Chord& chord);
/// Splits the chord that covers a tick there, so that the second half can be another chord.
Remake split_chord(const Remake& remake, Ticks tick);

// --- elements ---
Remake set_element(const Remake& remake, ElementId element, const ElementState& state);
/// Adds a row of the user's own to the ledger.
Remake add_row(const Remake& remake, const std::string& name);
Remake remove_row(const Remake& remake, RowId row);
/// Words about a place; those of the same kind, element and place give way.
Remake add_remark(const Remake& remake, Remark remark);
/// Takes away those of a kind about an element that begin at a place; nothing where there are none.
Remake remove_remark(const Remake& remake, RemarkKind kind, ElementId element, Ticks start);

}  // namespace fw
