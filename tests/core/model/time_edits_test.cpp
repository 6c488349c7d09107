// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <random>

namespace fw {

using test::kBass;
using test::kDrums;
using test::small_remake;
using test::sounding;

namespace {

constexpr Ticks kBar = 3840;

void expect_same_times(const Remake& a, const Remake& b, const char* what, double tolerance_s = 0.0011) {
    for (const PartId part : {kBass, kDrums}) {
        auto x = sounding(a, part), y = sounding(b, part);
        std::sort(x.begin(), x.end());
        std::sort(y.begin(), y.end());
        ASSERT_EQ(x.size(), y.size()) << what;
        for (std::size_t i = 0; i < x.size(); ++i) {
            ASSERT_NEAR(x[i].first, y[i].first, tolerance_s) << what << " " << i;
            ASSERT_EQ(x[i].second, y[i].second) << what << " " << i;
        }
    }
}

/// A map with a hundred tempo changes and more.
TempoMap restless(unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> step(0.25, 0.9);
    std::vector<TempoMap::Anchor> anchors;
    double t = 0.3;
    for (int b = 0; b <= 160; ++b) anchors.push_back({b * kTicksPerQuarter, t += step(random)});
    return TempoMap(anchors);
}

}  // namespace

TEST(TempoMapProperties, ThereAndBackIsTheSamePlaceWithinAMicrosecond) {
    for (unsigned seed = 0; seed < 20; ++seed) {
        const TempoMap map = restless(seed);
        double before = -1e9;
        for (Ticks t = -5000; t < 170 * kTicksPerQuarter; t += 97) {
            const double s = map.seconds(t);
            ASSERT_GT(s, before) << "time goes on";
            before = s;
            ASSERT_NEAR(map.ticks(s), static_cast<double>(t), 1e-5);
            ASSERT_NEAR(map.seconds(map.ticks(s)), s, 1e-6);
        }
    }
}

TEST(TimeEdits, NoReadingMovesANoteInTime) {
    const Remake r = small_remake();
    for (const double factor : {0.5, 2.0, 1.5, 2.0 / 3.0, 4.0 / 3.0, 0.75}) expect_same_times(r, reread_tempo(r, factor), "factor", 0.002);
    for (const Ticks by : {480, -480, 960, 1920, 3000, -3840}) expect_same_times(r, shift_beats(r, by), "shift");
    for (int beats = 0; beats < 4; ++beats) expect_same_times(r, set_upbeat(r, beats), "upbeat");
    expect_same_times(r, take_reading(r, 1.5, 480, 12, 8), "triplets");
    // Over the length of the recording another tempo puts each of its patterns' places elsewhere; what is played once stays.
    EXPECT_NEAR(set_tempo(r, 97.25).song->tempo.bpm_at(0), 97.25, 1e-9);
    const auto before = sounding(r, kDrums), after = sounding(set_tempo(r, 97.25), kDrums);
    for (std::size_t i = 0; i < before.size(); ++i) EXPECT_NEAR(before[i].first, after[i].first, 0.001);
}

TEST(TimeEdits, HalfABeatLaterPutsBeatsThereAndSectionsStayOnBars) {
    const Remake r = small_remake(), later = shift_beats(r, 480);
    EXPECT_NEAR(later.song->tempo.seconds(Ticks{0}), 0.75, 1e-9);
    for (const Section& s : later.song->sections) EXPECT_EQ(s.start % kBar, 0);
    EXPECT_EQ(shift_beats(later, -480).song->tempo, r.song->tempo);
}

TEST(TimeEdits, ADownbeatMovedByThreeBeatsLeavesSectionsOnTheNearestBarLine) {
    const Remake moved = set_downbeat(small_remake(), 0.5 + 0.5 * 3);
    for (const Section& s : moved.song->sections) {
        EXPECT_EQ(s.start % kBar, 0);
        EXPECT_EQ(s.length, 4 * kBar);
    }
    expect_same_times(small_remake(), moved, "downbeat");
}

TEST(TimeEdits, AMovedBeatTakesItsNeighboursAlongUpToTheBarLines) {
    const Remake r = small_remake();
    const Ticks beat = 2 * kBar + 2 * 960;
    const Remake moved = pin_beat(r, beat, r.song->tempo.seconds(beat) + 0.06);
    EXPECT_NEAR(moved.song->tempo.seconds(beat), r.song->tempo.seconds(beat) + 0.06, 1e-9);
    EXPECT_NEAR(moved.song->tempo.seconds(beat - 960), r.song->tempo.seconds(beat - 960) + 0.03, 1e-9);
    for (const Ticks t : {Ticks{0}, 2 * kBar, 3 * kBar, 5 * kBar}) EXPECT_NEAR(moved.song->tempo.seconds(t), r.song->tempo.seconds(t), 1e-9) << t;
    ASSERT_EQ(moved.song->pins.size(), 1u);
    EXPECT_EQ(moved.song->pins[0].at, beat);
    const auto before = sounding(r, kDrums), after = sounding(moved, kDrums);
    for (std::size_t i = 0; i < before.size(); ++i) EXPECT_NEAR(before[i].first, after[i].first, 0.001) << "no stroke moves in time";
    EXPECT_EQ(unpin_beat(moved, beat).song->tempo, moved.song->tempo) << "letting go moves nothing";
    EXPECT_TRUE(unpin_beat(moved, beat).song->pins.empty());
}

TEST(TimeEdits, BetweenPinsOnlyWhatLiesBetweenThemMoves) {
    Remake r = pin_beat(small_remake(), kBar, 2.5);
    r = pin_beat(r, 5 * kBar, 10.5);
    const Remake moved = pin_beat(r, 3 * kBar, 6.7);
    EXPECT_NEAR(moved.song->tempo.seconds(2 * kBar), 2.5 + 4.2 / 2.0, 1e-9) << "half of the way to the pin before";
    for (Ticks t = -960; t <= kBar; t += 240) EXPECT_NEAR(moved.song->tempo.seconds(t), r.song->tempo.seconds(t), 1e-9);
    for (Ticks t = 5 * kBar; t <= 8 * kBar; t += 240) EXPECT_NEAR(moved.song->tempo.seconds(t), r.song->tempo.seconds(t), 1e-9);
    EXPECT_EQ(pin_beat(r, 3 * kBar, 2.4), r) << "it may not pass the pin before";
    EXPECT_EQ(pin_beat(r, 3 * kBar, 11.0), r);
}

TEST(TimeEdits, ABeatMovedWithAllTheRestMovesTheWholeMap) {
    const Remake moved = pin_beat(small_remake(), 0, 0.62, BeatReach::All);
    for (int bar = 0; bar < 8; ++bar) EXPECT_NEAR(moved.song->tempo.seconds(bar * kBar), 0.62 + 2.0 * bar, 1e-9);
}

TEST(TimeEdits, RandomMovesStayLocalAndTheMapAscends) {
    std::mt19937 random(7);
    for (int round = 0; round < 200; ++round) {
        Remake r = small_remake();
        for (int k = 0; k < 4; ++k) {
            const Ticks beat = std::uniform_int_distribution<Ticks>(0, 31)(random) * 960;
            const double by = std::uniform_real_distribution<double>(-0.4, 0.4)(random);
            const Remake next = pin_beat(r, beat, r.song->tempo.seconds(beat) + by);
            double before = -1e9;
            for (Ticks t = -960; t < 9 * kBar; t += 120) {
                const double s = next.song->tempo.seconds(t);
                ASSERT_GT(s, before);
                before = s;
                if (std::abs(t - beat) > 2 * kBar && next.song->pins.size() <= 1) {
                    ASSERT_NEAR(s, r.song->tempo.seconds(t), 1e-9) << "it stays local";
                }
            }
            ASSERT_EQ(what_is_wrong(next).value_or(""), "");
            r = next;
        }
    }
}

TEST(TimeEdits, ABarMoreIsCountedAndWhatFollowsKeepsItsTime) {
    const Remake r = small_remake();
    const Remake more = count_bars(r, 3, 5, 3);
    EXPECT_NEAR(more.song->tempo.seconds(2 * kBar), r.song->tempo.seconds(2 * kBar), 1e-9);
    EXPECT_NEAR(more.song->tempo.seconds(5 * kBar), r.song->tempo.seconds(4 * kBar), 1e-9) << "bar 6 is where bar 5 was";
    EXPECT_NEAR(more.song->tempo.bpm_at(3 * kBar), 180.0, 1e-6);
    EXPECT_EQ(more.song->sections[1].start, 5 * kBar);
    const auto before = sounding(r, kDrums), after = sounding(more, kDrums);
    for (std::size_t i = 0; i < before.size(); ++i) EXPECT_NEAR(before[i].first, after[i].first, 0.001);
    const Remake back = count_bars(more, 3, 6, 2);
    EXPECT_NEAR(back.song->tempo.seconds(7 * kBar), r.song->tempo.seconds(7 * kBar), 1e-9);
    EXPECT_EQ(back.song->sections[1].start, 4 * kBar);
    EXPECT_EQ(count_bars(r, 3, 3, 2), r);
    EXPECT_EQ(count_bars(r, 3, 5, 2), r);
}

TEST(TimeEdits, AMeterHoldsFromABarToTheNextChange) {
    Remake r = change_meter(small_remake(), 3, 3, 4);
    EXPECT_EQ(r.song->meter.tick_of_bar(3), 2 * kBar);
    EXPECT_EQ(r.song->meter.tick_of_bar(4), 2 * kBar + 2880);
    r = change_meter(r, 5, 4, 4);
    EXPECT_EQ(r.song->meter.tick_of_bar(6), 2 * kBar + 2 * 2880 + kBar);
    const Remake again = change_meter(r, 2, 2, 4);
    EXPECT_EQ(again.song->meter.at_bar(2).numerator, 2);
    // The two later changes are still where they were in the music, to the nearest bar line.
    ASSERT_EQ(again.song->meter.changes().size(), 4u);
    EXPECT_EQ(again.song->meter.tick_of_bar(again.song->meter.changes()[2].bar), 2 * kBar);
    EXPECT_FALSE(what_is_wrong(r).has_value() || what_is_wrong(again).has_value());
}

TEST(TimeEdits, AMeterSetInFrontOfOthersLeavesTheMusicWhereItIs) {
    const Remake r = change_meter(small_remake(), 1, 3, 4);
    EXPECT_EQ(r.song->tempo, small_remake().song->tempo);
    expect_same_times(small_remake(), r, "meter", 1e-12);
}

TEST(TimeEdits, SteadyIsStraightBetweenTheEndsAndSaysHowFarBeatsLay) {
    Remake r = small_remake();
    std::vector<TempoMap::Anchor> anchors = r.song->tempo.anchors();
    for (std::size_t i = 1; i + 1 < anchors.size(); ++i) anchors[i].time_s += (i % 2 ? 0.01 : -0.01);
    r.song.edit().tempo = TempoMap(anchors);
    const SteadyFit loose = fit_steady(*r.song, 0, 8 * kBar);
    EXPECT_NEAR(loose.bpm, 120.0, 0.05);
    EXPECT_NEAR(loose.rms_ms, 9.7, 0.5);
    EXPECT_GT(loose.most_ms, 9.0);
    const Remake steady = make_steady(r, 0, 8 * kBar);
    EXPECT_LT(fit_steady(*steady.song, 0, 8 * kBar).rms_ms, 1e-6);
    const auto before = sounding(r, kDrums), after = sounding(steady, kDrums);
    for (std::size_t i = 0; i < before.size(); ++i) EXPECT_NEAR(before[i].first, after[i].first, 0.001);
}

TEST(TimeEdits, BeatsArePlacedWhereTheyAreSaidToBe) {
    const Remake r = small_remake();
    const Remake placed = place_beats(r, 2 * kBar, {4.5, 5.1, 5.7, 6.3});
    EXPECT_NEAR(placed.song->tempo.seconds(2 * kBar + 2 * 960), 5.7, 1e-9);
    EXPECT_NEAR(placed.song->tempo.seconds(3 * kBar), 6.3 + 0.5, 1e-9) << "what is behind goes on from the last";
    EXPECT_NEAR(placed.song->tempo.seconds(kBar), 2.5, 1e-9);
    EXPECT_EQ(place_beats(r, 0, {1.0}), r);
    EXPECT_EQ(place_beats(r, 0, {1.0, 0.9}), r);
}

TEST(TimeEdits, AnotherMapTakesWhatStandsOnBarsToTheNearestBarLine) {
    const Remake r = small_remake();
    const Remake taken = take_beat_map(r, TempoMap({{0, 0.55}, {960, 1.05}}), MeterMap({{1, 4, 4}}));
    EXPECT_EQ(taken.song->sections[1].start, 4 * kBar);
    const Remake slow = take_beat_map(r, TempoMap({{0, 0.5}, {960, 1.5}}), MeterMap({{1, 4, 4}}));
    EXPECT_EQ(slow.song->sections[1].start, 2 * kBar);
    const auto before = sounding(r, kDrums), after = sounding(slow, kDrums);
    for (std::size_t i = 0; i < before.size(); ++i) EXPECT_NEAR(before[i].first, after[i].first, 0.0011);
}

TEST(TimeEdits, FreeTimeMeetsAndGoes) {
    Remake r = mark_free_time(small_remake(), kBar, kBar);
    r = mark_free_time(r, 2 * kBar, kBar);
    ASSERT_EQ(r.song->free_time.size(), 1u);
    EXPECT_TRUE(r.song->is_free(3 * kBar - 1));
    EXPECT_FALSE(r.song->is_free(3 * kBar));
    EXPECT_TRUE(clear_free_time(r, kBar + 5).song->free_time.empty());
    EXPECT_EQ(clear_free_time(r, 0), r);
}

TEST(TimeEdits, PinsAndFreeTimeStayWhereTheyAreInTheRecordingWhateverIsCounted) {
    Remake r = pin_beat(small_remake(), 2 * kBar, 4.55);
    r = mark_free_time(r, 5 * kBar, kBar);
    for (const Remake& next : {set_downbeat(r, 0.5 + 0.5 * 3), set_upbeat(r, 2), reread_tempo(r, 2.0), shift_beats(r, 960)}) {
        ASSERT_EQ(next.song->pins.size(), 1u);
        EXPECT_NEAR(next.song->tempo.seconds(next.song->pins[0].at), 4.55, 1e-6);
        ASSERT_EQ(next.song->free_time.size(), 1u);
        EXPECT_NEAR(next.song->tempo.seconds(next.song->free_time[0].start), 10.5, 0.002);
    }
    EXPECT_TRUE(shift_beats(r, 480).song->pins.empty()) << "it is on no beat any more";
}

TEST(SectionEdits, CuttingAndMergingChangesNothingThatIsHeard) {
    const Remake r = small_remake();
    const Remake cut = split_section(r, 2 * kBar + 300);
    ASSERT_EQ(cut.song->sections.size(), 3u);
    EXPECT_EQ(cut.song->sections[1].start, 2 * kBar);
    EXPECT_EQ(cut.song->sections[0].length, 2 * kBar);
    EXPECT_EQ(cut.song->sections[1].label, "B") << "a letter of its own";
    expect_same_times(r, cut, "split", 1e-12);
    for (const PartId part : {kBass, kDrums}) {
        const auto& places = cut.part(part)->placements;
        EXPECT_TRUE(std::any_of(places.begin(), places.end(), [](const Placement& p) { return p.start == 2 * kBar; })) << "a pattern begins there";
    }
    const Remake merged = merge_section(cut, cut.song->sections[0].id);
    ASSERT_EQ(merged.song->sections.size(), 2u);
    EXPECT_EQ(merged.song->sections[0].length, 4 * kBar);
    expect_same_times(r, merged, "merge", 1e-12);
    EXPECT_EQ(split_section(r, 4 * kBar), r) << "one begins there already";
    EXPECT_EQ(merge_section(r, r.song->sections[1].id), r) << "there is none behind it";
    EXPECT_FALSE(what_is_wrong(cut).has_value() || what_is_wrong(merged).has_value());
}

TEST(SectionEdits, TheEdgeMovesByBarsAndBarsGoToTheNeighbour) {
    const Remake r = small_remake();
    const SectionId second = r.song->sections[1].id;
    const Remake later = move_section_start(r, second, 5 * kBar - 200);
    EXPECT_EQ(later.song->sections[0].length, 5 * kBar);
    EXPECT_EQ(later.song->sections[1].start, 5 * kBar);
    EXPECT_EQ(later.song->sections[1].length, 3 * kBar);
    expect_same_times(r, later, "edge", 1e-12);
    EXPECT_EQ(move_section_start(r, second, 100 * kBar).song->sections[1].length, kBar) << "a bar is left";
    EXPECT_EQ(move_section_start(r, second, -100 * kBar).song->sections[0].length, kBar);
    EXPECT_EQ(move_section_start(r, second, 4 * kBar), r);
}

TEST(SectionEdits, ARepeatTakesTheLetterOfWhatItRepeats) {
    Remake r = split_section(small_remake(), 2 * kBar);
    const SectionId a = r.song->sections[0].id, b = r.song->sections[1].id, third = r.song->sections[2].id;
    r = set_repeat(r, b, a);
    EXPECT_EQ(r.song->sections[1].label, "A");
    EXPECT_EQ(r.song->sections[1].repeat_of, a);
    r = set_repeat(r, third, b);
    EXPECT_EQ(r.song->sections[2].repeat_of, a) << "the first of them is meant";
    r = set_repeat(r, b, {});
    EXPECT_NE(r.song->sections[1].label, "A");
    EXPECT_EQ(set_repeat(r, a, b), r) << "nothing repeats what comes later";
    EXPECT_FALSE(what_is_wrong(r).has_value());
}

TEST(KeyEdits, AKeyBeginsAtABarAndGoesAgain) {
    Remake r = add_key(small_remake(), 5, {9, Mode::Minor});
    ASSERT_EQ(r.song->keys.size(), 2u);
    EXPECT_EQ(*r.song->key_at(4 * kBar), (Key{9, Mode::Minor}));
    EXPECT_EQ(*r.song->key_at(4 * kBar - 1), (Key{2, Mode::Dorian}));
    r = add_key(r, 5, {0, Mode::Major});
    ASSERT_EQ(r.song->keys.size(), 2u);
    r = remove_key(r, 0);
    ASSERT_EQ(r.song->keys.size(), 1u);
    EXPECT_EQ(r.song->keys[0].start, 0);
    EXPECT_EQ(remove_key(r, 0), r) << "one key stays";
}

}  // namespace fw
