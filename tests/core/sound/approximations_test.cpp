// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/approximations.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>

namespace fw {

TEST(Approximations, AreAsNearAsTheySay) {
    for (double x = 1e-6; x < 1e6; x *= 1.0007)
        EXPECT_NEAR(fast_log2(static_cast<float>(x)), std::log2(static_cast<float>(x)), 4e-7 * std::max(2.0, std::abs(std::log2(x)))) << x;
    for (double x = -126.0; x <= 126.0; x += 0.013) {
        const double exact = std::exp2(static_cast<double>(static_cast<float>(x)));
        EXPECT_NEAR(fast_exp2(static_cast<float>(x)) / exact, 1.0, 4e-7) << x;
    }
    for (double x = 0.0; x < 1.0; x += 0.00037)
        EXPECT_NEAR(fast_sine(static_cast<float>(x)), std::sin(2.0 * std::numbers::pi * static_cast<double>(static_cast<float>(x))), 4e-7) << x;
    for (double x = -20.0; x < 20.0; x += 0.0013) EXPECT_NEAR(fast_exp2_of_pitch(x) / std::exp2(x), 1.0, 1e-11) << x;
    for (double x = 1e-4; x < 0.45 * std::numbers::pi; x += 1e-4) EXPECT_NEAR(fast_tangent(x) / std::tan(x), 1.0, 6e-5) << x;
}

}  // namespace fw
