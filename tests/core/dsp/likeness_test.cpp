// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/likeness.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>
#include <random>
#include <vector>

namespace fw {

namespace {

constexpr double kRate = 44100.0;

/// A bar of strokes at sixteenths of so many seconds, over and over: low, high, low, low, middle …
std::vector<float> pattern(double bar_s, double total_s) {
    const double hz[] = {80.0, 900.0, 400.0, 900.0, 80.0, 80.0, 2500.0, 900.0, 300.0, 900.0, 80.0, 400.0, 80.0, 900.0, 2500.0, 2500.0};
    const double loud[] = {1.0, 0.2, 0.4, 0.2, 0.9, 0.0, 0.6, 0.3, 0.8, 0.2, 0.0, 0.5, 0.7, 0.1, 0.6, 0.3};
    std::vector<float> x(static_cast<std::size_t>(total_s * kRate), 0.0F);
    const double step = bar_s / 16.0;
    for (int n = 0; n * step < total_s; ++n)
        for (std::size_t i = 0; i < static_cast<std::size_t>(0.15 * kRate); ++i) {
            const auto at = static_cast<std::size_t>(std::lround(n * step * kRate)) + i;
            const double t = static_cast<double>(i) / kRate;
            if (at < x.size()) x[at] += static_cast<float>(0.5 * loud[n % 16] * std::exp(-t / 0.04) * std::sin(2 * std::numbers::pi * hz[n % 16] * t));
        }
    return x;
}

std::vector<float> tone(double hz, double seconds, double decay_s, double vibrato = 0.0) {
    std::vector<float> x(static_cast<std::size_t>(seconds * kRate));
    double phase = 0.0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double t = static_cast<double>(i) / kRate;
        phase += 2 * std::numbers::pi * hz * (1.0 + vibrato * std::sin(2 * std::numbers::pi * 5.0 * t)) / kRate;
        x[i] = static_cast<float>(0.4 * std::exp(-t / decay_s) * (std::sin(phase) + 0.4 * std::sin(2 * phase) + 0.2 * std::sin(3 * phase)));
    }
    return x;
}

std::vector<float> noise(double seconds) {
    std::mt19937 dice(8);
    std::uniform_real_distribution<float> d(-0.5F, 0.5F);
    std::vector<float> x(static_cast<std::size_t>(seconds * kRate));
    for (float& s : x) s = d(dice);
    return x;
}

}  // namespace

TEST(Repeat, OfABarCutTooLongIsTheBarToTheMillisecond) {
    for (const double bar : {1.1, 1.873, 2.4}) {
        const auto repeat = find_repeat(pattern(bar, 2.3 * bar), kRate);
        ASSERT_TRUE(repeat) << bar;
        EXPECT_NEAR(repeat->seconds, bar, 0.001);
        EXPECT_GT(repeat->likeness, 0.8);
    }
    const auto of_many = find_repeat(pattern(0.9, 6.0), kRate);
    ASSERT_TRUE(of_many);
    EXPECT_NEAR(of_many->seconds, 0.9, 0.001) << "the shortest, not several of them";
}

TEST(Repeat, WhereNothingRepeatsNoneIsTold) {
    EXPECT_FALSE(find_repeat(pattern(4.0, 4.0), kRate)) << "once is no repeat";
    EXPECT_FALSE(find_repeat(tone(220.0, 3.0, 100.0), kRate)) << "a held tone";
    EXPECT_FALSE(find_repeat(tone(220.0, 3.0, 0.3), kRate)) << "a lone stroke";
    EXPECT_FALSE(find_repeat(noise(3.0), kRate));
    EXPECT_FALSE(find_repeat(std::vector<float>(44100, 0.0F), kRate));
    EXPECT_FALSE(find_repeat({}, kRate));
    EXPECT_FALSE(find_repeat(std::vector<float>(44100, 0.1F), 0.0));
}

TEST(Round, OfAHeldToneItsEndsAreAlikeAndNoStepIsHeard) {
    for (const auto& x : {tone(110.0, 1.5, 100.0), tone(440.0, 1.0, 4.0), tone(65.4, 2.0, 3.0, 0.004)}) {
        const auto round = find_round(x, kRate);
        ASSERT_TRUE(round);
        EXPECT_GT(round->likeness, 0.95);
        EXPECT_GE(round->end_s - round->start_s, 0.15);
        const auto a = static_cast<std::size_t>(round->start_s * kRate), b = static_cast<std::size_t>(round->end_s * kRate);
        float step = 0.0F;
        for (std::size_t i = 1; i < 20; ++i) step = std::max(step, std::abs(x[a - i] - x[b - i]));
        EXPECT_LT(step, 0.12F);
    }
}

TEST(Round, OfNoiseAStrokeOrNextToNothingThereIsNone) {
    EXPECT_FALSE(find_round(noise(1.0), kRate));
    EXPECT_FALSE(find_round(tone(220.0, 1.0, 0.03), kRate)) << "gone before it could go round";
    EXPECT_FALSE(find_round(tone(220.0, 0.2, 10.0), kRate)) << "too short";
    EXPECT_FALSE(find_round(std::vector<float>(44100, 0.0F), kRate));
    EXPECT_FALSE(find_round({}, kRate));
}

}  // namespace fw
