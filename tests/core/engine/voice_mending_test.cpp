// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/voice_mending.hpp"

#include "dsp/probe.hpp"
#include "engine/clip_sound.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

namespace fw {

namespace {

constexpr int kRate = 44100;

/// A voice: ten partials that fall, at pitches in MIDI keys, each for some time, with vibrato and silence between.
Audio sung(const std::vector<double>& pitches, double each_s, double vibrato = 0.0, double noise = 0.0) {
    Audio a{kRate, 2, {}, {}};
    std::mt19937 dice(3);
    std::uniform_real_distribution<double> d(-1.0, 1.0);
    for (const double pitch : pitches) {
        double phase = 0.0;
        const auto frames = static_cast<std::size_t>(each_s * kRate), silent = frames / 5;
        for (std::size_t i = 0; i < frames; ++i) {
            const double t = static_cast<double>(i) / kRate, hz = 440.0 * std::exp2((pitch + vibrato * std::sin(2 * std::numbers::pi * 5.5 * t) - 69.0) / 12.0);
            phase += 2.0 * std::numbers::pi * hz / kRate;
            const double edge = std::min({1.0, t / 0.03, std::max(0.0, static_cast<double>(frames - silent) - static_cast<double>(i)) / (0.03 * kRate)});
            double s = 0.0;
            for (int k = 1; k <= 10; ++k) s += 0.15 * std::sin(k * phase) / k;
            a.samples.push_back(static_cast<float>(edge * s + noise * d(dice)));
            a.samples.push_back(a.samples.back());
        }
    }
    return a;
}

double pitch_between(const Audio& a, double from_s, double to_s) {
    std::vector<float> mono;
    for (auto i = static_cast<std::size_t>(from_s * kRate); i < static_cast<std::size_t>(to_s * kRate); ++i) mono.push_back(a.samples[2 * i]);
    const auto p = probe_pitch(mono, kRate, 70.0, 1100.0);
    return p ? 69.0 + 12.0 * std::log2(p->hz / 440.0) : 0.0;
}

double rms_between(const Audio& a, double from_s, double to_s) {
    double sum = 0.0;
    const auto x = static_cast<std::size_t>(from_s * kRate), y = static_cast<std::size_t>(to_s * kRate);
    for (std::size_t i = x; i < y; ++i) sum += static_cast<double>(a.samples[2 * i]) * static_cast<double>(a.samples[2 * i]);
    return std::sqrt(sum / static_cast<double>(y - x));
}

double db(double ratio) { return 20.0 * std::log10(std::max(1e-9, ratio)); }

}  // namespace

TEST(VoiceMending, NotesAreFoundWithTheirMiddles) {
    const auto notes = sung_notes(sung({57.3, 59.8, 64.0}, 0.6, 0.2));
    ASSERT_EQ(notes.size(), 3u);
    const double pitches[] = {57.3, 59.8, 64.0};
    for (std::size_t i = 0; i < 3; ++i) {
        EXPECT_NEAR(notes[i].pitch, pitches[i], 0.07);
        EXPECT_NEAR(notes[i].start_s, 0.6 * static_cast<double>(i), 0.06);
        EXPECT_NEAR(notes[i].end_s, 0.6 * static_cast<double>(i) + 0.48, 0.08);
    }
    EXPECT_TRUE(sung_notes(Audio{kRate, 2, std::vector<float>(kRate, 0.0F), {}}).empty()) << "of silence none";
}

TEST(VoiceMending, EachNoteIsBroughtToItsSemitoneAndStaysWhereItWasInTime) {
    Audio a = sung({57.35, 59.7, 64.2}, 0.8);
    const Audio before = a;
    centre_notes(a, 1.0, 0.0);
    ASSERT_EQ(a.frames(), before.frames());
    EXPECT_NEAR(pitch_between(a, 0.2, 0.55), 57.0, 0.06);
    EXPECT_NEAR(pitch_between(a, 1.0, 1.35), 60.0, 0.06);
    EXPECT_NEAR(pitch_between(a, 1.8, 2.15), 64.0, 0.06);
    for (const double at : {0.2, 1.0, 1.8}) EXPECT_NEAR(db(rms_between(a, at, at + 0.3) / rms_between(before, at, at + 0.3)), 0.0, 2.0);
    EXPECT_LT(db(rms_between(a, 0.71, 0.78) / rms_between(a, 0.3, 0.5)), -25.0) << "rests stay where they were";
    Audio half = before, tuned = before, none = before;
    centre_notes(half, 0.5, 0.0);
    EXPECT_NEAR(pitch_between(half, 0.2, 0.55), 57.175, 0.06);
    centre_notes(tuned, 1.0, 30.0);
    EXPECT_NEAR(pitch_between(tuned, 0.2, 0.55), 57.3, 0.06) << "semitones lie where the song's do";
    centre_notes(none, 0.0, 0.0);
    EXPECT_EQ(none.samples, before.samples);
}

TEST(VoiceMending, NoiseIsTurnedDownWhereThereIsNothingElseAndTheVoiceStays) {
    Audio a = sung({57.0, 60.0, 64.0, 62.0}, 0.8, 0.0, 0.01);
    const Audio before = a;
    lower_noise(a, 15.0);
    ASSERT_EQ(a.frames(), before.frames());
    EXPECT_LT(db(rms_between(a, 0.7, 0.78) / rms_between(before, 0.7, 0.78)), -8.0);
    EXPECT_NEAR(db(rms_between(a, 0.2, 0.6) / rms_between(before, 0.2, 0.6)), 0.0, 0.7);
    EXPECT_NEAR(pitch_between(a, 0.2, 0.6), 57.0, 0.05);
    // Of what never pauses nothing can be told: it is left alone.
    Audio held{kRate, 2, {}, {}};
    for (std::size_t i = 0; i < 2 * kRate; ++i)
        for (int c = 0; c < 2; ++c) held.samples.push_back(0.3F * std::sin(2.0F * std::numbers::pi_v<float> * 220.0F * static_cast<float>(i) / kRate));
    const auto same = held.samples;
    lower_noise(held, 20.0);
    EXPECT_EQ(held.samples, same);
    Audio nothing = sung({57.0}, 0.8);
    const auto was = nothing.samples;
    lower_noise(nothing, 0.0);
    EXPECT_EQ(nothing.samples, was);
}

TEST(VoiceMending, AreEntriesOfARecipeLikeAnyOther) {
    const Audio made = follow_recipe(sung({57.35}, 0.9), {{Treatment::Tune, 1.0, 0.0, 1.0, {}}, {Treatment::Clean, 15.0, 0.0, 1.0, {}}}, kRate);
    EXPECT_NEAR(pitch_between(made, 0.2, 0.6), 57.0, 0.06);
}

TEST(ClipSound, AnOctaveUpWithItsColourKeptIsAVoiceStillAndNotAChipmunk) {
    // A hum with a formant at 600 Hz: an octave up the formant stays where the octave alone would move it.
    Audio voice{kRate, 2, {}, {}};
    for (int i = 0; i < kRate; ++i) {
        const double t = static_cast<double>(i) / kRate;
        double s = 0.0;
        for (int k = 1; k < 25; ++k) s += 0.2 * std::exp(-std::pow(std::log2(130.8 * k / 600.0), 2.0) * 3.0) * std::sin(2.0 * std::numbers::pi * 130.8 * k * t);
        voice.samples.push_back(static_cast<float>(s)), voice.samples.push_back(static_cast<float>(s));
    }
    const auto above_900 = [](const Audio& a) {
        double low = 0.0, high = 0.0, mean = 0.0;
        const double way = 1.0 - std::exp(-2.0 * std::numbers::pi * 900.0 / kRate);
        for (std::size_t i = a.frames() / 4; i < a.frames() * 3 / 4; ++i) {
            mean += way * (static_cast<double>(a.samples[2 * i]) - mean);
            low += mean * mean, high += std::pow(static_cast<double>(a.samples[2 * i]) - mean, 2.0);
        }
        return high / (low + high);
    };
    const Audio kept = follow_recipe(voice, {{Treatment::Pitch, 12.0, 1.0, 1.0, {}}}, kRate),
                moved = follow_recipe(voice, {{Treatment::Pitch, 12.0, 0.0, 1.0, {}}}, kRate);
    EXPECT_NEAR(pitch_between(kept, 0.3, 0.6), 60.0, 0.1);
    EXPECT_NEAR(pitch_between(moved, 0.3, 0.6), 60.0, 0.1);
    EXPECT_GT(above_900(moved), 1.5 * above_900(kept));
    EXPECT_NEAR(static_cast<double>(kept.frames()), static_cast<double>(voice.frames()), 0.02 * kRate);
}

}  // namespace fw
