// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/distance.hpp"

#include "fit/fit_sound.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>
#include <random>

namespace fw {

namespace {

std::vector<float> tone(double hz, double seconds, double decay, double level = 0.5) {
    std::vector<float> x(static_cast<std::size_t>(seconds * SoundTarget::kRate));
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double t = static_cast<double>(i) / SoundTarget::kRate;
        double s = 0.0;
        for (int k = 1; k < 12; ++k) s += std::sin(2.0 * std::numbers::pi * hz * k * t) / k;
        x[i] = static_cast<float>(level * std::exp(-decay * t) * s);
    }
    return x;
}

}  // namespace

TEST(SoundDistance, NothingBetweenASoundAndItselfWhateverItsLevelAndMoreTheMoreIsOther) {
    const auto sound = tone(220.0, 0.8, 3.0);
    const SoundTarget target(sound);
    EXPECT_NEAR(target.distance_to(sound).total(), 0.0, 0.01);
    EXPECT_NEAR(target.distance_to(tone(220.0, 0.8, 3.0, 0.05)).total(), 0.0, 0.1) << "level is no difference";
    ASSERT_TRUE(target.pitch_hz());
    EXPECT_NEAR(*target.pitch_hz(), 220.0, 0.5);
    const auto shorter = target.distance_to(tone(220.0, 0.8, 12.0));
    EXPECT_GT(shorter.envelope, 8.0);
    EXPECT_NEAR(shorter.pitch, 0.0, 0.2);
    const auto higher = target.distance_to(tone(233.1, 0.8, 3.0));
    EXPECT_NEAR(higher.pitch, 4.0, 0.3) << "a semitone";
    EXPECT_LT(higher.envelope, 2.0);
    std::mt19937 dice(1);
    std::vector<float> noise(sound.size());
    for (float& s : noise) s = static_cast<float>(dice() % 2000) / 1000.0F - 1.0F;
    const auto other = target.distance_to(noise);
    EXPECT_GT(other.total(), 25.0);
    EXPECT_GT(other.total(), 2.0 * higher.total());
    const std::vector<float> silence(sound.size(), 0.0F);
    EXPECT_GT(target.distance_to(silence).total(), 25.0) << "silence is far from every sound";
}

TEST(SoundDistance, ThirdOctavesTellATiltAndNotALevel) {
    const auto sound = tone(110.0, 0.8, 2.0);
    EXPECT_NEAR(third_octave_difference_db(tone(110.0, 0.8, 2.0, 0.1), sound, SoundTarget::kRate), 0.0, 0.05);
    std::vector<float> duller = sound;
    float before = 0.0F;
    for (float& s : duller) s = before = 0.9F * before + 0.1F * s;
    EXPECT_GT(third_octave_difference_db(duller, sound, SoundTarget::kRate), 1.2);
}

}  // namespace fw
