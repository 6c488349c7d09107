// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/beginnings.hpp"

#include "../../support/signals.hpp"

#include <gtest/gtest.h>

#include <cmath>

namespace fw {
namespace {

TEST(Beginnings, AreStrokesInALoopAndNotesInALegatoVoice) {
    const auto struck = find_beginnings(test::clicks({0.3, 0.75, 1.1}, 1.6));
    ASSERT_EQ(struck.size(), 3u);
    EXPECT_NEAR(struck[1], 0.75, 0.004);
    // One breath over three pitches: no stroke, yet three notes.
    Audio voice{44100, 1, {}, {}};
    double phase = 0.0;
    for (int i = 0; i < 3 * 44100; ++i) {
        const double t = i / 44100.0, key = t < 1.0 ? 57.0 : t < 2.0 ? 60.0 : 64.0;
        phase += 440.0 * std::exp2((key - 69.0) / 12.0) / 44100.0;
        double s = 0.0;
        for (int k = 1; k < 8; ++k) s += 0.15 / k * std::sin(2.0 * std::numbers::pi * k * phase);
        voice.samples.push_back(static_cast<float>(s));
    }
    const auto sung = find_beginnings(voice);
    ASSERT_GE(sung.size(), 2u);
    for (const double at : {1.0, 2.0}) {
        double near = 1e9;
        for (const double s : sung) near = std::min(near, std::abs(s - at));
        EXPECT_LT(near, 0.05) << at;
    }
    EXPECT_LE(sung.size(), 3u);
}

TEST(Beginnings, AreNoneInSilenceNoiseAndNothing) {
    EXPECT_TRUE(find_beginnings({44100, 1, {}, {}}).empty());
    EXPECT_TRUE(find_beginnings({44100, 1, std::vector<float>(44100, 0.0F), {}}).empty());
    Audio noise{44100, 2, {}, {}};
    unsigned n = 3;
    for (int i = 0; i < 2 * 44100; ++i) n = n * 1664525u + 1013904223u, noise.samples.push_back(0.2F * (static_cast<float>(n >> 8) / 8388608.0F - 1.0F));
    EXPECT_TRUE(find_beginnings(noise).empty()) << find_beginnings(noise).front();
}

}  // namespace
}  // namespace fw
