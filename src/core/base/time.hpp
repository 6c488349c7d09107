// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>

namespace fw {

/// Musical time: an integer number of ticks from the start of bar 1. Recording time is a double with the suffix _s.
using Ticks = std::int64_t;
inline constexpr Ticks kTicksPerQuarter = 960;

}  // namespace fw
