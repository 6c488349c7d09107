// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/before.hpp"

#include "check/sound_summary.hpp"
#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/rendering.hpp"

#include <gtest/gtest.h>

namespace fw {
namespace {

using test::kBass;
using test::small_remake;

const PlanInputs kInputs{44100.0, {}};

double lufs(const Remake& r, const RenderWhat& what) { return summarise(test::rendered(r, what)).lufs; }

TEST(Before, IsAsLoudAsBehindTheStepsWhateverTheyAddAndHoweverTheLevelMoves) {
    Remake r = add_step(add_step(small_remake(), kBass, test::step(kDrive)), kBass, test::step(kEqualiser));
    const StepId drive = r.part(kBass)->steps[0].id, equaliser = r.part(kBass)->steps[1].id;
    r = set_field(set_field(r, {drive, "level"}, 6.0), {equaliser, "low"}, 6.0);
    r = set_curve(r, {kBass, "level"}, SectionId(3), {{0, -9.0}, {3840, -3.0}});
    r = set_in_section(r, {drive, "on"}, SectionId(4), 1.0);
    for (const auto& steps : {std::vector{drive}, std::vector{drive, equaliser}}) {
        const auto before = before_steps(r, kBass, steps, kInputs);
        ASSERT_TRUE(before);
        EXPECT_GT(before->louder_db, 3.0);
        EXPECT_NEAR(lufs(before->remake, RenderWhat::of(kBass)), lufs(r, RenderWhat::of(kBass)), 0.3);
        EXPECT_EQ(before->remake.part(kBass)->steps[0].on, 0.0);
        EXPECT_TRUE(std::none_of(before->remake.automation->settings.begin(), before->remake.automation->settings.end(),
                                 [&](const SectionSetting& s) { return s.field.field == "on"; }));
    }
    EXPECT_EQ(before_steps(r, kBass, {equaliser}, kInputs)->remake.part(kBass)->steps[0].on, 1.0) << "the others stay";
}

TEST(Before, AStepThatNotesSwitchOnIsHeldOffAndALevelTheyMoveIsMatched) {
    Remake r = add_step(small_remake(), kBass, test::step(kDrive));
    const StepId drive = r.part(kBass)->steps[0].id;
    r = set_field(r, {drive, "level"}, 6.0);
    NoteMove on, level;
    on.field = {drive, "on"}, on.by = kBass, on.to = 0.0, on.attack_ms = 200.0;
    level.field = {kBass, "level"}, level.by = kBass, level.to = -9.0, level.sustain = 1.0;
    r = move_by_notes(move_by_notes(r, on), level);
    ASSERT_EQ(r.automation->by_notes.size(), 2u);
    const auto before = before_steps(r, kBass, {drive}, kInputs);
    ASSERT_TRUE(before);
    EXPECT_GT(before->louder_db, 1.0);
    EXPECT_EQ(before->remake.automation->note_move({drive, "on"}), nullptr);
    EXPECT_NEAR(lufs(before->remake, RenderWhat::of(kBass)), lufs(r, RenderWhat::of(kBass)), 0.3);
}

TEST(Before, TheMasterIsMatchedAsAWhole) {
    Remake r = add_step(small_remake(), MasterRef{}, test::step(kEqualiser));
    const StepId id = r.mixer->master.steps[0].id;
    r = set_field(r, {id, "low"}, -12.0);
    const auto before = before_steps(r, MasterRef{}, {id}, kInputs);
    ASSERT_TRUE(before);
    EXPECT_LT(before->louder_db, -0.5);
    EXPECT_NEAR(lufs(before->remake, {}), lufs(r, {}), 0.4);
}

TEST(Before, SilenceIsNotCompared) {
    Remake r = add_step(small_remake(), kBass, test::step(kEqualiser));
    for (auto& n : r.parts[0].edit().patterns[0].edit().notes) n.muted = true;
    const auto before = before_steps(r, kBass, {r.part(kBass)->steps[0].id}, kInputs);
    ASSERT_FALSE(before);
    EXPECT_EQ(before.error().message(), "The comparison was not done, because there is silence on one side of it.");
}

}  // namespace
}  // namespace fw
