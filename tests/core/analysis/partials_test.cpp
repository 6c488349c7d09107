// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/partials.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>
#include <random>

namespace fw {

namespace {

constexpr double kRate = 44100.0;

/// Partials as {number, level in dB, cents off}, over noise of some level.
std::vector<float> made(double f0, std::initializer_list<std::tuple<int, double, double>> partials, double noise = 0.0) {
    std::vector<float> x(static_cast<std::size_t>(kRate));
    std::mt19937 dice(11);
    std::uniform_real_distribution<double> d(-1.0, 1.0);
    for (std::size_t i = 0; i < x.size(); ++i) {
        double s = noise * d(dice);
        for (const auto& [k, db, cents] : partials)
            s += 0.3 * std::pow(10.0, db / 20.0) * std::sin(2.0 * std::numbers::pi * f0 * k * std::exp2(cents / 1200.0) * static_cast<double>(i) / kRate + k);
        x[i] = static_cast<float>(s);
    }
    return x;
}

}  // namespace

TEST(Partials, AreFoundWithTheirLevelsAndHowFarTheyAreStretched) {
    const auto found = standing_partials(made(110.0, {{1, -6.0, 0.0}, {2, 0.0, 0.0}, {5, -20.0, 3.0}, {9, -30.0, 20.0}}, 0.001), kRate, 110.0);
    ASSERT_EQ(found.size(), 4u);
    const int numbers[] = {1, 2, 5, 9};
    const double db[] = {-6.0, 0.0, -20.0, -30.0}, cents[] = {0.0, 0.0, 3.0, 20.0};
    for (std::size_t i = 0; i < 4; ++i) {
        EXPECT_EQ(found[i].number, numbers[i]);
        EXPECT_NEAR(found[i].db, db[i], 0.5) << numbers[i];
        EXPECT_NEAR(found[i].cents, cents[i], 1.0) << numbers[i];
        EXPECT_NEAR(found[i].hz, 110.0 * numbers[i] * std::exp2(cents[i] / 1200.0), 0.5);
    }
}

TEST(Partials, OfNoiseSilenceAnotherNoteOrNextToNothingThereAreNone) {
    EXPECT_LE(standing_partials(made(110.0, {}, 0.3), kRate, 110.0).size(), 3u) << "noise has hardly any";
    EXPECT_TRUE(standing_partials(made(110.0, {}), kRate, 110.0).empty());
    EXPECT_TRUE(standing_partials(made(116.0, {{1, 0.0, 0.0}, {2, -6.0, 0.0}, {3, -9.0, 0.0}}), kRate, 110.0).empty()) << "a semitone off is another note";
    EXPECT_TRUE(standing_partials(std::vector<float>(500, 0.5F), kRate, 110.0).empty()) << "too short";
    EXPECT_TRUE(standing_partials(made(110.0, {{1, 0.0, 0.0}}), kRate, 0.0).empty());
}

}  // namespace fw
