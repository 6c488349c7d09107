// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/clearest.hpp"

#include "support/made_evidence.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::play;
using test::silent_evidence;
using test::spike;

namespace {

/// A bass note every two seconds, under a chord but for the fifth one; a kick with each but the fifth and the third.
Analysis analysed() {
    Analysis a;
    Evidence e = silent_evidence(22.0);
    HeardPart bass{PartRole::Bass, "Bass", {}};
    for (int k = 0; k < 10; ++k) {
        const double t = 1.0 + 2.0 * k;
        play(e, t, t + 0.8, 40);
        bass.notes.push_back({t, 0.8, 40, 90, 0.9});
        if (k != 4)
            for (const int tone : {61, 66, 69}) play(e, t, t + 0.8, tone);
        if (k != 4 && k != 2) {
            spike(e.pulse, t, pulse_column(DrumKind::Kick));
            a.drums.push_back({t, DrumKind::Kick, 90, 0.9});
        }
    }
    a.parts = {bass};
    a.evidence = std::make_shared<const Evidence>(std::move(e));
    return a;
}

}  // namespace

TEST(Clearest, TheNoteThatStandsAloneComesFirst) {
    const auto found = clearest_moments(analysed(), PartRole::Bass);
    ASSERT_GE(found.size(), 3u);
    EXPECT_NEAR(found[0].start_s, 9.0, 0.01);
    EXPECT_EQ(found[0].pitch, 40);
    EXPECT_NEAR(found[1].start_s, 5.0, 0.01) << "then the one without a kick";
    for (std::size_t i = 1; i < found.size(); ++i) EXPECT_LE(found[i].alone, found[i - 1].alone);
    EXPECT_GT(found[0].alone, 0.8);
    EXPECT_LT(found[2].alone, 0.5);
}

TEST(Clearest, StrokesAreFoundByTheirSoundAndMostIsKept) {
    const auto kicks = clearest_moments(analysed(), PartRole::Drums, {}, 3);
    EXPECT_EQ(kicks.size(), 3u);
    for (const ClearMoment& m : kicks) EXPECT_EQ(m.kind, DrumKind::Kick);
    Analysis none = analysed();
    none.drums.clear();
    EXPECT_TRUE(clearest_moments(none, PartRole::Drums).empty());
}

TEST(Clearest, OfNothingHeardNothingIsSaid) {
    EXPECT_TRUE(clearest_moments(Analysis{}, PartRole::Bass).empty());
    EXPECT_TRUE(clearest_moments(analysed(), PartRole::Lead).empty());
}

}  // namespace fw
