// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/probe.hpp"

#include "base/pitch.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>
#include <random>
#include <vector>

namespace fw {

namespace {

constexpr double kRate = 44100.0;

/// Partials of these strengths, dying away; glide in semitones from beginning to end.
std::vector<float> tone(double hz, double seconds, std::vector<double> partials, double glide = 0.0, double decay_s = 1.0) {
    std::vector<float> out;
    double phase = 0.0;
    for (int f = 0; f < static_cast<int>(seconds * kRate); ++f) {
        const double t = f / kRate;
        double v = 0.0;
        for (std::size_t k = 0; k < partials.size(); ++k) v += partials[k] * std::sin(phase * static_cast<double>(k + 1));
        out.push_back(static_cast<float>(0.2 * v * std::exp(-t / decay_s)));
        phase += 2.0 * std::numbers::pi * hz * std::exp2(glide * t / seconds / 12.0) / kRate;
    }
    return out;
}

double cents(double hz, double wanted) { return 1200.0 * std::log2(hz / wanted); }

}  // namespace

TEST(Probe, TellsThePitchOfASingleNoteWithinThreeCents) {
    for (const int pitch : {24, 28, 33, 40, 52, 60, 69, 81, 93, 100}) {
        const double hz = hertz_of(pitch + 0.23);
        for (const auto& partials : {std::vector<double>{1.0}, {1.0, 0.8, 0.6, 0.5, 0.4, 0.3}, {0.2, 1.0, 0.4, 0.7}}) {
            const auto heard = probe_pitch(tone(hz, 0.6, partials), kRate);
            ASSERT_TRUE(heard) << pitch;
            EXPECT_NEAR(cents(heard->hz, hz), 0.0, 3.0) << pitch << " of " << partials.size();
            EXPECT_GT(heard->clear, 0.8);
        }
    }
}

TEST(Probe, TellsWhereABendBeginsAndEnds) {
    const auto heard = probe_pitch(tone(220.0, 1.0, {1.0, 0.5, 0.3}, 2.0, 5.0), kRate);
    ASSERT_TRUE(heard);
    EXPECT_NEAR(cents(heard->start_hz, 220.0), 15.0, 30.0);
    EXPECT_NEAR(cents(heard->end_hz, 220.0 * std::exp2(2.0 / 12.0)), -15.0, 30.0);
}

TEST(Probe, ABandChoosesWhichOfTwoIsMeant) {
    auto both = tone(110.0, 0.8, {1.0}, 0.0, 9.0);
    const auto high = tone(1500.0, 0.8, {0.3}, 0.0, 9.0);
    for (std::size_t i = 0; i < both.size(); ++i) both[i] += high[i];
    const auto low = probe_pitch(both, kRate, 60.0, 300.0);
    ASSERT_TRUE(low);
    EXPECT_NEAR(cents(low->hz, 110.0), 0.0, 5.0);
}

TEST(Probe, SaysNothingOfNoiseSilenceAndSpecks) {
    std::mt19937 random(2);
    std::normal_distribution<float> noise(0.0F, 0.2F);
    std::vector<float> hiss(22050);
    for (float& v : hiss) v = noise(random);
    EXPECT_FALSE(probe_pitch(hiss, kRate));
    EXPECT_FALSE(probe_pitch(std::vector<float>(22050, 0.0F), kRate));
    EXPECT_FALSE(probe_pitch(tone(440.0, 0.01, {1.0}), kRate));
    EXPECT_FALSE(probe_pitch({}, kRate));
}

}  // namespace fw
