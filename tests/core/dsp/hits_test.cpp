// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/hits.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>
#include <random>

namespace fw {

namespace {

constexpr double kRate = 44100.0;

std::vector<float> strokes(const std::vector<double>& at_s, double seconds, double bed = 0.0) {
    std::vector<float> x(static_cast<std::size_t>(seconds * kRate), 0.0F);
    std::mt19937 dice(2);
    std::uniform_real_distribution<double> d(-1.0, 1.0);
    for (std::size_t i = 0; i < x.size(); ++i) x[i] = static_cast<float>(bed * std::sin(2.0 * std::numbers::pi * 220.0 * static_cast<double>(i) / kRate));
    for (std::size_t n = 0; n < at_s.size(); ++n)
        for (std::size_t i = 0; i < static_cast<std::size_t>(0.25 * kRate); ++i) {
            const auto at = static_cast<std::size_t>(at_s[n] * kRate) + i;
            const double t = static_cast<double>(i) / kRate;
            const double s = n % 2 ? d(dice) * std::exp(-t / 0.03) : std::sin(2.0 * std::numbers::pi * 70.0 * t) * std::exp(-t / 0.08);
            if (at < x.size()) x[at] += static_cast<float>(0.5 * s);
        }
    return x;
}

}  // namespace

TEST(Hits, AreFoundWhereTheyBeginAlsoOverAHeldTone) {
    const std::vector<double> at{0.1, 0.35, 0.61, 0.8, 0.93, 1.4, 1.52};
    for (const double bed : {0.0, 0.05}) {
        const auto found = find_hits(strokes(at, 2.0, bed), kRate);
        ASSERT_EQ(found.size(), at.size()) << bed;
        for (std::size_t i = 0; i < at.size(); ++i) EXPECT_NEAR(found[i], at[i], 0.006) << i;
    }
}

TEST(Hits, OfSilenceAToneOrNoiseThereAreNone) {
    EXPECT_TRUE(find_hits(std::vector<float>(44100, 0.0F), kRate).empty());
    EXPECT_TRUE(find_hits(strokes({}, 2.0, 0.4), kRate).empty()) << "a held tone";
    std::vector<float> noise(88200);
    for (const unsigned seed : {4u, 5u, 6u, 7u, 8u, 9u}) {
        std::mt19937 dice(seed);
        for (float& s : noise) s = static_cast<float>(dice() % 2000) / 2000.0F - 0.5F;
        EXPECT_TRUE(find_hits(noise, kRate).empty()) << seed;
        // Dull noise, whose few low bands go up and down by themselves.
        for (std::size_t i = 1; i < noise.size(); ++i) noise[i] = 0.95F * noise[i - 1] + 0.05F * noise[i];
        EXPECT_TRUE(find_hits(noise, kRate).empty()) << seed;
    }
    EXPECT_TRUE(find_hits(strokes({0.0}, 1.0), kRate).empty()) << "where it begins it need not be cut";
    EXPECT_TRUE(find_hits({}, kRate).empty());
    EXPECT_TRUE(find_hits(noise, 0.0).empty());
}

}  // namespace fw
