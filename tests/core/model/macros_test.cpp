// SPDX-License-Identifier: GPL-3.0-or-later
// One control for many fields.
#include "model/edits.hpp"
#include "model/fields.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::kBass;
using test::small_remake;

namespace {

struct Set {
    Remake remake;
    MacroId macro;
    FieldRef cutoff, level;
};

/// "Open up" moves the bass's cutoff from 200 Hz to 5 kHz and its level from -6 dB to -3 dB.
Set opened() {
    Set s{add_macro(small_remake(), "Open up"), {}, {}, {kBass, "level"}};
    s.macro = s.remake.automation->macros[0].id;
    s.cutoff = {s.remake.part(kBass)->layers[0].id, "cutoff"};
    s.remake = set_target(set_target(s.remake, s.macro, s.cutoff, 200.0, 5000.0), s.macro, s.level, -6.0, -3.0);
    return s;
}

}  // namespace

TEST(Macros, MoveEachFieldWithinItsRangeAlongItsScale) {
    const Set s = opened();
    EXPECT_NEAR(*field_value(s.remake, s.cutoff), 200.0, 1e-6) << "what it moves goes to where it stands";
    const Remake half = set_field(s.remake, {s.macro, "amount"}, 0.5), full = set_field(half, {s.macro, "amount"}, 1.0);
    EXPECT_NEAR(*field_value(half, s.cutoff), 1000.0, 1.0) << "half way by ear, not by hertz";
    EXPECT_NEAR(*field_value(half, s.level), -4.5, 1e-6);
    EXPECT_NEAR(*field_value(full, s.cutoff), 5000.0, 1e-6);
    EXPECT_DOUBLE_EQ(*field_value(full, {s.macro, "amount"}), 1.0);
    EXPECT_FALSE(what_is_wrong(full));
    EXPECT_EQ(owner_name(full, s.macro), "Open up");
}

TEST(Macros, OneCurveIsACurveOfEachAndGoesWithItsSection) {
    const Set s = opened();
    const Remake r = set_curve(s.remake, {s.macro, "amount"}, SectionId(4), {{0, 0.0}, {3840, 1.0, Shape::Hold}});
    ASSERT_EQ(r.automation->curves.size(), 3u);
    EXPECT_NEAR(value_moved(r, s.cutoff, 4 * 3840), 200.0, 1e-6);
    EXPECT_NEAR(value_moved(r, s.cutoff, 5 * 3840), 5000.0, 1e-6);
    EXPECT_NEAR(value_moved(r, s.level, 5 * 3840), -3.0, 1e-6);
    EXPECT_NEAR(value_moved(r, s.level, 0), -6.0, 1e-6) << "elsewhere as it is";
    EXPECT_FALSE(what_is_wrong(r));
    EXPECT_TRUE(set_curve(r, {s.macro, "amount"}, SectionId(4), {}).automation->curves.empty()) << "taken away it is taken away of all";
    const Remake held = set_in_section(s.remake, {s.macro, "amount"}, SectionId(3), 1.0);
    EXPECT_NEAR(value_moved(held, s.cutoff, 100), 5000.0, 1e-6);
    EXPECT_TRUE(clear_in_section(held, {s.macro, "amount"}, SectionId(3)).automation->settings.empty());
    const Remake recorded = lay_over(s.remake, {s.macro, "amount"}, 960, 1920, {{960, 1.0}});
    EXPECT_NEAR(value_moved(recorded, s.cutoff, 1000), 5000.0, 1.0);
    EXPECT_NEAR(value_moved(recorded, s.cutoff, 2000), 200.0, 1.0);
}

TEST(Macros, WhatIsGoneIsMovedNoMoreAndWhatCannotMoveIsNotTaken) {
    const Set s = opened();
    const Remake without = remove_layer(add_layer(s.remake, kBass, {&kSynth}), std::get<LayerId>(s.cutoff.owner));
    EXPECT_EQ(without.automation->macros[0].targets.size(), 1u);
    EXPECT_FALSE(what_is_wrong(without));
    EXPECT_EQ(remove_target(s.remake, s.macro, s.level).automation->macros[0].targets.size(), 1u);
    const Remake gone = remove_macro(set_curve(s.remake, {s.macro, "amount"}, SectionId(4), {{0, 0.5}}), s.macro);
    EXPECT_TRUE(gone.automation->macros.empty());
    EXPECT_EQ(gone.automation->curves.size(), 2u) << "its fields keep the curves they have";
    EXPECT_FALSE(what_is_wrong(gone));
    EXPECT_EQ(set_target(s.remake, s.macro, {kBass, "early_ms"}, 0.0, 5.0), s.remake) << "a field that does not move";
    const Remake two = add_macro(s.remake, "Other");
    EXPECT_EQ(set_target(two, s.macro, {two.automation->macros[1].id, "amount"}, 0.0, 1.0), two) << "no macro moves a macro";
    Remake wrong = s.remake;
    wrong.automation.edit().macros[0].targets[0].to = 1e9;
    EXPECT_TRUE(what_is_wrong(wrong));
}

}  // namespace fw
