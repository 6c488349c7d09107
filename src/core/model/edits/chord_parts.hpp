// SPDX-License-Identifier: GPL-3.0-or-later
// Parts made of the song's chords.
#pragma once

#include "model/remake.hpp"

#include <vector>

namespace fw {

/// The pitches of a chord as a derivation lays them out, ascending. before: those of the chord before it, by which an inversion of −1 goes the shortest way.
std::vector<int> voiced(const Chord& chord, const Derivation& how, const std::vector<int>& before = {});

/// One chord laid out by itself, from a pitch on.
std::vector<int> laid_out(const Chord& chord, Voicing voicing, int inversion, int low = 48);

/// The notes a derivation makes of the chords, in song time, ascending by start. Pure; the same every time.
std::vector<Note> notes_from_chords(const Song& song, const Derivation& how);

/// Lets a part play what a derivation makes of the chords instead of what it plays.
Remake derive_part(const Remake& remake, PartId part, const Derivation& how);
/// The part's notes become its own: they no longer follow.
Remake unlink_part(const Remake& remake, PartId part);

/// What an edit means for linked parts: where chords, beats or bars changed, they are made anew; a linked part whose notes were edited is linked no longer.
Remake follow_chords(const Remake& before, Remake after);

}  // namespace fw
