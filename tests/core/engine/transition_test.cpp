// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/transition.hpp"

#include "engine/clip_sound.hpp"
#include "model/describe.hpp"

#include "../../support/signals.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

double energy(const Audio& a, double from_s, double to_s) {
    double sum = 0.0;
    const auto frame = [&](double s) { return std::min(a.frames(), static_cast<std::size_t>(s * a.sample_rate_hz)); };
    for (std::size_t i = 2 * frame(from_s); i < 2 * frame(to_s); ++i) sum += static_cast<double>(a.samples[i]) * a.samples[i];
    return sum;
}

/// Power at a frequency, of the left side, from a second to another.
double power_at(const Audio& a, double hz, double from_s, double to_s) {
    double re = 0.0, im = 0.0;
    const auto first = static_cast<std::size_t>(from_s * a.sample_rate_hz), last = static_cast<std::size_t>(to_s * a.sample_rate_hz);
    for (std::size_t i = first; i < last; ++i) {
        const double at = 2.0 * std::numbers::pi * hz * static_cast<double>(i) / a.sample_rate_hz,
                     window = 0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i - first) / static_cast<double>(last - first));
        re += window * a.samples[2 * i] * std::cos(at), im += window * a.samples[2 * i] * std::sin(at);
    }
    return re * re + im * im;
}

Audio sine(double hz, double seconds, int rate = 44100) {
    Audio a{rate, 2, {}, {}};
    for (int i = 0; i < static_cast<int>(seconds * rate); ++i) {
        const auto x = static_cast<float>(0.5 * std::sin(2.0 * std::numbers::pi * hz * i / rate));
        a.samples.push_back(x), a.samples.push_back(x);
    }
    return a;
}

}  // namespace

class EachTransition : public testing::TestWithParam<int> {};

TEST_P(EachTransition, IsAsLongAsToldSoundsTheSameTwiceAndBeginsAndEndsWithoutAClick) {
    const Making making{static_cast<Transition>(GetParam()), 4.0, {57}, {}};
    for (const double rate : {44100.0, 48000.0})
        for (const double seconds : {0.4, 2.0}) {
            const Audio a = transition_sound(making, seconds, rate);
            EXPECT_EQ(a.frames(), static_cast<std::size_t>(std::llround(seconds * rate)));
            EXPECT_EQ(a.samples, transition_sound(making, seconds, rate).samples);
            float peak = 0.0F;
            for (const float s : a.samples) {
                ASSERT_TRUE(std::isfinite(s));
                peak = std::max(peak, std::abs(s));
            }
            EXPECT_NEAR(peak, 0.5F, 1e-3F) << "-6 dBFS";
            EXPECT_LT(std::abs(a.samples.front()), 0.005F);
            EXPECT_LT(std::abs(a.samples.back()), 0.005F);
        }
}

INSTANTIATE_TEST_SUITE_P(All, EachTransition, testing::Range(1, kTransitions),
                         [](const auto& which) { return std::string(names::kTransitions[static_cast<std::size_t>(which.param)]); });

TEST(Transitions, WhatLeadsToAPlaceIsLoudestAtItsEndAndWhatComesOutOfOneAtItsBeginning) {
    for (const Transition kind : {Transition::Riser, Transition::Swell, Transition::NoiseBuild, Transition::SnareBuild, Transition::ChordSwell}) {
        const Audio a = transition_sound({kind, 8.0, {57, 60, 64}, {}}, 4.0, 48000.0);
        EXPECT_GT(energy(a, 3.0, 4.0), 3.0 * energy(a, 0.0, 1.0)) << static_cast<int>(kind);
    }
    for (const Transition kind : {Transition::Fall, Transition::Impact, Transition::Crash, Transition::SubDrop}) {
        const Audio a = transition_sound({kind, 8.0, {57}, {}}, 4.0, 48000.0);
        EXPECT_GT(energy(a, 0.0, 1.0), 3.0 * energy(a, 3.0, 4.0)) << static_cast<int>(kind);
    }
}

