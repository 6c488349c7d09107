// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/crew.hpp"

#include <gtest/gtest.h>
#include <atomic>
#include <chrono>
#include <thread>
#include <vector>

namespace fw {

TEST(CrewTest, DoesEachJobOnceInEveryRound) {
    for (const std::size_t helpers : {0U, 1U, 3U}) {
        Crew crew(helpers);
        for (std::size_t round = 0; round < 3000; ++round) {
            std::vector<int> done(round % 37, 0);  // plain: whoever reads it after run() must see what was written
            crew.run(done.size(), [&](std::size_t i) { done[i] += static_cast<int>(i) + 1; });
            for (std::size_t i = 0; i < done.size(); ++i) ASSERT_EQ(done[i], static_cast<int>(i) + 1) << helpers << " " << round;
        }
    }
}

TEST(CrewTest, WakesAfterARestAndGoesWhileItRests) {
    Crew crew(2);
    std::atomic<int> sum{0};
    crew.run(10, [&](std::size_t) { ++sum; });
    std::this_thread::sleep_for(std::chrono::milliseconds(20));
    crew.run(10, [&](std::size_t) { ++sum; });
    EXPECT_EQ(sum, 20);
    std::this_thread::sleep_for(std::chrono::milliseconds(20));
}

}  // namespace fw
