// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/movement.hpp"

#include "check/share.hpp"
#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/rendering.hpp"

#include <gtest/gtest.h>
#include <cmath>

namespace fw {
namespace {

using test::kBass;
using test::small_remake;

/// What a recording made of one remake asks of another's field; the evidence is what the second plays.
std::vector<CurvePoint> asked(const Remake& recorded, const Remake& ours, const FieldRef& field, Audio* into = nullptr) {
    const Audio sound = into ? *into : test::rendered(recorded);
    const auto movement = movement_of(ours, field);
    if (!movement) return {};
    const auto share = share_of({}, ours, ElementId(kBass));
    return asked_of(ours, field, *movement, beat_moves(ours, sound, field, *movement, share, {44100.0, {}}));
}

double value_near(const std::vector<CurvePoint>& points, Ticks tick) {
    double value = std::nan(""), nearest = 1e9;
    for (const CurvePoint& p : points)
        if (const double far = std::abs(static_cast<double>(p.tick - tick)); far < nearest) nearest = far, value = p.value;
    return value;
}

const FieldRef kLevel{kBass, "level"};

TEST(Movement, ALevelThatRisesInTheOriginalIsAskedForBesideDrums) {
    const Remake flat = small_remake();
    const Remake rising = set_curve(flat, kLevel, SectionId(3), {{0, -18.0}, {4 * 3840 - 960, 0.0}});
    const auto points = asked(rising, flat, kLevel);
    ASSERT_GT(points.size(), 15u);  // the kick covers some
    for (const CurvePoint& p : points) EXPECT_NEAR(p.value, value_moved(rising, kLevel, p.tick + 480), 2.0) << p.tick;
    EXPECT_LT(points.front().value, -6.0) << "where it is not covered by the kick";
    // As a hand would draw it: few points that say the same.
    const auto few = followed(*find_field(flat, kLevel), points);
    EXPECT_LT(few.size(), points.size() / 2);
    EXPECT_GE(few.size(), 3u);
}

TEST(Movement, OursThatMovesRightIsAskedForWhatItIs) {
    const Remake right = set_curve(small_remake(), kLevel, SectionId(3), {{0, -18.0}, {4 * 3840 - 960, 0.0}});
    const auto points = asked(right, right, kLevel);
    ASSERT_GT(points.size(), 15u);  // the kick covers some
    std::size_t near = 0;
    for (const CurvePoint& p : points) near += std::abs(p.value - value_moved(right, kLevel, p.tick)) < 2.0;
    EXPECT_GE(near, points.size() * 9 / 10);
}

TEST(Movement, ASoloForTheEarChangesNothingOfWhatIsAsked) {
    const Remake flat = small_remake();
    const Remake rising = set_curve(flat, kLevel, SectionId(3), {{0, -18.0}, {4 * 3840 - 960, 0.0}});
    Remake alone = flat;
    alone.parts[0].edit().solo = true;
    EXPECT_EQ(asked(rising, alone, kLevel), asked(rising, flat, kLevel));
}

TEST(Movement, SilenceAsksForNothing) {
    Audio silence{44100, 2, std::vector<float>(2 * 44100 * 17, 0.0F), {}};
    EXPECT_TRUE(asked(small_remake(), small_remake(), kLevel, &silence).empty());
    Remake mute = small_remake();
    for (auto& n : mute.parts[0].edit().patterns[0].edit().notes) n.muted = true;
    EXPECT_TRUE(asked(small_remake(), mute, kLevel).empty());
}

TEST(Movement, ACutoffThatOpensIsAskedFor) {
    const Remake r = small_remake();
    const FieldRef cutoff{r.part(kBass)->layers[0].id, "cutoff"};
    Remake closed = set_field(r, cutoff, 800.0);
    const Remake opening = set_curve(closed, cutoff, SectionId(3), {{0, 200.0}, {4 * 3840 - 960, 6000.0}});
    const auto points = asked(opening, closed, cutoff);
    ASSERT_GT(points.size(), 15u);  // the kick covers some
    EXPECT_GT(value_near(points, 3 * 3840), 2.0 * value_near(points, 960));
    const Parameter& row = *find_field(r, cutoff);
    for (const CurvePoint& p : points) EXPECT_EQ(clamped(row, p.value), p.value);
}

TEST(Movement, OnlyWhatMovesAlikeIsFollowed) {
    Remake r = add_step(small_remake(), kBass, test::step(kWidth));
    const StepId width = r.part(kBass)->steps[0].id;
    EXPECT_EQ(movement_of(r, {width, "width"}), Movement::Width);
    EXPECT_EQ(movement_of(r, {width, "turn"}), std::nullopt);
    EXPECT_EQ(movement_of(r, {kBass, "pan"}), std::nullopt);
    EXPECT_EQ(movement_of(r, {MasterRef{}, "level"}), Movement::Level);
    r = add_bus(r, "Room");
    EXPECT_EQ(movement_of(r, {r.mixer->buses[0].id, "level"}), std::nullopt) << "what of the original is a bus's cannot be told";
}

}  // namespace
}  // namespace fw