TEST(Transitions, ARiserArrivesAtItsPitchAndASubDropFallsAnOctave) {
    const Audio riser = transition_sound({Transition::Riser, 8.0, {69}, {}}, 4.0, 48000.0);
    EXPECT_GT(power_at(riser, 438.0, 3.9, 4.0), 20.0 * power_at(riser, 390.0, 3.9, 4.0));
    const Audio drop = transition_sound({Transition::SubDrop, 8.0, {57}, {}}, 4.0, 48000.0);
    EXPECT_GT(power_at(drop, 107.0, 0.05, 0.3), 10.0 * power_at(drop, 60.0, 0.05, 0.3));
    EXPECT_GT(power_at(drop, 58.0, 3.4, 3.8), 10.0 * power_at(drop, 107.0, 3.4, 3.8));
}

TEST(Transitions, BuildsHastenFromOneStrokeABeatToEight) {
    const Audio a = transition_sound({Transition::SnareBuild, 16.0, {}, {}}, 8.0, 48000.0);
    // Of places so far apart, how many are struck: much louder just there than just before.
    const auto strokes = [&](double from_s, double to_s, double apart_s) {
        int n = 0;
        for (double t = from_s; t < to_s - 1e-6; t += apart_s) n += energy(a, t, t + 0.015) > 2.0 * energy(a, std::max(0.0, t - 0.015), t);
        return n;
    };
    EXPECT_EQ(strokes(0.0, 2.0, 0.5), 4);
    EXPECT_EQ(strokes(0.25, 2.0, 0.5), 0) << "none between the beats";
    EXPECT_EQ(strokes(2.0, 4.0, 0.25), 8);
    EXPECT_EQ(strokes(6.0, 8.0, 0.0625), 32);
}

TEST(Transitions, AChordsSwellBringsItsTonesOneByOneAndEndsInAll) {
    const Audio a = transition_sound({Transition::ChordSwell, 8.0, {60, 64, 67}, {}}, 4.0, 48000.0);
    const double low = 261.63, high = 392.0;
    EXPECT_GT(power_at(a, low, 0.2, 0.6), 20.0 * power_at(a, high, 0.2, 0.6)) << "the lowest comes first";
    for (const double hz : {low, 329.63, high}) EXPECT_GT(power_at(a, hz, 3.5, 4.0), 20.0 * power_at(a, 293.66, 3.5, 4.0)) << hz;
}

TEST(Recipes, FillBarsStopAsATapeDoesGateAndHoldAMoment) {
    const Audio tone = sine(441.0, 1.0);
    const ClipTime time{0.5, 2.0};
    const auto made = [&](const RecipeEntry& e) { return follow_recipe(tone, {e}, 44100, time); };
    EXPECT_NEAR(made({Treatment::Bars, 2.0}).duration_s(), 4.0, 0.03);
    EXPECT_NEAR(made({Treatment::Bars, 0.25}).duration_s(), 0.5, 0.02);

    const Audio stopped = made({Treatment::Stop, 500.0});
    EXPECT_NEAR(stopped.duration_s(), 1.25, 1e-3) << "the last quarter second takes twice as long";
    EXPECT_GT(power_at(stopped, 441.0, 0.4, 0.7), 100.0 * power_at(stopped, 330.0, 0.4, 0.7));
    EXPECT_GT(power_at(stopped, 220.0, 0.94, 1.06), 5.0 * power_at(stopped, 441.0, 0.94, 1.06)) << "half as fast in the middle";

    const Audio gated = made({Treatment::Gate, 2.0, 0.5});
    EXPECT_EQ(gated.frames(), tone.frames());
    EXPECT_GT(energy(gated, 0.01, 0.11), 0.9 * energy(tone, 0.01, 0.11));
    EXPECT_LT(energy(gated, 0.13, 0.24), 1e-9);
    EXPECT_GT(energy(gated, 0.26, 0.36), 0.9 * energy(tone, 0.26, 0.36));

    Audio two = sine(441.0, 1.0);
    const Audio other = sine(882.0, 1.0);
    two.samples.insert(two.samples.end(), other.samples.begin(), other.samples.end());
    const Audio held = follow_recipe(two, {{Treatment::Freeze, 500.0, 3000.0}}, 44100, time);
    EXPECT_NEAR(held.duration_s(), 3.0, 1e-3);
    EXPECT_GT(power_at(held, 441.0, 2.0, 2.8), 100.0 * power_at(held, 882.0, 2.0, 2.8));
    EXPECT_GT(energy(held, 2.5, 3.0), 0.3 * energy(held, 0.0, 0.5)) << "it does not die away";
    EXPECT_EQ(held.samples, follow_recipe(two, {{Treatment::Freeze, 500.0, 3000.0}}, 44100, time).samples);
}

