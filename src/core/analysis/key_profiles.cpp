// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/key_profiles.hpp"

#include "base/pitch.hpp"

#include <cmath>

namespace fw {

double profile_fit(const PitchClassWeights& heard, const PitchClassWeights& profile, int tonic) noexcept {
    double heard_mean = 0, profile_mean = 0;
    for (std::size_t i = 0; i < 12; ++i) heard_mean += heard[i] / 12, profile_mean += profile[i] / 12;
    double heard_squares = 1e-12, profile_squares = 1e-12, products = 0;
    for (int i = 0; i < 12; ++i) {
        const double a = heard[static_cast<std::size_t>(pitch_class(i + tonic))] - heard_mean, b = profile[static_cast<std::size_t>(i)] - profile_mean;
        heard_squares += a * a, profile_squares += b * b, products += a * b;
    }
    return products / std::sqrt(heard_squares * profile_squares);
}

}  // namespace fw
