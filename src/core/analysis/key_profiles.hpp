// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>

namespace fw {

/// A weight for each pitch class, C first; any unit.
using PitchClassWeights = std::array<double, 12>;

/// How much each step above the tonic belongs to a key (Temperley, "What's key for key?", Music Perception 1999).
inline constexpr PitchClassWeights kMajorProfile{5, 2, 3.5, 2, 4.5, 4, 2, 4.5, 2, 3.5, 1.5, 4};
inline constexpr PitchClassWeights kMinorProfile{5, 2, 3.5, 4.5, 2, 4, 2, 4.5, 3.5, 2, 1.5, 4};

/// Correlation (-1..1) of pitch classes with a profile laid on a tonic; 0 where all weights are equal. Safe on any thread.
double profile_fit(const PitchClassWeights& heard, const PitchClassWeights& profile, int tonic) noexcept;

}  // namespace fw
