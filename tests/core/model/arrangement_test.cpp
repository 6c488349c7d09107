// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/arrangement.hpp"

#include "model/edits/clips.hpp"
#include "model/edits/notes.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <random>

namespace fw {

using test::kBass;
using test::kDrums;
using test::small_remake;

namespace {

constexpr Ticks kBar = 3840;
constexpr SectionId kFirst{3}, kSecond{4};

/// Where the part strikes, from a tick to another, counted from the first.
std::vector<std::pair<Ticks, int>> struck(const Remake& r, PartId part, Ticks from, Ticks to) {
    std::vector<std::pair<Ticks, int>> out;
    for (const PlacedNote& n : placed_notes(*r.part(part)))
        if (n.note.start >= from && n.note.start < to && !n.muted) out.emplace_back(n.note.start - from, n.note.pitch);
    return out;
}

/// The second section five bars long instead of four: the song goes on for a bar.
Remake longer(Remake r) {
    r.song.edit().sections[1].length = 5 * kBar;
    return r;
}

}  // namespace

TEST(Arrangement, APartPlaysAsInAnotherSectionAndTheOtherPartsPlayOn) {
    const Remake r = small_remake();
    const Remake without = leave_out(r, kDrums, kSecond);
    EXPECT_TRUE(struck(without, kDrums, 4 * kBar, 8 * kBar).empty());
    EXPECT_EQ(struck(without, kDrums, 0, 4 * kBar), struck(r, kDrums, 0, 4 * kBar)) << "one pattern played through both";
    EXPECT_EQ(without.part(kBass)->placements, r.part(kBass)->placements);
    const Remake back = play_as(without, kDrums, kSecond, kFirst);
    EXPECT_EQ(struck(back, kDrums, 4 * kBar, 8 * kBar), struck(r, kDrums, 0, 4 * kBar));
    EXPECT_EQ(back.part(kDrums)->placements[0].pattern, back.part(kDrums)->placements[1].pattern) << "they share it";
    EXPECT_FALSE(what_is_wrong(back));
    EXPECT_FALSE(what_is_wrong(without));
}

TEST(Arrangement, ALongerSectionBeginsOnceMoreAndAShorterOneIsCut) {
    const Remake r = longer(small_remake());
    const Remake filled = play_as(r, kBass, kSecond, kFirst);
    const auto first = struck(filled, kBass, 0, 4 * kBar);
    EXPECT_EQ(struck(filled, kBass, 4 * kBar, 8 * kBar), first);
    std::vector<std::pair<Ticks, int>> bar(first.begin(), first.begin() + 4);
    EXPECT_EQ(struck(filled, kBass, 8 * kBar, 9 * kBar), bar) << "the fifth bar is the first once more";
    EXPECT_TRUE(struck(filled, kBass, 9 * kBar, 20 * kBar).empty());
    EXPECT_FALSE(what_is_wrong(filled));
    // The other way round: four bars of the five.
    const Remake cut = play_as(filled, kBass, kFirst, kSecond);
    EXPECT_EQ(struck(cut, kBass, 0, 4 * kBar), first);
    EXPECT_EQ(struck(cut, kBass, 4 * kBar, 9 * kBar), struck(filled, kBass, 4 * kBar, 9 * kBar)) << "what it was taken from stays";
    EXPECT_FALSE(what_is_wrong(cut));
    EXPECT_EQ(play_as(r, kBass, kFirst, kFirst), r);
    EXPECT_EQ(play_as(r, PartId(99), kFirst, kSecond), r);
}

TEST(Arrangement, AStopTakesAwayWhatIsPlayedBetweenTwoPlacesAndNothingElse) {
    const Remake r = small_remake();
    const Remake stopped = fall_out(r, kBass, 3 * kBar + 1920, 4 * kBar);
    EXPECT_TRUE(struck(stopped, kBass, 3 * kBar + 1920, 4 * kBar).empty());
    EXPECT_EQ(struck(stopped, kBass, 0, 3 * kBar + 1920), struck(r, kBass, 0, 3 * kBar + 1920));
    EXPECT_EQ(struck(stopped, kBass, 4 * kBar, 8 * kBar), struck(r, kBass, 4 * kBar, 8 * kBar)) << "the repeat keeps its end";
    EXPECT_FALSE(what_is_wrong(stopped));
    EXPECT_EQ(fall_out(r, kBass, kBar, kBar), r);
}

TEST(Arrangement, TheOriginalFillsAStretchAtItsOwnTime) {
    const Remake r = small_remake();
    const Remake filled = fill_with_original(r, 4 * kBar, 6 * kBar, true);
    ASSERT_EQ(filled.clips->clips.size(), 1u);
    const Clip& clip = filled.clips->clips[0];
    const Asset& asset = *filled.clips->asset(clip.asset);
    EXPECT_EQ(asset.origin, AssetOrigin::Original);
    EXPECT_DOUBLE_EQ(asset.start_s, r.song->tempo.seconds(4 * kBar));
    EXPECT_DOUBLE_EQ(asset.end_s, r.song->tempo.seconds(6 * kBar));
    EXPECT_EQ(clip.start, 4 * kBar);
    EXPECT_TRUE(struck(filled, kBass, 4 * kBar, 6 * kBar).empty());
    EXPECT_EQ(struck(filled, kBass, 6 * kBar, 8 * kBar), struck(r, kBass, 6 * kBar, 8 * kBar));
    EXPECT_TRUE(without_original(filled).clips->clips.empty());
    EXPECT_FALSE(what_is_wrong(filled));
    EXPECT_EQ(fill_with_original(r, 40 * kBar, 41 * kBar, false), r) << "behind its end there is nothing of it";
}

TEST(Clips, AreChoppedIntoPiecesThatAreTheWholeTogether) {
    Asset made;
    made.name = "Crash";
    made.origin = AssetOrigin::Made;
    made.made = {Transition::Crash, 8.0, {57}, {}};
    made.end_s = 4.0;
    Clip clip;
    clip.name = "Crash";
    clip.start = 4 * kBar;
    const Remake r = add_clip(small_remake(), made, clip);
    const ClipId id = r.clips->clips[0].id;
    EXPECT_DOUBLE_EQ(recipe_seconds(*r.song, made, r.clips->clips[0]), 4.0);
    const Remake chopped = chop_clip(r, id, kTicksPerQuarter);
    ASSERT_EQ(chopped.clips->clips.size(), 8u) << "half a second each";
    for (int k = 0; k < 8; ++k) {
        const Clip& c = chopped.clips->clips[static_cast<std::size_t>(k)];
        EXPECT_EQ(c.start, 4 * kBar + k * kTicksPerQuarter);
        EXPECT_EQ(c.asset, chopped.clips->clips[0].asset);
        EXPECT_NEAR(recipe_seconds(*chopped.song, *chopped.clips->asset(c.asset), c), 0.5, 1e-9);
    }
    EXPECT_FALSE(what_is_wrong(chopped));
    EXPECT_EQ(chop_clip(r, id, 100 * kBar), r);
    // Another sound for one clip alone.
    Asset swell = made;
    swell.made.kind = Transition::Swell;
    const Remake other = change_asset(chopped, chopped.clips->clips[2].id, swell, false);
    EXPECT_EQ(other.clips->assets.size(), 2u);
    EXPECT_EQ(change_asset(r, id, swell, false).clips->assets.size(), 1u) << "the sound nobody plays goes";
}

TEST(Clips, AreAsLongAsTheirRecipesSay) {
    const Remake r = small_remake();
    const auto length = [&](std::vector<RecipeEntry> recipe) {
        Asset asset;
        asset.end_s = 1.0;
        Clip c;
        c.recipe = std::move(recipe);
        return recipe_seconds(*r.song, asset, c);
    };
    EXPECT_DOUBLE_EQ(length({}), 1.0);
    EXPECT_DOUBLE_EQ(length({{Treatment::Bars, 2.0}}), 4.0);
    EXPECT_DOUBLE_EQ(length({{Treatment::Bars, 64.0}}), 10.0) << "ten times as long at most";
    EXPECT_DOUBLE_EQ(length({{Treatment::Stop, 500.0}}), 1.25);
    EXPECT_DOUBLE_EQ(length({{Treatment::Freeze, 0.0, 3000.0}}), 3.0);
    EXPECT_DOUBLE_EQ(length({{Treatment::Stretch, 2.0}, {Treatment::Trim, 500.0, 1500.0}}), 1.0);
    EXPECT_DOUBLE_EQ(length({{Treatment::Stretch, 2.0, 0.0, 0.0}}), 1.0) << "one that is off";
}

TEST(Arrangement, WhatIsNotChangedIsShared) {
    Remake r = small_remake();
    // The drums play in the first section only.
    r = leave_out(r, kDrums, kSecond);
    const Remake filled = fill_with_original(r, 4 * kBar, 6 * kBar, true);
    const auto index = [&](PartId id) { return std::find_if(r.parts.begin(), r.parts.end(), [&](const auto& p) { return p->id == id; }) - r.parts.begin(); };
    EXPECT_TRUE(filled.parts[static_cast<std::size_t>(index(kDrums))].is(r.parts[static_cast<std::size_t>(index(kDrums))]));
    EXPECT_FALSE(filled.parts[static_cast<std::size_t>(index(kBass))].is(r.parts[static_cast<std::size_t>(index(kBass))]));
    EXPECT_EQ(placement_in(*r.part(kDrums), r.song->sections[1]), nullptr);
    ASSERT_TRUE(placement_in(*r.part(kBass), r.song->sections[1]));
    EXPECT_EQ(placement_in(*r.part(kBass), r.song->sections[1])->start, 4 * kBar);
}

TEST(Arrangement, RandomEditsLeaveAWholeDocument) {
    std::mt19937 dice(11);
    const auto pick = [&](int n) { return static_cast<int>(dice() % static_cast<unsigned>(n)); };
    Remake r = longer(small_remake());
    for (int i = 0; i < 300; ++i) {
        const PartId part = pick(2) ? kBass : kDrums;
        const SectionId one = pick(2) ? kFirst : kSecond, other = one == kFirst ? kSecond : kFirst;
        const Ticks from = pick(36) * kTicksPerQuarter;
        switch (pick(4)) {
            case 0: r = play_as(r, part, one, other); break;
            case 1: r = leave_out(r, part, one); break;
            case 2: r = fall_out(r, part, from, from + (1 + pick(6)) * kTicksPerQuarter); break;
            default: r = fill_with_original(r, from, from + kBar, pick(2)); break;
        }
        if (r.clips->clips.size() > 20) r = without_original(r);
        const auto wrong = what_is_wrong(r);
        ASSERT_FALSE(wrong) << i << ": " << *wrong;
        // Nothing of a part sounds twice at one place.
        Ticks until = -1;
        for (const Placement& p : r.part(part)->placements) {
            EXPECT_GE(p.start, until) << i;
            until = p.start + r.part(part)->pattern(p.pattern)->length;
        }
    }
}

TEST(Clips, PiecesOfWhatWasStretchedToBarsAreStretchedAsTheWholeWas) {
    // Bars that grow longer and longer.
    Remake r = small_remake();
    std::vector<TempoMap::Anchor> anchors;
    for (int b = 0; b <= 32; ++b) anchors.push_back({b * kTicksPerQuarter, 0.5 + 0.5 * b + 0.004 * b * b});
    r.song.edit().tempo = TempoMap(anchors);
    Clip clip;
    clip.start = kBar;
    clip.recipe = {{Treatment::Bars, 2.0}};
    r = add_clip(r, from_original(r, "piece", 1.0, 2.0), clip);
    const double whole_s = recipe_seconds(*r.song, r.clips->assets[0], r.clips->clips[0]);
    const Remake chopped = chop_clip(r, r.clips->clips[0].id, kTicksPerQuarter);
    ASSERT_GE(chopped.clips->clips.size(), 7u);
    double sum = 0.0;
    for (const Clip& c : chopped.clips->clips) {
        EXPECT_EQ(c.recipe[0].treatment, Treatment::Stretch);
        EXPECT_NEAR(c.recipe[0].first, whole_s, 1e-9) << "of one second";
        sum += recipe_seconds(*chopped.song, chopped.clips->assets[0], c);
    }
    EXPECT_NEAR(sum, whole_s, 1e-6) << "together they are the whole";
}

TEST(Clips, AreChoppedAtTheirHitsWhichStayOrGoOntoAGrid) {
    Asset file;
    file.name = "loop";
    file.path = "/loop.wav";
    file.end_s = 2.0;
    Clip clip;
    clip.name = "loop";
    clip.start = 4 * kBar;
    const Remake r = add_clip(small_remake(), file, clip);
    const ClipId id = r.clips->clips[0].id;
    const Remake stay = chop_clip_at(r, id, {0.47, 1.03, 1.49}, 0);
    ASSERT_EQ(stay.clips->clips.size(), 4u);
    double whole = 0.0;
    for (const Clip& c : stay.clips->clips) whole += recipe_seconds(*stay.song, *stay.clips->asset(c.asset), c);
    EXPECT_NEAR(whole, 2.0, 1e-9) << "together they are the whole";
    EXPECT_NEAR(stay.song->tempo.seconds(stay.clips->clips[1].start) - stay.song->tempo.seconds(clip.start), 0.47, 0.001);
    const Remake onto = chop_clip_at(r, id, {0.47, 1.03, 1.49}, 960);
    for (int k = 0; k < 4; ++k) EXPECT_EQ(onto.clips->clips[static_cast<std::size_t>(k)].start, 4 * kBar + k * 960) << "on the beats they were meant for";
    EXPECT_FALSE(what_is_wrong(onto));
    EXPECT_EQ(chop_clip_at(r, id, {}, 0), r) << "no hit, no piece";
    EXPECT_EQ(chop_clip_at(r, id, {-1.0, 5.0}, 0), r);
}

TEST(Clips, HitsAreMarkedOntoAGridOrAGrooveWithStrengthAndWindow) {
    Asset file;
    file.name = "loop";
    file.path = "/loop.wav";
    file.end_s = 2.0;
    Clip clip;
    clip.name = "loop";
    clip.start = 4 * kBar;
    Remake r = add_clip(small_remake(), file, clip);
    Groove late;
    late.name = "late";
    late.steps.assign(16, GrooveStep{24, 0});
    r.song.edit().grooves.push_back(late);
    const ClipId id = r.clips->clips[0].id;
    const double tick_ms = 1000.0 * (r.song->tempo.seconds(4 * kBar + 240) - r.song->tempo.seconds(4 * kBar)) / 240.0;
    Grid grid;
    grid.step = kTicksPerQuarter;
    auto marks = marks_onto(r, id, {1.03, 0.47, 1.49}, grid, 1.0, 0);
    ASSERT_EQ(marks.size(), 3u);
    for (int i = 0; i < 3; ++i) EXPECT_NEAR(marks[static_cast<std::size_t>(i)].to_ms, 500.0 * (i + 1), 0.6) << "onto the quarters of 120 a minute";
    EXPECT_EQ(marks[0].from_ms, 470.0);
    marks = marks_onto(r, id, {0.47}, grid, 0.5, 0);
    EXPECT_NEAR(marks[0].to_ms, 485.0, 0.6) << "half the way";
    marks = marks_onto(r, id, {0.47, 1.2}, grid, 1.0, 120);
    ASSERT_EQ(marks.size(), 2u);
    EXPECT_NEAR(marks[1].to_ms, 1200.0, 1e-9) << "too far off to be meant for a quarter: it stays, as a mark";
    grid.groove = &r.song->grooves.back();
    EXPECT_NEAR(marks_onto(r, id, {0.47}, grid, 1.0, 0)[0].to_ms, 500.0 + 24.0 * tick_ms, 0.6);
    // Two that would fall onto one place keep apart.
    grid.groove = nullptr;
    marks = marks_onto(r, id, {0.42, 0.55}, grid, 1.0, 0);
    ASSERT_EQ(marks.size(), 2u);
    EXPECT_NEAR(marks[0].to_ms, 500.0, 0.6);
    EXPECT_NEAR(marks[1].to_ms, 550.0, 1e-9);
    EXPECT_TRUE(marks_onto(r, id, {-1.0, 5.0}, grid, 1.0, 0).empty());
}

TEST(Clips, AWarpEndsTheRecipeIsReplacedAndTakenAway) {
    Asset file;
    file.name = "loop";
    file.path = "/loop.wav";
    file.end_s = 2.0;
    Clip clip;
    clip.name = "loop";
    clip.recipe = {{Treatment::Reverse}};
    const Remake r = add_clip(small_remake(), file, clip);
    const ClipId id = r.clips->clips[0].id;
    const Remake warped = warp_clip(r, id, {{1000.0, 900.0, {}}, {500.0, 520.0, {}}, {505.0, 530.0, {}}, {1200.0, 800.0, {}}});
    ASSERT_EQ(warped.clips->clips[0].recipe.size(), 2u);
    const auto& marks = warped.clips->clips[0].recipe[1].marks;
    ASSERT_EQ(marks.size(), 2u) << "in order, apart, and none before its neighbour";
    EXPECT_EQ(marks[0].from_ms, 500.0);
    EXPECT_EQ(marks[1].to_ms, 900.0);
    EXPECT_FALSE(what_is_wrong(warped));
    EXPECT_EQ(recipe_seconds(*warped.song, warped.clips->assets[0], warped.clips->clips[0]), 2.0);
    EXPECT_EQ(warp_clip(warped, id, {{700.0, 720.0, {}}}).clips->clips[0].recipe.size(), 2u);
    EXPECT_EQ(warp_clip(warped, id, {}), r);
    Remake wrong = warped;
    std::swap(wrong.clips.edit().clips[0].recipe[1].marks[0], wrong.clips.edit().clips[0].recipe[1].marks[1]);
    ASSERT_TRUE(what_is_wrong(wrong));
    EXPECT_NE(what_is_wrong(wrong)->find("do not ascend"), std::string::npos);
}

TEST(Clips, OfTakesOverEachOtherOneIsChosenInAStretchAndTheOthersSoundBesideIt) {
    Remake r = small_remake();
    const auto add = [&](const char* name, Ticks start) {
        Asset file;
        file.name = name;
        file.path = std::string("/") + name + ".wav";
        file.origin = AssetOrigin::Recorded;
        file.end_s = 4.0;
        Clip clip;
        clip.name = name;
        clip.start = start;
        r = add_clip(r, file, clip);
        return r.clips->clips.back().id;
    };
    const ClipId first = add("first", 0), second = add("second", 0);
    add("elsewhere", 6 * kBar);
    r = mute_clip(r, second, true);
    // From the beginning of bar 2 to its half, the second take; two bars at 120 are four seconds.
    const Remake joined = choose_take(r, second, kBar, kBar + kBar / 2);
    ASSERT_FALSE(what_is_wrong(joined)) << *what_is_wrong(joined);
    const auto sounding = [&](double at_s) {
        std::string names;
        for (const Clip& c : joined.clips->clips) {
            const double begins = joined.song->tempo.seconds(c.start), long_s = recipe_seconds(*joined.song, *joined.clips->asset(c.asset), c);
            if (!c.mute && at_s >= begins && at_s < begins + long_s) names += c.name.substr(0, c.name.find(' ')) + ";";
        }
        return names;
    };
    const double begin = r.song->tempo.seconds(Ticks{0});
    EXPECT_EQ(sounding(begin + 1.0), "first;");
    EXPECT_EQ(sounding(begin + 2.5), "second;");
    EXPECT_EQ(sounding(begin + 3.5), "first;");
    EXPECT_EQ(joined.clips->clips.size(), 7u) << "three pieces each, and the one that lies elsewhere as it was";
    // Altogether: nothing is cut.
    const Remake other = choose_take(r, second, 0, 2 * kBar);
    EXPECT_EQ(other.clips->clips.size(), 3u);
    EXPECT_TRUE(other.clips->clip(first)->mute);
    EXPECT_FALSE(other.clips->clip(second)->mute);
    EXPECT_EQ(choose_take(other, second, 0, 2 * kBar), other) << "chosen already";
    EXPECT_EQ(choose_take(r, second, kBar, kBar), r);
}

}  // namespace fw
