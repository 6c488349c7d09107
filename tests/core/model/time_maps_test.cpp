// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/time_maps.hpp"

#include <gtest/gtest.h>

namespace fw {

TEST(TempoMap, GoesThereAndBackBetweenAndBeyondItsAnchors) {
    const TempoMap map({{0, 0.62}, {960 * 4, 3.0}, {960 * 8, 5.0}});
    for (double tick = -5000; tick < 20000; tick += 37) EXPECT_NEAR(map.ticks(map.seconds(tick)), tick, 1e-6);
    EXPECT_DOUBLE_EQ(map.seconds(Ticks{960 * 4}), 3.0);
    EXPECT_DOUBLE_EQ(map.seconds(Ticks{960 * 6}), 4.0);
    EXPECT_NEAR(map.bpm_at(960 * 5), 120.0, 1e-9);
    EXPECT_NEAR(map.seconds(Ticks{960 * 9}), 5.5, 1e-9) << "the last stretch goes on";
}

TEST(TempoMap, DropsAnchorsThatDoNotAscend) {
    const TempoMap map({{0, 1.0}, {960, 0.5}, {960, 1.5}, {900, 2.0}, {1920, 2.0}});
    ASSERT_EQ(map.anchors().size(), 3u);
    EXPECT_EQ(map.anchors()[1].tick, 960);
    EXPECT_EQ(TempoMap(std::vector<TempoMap::Anchor>{}).anchors().size(), 2u) << "never without a tempo";
}

TEST(TempoMap, AnotherReadingMovesNothingInTime) {
    const TempoMap map({{0, 0.62}, {960 * 4, 3.0}, {960 * 8, 5.0}});
    const TempoMap half = map.reread(0.5, 0);
    EXPECT_DOUBLE_EQ(half.seconds(Ticks{960 * 2}), 3.0);
    EXPECT_NEAR(half.bpm_at(0) * 2, map.bpm_at(0), 1e-9);
}

TEST(MeterMap, CountsBarsBeatsAndTicksOverChangesOfMeter) {
    const MeterMap map({{1, 4, 4}, {3, 3, 4}, {5, 6, 8}});
    EXPECT_EQ(map.tick_of_bar(3), 2 * 3840);
    EXPECT_EQ(map.tick_of_bar(5), 2 * 3840 + 2 * 2880);
    EXPECT_EQ(map.position(2 * 3840 + 2880 + 960 + 17).text(), "4·2·017");
    EXPECT_EQ(map.at_bar(5).beats(), 2) << "6/8 is felt in two";
    EXPECT_EQ(map.position(map.tick_of_bar(6) + 1440).text(), "6·2·000");
    for (Ticks t = -4000; t < 30000; t += 113) EXPECT_EQ(map.tick_of(map.position(t)), t);
}

TEST(MeterMap, RefusesMetersThatAreNone) {
    const MeterMap map({{1, 0, 4}, {1, 4, 3}, {2, 99, 4}});
    ASSERT_EQ(map.changes().size(), 1u);
    EXPECT_EQ(map.changes()[0].numerator, 4);
}

}  // namespace fw
