// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of the song's harmony and tuning.
#pragma once

#include "model/remake.hpp"

namespace fw {

Remake set_key(const Remake& remake, std::size_t area, const Key& key);
/// Another key from a bar line on, up to the next area; where an area begins there, it gets this key.
Remake add_key(const Remake& remake, int from_bar, const Key& key);
/// Takes an area away: the one before it goes on, of the first one the next begins earlier. The last that is left stays.
Remake remove_key(const Remake& remake, std::size_t area);
/// Whether the rebuild stands at A4 = 440 Hz or follows the recording's tuning.
Remake set_at_440(const Remake& remake, bool at_440);
/// The recording's tuning in cents above A4 = 440 Hz.
Remake set_tuning(const Remake& remake, double cents);
/// Relabels the chord at a place; where there is none, a chord of one bar is written from the bar's start.
Remake set_chord(const Remake& remake, Ticks tick, const Chord& chord);
/// Writes a chord over a stretch: what was written there gives way.
Remake put_chord(const Remake& remake, Ticks start, Ticks length, const Chord& chord);
/// Copies the chords that begin in a stretch to another place, so many times on end; what was written there gives way.
Remake copy_chords(const Remake& remake, Ticks from, Ticks to, Ticks at, int times);
/// Lays the chord that covers a tick out in these pitches; none: as the part that is made of it says.
Remake voice_chord(const Remake& remake, Ticks tick, std::vector<int> pitches);
/// Splits the chord that covers a tick there, so that the second half can be another chord.
Remake split_chord(const Remake& remake, Ticks tick);

}  // namespace fw
