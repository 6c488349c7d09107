// SPDX-License-Identifier: GPL-3.0-or-later
// A bar that was transcribed once, found again in the rest of the recording.
#pragma once

#include "analysis/analysis.hpp"
#include "model/part.hpp"

#include <vector>

namespace fw {

/// A place where what a part plays in a stretch is heard again.
struct LikeStretch {
    Ticks at = 0;
    double alike = 0.0;            ///< 0..1: share of what is written and what is heard there that is the same
    std::vector<NoteRef> missing;  ///< notes of the stretch that are not heard there
    std::vector<Note> more;        ///< in song time: what else of the part is surely heard there, and what the user wrote there
};

/// Where a stretch of a part comes again, by the evidence and not by what is written there: whether each of its notes that is clear where it was
/// transcribed is heard at the same place of other bars, and whether something is heard there besides that it has not. Stretches begin on bar lines of
/// bars as long as its own; of those that overlap the one that is most alike counts. A note that is masked where it was transcribed says nothing.
/// Ascending. Nothing where the stretch plays nothing that is clear. Pure, thread-safe; linear in bars times notes of the stretch.
std::vector<LikeStretch> like_stretches(const Analysis& analysis, const Song& song, const Part& part, Ticks from, Ticks length);

}  // namespace fw
