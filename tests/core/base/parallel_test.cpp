// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/parallel.hpp"

#include "base/progress.hpp"

#include <gtest/gtest.h>
#include <atomic>
#include <vector>

namespace fw {

TEST(ParallelFor, RunsEveryJobOnce) {
    std::vector<std::atomic<int>> runs(1000);
    parallel_for(runs.size(), [&](std::size_t i) { ++runs[i]; });
    for (const auto& r : runs) EXPECT_EQ(r, 1);
}

TEST(ParallelFor, PassesOnWhatAJobThrowsAndHandsOutNoMore) {
    std::atomic<int> ran{0};
    EXPECT_THROW(parallel_for(100000,
                              [&](std::size_t i) {
                                  ++ran;
                                  if (i == 3) throw Cancelled{};
                              }),
                 Cancelled);
    EXPECT_LT(ran, 100000);
}

TEST(ProgressTest, APartOfLargerWorkStopsWithTheWhole) {
    Progress whole;
    const Progress part([](double, std::string_view) {}, &whole);
    EXPECT_NO_THROW(part.report(0.5, "x"));
    whole.cancel();
    EXPECT_THROW(part.report(0.6, "x"), Cancelled);
}

}  // namespace fw
