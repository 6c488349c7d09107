// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/evidence.hpp"

#include "support/made_evidence.hpp"

#include <gtest/gtest.h>

namespace fw {

TEST(OnsetNear, IsTheClearestOfThatPitchWithinReachAndNothingWhereNoneIsHeard) {
    Evidence e = test::silent_evidence(10.0);
    test::play(e, 2.0, 2.4, 60);
    test::play(e, 2.08, 2.4, 60, 0.5F);
    test::play(e, 5.0, 5.4, 67);
    const auto found = e.onset_near(60, 2.05, 0.12);
    ASSERT_TRUE(found);
    EXPECT_NEAR(*found, 2.0, 0.03) << "the clearer of two";
    EXPECT_FALSE(e.onset_near(61, 2.05, 0.12)) << "of another pitch";
    EXPECT_FALSE(e.onset_near(60, 3.0, 0.12)) << "out of reach";
    EXPECT_FALSE(e.onset_near(5, 2.0, 0.12));
    EXPECT_FALSE(e.onset_near(60, 500.0, 0.1)) << "behind the end";
    EXPECT_FALSE(Evidence().onset_near(60, 1.0, 0.1));
}

}  // namespace fw
