// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/score.hpp"

#include <gtest/gtest.h>

namespace fw {

namespace {

/// Eight bars of two seconds: a note on the second quarter of each but the fifth, one that is held, a kick on every first beat.
Score eight_bars() {
    WrittenPart tune{false, {}}, drums{true, {}};
    for (int bar = 0; bar < 8; ++bar) {
        if (bar != 4) tune.notes.push_back({2.0 * bar + 0.5, 2.0 * bar + 0.9, 60});
        drums.notes.push_back({2.0 * bar, 2.0 * bar + 0.1, 36});
    }
    tune.notes.push_back({4.6, 7.4, 67});
    std::vector<double> bars;
    for (int bar = 0; bar <= 8; ++bar) bars.push_back(2.0 * bar);
    return {{tune, drums}, bars};
}

}  // namespace

TEST(Score, WhatRepeatsAtTheSamePlaceOfOtherBarsIsASharedPlace) {
    const Score s = eight_bars();
    // Of bar 3 there are five bars to ask: 1, 2, 4, 5 and 7, counted from 1; the fifth rests.
    EXPECT_NEAR(s.repeated(s.of(0), 60, 4.5), 4.0 / 5.0, 1e-9);
    EXPECT_NEAR(s.repeated(s.of(0), 60, 4.55), 4.0 / 5.0, 1e-9) << "a little aside is the same place";
    EXPECT_EQ(s.repeated(s.of(0), 60, 5.5), 0.0) << "another beat is another place";
    EXPECT_EQ(s.repeated(s.of(0), 61, 4.5), 0.0);
    EXPECT_EQ(s.repeated(s.struck(), 36, 8.0), 1.0);
    EXPECT_EQ(s.repeated(s.of(0), 60, 40.0), 0.0) << "beyond the last bar";
}

TEST(Score, KnowsWhatSoundsAndWhatIsHeld) {
    const Score s = eight_bars();
    EXPECT_EQ(s.pitched().count(60), 7);
    EXPECT_EQ(s.struck().size(), 8);
    EXPECT_EQ(s.pitched().count(60, 0.45, 0.55), 1);
    EXPECT_EQ(s.together(false, 4.55, 0.06), 2);
    EXPECT_EQ(s.together(true, 4.0, 0.06), 1);
    EXPECT_EQ(s.sounding(4.7), 2);
    EXPECT_EQ(s.sounding(5.5), 1);
    EXPECT_EQ(s.sounding(7.5), 0);
    EXPECT_TRUE(s.held(67, 6.0));
    EXPECT_FALSE(s.held(67, 4.62)) << "it has only just begun";
    EXPECT_FALSE(s.held(67, 7.39)) << "it is just about over";
    EXPECT_FALSE(s.held(66, 6.0));
    const Score other = s.with(0, {{0.0, 1.0, 72}});
    EXPECT_EQ(other.pitched().count(60), 0);
    EXPECT_EQ(other.pitched().count(72), 1);
    EXPECT_EQ(other.struck().size(), 8) << "the other parts stay";
}

TEST(Score, KeysOfOneDrumSoundAreOne) {
    EXPECT_EQ(sound_key(35), sound_key(36));
    EXPECT_EQ(sound_key(sound_key(40)), sound_key(38));
    EXPECT_EQ(sound_key(200), 200) << "no drum";
}

}  // namespace fw
