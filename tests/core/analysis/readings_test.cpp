// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/readings.hpp"

#include "support/made_evidence.hpp"

#include <gtest/gtest.h>
#include <random>

namespace fw {

using test::play;
using test::silent_evidence;
using test::spike;

namespace {

constexpr double kBpm = 100.0;

/// Rock in 4/4: kick and snare in turn on the beats, a bass note with each kick, another chord every bar, from 0.6 s on.
Evidence rock(double seconds = 60.0) {
    Evidence e = silent_evidence(seconds);
    const double beat = 60.0 / kBpm;
    for (int b = 0; 0.6 + (b + 1) * beat < seconds; ++b) {
        const double t = 0.6 + b * beat;
        spike(e.pulse, t, pulse_column(b % 2 ? DrumKind::Snare : DrumKind::Kick));
        spike(e.pulse, t, kBeat);
        const int root = 40 + (b / 4 % 2) * 5;
        if (b % 2 == 0) test::sound(e.bass_sounding, e.bass_onset, t, t + beat, root);
        if (b % 4 == 0)
            for (const int tone : {12, 16, 19}) play(e, t, t + 4 * beat, root + tone);
    }
    return e;
}

Song at(double bpm, double first_s, int numerator = 4, int denominator = 4) {
    Song s;
    s.tempo = TempoMap({{0, first_s}, {kTicksPerQuarter, first_s + 60.0 / bpm}});
    s.meter = MeterMap({{1, numerator, denominator}});
    return s;
}

/// The song as a reading counts it: tempo and where its beats fall, in beats.
std::pair<double, double> result(const Song& song, const Reading& r) {
    const TempoMap map = song.tempo.reread(r.factor, -r.later);
    const double place = map.ticks(0.6) / kTicksPerQuarter;
    return {map.bpm_at(0), std::abs(place - std::round(place))};
}

}  // namespace

TEST(Readings, OfAWrongCountTheRightOneIsOfferedFirstAndOnTheBeat) {
    const Evidence e = rock();
    for (const double factor : {1.5, 2.0 / 3.0, 4.0 / 3.0, 0.75, 2.0, 0.5}) {
        const Song wrong = at(kBpm * factor, 0.6);
        const auto offered = readings(wrong, e);
        EXPECT_EQ(offered.front().words, "as it is");
        const auto [bpm, aside] = result(wrong, offered[1]);
        EXPECT_NEAR(bpm, kBpm, 0.05) << factor;
        EXPECT_LT(aside, 0.02) << factor;
        EXPECT_GT(offered[1].fit, offered[0].fit) << factor;
    }
}

TEST(Readings, WhatIsCountedRightIsLeftAlone) {
    const auto offered = readings(at(kBpm, 0.6), rock());
    for (std::size_t i = 1; i < offered.size(); ++i) EXPECT_GE(offered[0].fit, offered[i].fit) << offered[i].words;
    ASSERT_TRUE(offered[0].drums && offered[0].bass && offered[0].harmony);
    EXPECT_GT(*offered[0].drums, 0.8);
    EXPECT_GT(*offered[0].harmony, 0.6);
}

TEST(Readings, HalfABeatAsideIsSeen) {
    const Song aside = at(kBpm, 0.3);
    const auto offered = readings(aside, rock());
    EXPECT_TRUE(offered[1].words == "half a beat later" || offered[1].words == "half a beat earlier") << offered[1].words;
    EXPECT_LT(result(aside, offered[1]).second, 0.02);
}

TEST(Readings, TripletsAndStraightAreOfferedEachForTheOther) {
    const auto has = [](const std::vector<Reading>& all, const std::string& words) {
        return std::find_if(all.begin(), all.end(), [&](const Reading& r) { return r.words == words; });
    };
    const auto straight = readings(at(kBpm, 0.6), rock());
    const auto triplets = has(straight, "triplets");
    ASSERT_NE(triplets, straight.end());
    EXPECT_EQ(triplets->numerator, 12);
    EXPECT_EQ(triplets->denominator, 8);
    EXPECT_NEAR(triplets->bpm, 150.0, 0.01) << "quarters; the felt beat stays";
    const auto compound = readings(at(1.5 * kBpm, 0.6, 12, 8), rock());
    ASSERT_NE(has(compound, "straight"), compound.end());
}

TEST(Readings, OfSilenceNothingIsSaid) {
    for (const Reading& r : readings(at(kBpm, 0.6), silent_evidence(20.0))) {
        EXPECT_FALSE(r.drums || r.bass);
        EXPECT_EQ(r.fit, 0.0);
    }
}

TEST(Taps, AreTheRecordingsOwnTempoHoweverUnsteadyTheHand) {
    std::mt19937 random(5);
    std::normal_distribution<double> hand(0.012, 0.02);
    for (const double factor : {1.0, 1.5, 2.0 / 3.0, 2.0, 0.75}) {
        const Song wrong = at(kBpm * factor, 0.6);
        std::vector<double> taps;
        for (int b = 20; b < 28; ++b) taps.push_back(0.6 + b * 60.0 / kBpm + hand(random));
        const auto meaning = meaning_of_taps(wrong, rock(), taps);
        ASSERT_TRUE(meaning) << factor;
        EXPECT_TRUE(meaning->beats_s.empty());
        Reading r;
        r.factor = meaning->factor, r.later = meaning->later;
        const auto [bpm, aside] = result(wrong, r);
        EXPECT_NEAR(bpm, kBpm, 0.01) << factor;
        EXPECT_LT(aside, 0.02) << factor;
    }
}

TEST(Taps, OnTheOffBeatPutTheBeatsThere) {
    // However early or late the hand is.
    for (const double late_s : {-0.03, 0.0, 0.02, 0.04}) {
        std::vector<double> taps;
        for (int b = 4; b < 12; ++b) taps.push_back(0.6 + (b + 0.5) * 60.0 / kBpm + late_s);
        const auto meaning = meaning_of_taps(at(kBpm, 0.6), rock(), taps);
        ASSERT_TRUE(meaning);
        EXPECT_EQ(meaning->factor, 1.0);
        EXPECT_EQ(meaning->later, kTicksPerQuarter / 2) << late_s;
    }
}

TEST(Taps, WhereNoSimpleFactorExplainsThemTheEvidenceIsCountedAnew) {
    // The map says 119, the recording goes at 100: a line through the taps says which, the evidence how exactly.
    std::vector<double> taps;
    for (int b = 30; b < 38; ++b) taps.push_back(0.6 + b * 0.6 + (b % 2 ? 0.015 : -0.01));
    const auto meaning = meaning_of_taps(at(119.0, 0.6), rock(), taps);
    ASSERT_TRUE(meaning);
    ASSERT_GT(meaning->beats_s.size(), 90u);
    for (const double t : meaning->beats_s) {
        const double beats = (t - 0.6) / 0.6;
        EXPECT_NEAR(beats, std::round(beats), 0.03);
    }
}

TEST(Taps, ThatAreNoPulseSayNothing) {
    EXPECT_FALSE(meaning_of_taps(at(kBpm, 0.6), rock(), {1.0, 1.6, 2.2}));
    EXPECT_FALSE(meaning_of_taps(at(kBpm, 0.6), rock(), {1.0, 1.1, 2.0, 2.05, 3.4, 3.5}));
    EXPECT_FALSE(meaning_of_taps(at(kBpm, 0.6), rock(), {1.0, 1.0, 1.0, 1.0}));
}

}  // namespace fw
