// SPDX-License-Identifier: GPL-3.0-or-later
// Stretches of beats at one tempo: what tempo.cpp and counting.cpp share.
#pragma once

#include <cstddef>
#include <utility>
#include <vector>

namespace fw {

using Stretch = std::pair<std::size_t, std::size_t>;  ///< indices of its first beat and of the one after its last

/// A straight line through the times of beats, in seconds.
struct BeatLine {
    double start = 0.0, interval = 0.5, spread = 1.0, error = 1.0;
};

/// Cuts beats into the fewest straight stretches that explain them (optimal partitioning, Jackson et al. 2005).
std::vector<Stretch> partition(const std::vector<double>& beats);

/// Least squares through beats a .. b-1, leaving out what lies far off; spread is that of what was kept, error the interval's own.
/// weights: one a beat, 0..1; empty for all alike.
BeatLine fit_line(const std::vector<double>& beats, std::size_t a, std::size_t b, const std::vector<double>& weights = {});

}  // namespace fw
