// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/job_queue.hpp"

#include <gtest/gtest.h>
#include <QTest>
#include <atomic>
#include <chrono>
#include <stdexcept>
#include <thread>
#include <vector>

namespace fw::app {

namespace {

JobQueue::Maker counting(int number, std::vector<int>& delivered, std::atomic<int>* running = nullptr) {
    return [=, &delivered]() -> JobQueue::Work {
        return [=, &delivered](const Progress& progress) -> Result<JobQueue::Delivery> {
            if (running && running->fetch_add(1) != 0) ADD_FAILURE() << "one of a name at a time";
            for (int i = 0; i < 10; ++i) {
                progress.checkpoint();
                std::this_thread::sleep_for(std::chrono::milliseconds(3));
            }
            if (running) --*running;
            return JobQueue::Delivery([number, &delivered] { delivered.push_back(number); });
        };
    };
}

}  // namespace

TEST(JobQueueTest, OfABurstTheFirstAndTheLatestRunOneAtATime) {
    JobQueue queue;
    std::vector<int> delivered;
    std::atomic<int> running{0};
    for (int i = 1; i <= 20; ++i) queue.run("plan", "planning", counting(i, delivered, &running));
    EXPECT_TRUE(delivered.empty()) << "asking does not wait";
    ASSERT_TRUE(QTest::qWaitFor([&] { return !queue.busy("plan"); }, 20000));
    EXPECT_EQ(delivered, (std::vector<int>{1, 20}));
}

TEST(JobQueueTest, NamesDoNotWaitForEachOther) {
    JobQueue queue;
    std::vector<int> delivered;
    std::atomic<bool> release{false};
    queue.run("long", "long work", [&]() -> JobQueue::Work {
        return [&](const Progress&) -> Result<JobQueue::Delivery> {
            while (!release) std::this_thread::sleep_for(std::chrono::milliseconds(1));
            return JobQueue::Delivery();
        };
    });
    queue.run("short", "short work", counting(1, delivered));
    ASSERT_TRUE(QTest::qWaitFor([&] { return !queue.busy("short"); }, 20000));
    EXPECT_TRUE(queue.busy("long"));
    EXPECT_EQ(delivered.size(), 1u);
    release = true;
    ASSERT_TRUE(QTest::qWaitFor([&] { return !queue.busy("long"); }, 20000));
}

TEST(JobQueueTest, WorkStartsFromWhatIsThereWhenItBegins) {
    JobQueue queue;
    std::vector<int> seen;
    int now = 1;
    const auto maker = [&]() -> JobQueue::Work {
        seen.push_back(now);
        return [&](const Progress&) -> Result<JobQueue::Delivery> { return JobQueue::Delivery([&] { ++now; }); };
    };
    queue.run("plan", "planning", maker);
    queue.run("plan", "planning", maker);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !queue.busy("plan"); }, 20000));
    EXPECT_EQ(seen, (std::vector<int>{1, 2}));
}

TEST(JobQueueTest, WhatFailsIsToldAndWhatIsStoppedIsNot) {
    JobQueue queue;
    QStringList told;
    QObject::connect(&queue, &JobQueue::failed, [&](const QString& sentence) { told << sentence; });
    queue.run("a", "the great work",
              []() -> JobQueue::Work { return [](const Progress&) -> Result<JobQueue::Delivery> { throw std::runtime_error("the roof fell in"); }; });
    std::vector<int> delivered;
    queue.run("b", "idle work", counting(1, delivered));
    queue.cancel("b");
    ASSERT_TRUE(QTest::qWaitFor([&] { return !queue.busy("a") && !queue.busy("b"); }, 20000));
    ASSERT_EQ(told.size(), 1);
    EXPECT_TRUE(told[0].contains("the roof fell in"));
    EXPECT_TRUE(delivered.empty());
}

}  // namespace fw::app
