// SPDX-License-Identifier: GPL-3.0-or-later
// A shorter version of the song that remembers what it leaves out: the whole map stays, and the short one is derived from it.
#pragma once

#include "model/remake.hpp"

namespace fw {

/// Leaves a section out of the condensed version, or takes it in again. Nothing that plays here changes by that.
Remake leave_out_of_condensed(const Remake& remake, SectionId section, bool out);
/// Whether the condensed version is another one than the whole.
bool is_condensed(const Song& song);

/// The song without what is left out, as a remake of its own, to be rendered and written: what comes later comes sooner by as much, in ticks and in seconds;
/// notes, chords and clips that begin in what is left out are gone, notes that go on into it end there. Each part has one pattern. It lies over the recording
/// no longer. The same where nothing is left out; sections are taken to begin at bar lines.
Remake condensed(const Remake& remake);

}  // namespace fw
