// SPDX-License-Identifier: GPL-3.0-or-later
// Whether a part's notes are as long as they are heard.
#pragma once

#include "check/score.hpp"

#include <optional>

namespace fw {

/// How long a part's notes are heard, over how long they are written: the median of its notes, and of how many.
struct HeardLengths {
    double times = 1.0;
    int notes = 0;
};

/// A note is heard until the evidence of its pitch has fallen below a share of its height for good, or until its pitch is begun anew, be it by another part.
/// Asked of notes that are clearly heard where they begin and of whose end something can be said. Nothing of drums, and where there are fewer than twelve
/// such notes. Pure, thread-safe.
std::optional<HeardLengths> heard_lengths(const Hearing& hearing, const Score& score, std::size_t part);

}  // namespace fw
