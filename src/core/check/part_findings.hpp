// SPDX-License-Identifier: GPL-3.0-or-later
// What is told of whole parts, as values. Where it stands in the song and whose it is is filled in by whoever keeps it.
#pragma once

#include "check/check.hpp"
#include "check/lengths.hpp"
#include "check/whole_part.hpp"

namespace fw {

/// A part that is heard all along and that nobody plays.
Finding missing_part(PartRole role, double duration_s);
/// A drum sound that is struck so often and of which no stroke is written.
Finding missing_sound(int key, int strokes, double duration_s);
/// A part that is written and of which nothing is to be heard.
Finding silent_part(const Part& part, double duration_s);
/// Written at another pitch or another time throughout, or with notes that are heard at least two and a half times as long or as short; nothing where none of
/// these is so.
std::optional<Finding> off_as_a_whole(const Song& song, PartRole role, const WrittenPart& written, const WholePart& whole,
                                      const std::optional<HeardLengths>& lengths);

}  // namespace fw
