// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/ranks.hpp"

#include <gtest/gtest.h>

namespace fw {

TEST(Ranks, TellTheValueBelowWhichSoManyQuartersLie) {
    const std::vector<double> values{9, 1, 8, 2, 7, 3, 6, 4};
    EXPECT_EQ(part_of(values, 0), 1);
    EXPECT_EQ(part_of(values, 1), 3);
    EXPECT_EQ(part_of(values, 3), 8);
    EXPECT_EQ(median(values), 6) << "of two in the middle the upper";
    EXPECT_EQ(median(std::vector<float>{5.0F}), 5.0F);
}

}  // namespace fw
