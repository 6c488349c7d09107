// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices/audio_output.hpp"

#include <gtest/gtest.h>
#include <atomic>
#include <chrono>
#include <thread>

namespace fw {

TEST(SimulatedOutputTest, AsksAtThePaceOfATrueClockAndKeepsWhatItWasGiven) {
    SimulatedOutput output(44100.0, 256);
    std::atomic<int> frames{0};
    float value = 0.0F;
    const auto begun = std::chrono::steady_clock::now();
    ASSERT_TRUE(output.start([&](std::span<float> l, std::span<float> r) {
        for (std::size_t i = 0; i < l.size(); ++i) l[i] = value, r[i] = -value, value += 1.0F;
        frames += static_cast<int>(l.size());
    }));
    std::this_thread::sleep_for(std::chrono::milliseconds(400));
    output.stop();
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
    EXPECT_LE(frames, seconds * 44100 + 512) << "never faster than its clock";
    EXPECT_GT(frames, 2000);
    const auto kept = output.captured(1000);
    ASSERT_EQ(kept.size(), 2000u);
    for (std::size_t i = 1; i < 1000; ++i) EXPECT_EQ(kept[2 * i], kept[2 * i - 2] + 1.0F);
    EXPECT_EQ(kept[1], -kept[0]);
    EXPECT_EQ(kept[1998], static_cast<float>(frames - 1));
}

TEST(AudioOutputTest, WithoutASoundCardTheSimulatedDeviceStepsIn) {
    const auto output = open_audio_output(44100.0);
    ASSERT_TRUE(output);
    EXPECT_EQ(output->simulated(), open_sound_card(44100.0) == nullptr);
    EXPECT_FALSE(output->name().empty());
}

}  // namespace fw
