// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/pitch.hpp"

#include <gtest/gtest.h>

namespace fw {

TEST(Pitch, HertzAndPitchAreInverse) {
    for (int p = 0; p < 128; ++p) EXPECT_NEAR(pitch_of(hertz_of(p, 443.6), 443.6), p, 1e-9);
    EXPECT_NEAR(hertz_of(60), 261.6256, 1e-3);
}

TEST(Pitch, NamesFollowTheSpellingAskedFor) {
    EXPECT_EQ(note_name(60, false), "C4");
    EXPECT_EQ(note_name(66, false), "F#4");
    EXPECT_EQ(note_name(66, true), "Gb4");
    EXPECT_EQ(note_name(21, false), "A0");
    EXPECT_EQ(note_name(0, false), "C-1");
}

TEST(Pitch, ReadsSpellingsAndRefusesTheRest) {
    EXPECT_EQ(parse_pitch_class("Cb"), 11);
    EXPECT_EQ(parse_pitch_class("E##"), 6);
    EXPECT_EQ(parse_pitch_class("b"), 11);
    EXPECT_FALSE(parse_pitch_class("H"));
    EXPECT_FALSE(parse_pitch_class(""));
    EXPECT_FALSE(parse_pitch_class("C4"));
}

}  // namespace fw
