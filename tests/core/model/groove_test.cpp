// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/groove.hpp"

#include <gtest/gtest.h>

namespace fw {

TEST(Grid, TheNearestPlaceIsFoundOnBothSidesOfABarLine) {
    const MeterMap meter({{1, 3, 4}});
    EXPECT_EQ(nearest_on({240}, meter, 119).at, 0);
    EXPECT_EQ(nearest_on({240}, meter, 121).at, 240);
    EXPECT_EQ(nearest_on({640}, meter, 2730).at, 2880) << "steps begin anew at each bar";
    EXPECT_EQ(nearest_on({240}, meter, -10).at, 0);
    EXPECT_EQ(nearest_on({0}, meter, 77).at, 77) << "no grid leaves it where it is";
    EXPECT_EQ(nearest_on({480, 2.0 / 3.0}, meter, 600).at, 640);
}

TEST(Groove, WhatIsTakenFromPlayingPutsStraightStrokesWhereTheyWerePlayed) {
    const MeterMap meter;
    std::vector<Struck> played;
    const int late[] = {0, 30, -10, 42};
    for (int bar = 0; bar < 6; ++bar)
        for (int i = 0; i < 16; ++i) played.push_back({bar * 3840 + i * 240 + late[i % 4] + (bar % 3 - 1), i % 4 == 0 ? 110 : 70});
    const Groove g = take_groove("played", played, meter, 240);
    ASSERT_EQ(g.steps.size(), 16u);
    for (std::size_t i = 0; i < 16; ++i) {
        EXPECT_EQ(g.steps[i].late, late[i % 4]);
        EXPECT_EQ(g.steps[i].velocity, i % 4 == 0 ? 110 : 70);
        EXPECT_EQ(nearest_on({240, 0.5, &g}, meter, static_cast<Ticks>(7 * 3840 + 240 * i)).at, static_cast<Ticks>(7 * 3840 + 240 * i) + late[i % 4]);
    }
    EXPECT_TRUE(take_groove("nothing", {}, meter, 240).steps.empty());
}

TEST(Groove, ATextOfItReadsBackAndNonsenseIsRefused) {
    Groove g;
    g.steps = {{12, 96}, {0, 0}, {-5, 80}};
    EXPECT_EQ(groove_steps_text(g), "+12/96 0 -5/80");
    EXPECT_EQ(parse_groove_steps(groove_steps_text(g)), g.steps);
    for (const char* bad : {"", "  ", "12/x", "a", "1/2/3", "+"}) EXPECT_FALSE(parse_groove_steps(bad)) << bad;
}

}  // namespace fw
