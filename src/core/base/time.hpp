// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>

namespace fw {

/// Musical time: an integer number of ticks from the start of bar 1. Recording time is a double with the suffix _s.
using Ticks = std::int64_t;
inline constexpr Ticks kTicksPerQuarter = 960;
/// What is longer is refused as a recording.
inline constexpr int kLongestRecording_s = 6 * 3600;

}  // namespace fw