TEST(Recipes, SpeedMovesLengthAndPitchTogetherAsATapeDoes) {
    const Audio tone = test::sine(441.0, 2.0);
    const Audio fast = follow_recipe(tone, {{Treatment::Speed, 1.5, 0.0}}, 44100), slow = follow_recipe(tone, {{Treatment::Speed, 0.5, 0.0}}, 44100);
    EXPECT_NEAR(fast.duration_s(), 2.0 / 1.5, 1e-3);
    EXPECT_NEAR(slow.duration_s(), 4.0, 1e-3);
    EXPECT_GT(power_at(fast, 661.5, 0.2, 1.1), 1000.0 * power_at(fast, 441.0, 0.2, 1.1));
    EXPECT_GT(power_at(slow, 220.5, 0.2, 3.5), 1000.0 * power_at(slow, 441.0, 0.2, 3.5));
    Clip clip;
    clip.recipe = {{Treatment::Speed, 0.5, 0.0}};
    Asset asset;
    asset.end_s = 2.0;
    EXPECT_EQ(recipe_seconds(Song(), asset, clip), 4.0);
}

TEST(Recipes, ASoundThatLeansIsBroughtToTheMiddleAndASilentSideGetsTheOthers) {
    Audio leans = test::sine(441.0, 1.0), dead = leans;
    for (std::size_t f = 0; f < leans.frames(); ++f) leans.samples[2 * f] *= 0.25F, dead.samples[2 * f + 1] = 0.0F;
    const auto power = [](const Audio& a, std::size_t side) {
        double sum = 0.0;
        for (std::size_t f = 0; f < a.frames(); ++f) sum += static_cast<double>(a.samples[2 * f + side]) * static_cast<double>(a.samples[2 * f + side]);
        return sum;
    };
    const auto even = [](const Audio& a, double strength) { return follow_recipe(a, {{Treatment::Even, strength, 0.0}}, 44100); };
    const Audio middle = even(leans, 1.0), half = even(leans, 0.5), woken = even(dead, 1.0);
    EXPECT_NEAR(power(middle, 0) / power(middle, 1), 1.0, 1e-3);
    EXPECT_NEAR(power(middle, 0) + power(middle, 1), power(leans, 0) + power(leans, 1), 0.001 * power(leans, 1)) << "as loud as it was";
    EXPECT_NEAR(power(half, 1) / power(half, 0), 4.0, 0.01) << "half of 12 dB";
    EXPECT_NEAR(power(woken, 0) / power(woken, 1), 1.0, 1e-3);
    EXPECT_NEAR(power(woken, 0) + power(woken, 1), power(dead, 0), 0.001 * power(dead, 0));
    EXPECT_EQ(even(leans, 0.0).samples, leans.samples);
    const Audio silent{44100, 2, std::vector<float>(2000, 0.0F), {}};
    EXPECT_EQ(even(silent, 1.0).samples, silent.samples);
}

TEST(Recipes, NothingIsLeftOfNothing) {
    for (int t = 0; t < kTreatments; ++t) {
        const TreatmentType& type = kTreatmentTypes[static_cast<std::size_t>(t)];
        const RecipeEntry e{type.treatment, type.fields.empty() ? 0.0 : type.fields[0].neutral, type.fields.size() < 2 ? 0.0 : type.fields[1].neutral};
        EXPECT_EQ(follow_recipe({44100, 2, {}, {}}, {e}, 44100).frames(), 0u) << type.id;
    }
}

}  // namespace fw
