// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <bit>
#include <cmath>
#include <cstdint>

namespace fw {

// Functions without branches and tables, which the compiler makes vectors of where they stand in a loop. Polynomials on short ranges: the series of the
// inverse hyperbolic tangent, of the exponential and of the sine. Real-time safe.

/// The binary logarithm of a normal number above 0, within 8e-7, beyond octaves 4e-7 of itself.
inline float fast_log2(float x) noexcept {
    const auto bits = std::bit_cast<std::int32_t>(x);
    // The mantissa is brought to 0.707…1.414, where t is small.
    const std::int32_t exponent = (bits - 0x3F3504F3) >> 23;
    const float mantissa = std::bit_cast<float>(bits - (exponent << 23)), t = (mantissa - 1.0F) / (mantissa + 1.0F), s = t * t;
    return static_cast<float>(exponent) + t * (2.88539008F + s * (0.961796694F + s * (0.577078016F + s * 0.412198583F)));
}

/// 2 to the power of x, x from −126 to 126, within 4e-7 of itself.
inline float fast_exp2(float x) noexcept {
    const float whole = std::nearbyint(x), f = x - whole;
    const float p = 1.0F + f * (0.693147181F + f * (0.240226507F + f * (0.0555041087F + f * (0.00961812911F + f * (0.00133335581F + f * 0.000154035304F)))));
    return p * std::bit_cast<float>((static_cast<std::int32_t>(whole) + 127) << 23);
}

/// The same for pitches that are held: x from −1022 to 1022, within 1e-11 of itself.
inline double fast_exp2_of_pitch(double x) noexcept {
    const double whole = std::nearbyint(x), f = x - whole;
    const double p =
        1.0 +
        f * (0.69314718055994529 +
             f * (0.24022650695910069 +
                  f * (0.055504108664821576 +
                       f * (0.0096181291076284769 +
                            f * (0.0013333558146428441 +
                                 f * (0.00015403530393381606 + f * (1.5252733804059838e-05 + f * (1.3215486790144305e-06 + f * 1.0178086009239696e-07))))))));
    return p * std::bit_cast<double>((static_cast<std::int64_t>(whole) + 1023) << 52);
}

/// The sine of a phase told in turns, 0 to 1, within 4e-7.
inline float fast_sine(float turns) noexcept {
    const float q = turns - 0.5F, folded = std::abs(q) > 0.25F ? std::copysign(0.5F, q) - q : q;
    const float x = 6.28318531F * folded, s = x * x;
    return -x * (1.0F + s * (-0.166666667F + s * (8.33333333e-3F + s * (-1.98412698e-4F + s * (2.75573192e-6F - s * 2.50521084e-8F)))));
}

/// The tangent of an angle from 0 to 0.45 π, within 6e-5 of itself: its continued fraction, cut after four.
inline double fast_tangent(double x) noexcept {
    const double s = x * x;
    return x * (945.0 + s * (s - 105.0)) / (945.0 + s * (15.0 * s - 420.0));
}

}  // namespace fw
