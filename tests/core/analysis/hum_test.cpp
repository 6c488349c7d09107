// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/hum.hpp"

#include "base/pitch.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>
#include <random>

namespace fw {

namespace {

constexpr double kRate = 22050.0;

struct Sung {
    double at_s, length_s;
    int pitch;
};

/// A voice: a few partials, a slow vibrato, glides from tone to tone, all of it sharp by some cents, with a little breath.
std::vector<float> voice(const std::vector<Sung>& notes, double sharp_cents, double vibrato_cents, unsigned seed) {
    std::mt19937 dice(seed);
    std::vector<float> out(static_cast<std::size_t>((notes.back().at_s + notes.back().length_s + 0.5) * kRate));
    double phase = 0.0, pitch = notes.front().pitch, level = 0.0;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const double t = static_cast<double>(i) / kRate;
        const Sung* now = nullptr;
        for (const Sung& n : notes)
            if (t >= n.at_s && t < n.at_s + n.length_s) now = &n;
        if (now) pitch += (now->pitch - pitch) * std::min(1.0, 1.0 / (0.015 * kRate));
        // A tone that is begun anew dips for thirty milliseconds.
        const double wanted = now ? 1.0 : 0.0;
        level += (wanted - level) / (0.012 * kRate);
        const double cents = sharp_cents + vibrato_cents * std::sin(2.0 * std::numbers::pi * 5.3 * t);
        phase += 2.0 * std::numbers::pi * hertz_of(pitch + cents / 100.0) / kRate;
        const double x = std::sin(phase) + 0.4 * std::sin(2 * phase) + 0.2 * std::sin(3 * phase);
        out[i] = static_cast<float>(0.2 * level * x + 0.002 * (static_cast<double>(dice() % 2001) / 1000.0 - 1.0));
    }
    return out;
}

}  // namespace

TEST(Hum, TonesAreToldThroughVibratoGlidesAndASharpVoice) {
    const std::vector<Sung> tune{{0.3, 0.45, 57}, {0.8, 0.4, 60}, {1.2, 0.4, 62}, {1.6, 0.7, 64}, {2.6, 0.25, 62}, {2.85, 0.25, 60}, {3.1, 0.8, 57}};
    for (const double sharp : {-40.0, 0.0, 30.0}) {
        const Hummed h = notes_of_voice(voice(tune, sharp, 35.0, 3), kRate);
        EXPECT_NEAR(h.sharp_cents, sharp, 12.0);
        ASSERT_EQ(h.notes.size(), tune.size()) << sharp;
        for (std::size_t i = 0; i < tune.size(); ++i) {
            EXPECT_EQ(h.notes[i].pitch, tune[i].pitch) << i;
            EXPECT_NEAR(h.notes[i].onset_s, tune[i].at_s, 0.05) << i;
            EXPECT_NEAR(h.notes[i].duration_s, tune[i].length_s, 0.09) << i;
        }
    }
}

TEST(Hum, AToneSungTwiceIsTwoNotes) {
    const auto twice = notes_of_voice(voice({{0.2, 0.35, 60}, {0.6, 0.35, 60}, {1.0, 0.35, 60}}, 0.0, 20.0, 1), kRate).notes;
    ASSERT_EQ(twice.size(), 3u);
    const auto once = notes_of_voice(voice({{0.2, 1.15, 60}}, 0.0, 20.0, 1), kRate).notes;
    EXPECT_EQ(once.size(), 1u) << "vibrato strikes nothing anew";
}

TEST(Hum, WithAKeyOnlyItsTonesAreNotes) {
    // A C sharp between C and D, sung badly.
    const auto sound = voice({{0.2, 0.5, 60}, {0.7, 0.5, 61}, {1.2, 0.5, 64}}, 0.0, 15.0, 2);
    const Key c{0, Mode::Major};
    for (const HeardNote& n : notes_of_voice(sound, kRate, c).notes) {
        const auto scale = c.scale();
        EXPECT_TRUE(std::find(scale.begin(), scale.end(), pitch_class(n.pitch)) != scale.end()) << n.pitch;
    }
    EXPECT_EQ(notes_of_voice(sound, kRate).notes.size(), 3u);
}

TEST(Hum, SilenceNoiseAndNothingAreNoNotes) {
    EXPECT_TRUE(notes_of_voice({}, kRate).notes.empty());
    EXPECT_TRUE(notes_of_voice(std::vector<float>(22050, 0.0F), kRate).notes.empty());
    std::mt19937 dice(4);
    std::vector<float> noise(44100);
    for (float& x : noise) x = static_cast<float>(dice() % 2001) / 1000.0F - 1.0F;
    EXPECT_LE(notes_of_voice(noise, kRate).notes.size(), 1u);
    EXPECT_TRUE(notes_of_voice(noise, 4000.0).notes.empty()) << "too coarse a signal";
}

}  // namespace fw
