// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

namespace fw {

/// Where a sound is struck, seconds, ascending, at least 60 ms apart: peaks of how much its bands become louder from one moment to the next (spectral flux on
/// logarithms; Dixon, "Onset detection revisited", DAFx 2006) that stand out of what is usual in it, put back to where the rise begins. Not those of the first
/// 20 ms: a sound begins anyway. Empty for silence, noise, a held tone. Pure, thread-safe; some milliseconds a second of sound.
std::vector<double> find_hits(std::span<const float> mono, double sample_rate_hz);

}  // namespace fw
