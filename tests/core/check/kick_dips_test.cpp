// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/kick_dips.hpp"

#include "sound/catalogue.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

constexpr double kRate = 44100.0;
constexpr std::size_t kFrames = 44100 * 16;

/// A held chord, ducked or not, that dies away or not, with a kick each half second.
std::vector<float> song(double depth_db, double release_s, bool kicks = true, double fades_db_a_second = 0.0) {
    std::vector<float> left(kFrames), right;
    for (std::size_t i = 0; i < kFrames; ++i) {
        const double t = static_cast<double>(i) / kRate, in_stroke = std::fmod(t, 0.5);
        double x = 0.0;
        for (const double hz : {220.0, 277.2, 329.6})
            for (int k = 1; k < 12; ++k) x += 0.06 / k * std::sin(2.0 * std::numbers::pi * hz * k * t);
        left[i] = static_cast<float>(x * std::pow(10.0, -fades_db_a_second * in_stroke / 20.0));
    }
    right = left;
    if (depth_db > 0.0) {
        auto duck = kDuck.make(kRate);
        duck->set(*index_of_field(kDuck.fields, "depth"), depth_db);
        duck->set(*index_of_field(kDuck.fields, "release"), release_s);
        for (std::size_t at = 0; at + kSlice <= kFrames; at += kSlice) {
            const auto beat = static_cast<std::size_t>(0.5 * kRate);
            if (at / beat != (at + kSlice) / beat || at == 0) duck->note_on(1, 36, 100);
            duck->process({std::span(left).subspan(at, kSlice), std::span(right).subspan(at, kSlice)}, {});
        }
    }
    if (kicks)
        for (std::size_t i = 0; i < kFrames; ++i) {
            const double t = std::fmod(static_cast<double>(i) / kRate, 0.5);
            left[i] += static_cast<float>(0.8 * std::exp(-t / 0.12) * std::sin(2.0 * std::numbers::pi * (50.0 * t + 4.0 * (1.0 - std::exp(-t / 0.02)))));
        }
    return left;
}

std::vector<double> beats() {
    std::vector<double> out;
    for (int k = 0; k < 32; ++k) out.push_back(0.5 * k);
    return out;
}

}  // namespace

TEST(KickDips, DepthAndReleaseOfADuckAreFoundAgain) {
    for (const double depth : {3.0, 6.0, 12.0})
        for (const double release_s : {0.15, 0.3}) {
            const auto dip = kick_dip(song(depth, release_s), kRate, beats());
            ASSERT_TRUE(dip) << depth << " dB, " << release_s;
            EXPECT_NEAR(dip->depth_db, depth, 0.15 * depth + 0.3);
            EXPECT_NEAR(dip->release_s, release_s, 0.3 * release_s);
            EXPECT_GE(dip->strokes, 28);
        }
}

TEST(KickDips, NoneIsToldWhereThereIsNone) {
    EXPECT_FALSE(kick_dip(song(0.0, 0.2), kRate, beats())) << "a kick over what is held";
    EXPECT_FALSE(kick_dip(song(0.0, 0.2, false, 40.0), kRate, beats())) << "what is struck with each kick and dies away";
    EXPECT_FALSE(kick_dip(std::vector<float>(kFrames, 0.0F), kRate, beats())) << "silence";
    EXPECT_FALSE(kick_dip(song(6.0, 0.2), kRate, {1.0, 2.0, 3.0})) << "too few strokes to say";
    EXPECT_FALSE(kick_dip(song(6.0, 0.2), kRate, {}));
    EXPECT_FALSE(kick_dip({}, kRate, beats()));
}

}  // namespace fw
