// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices/audio_input.hpp"

#include <gtest/gtest.h>
#include <chrono>
#include <thread>

namespace fw {

TEST(SimulatedMicrophoneTest, HearsItsSoundOnceAtThePaceOfATrueClockAndSilenceBehindIt) {
    std::vector<float> sound(4410);
    for (std::size_t i = 0; i < sound.size(); ++i) sound[i] = static_cast<float>(i + 1);
    SimulatedMicrophone microphone(sound, 44100.0);
    EXPECT_TRUE(microphone.take().empty()) << "not started";
    const auto begun = std::chrono::steady_clock::now();
    ASSERT_TRUE(microphone.start());
    std::vector<float> heard;
    for (int i = 0; i < 6; ++i) {
        std::this_thread::sleep_for(std::chrono::milliseconds(40));
        for (const float s : microphone.take()) heard.push_back(s);
    }
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
    EXPECT_LE(static_cast<double>(heard.size()), seconds * 44100.0 + 1.0);
    ASSERT_GT(heard.size(), sound.size());
    for (std::size_t i = 0; i < heard.size(); ++i) ASSERT_EQ(heard[i], i < sound.size() ? sound[i] : 0.0F);
    microphone.stop();
    std::this_thread::sleep_for(std::chrono::milliseconds(20));
    EXPECT_TRUE(microphone.take().empty());
    ASSERT_TRUE(microphone.start());
    std::this_thread::sleep_for(std::chrono::milliseconds(30));
    const auto again = microphone.take();
    ASSERT_FALSE(again.empty());
    EXPECT_EQ(again.front(), 1.0F) << "from its beginning";
}

}  // namespace fw
