// SPDX-License-Identifier: GPL-3.0-or-later
// Sound re-timed by marks: what was struck is heard where it should be, and nothing else changes.
#include "audio/mono.hpp"
#include "dsp/hits.hpp"
#include "dsp/probe.hpp"
#include "engine/clip_sound.hpp"

#include "../../support/signals.hpp"

#include <gtest/gtest.h>

namespace fw {
namespace {

constexpr int kRate = 44100;

Audio stereo(const Audio& mono) {
    Audio a{mono.sample_rate_hz, 2, {}, {}};
    for (const float s : mono.samples) a.samples.push_back(s), a.samples.push_back(s);
    return a;
}

RecipeEntry warp_of(std::vector<WarpMark> marks) {
    RecipeEntry e;
    e.treatment = Treatment::Warp;
    e.marks = std::move(marks);
    return e;
}

/// When it becomes loud near a time, seconds: the first sample above a third of the loudest.
double struck_near(const Audio& a, double at_s) {
    const auto from = static_cast<std::size_t>((at_s - 0.03) * a.sample_rate_hz), to = static_cast<std::size_t>((at_s + 0.05) * a.sample_rate_hz);
    float most = 0.0F;
    for (std::size_t i = from; i < std::min(to, a.frames()); ++i) most = std::max(most, std::abs(a.samples[2 * i]));
    std::size_t at = from;
    while (std::abs(a.samples[2 * at]) < most / 3.0F) ++at;
    return static_cast<double>(at) / a.sample_rate_hz;
}

TEST(Warp, WhatIsStruckAtAMarkIsHeardWhereItIsPut) {
    const std::vector<double> struck{0.23, 0.51, 0.74, 1.03, 1.24, 1.52, 1.77};
    const Audio loop = stereo(test::clicks(struck, 2.0));
    std::vector<WarpMark> marks;
    for (std::size_t i = 0; i < struck.size(); ++i) marks.push_back({1000.0 * struck[i], 250.0 * static_cast<double>(i + 1), {}});
    const Audio warped = follow_recipe(loop, {warp_of(marks)}, kRate);
    EXPECT_EQ(warped.frames(), loop.frames()) << "the whole lasts as long as it did";
    for (std::size_t i = 0; i < struck.size(); ++i)
        EXPECT_NEAR(struck_near(warped, 0.25 * static_cast<double>(i + 1)), 0.25 * static_cast<double>(i + 1), 0.0015) << i;
    const auto hits = find_hits(mono_of(warped), kRate);
    ASSERT_EQ(hits.size(), struck.size()) << "a joint strikes nothing";
    for (std::size_t i = 0; i < hits.size(); ++i) EXPECT_NEAR(hits[i], 0.25 * static_cast<double>(i + 1), 0.004);
}

TEST(Warp, WhatIsNotBetweenMovedMarksIsLeftSampleForSample) {
    const Audio loop = stereo(test::tones({{0.0, 0.5, 57}, {0.5, 0.5, 60}, {1.0, 0.5, 64}, {1.5, 0.5, 57}}, 2.0));
    const Audio warped = follow_recipe(loop, {warp_of({{500.0, 500.0, {}}, {1000.0, 1040.0, {}}, {1500.0, 1500.0, {}}})}, kRate);
    for (const double at : {0.1, 0.3, 0.49, 1.52, 1.8}) {
        const auto i = static_cast<std::size_t>(2.0 * at * kRate) / 2 * 2;
        EXPECT_NEAR(warped.samples[i], loop.samples[i], 1e-5) << at;
    }
}

TEST(Warp, KeepsThePitchOfWhatItStretches) {
    const Audio voice = stereo(test::tones({{0.0, 1.0, 57}, {1.0, 1.0, 64}}, 2.0));
    const Audio warped = follow_recipe(voice, {warp_of({{1000.0, 1200.0, {}}})}, kRate);
    const std::vector<float> mono = mono_of(warped);
    const auto pitch_at = [&](double from_s) {
        return probe_pitch(std::span(mono).subspan(static_cast<std::size_t>(from_s * kRate), static_cast<std::size_t>(0.3 * kRate)), kRate);
    };
    const auto first = pitch_at(0.7), second = pitch_at(1.35);
    ASSERT_TRUE(first && second);
    EXPECT_NEAR(first->hz, 220.0, 1.0);
    EXPECT_NEAR(second->hz, 329.63, 1.5);
}

TEST(Warp, SaysNothingToSilenceToNoMarksAndToMarksOutsideTheSound) {
    const Audio loop = stereo(test::clicks({0.2, 0.6}, 1.0));
    EXPECT_EQ(follow_recipe(loop, {warp_of({})}, kRate).samples, follow_recipe(loop, {}, kRate).samples);
    EXPECT_EQ(follow_recipe(loop, {warp_of({{5000.0, 5100.0, {}}})}, kRate).samples, follow_recipe(loop, {}, kRate).samples);
    // Put to its very end, or squeezed to nothing: no stretch is shorter than its joint, and the length stays.
    EXPECT_EQ(follow_recipe(loop, {warp_of({{200.0, 999.9, {}}, {600.0, 1000.0, {}}})}, kRate).frames(), loop.frames());
    const Audio squeezed = follow_recipe(loop, {warp_of({{200.0, 15.0, {}}, {600.0, 30.0, {}}})}, kRate);
    EXPECT_EQ(squeezed.frames(), loop.frames());
    for (const float s : squeezed.samples) ASSERT_TRUE(std::isfinite(s));
    for (const double ratio : {0.1, 0.2, 0.3}) {
        const Audio shorter = follow_recipe(loop, {{Treatment::Stretch, ratio, 0.0, 1.0, {}}}, kRate);
        EXPECT_NEAR(static_cast<double>(shorter.frames()), ratio * static_cast<double>(loop.frames()), 600.0) << ratio;
        for (const float s : shorter.samples) ASSERT_TRUE(std::isfinite(s));
    }
    Audio silence{kRate, 2, std::vector<float>(2 * kRate, 0.0F), {}};
    for (const float s : follow_recipe(silence, {warp_of({{300.0, 500.0, {}}})}, kRate).samples) ASSERT_EQ(s, 0.0F);
}

}  // namespace
}  // namespace fw
