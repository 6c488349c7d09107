// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/played.hpp"

#include <gtest/gtest.h>

namespace fw {

namespace {
using Kind = KeyEvent::Kind;
const TempoMap kTempo({{0, 1.0}, {960, 1.5}});  // 120 BPM from the first second on
}  // namespace

TEST(Played, KeysBecomeNotesWhereTheyWereStruck) {
    const std::vector<KeyEvent> events{{Kind::Down, 1.0, 60, 80, 0}, {Kind::Down, 1.25, 64, 90, 0}, {Kind::Up, 1.5, 60, 0, 0}, {Kind::Up, 2.0, 64, 0, 0}};
    const auto notes = notes_played(events, kTempo, 10.0);
    ASSERT_EQ(notes.size(), 2u);
    EXPECT_EQ(notes[0].start, 0);
    EXPECT_EQ(notes[0].length, 960);
    EXPECT_EQ(notes[0].velocity, 80);
    EXPECT_EQ(notes[0].origin, Origin::Played);
    EXPECT_EQ(notes[1].start, 480);
    EXPECT_EQ(notes[1].length, 1440);
}

TEST(Played, AKeyStruckAgainOrStillHeldEndsInTime) {
    const std::vector<KeyEvent> events{{Kind::Down, 1.0, 60, 80, 0}, {Kind::Down, 1.5, 60, 70, 0}, {Kind::Up, 9.0, 61, 0, 0}};
    const auto notes = notes_played(events, kTempo, 2.0);
    ASSERT_EQ(notes.size(), 2u);
    EXPECT_EQ(notes[0].length, 960);
    EXPECT_EQ(notes[1].length, 960) << "held to the end";
    EXPECT_TRUE(notes_played({}, kTempo, 2.0).empty());
    EXPECT_EQ(notes_played(std::vector<KeyEvent>{{Kind::Down, 1.0, 200, 80, 0}}, kTempo, 2.0).size(), 0u);
}

TEST(Played, TheWheelBendsWhatSounds) {
    const std::vector<KeyEvent> events{{Kind::Bend, 0.9, 0, 0, 50.0},   {Kind::Down, 1.0, 60, 80, 0}, {Kind::Bend, 1.25, 0, 0, 200.0},
                                       {Kind::Bend, 1.25, 0, 0, 180.0}, {Kind::Up, 1.5, 60, 0, 0},    {Kind::Bend, 1.6, 0, 0, 0.0}};
    const auto notes = notes_played(events, kTempo, 2.0);
    ASSERT_EQ(notes.size(), 1u);
    EXPECT_EQ(*notes[0].bend, (std::vector<BendPoint>{{0, 50.0}, {480, 180.0}}));
}

}  // namespace fw
