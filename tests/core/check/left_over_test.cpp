// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/left_over.hpp"

#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <cmath>

namespace fw {

using test::small_remake;

namespace {

/// A chord all through and, between two times, something more.
Audio song(double extra_hz, double from_s, double to_s, float amplitude, double seconds = 16.0) {
    Audio a = test::sine(220.0, seconds, 44100, 2, 0.2F);
    const Audio fifth = test::sine(330.0, seconds, 44100, 2, 0.2F), more = test::sine(extra_hz, seconds, 44100, 2, amplitude);
    for (std::size_t i = 0; i < a.samples.size(); ++i) {
        const double t = static_cast<double>(i / 2) / 44100.0;
        // It comes and goes softly: a click would be everywhere.
        const double there = std::clamp(std::min(t - from_s, to_s - t) / 0.15, 0.0, 1.0);
        a.samples[i] += fifth.samples[i] + static_cast<float>(there) * more.samples[i];
    }
    return a;
}

}  // namespace

TEST(LeftOver, OfTheSameSoundNothingIsLeftOfNoSoundAll) {
    const Remake r = small_remake();
    const SoundSummary a = summarise(song(1500, 4, 6, 0.1F)), silence = summarise(Audio{44100, 2, std::vector<float>(44100 * 32, 0.0F), {}});
    const LeftOver same = left_over(r, a, a, 0.0);
    EXPECT_TRUE(same.moments.empty());
    EXPECT_TRUE(same.faint.empty());
    for (const float s : same.share) EXPECT_LT(s, 0.05F);
    for (const std::uint8_t cell : same.semitones.cells()) ASSERT_EQ(cell, 0) << "nothing to draw";
    const LeftOver all = left_over(r, a, silence, 0.0);
    ASSERT_FALSE(all.moments.empty());
    EXPECT_GT(all.moments.front().share, 0.95);
    EXPECT_EQ(all.semitones.cells(), a.semitones.cells()) << "all of it is drawn";
    EXPECT_GT(*std::min_element(all.share.begin() + 5, all.share.end() - 10), 0.95F);
    EXPECT_TRUE(left_over(r, silence, a, 0.0).moments.empty()) << "what the original has not cannot be left";
    EXPECT_TRUE(left_over(r, summarise(song(1500, 4, 6, 0.1F)), summarise([] {
                              Audio soft = song(1500, 4, 6, 0.1F);
                              for (float& s : soft.samples) s *= 0.25F;
                              return soft;
                          }()),
                          12.04)
                    .moments.empty())
        << "softer by the whole is not missing";
}

TEST(LeftOver, WhatIsMissingIsFoundAtItsBarAndPitchAndNamed) {
    const Remake r = small_remake();
    const auto& s = *r.song;
    const double from = s.tempo.seconds(s.meter.tick_of_bar(3)), to = s.tempo.seconds(s.meter.tick_of_bar(4));
    const LeftOver left = left_over(r, summarise(song(1568, from, to, 0.1F)), summarise(song(1568, 0, 0, 0.1F)), 0.0);
    ASSERT_EQ(left.moments.size(), 1u);
    EXPECT_EQ(left.moments[0].bar, 3);
    EXPECT_EQ(left.moments[0].pitch, 91) << "G6";
    EXPECT_LT(left.moments[0].low_hz, 1568);
    EXPECT_GT(left.moments[0].high_hz, 1568);
    EXPECT_NE(left_words(left.moments[0], false).find("bar 3"), std::string::npos);
    EXPECT_NE(left_words(left.moments[0], false).find("around G6"), std::string::npos);
}

TEST(LeftOver, AFaintLayerAllThroughASectionIsToldAsOne) {
    const Remake r = small_remake();
    ASSERT_FALSE(r.song->sections.empty());
    const LeftOver left = left_over(r, summarise(song(2093, 0, 100, 0.006F)), summarise(song(2093, 0, 0, 0.0F)), 0.0);
    ASSERT_FALSE(left.faint.empty());
    EXPECT_EQ(left.faint[0].pitch, 96) << "C7";
    EXPECT_LT(left.faint[0].below_db, -18.0);
    EXPECT_GT(left.faint[0].bars, 1);
}

TEST(WhatNext, TheLargestStakeComesFirstAndTheRightAnswerLeavesNothing) {
    const Remake r = small_remake();
    CheckReport report;
    report.match.notes = 0.8;
    report.elements.push_back({ElementId(test::kBass), "Bass", "part", {0.9, {}, 0.9}, "", std::vector<std::optional<double>>(8, 0.9), {}, 0.3});
    report.elements.push_back({ElementId(test::kDrums), "Drums", "part", {0.4, {}, 0.9}, "", {1.0, 1.0, 0.0, 0.1, 0.0, 0.2, 1.0, 1.0}, {}, 0.7});
    const auto steps = what_next(r, report, nullptr);
    ASSERT_EQ(steps.size(), 2u);
    EXPECT_EQ(steps[0].words, "Drums: notes 40 %, least in bars 3 to 6");
    EXPECT_EQ(steps[0].element, ElementId(test::kDrums));
    EXPECT_NEAR(steps[0].from_s, r.song->tempo.seconds(r.song->meter.tick_of_bar(3)), 1e-6);
    for (ElementMatch& e : report.elements) e.match.notes = 1.0;
    EXPECT_TRUE(what_next(r, report, nullptr).empty());
}

}  // namespace fw
