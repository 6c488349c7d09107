// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/chord_layout.hpp"

#include "support/made_evidence.hpp"

#include <gtest/gtest.h>

namespace fw {

TEST(HeardLayout, ThePitchesThatSoundAreTheLayoutAndSofterOvertonesAreNot) {
    Evidence e = test::silent_evidence(6.0);
    const Chord dm = *parse_chord("Dm");
    for (const int p : {50, 57, 65}) test::play(e, 1.0, 3.0, p);
    for (const int p : {62, 69, 77}) test::sound(e.sounding, e.onset, 1.0, 3.0, p, 0.5F);  // an octave above each
    test::play(e, 1.0, 3.0, 60);                                                           // no tone of the chord
    EXPECT_EQ(heard_layout(e, dm, 1.0, 3.0), (std::vector<int>{50, 57, 65}));
    EXPECT_TRUE(heard_layout(e, dm, 4.0, 5.5).empty()) << "silence has no layout";
    EXPECT_TRUE(heard_layout(e, *parse_chord("F#"), 1.0, 3.0).empty()) << "nor has a chord that does not sound";
}

}  // namespace fw
