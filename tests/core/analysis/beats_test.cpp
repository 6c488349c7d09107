// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/made_evidence.hpp"

#include <gtest/gtest.h>
#include <random>

namespace fw {

using namespace test;

class BeatTempos : public testing::TestWithParam<double> {};
TEST_P(BeatTempos, AreFoundToAHundredthOfABpm) {
    const auto truth = steady_beats(GetParam(), 120);
    const Frames pulse = pulse_of(truth, 4);
    auto beats = track_beats(pulse);
    const TempoEstimate tempo = fit_tempo(beats, pulse);
    EXPECT_NEAR(tempo.bpm, GetParam(), 0.01);
    EXPECT_TRUE(tempo.steady);
    EXPECT_GE(f_measure(truth, beats, 0.02), 0.98);
}
INSTANTIATE_TEST_SUITE_P(Steady, BeatTempos, testing::Values(61.37, 84.0, 97.3, 120.0, 140.55, 174.2));

TEST(Beats, ThatNothingBearsOutDoNotBendTheTempo) {
    const auto played = steady_beats(110.0, 24);
    const Frames pulse = pulse_of(played, 4);
    auto beats = played;
    for (int i = 24; i < 28; ++i) beats.push_back(0.6 + i * 60.0 / 110.0 + 0.0055);  // counted on into the tail, a little late
    EXPECT_NEAR(fit_tempo(beats, pulse).bpm, 110.0, 0.01);
}

TEST(Beats, FollowATempoThatDrifts) {
    std::vector<double> truth{0.5};
    for (int i = 0; i < 200; ++i) truth.push_back(truth.back() + 0.5 * (1.0 + 0.05 * std::sin(i / 25.0)));
    const Frames pulse = pulse_of(truth, 4);
    auto beats = track_beats(pulse);
    const TempoEstimate tempo = fit_tempo(beats, pulse);
    EXPECT_FALSE(tempo.steady);
    EXPECT_GE(f_measure(truth, beats, 0.03), 0.97);
}

TEST(Beats, AChangeOfTempoIsTwoStretches) {
    auto truth = steady_beats(97.3, 160);
    for (int i = 1; i <= 60; ++i) truth.push_back(truth[159] + i * 60.0 / 110.6);
    const Frames pulse = pulse_of(truth, 4);
    auto beats = track_beats(pulse);
    const TempoEstimate tempo = fit_tempo(beats, pulse);
    ASSERT_EQ(tempo.segments.size(), 2u);
    EXPECT_NEAR(tempo.segments[0].bpm, 97.3, 0.03);
    EXPECT_NEAR(tempo.segments[1].bpm, 110.6, 0.05);
    EXPECT_NEAR(tempo.segments[1].start_s, truth[159], 1.3);
}

TEST(Beats, FreeTimeBetweenSteadyStretchesIsToldAndCountedThrough) {
    auto truth = steady_beats(110, 60);
    const double gap_from = truth.back(), gap_to = gap_from + 8.0;
    for (int i = 0; i < 60; ++i) truth.push_back(gap_to + i * 60.0 / 110);
    const Frames pulse = pulse_of(truth, 4);
    auto beats = track_beats(pulse);
    const TempoEstimate tempo = fit_tempo(beats, pulse);
    ASSERT_EQ(tempo.free_time.size(), 1u);
    EXPECT_NEAR(tempo.free_time[0].first, gap_from, 1.2);
    EXPECT_NEAR(tempo.free_time[0].second, gap_to, 1.2);
    EXPECT_GT(std::count_if(beats.begin(), beats.end(), [&](double b) { return b > gap_from + 0.3 && b < gap_to - 0.3; }), 5);
}

TEST(Beats, ASteadySongHasNoFreeTime) {
    auto beats = steady_beats(110, 60);
    beats.erase(beats.begin() + 20, beats.begin() + 22);  // two silent beats are a rest
    const Frames pulse = pulse_of(beats, 4);
    auto found = track_beats(pulse);
    EXPECT_TRUE(fit_tempo(found, pulse).free_time.empty());
}

TEST(Beats, AVerseInHalfTimeIsCountedAsTheRest) {
    const auto truth = steady_beats(120, 128);
    std::vector<double> struck;
    for (std::size_t i = 0; i < truth.size(); ++i)
        if (i < 48 || i >= 88 || i % 2 == 0) struck.push_back(truth[i]);
    const Frames pulse = pulse_of(struck, 4);
    std::vector<double> halved(struck);  // as the tracker may have them
    const TempoEstimate tempo = fit_tempo(halved, pulse);
    ASSERT_EQ(tempo.segments.size(), 1u);
    EXPECT_NEAR(tempo.bpm, 120.0, 0.02);
    ASSERT_EQ(halved.size(), truth.size());
    for (std::size_t i = 0; i < truth.size(); ++i) EXPECT_NEAR(halved[i], truth[i], 0.02) << i;
}

TEST(Beats, AVerseInDoubleTimeIsCountedAsTheRest) {
    const auto truth = steady_beats(90, 96);
    std::vector<double> doubled;
    for (std::size_t i = 0; i < truth.size(); ++i) {
        doubled.push_back(truth[i]);
        if (i >= 40 && i < 60) doubled.push_back(truth[i] + 30.0 / 90);
    }
    const TempoEstimate tempo = fit_tempo(doubled, pulse_of(doubled, 4));
    EXPECT_EQ(tempo.segments.size(), 1u);
    ASSERT_EQ(doubled.size(), truth.size());
    for (std::size_t i = 0; i < truth.size(); ++i) EXPECT_NEAR(doubled[i], truth[i], 0.02) << i;
}

TEST(Beats, APartCountedOffTheBeatJoinsTheRestUnlessItStandsByItself) {
    for (const bool alone : {false, true}) {
        auto found = steady_beats(126, 130);
        const double aside = found.back() + 1.5 * 60.0 / 126;
        for (int i = 0; i < 70; ++i) found.push_back(aside + i * 60.0 / 126);
        Frames pulse = Frames::Constant(static_cast<Eigen::Index>(Evidence::pulse_frame(found.back() + 2.0)), kPulseColumns, 0.01F);
        for (std::size_t i = 0; i < 130; ++i) spike(pulse, found[i], kBeat, alone ? 0.4F : 0.8F);
        for (std::size_t i = 130; i < found.size(); ++i) spike(pulse, found[i], kBeat, alone ? 0.9F : 0.4F);
        const double first = found.front(), step = 60.0 / 126;
        const TempoEstimate tempo = fit_tempo(found, pulse);
        std::size_t off = 0;
        for (const double t : found) off += std::abs((t - first) / step - std::round((t - first) / step)) > 0.1;
        if (alone) EXPECT_EQ(off, 70u) << "beats were left out in truth";
        else EXPECT_EQ(off, 0u);
        EXPECT_NEAR(tempo.bpm, 126.0, 0.02);
    }
}

TEST(Beats, AnIntroInGroupsOfThreeIsCountedAsTheRestUnlessItGoesByItsOwn) {
    // Strokes on every third sixteenth of 90 BPM make 120.
    for (const bool own_tempo : {false, true}) {
        const double beat = 60.0 / 90, start = 0.6, drums = start + 18 * beat;
        std::vector<double> found;
        for (double t = start; t < drums - 0.1; t += 0.75 * beat) found.push_back(t);
        const std::size_t intro = found.size();
        for (int i = 0; i < 90; ++i) found.push_back(drums + i * beat);
        Frames pulse = Frames::Constant(static_cast<Eigen::Index>(Evidence::pulse_frame(found.back() + 2.0)), kPulseColumns, 0.01F);
        for (std::size_t i = 0; i < found.size(); ++i) spike(pulse, found[i], kBeat, i < intro ? 0.5F : 0.9F);
        if (!own_tempo)
            for (double t = start; t < drums - 0.1; t += 0.25 * beat) spike(pulse, t, kPitchedOnset, 0.9F);
        const TempoEstimate tempo = fit_tempo(found, pulse);
        std::size_t off = 0;
        for (const double t : found) off += std::abs((t - drums) / beat - std::round((t - drums) / beat)) > 0.1;
        EXPECT_NEAR(tempo.bpm, 90.0, 0.02);
        EXPECT_EQ(tempo.segments.size(), own_tempo ? 2u : 1u);
        EXPECT_EQ(off, own_tempo ? intro * 3 / 4 : 0u);
    }
}

TEST(Beats, SilentEvidenceHasNoPulse) {
    EXPECT_TRUE(track_beats(Frames::Constant(5000, kPulseColumns, 0.01F)).empty());
    EXPECT_TRUE(track_beats(Frames(0, kPulseColumns)).empty());
    std::vector<double> none;
    EXPECT_EQ(fit_tempo(none, Frames(0, kPulseColumns)).bpm, 0.0);
}

TEST(Beats, StopWhenToldTo) {
    Progress progress;
    progress.cancel();
    EXPECT_THROW(track_beats(pulse_of(steady_beats(120, 60), 4), progress), Cancelled);
}

class Meters : public testing::TestWithParam<std::pair<int, int>> {};
TEST_P(Meters, AreCountedFromTheRightBeat) {
    const auto [per_bar, upbeats] = GetParam();
    const auto beats = steady_beats(110, per_bar * 20);
    const Bars bars = find_bars(beats, pulse_of(beats, per_bar, upbeats));
    ASSERT_FALSE(bars.meter.empty());
    EXPECT_EQ(bars.meter.back().numerator, per_bar);
    int right = 0;
    for (std::size_t i = 0; i < beats.size(); ++i) right += (bars.beats[i].beat == 1) == ((static_cast<int>(i) - upbeats) % per_bar == 0);
    EXPECT_GE(right, static_cast<int>(beats.size()) - 2);
}
INSTANTIATE_TEST_SUITE_P(All, Meters,
                         testing::Values(std::pair{4, 0}, std::pair{3, 0}, std::pair{4, 1}, std::pair{3, 2}, std::pair{5, 0}, std::pair{7, 0},
                                         std::pair{6, 0}));

TEST(MetersTest, BeatsThatSplitInThreeMakeSixEight) {
    const auto beats = steady_beats(70, 60);
    Frames pulse = pulse_of(beats, 2);
    for (std::size_t i = 0; i + 1 < beats.size(); ++i)
        for (int k = 0; k < 3; ++k) spike(pulse, beats[i] + k * (beats[i + 1] - beats[i]) / 3, kHatClosed);
    const Bars bars = find_bars(beats, pulse);
    EXPECT_EQ(bars.meter[0].numerator, 6);
    EXPECT_EQ(bars.meter[0].denominator, 8);
}

TEST(MetersTest, BarsAreWhatTheMusicRepeatsIn) {
    const auto beats = steady_beats(110, 96);
    Frames pulse = pulse_of(beats, 1);  // every beat looks like a downbeat
    for (std::size_t i = 0; i < beats.size(); ++i) spike(pulse, beats[i], i % 3 == 0 ? kKick : i % 3 == 1 ? kSnare : kHatClosed);
    ASSERT_EQ(find_bars(beats, pulse).meter.size(), 1u);
    EXPECT_EQ(find_bars(beats, pulse).meter[0].numerator, 3);
}

TEST(MetersTest, WhatPlaysChangesOnBarLines) {
    const auto beats = steady_beats(120, 128);
    Evidence e = silent_evidence(66);
    e.pulse = pulse_of(beats, 1);
    const auto frames = e.pulse.rows();
    e.bands = Frames::Constant(frames, 3, 0.2F);
    // The song begins with one upbeat; hats, then a snare, then a kick come in on bar lines.
    for (std::size_t i = 17; i < beats.size(); ++i) {
        spike(e.pulse, beats[i], kHatClosed);
        if (i >= 49) spike(e.pulse, beats[i], kSnare);
        if (i >= 81) spike(e.pulse, beats[i], kKick);
    }
    const Bars bars = find_bars(beats, e.pulse, bar_line_clues(e, beats));
    ASSERT_EQ(bars.meter.size(), 1u);
    EXPECT_EQ(bars.meter[0].numerator, 4);
    for (std::size_t i = 0; i < beats.size(); ++i) EXPECT_EQ(bars.beats[i].beat, static_cast<int>((i + 3) % 4) + 1) << i;
}

TEST(SwingTest, IsMeasuredToAPercent) {
    for (const double ratio : {0.5, 0.57, 0.62, 0.667}) {
        const auto beats = four_four(97, 20);
        std::vector<double> onsets;
        std::mt19937 random(3);
        std::normal_distribution<double> jitter(0.0, 0.003);
        for (std::size_t i = 0; i + 1 < beats.size(); ++i) {
            const double step = beats[i + 1].time_s - beats[i].time_s;
            for (const double half : {0.0, 0.5})
                onsets.push_back(beats[i].time_s + half * step + jitter(random)),
                    onsets.push_back(beats[i].time_s + (half + 0.5 * ratio) * step + jitter(random));
        }
        std::sort(onsets.begin(), onsets.end());
        const Swing swing = measure_swing(beats, onsets);
        EXPECT_NEAR(swing.ratio, ratio, 0.01);
        EXPECT_EQ(swing.subdivision, 16);
    }
}

}  // namespace fw
