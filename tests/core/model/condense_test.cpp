// SPDX-License-Identifier: GPL-3.0-or-later
// A shorter version that remembers what it leaves out.
#include "model/edits.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::kBass;
using test::kDrums;
using test::small_remake;

namespace {

constexpr Ticks kBar = 3840;

/// The small remake as A (two bars), B (two bars), A (four bars), in 3/4 from bar 7 on, faster from there, in another key from bar 5 on, with a clip and a
/// song's curve.
Remake song() {
    Remake r = split_section(small_remake(), 2 * kBar);
    Song& s = r.song.edit();
    s.keys.push_back({4 * kBar, {9, Mode::Minor}, 0.8, {}});
    Asset asset;
    asset.name = "whoosh";
    asset.path = "/a.wav";
    asset.end_s = 1.0;
    Clip early, late, ends;
    early.start = 3 * kBar, late.start = 5 * kBar;
    ends.start = 2 * kBar, ends.ends_here = true;
    for (const Clip& c : {early, late, ends}) r = add_clip(r, asset, c);
    return set_curve(r, {kBass, "level"}, {}, {{0, 0.0}, {8 * kBar, -16.0}});
}

std::vector<std::pair<double, int>> sounding_from(const Remake& r, PartId part, double from_s, double to_s, double earlier_s) {
    std::vector<std::pair<double, int>> out;
    for (const auto& [at, pitch] : test::sounding(r, part))
        if (at >= from_s - 1e-6 && at < to_s - 1e-6) out.emplace_back(at - earlier_s, pitch);
    return out;
}

}  // namespace

TEST(Condense, WithNothingLeftOutItIsTheSameAndLeavingOutChangesNothingThatPlays) {
    const Remake r = song();
    EXPECT_EQ(condensed(r), r);
    const Remake marked = leave_out_of_condensed(r, r.song->sections[1].id, true);
    EXPECT_TRUE(is_condensed(*marked.song));
    EXPECT_EQ(test::sounding(marked, kBass), test::sounding(r, kBass));
    EXPECT_EQ(leave_out_of_condensed(marked, r.song->sections[1].id, false), r);
}

TEST(Condense, WhatComesLaterComesSoonerAndWhatIsLeftOutIsGone) {
    const Remake r = song();
    const Remake whole = leave_out_of_condensed(r, r.song->sections[1].id, true), shorter = condensed(whole);
    EXPECT_FALSE(what_is_wrong(shorter)) << *what_is_wrong(shorter);
    ASSERT_EQ(shorter.song->sections.size(), 2u);
    EXPECT_EQ(shorter.song->sections[1].start, 2 * kBar);
    const double cut_s = 4.0;  // two bars at 120
    for (const PartId part : {kBass, kDrums}) {
        auto expected = sounding_from(r, part, 0.0, 4.5, 0.0);
        const auto later = sounding_from(r, part, 8.5, 1e9, cut_s);
        expected.insert(expected.end(), later.begin(), later.end());
        const auto is = test::sounding(shorter, part);
        ASSERT_EQ(is.size(), expected.size());
        for (std::size_t i = 0; i < is.size(); ++i) {
            EXPECT_NEAR(is[i].first, expected[i].first, 1e-6);
            EXPECT_EQ(is[i].second, expected[i].second);
        }
    }
    ASSERT_EQ(shorter.clips->clips.size(), 2u) << "the clip in it is gone";
    EXPECT_EQ(shorter.clips->clips[0].start, 3 * kBar);
    EXPECT_EQ(shorter.clips->clips[1].start, 2 * kBar) << "one that ends where the cut begins stays";
    EXPECT_EQ(shorter.song->key_at(2 * kBar)->tonic, 9) << "the key that holds behind the cut";
    EXPECT_EQ(shorter.song->key_at(0)->tonic, 2);
    EXPECT_NEAR(value_moved(shorter, {kBass, "level"}, 2 * kBar - 1), -4.0, 0.01);
    EXPECT_NEAR(value_moved(shorter, {kBass, "level"}, 2 * kBar), -8.0, 0.01) << "the fader is where it is there";
    EXPECT_EQ(shorter.song->chords.size(), 3u);
}

TEST(Condense, MetersAndTempiFollowAndTheBeginningOrTheEndCanGo) {
    Remake r = song();
    Song& s = r.song.edit();
    s.meter = MeterMap({{1, 4, 4}, {3, 3, 4}});  // the second section in three, and what follows
    s.sections[1].start = 2 * kBar, s.sections[1].length = 2 * 2880;
    s.sections[2].start = 2 * kBar + 2 * 2880;
    s.sections[2].length = 8 * kBar - s.sections[2].start;
    const Remake middle = condensed(leave_out_of_condensed(r, s.sections[1].id, true));
    EXPECT_EQ(middle.song->meter.at_bar(2).numerator, 4);
    EXPECT_EQ(middle.song->meter.at_bar(3).numerator, 3) << "in the meter that holds behind the cut";
    const Remake no_intro = condensed(leave_out_of_condensed(song(), song().song->sections[0].id, true));
    EXPECT_FALSE(what_is_wrong(no_intro)) << *what_is_wrong(no_intro);
    EXPECT_EQ(no_intro.song->sections[0].start, 0);
    EXPECT_NEAR(no_intro.song->tempo.seconds(Ticks{0}), 0.5, 1e-9);
    EXPECT_EQ(placed_notes(*no_intro.part(kBass)).front().note.start, placed_notes(*song().part(kBass))[8].note.start - 2 * kBar);
    const Remake no_end = condensed(leave_out_of_condensed(song(), song().song->sections[2].id, true));
    EXPECT_FALSE(what_is_wrong(no_end)) << *what_is_wrong(no_end);
    EXPECT_LE(no_end.end_tick(), 4 * kBar + 960);
}

TEST(TakeTurns, OnePlaysInOddBarsAndTheOtherInEvenOnes) {
    const Remake r = take_turns(small_remake(), kBass, kDrums, SectionId(4));
    const auto in_bar = [&](PartId id, int bar) {
        int n = 0;
        for (const PlacedNote& x : placed_notes(*r.part(id))) n += x.note.start >= (bar - 1) * kBar && x.note.start < bar * kBar;
        return n;
    };
    for (const int bar : {5, 7}) EXPECT_TRUE(in_bar(kBass, bar) > 0 && in_bar(kDrums, bar) == 0) << bar;
    for (const int bar : {6, 8}) EXPECT_TRUE(in_bar(kBass, bar) == 0 && in_bar(kDrums, bar) > 0) << bar;
    EXPECT_TRUE(in_bar(kBass, 2) > 0 && in_bar(kDrums, 2) > 0) << "elsewhere both";
    EXPECT_EQ(take_turns(small_remake(), kBass, kBass, SectionId(4)), small_remake());
}

}  // namespace fw
