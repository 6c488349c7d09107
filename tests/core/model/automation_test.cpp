// SPDX-License-Identifier: GPL-3.0-or-later
// Moves laid over what moves a field already, and sends thrown open for some notes.
#include "model/edits.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::kBass;
using test::small_remake;

namespace {

constexpr Ticks kBar = 3840;
const FieldRef kLevel{kBass, "level"};

/// What a field is, bar by bar, from the first to before another.
std::vector<double> by_bar(const Remake& r, const FieldRef& field, int bars) {
    std::vector<double> all;
    for (int b = 0; b < bars; ++b) all.push_back(value_moved(r, field, b * kBar));
    return all;
}

}  // namespace

TEST(Automation, WhatIsRecordedLiesOverWhatWasThereAndNothingElseChanges) {
    const Remake r = set_field(small_remake(), kLevel, -3.0);
    const Remake moved = lay_over(r, kLevel, kBar, 3 * kBar, {{kBar, -20.0}, {2 * kBar, -10.0}});
    EXPECT_EQ(by_bar(moved, kLevel, 8), (std::vector<double>{-3, -20, -10, -3, -3, -3, -3, -3}));
    EXPECT_DOUBLE_EQ(value_moved(moved, kLevel, kBar - 1), -3.0) << "to the tick before";
    EXPECT_NEAR(value_moved(moved, kLevel, kBar + kBar / 2), -15.0, 0.01);
    EXPECT_DOUBLE_EQ(value_moved(moved, kLevel, 3 * kBar - 1), -10.0) << "held to the end of the move";
    EXPECT_FALSE(what_is_wrong(moved));
    EXPECT_EQ(moved.automation->curves.size(), 1u) << "it belongs to the section it is in";
    EXPECT_EQ(moved.automation->curves[0].section, SectionId(3));

    // Once more over it: what lies before and behind stays as it was.
    const Remake twice = lay_over(moved, kLevel, 2 * kBar, 2 * kBar + kBar / 2, {{2 * kBar, 0.0}});
    EXPECT_DOUBLE_EQ(value_moved(twice, kLevel, kBar), -20.0);
    EXPECT_DOUBLE_EQ(value_moved(twice, kLevel, 2 * kBar), 0.0);
    EXPECT_DOUBLE_EQ(value_moved(twice, kLevel, 2 * kBar + kBar / 2), -10.0);
    EXPECT_DOUBLE_EQ(value_moved(twice, kLevel, 3 * kBar), -3.0);
}

TEST(Automation, AMoveThatGoesOnIntoTheNextSectionBecomesACurveOfEach) {
    const Remake r = small_remake();
    const Remake moved = lay_over(r, kLevel, 3 * kBar, 5 * kBar, {{3 * kBar, -12.0}, {5 * kBar - 1, 0.0}});
    ASSERT_EQ(moved.automation->curves.size(), 2u);
    EXPECT_NEAR(value_moved(moved, kLevel, 4 * kBar - 1), -6.0, 0.01);
    EXPECT_NEAR(value_moved(moved, kLevel, 4 * kBar), -6.0, 0.01) << "no step where the sections meet";
    EXPECT_DOUBLE_EQ(value_moved(moved, kLevel, 5 * kBar), 0.0);
    EXPECT_FALSE(what_is_wrong(moved));
}

TEST(Automation, ASongsCurveAndASectionsSettingGoOnBesideAMove) {
    Remake r = set_curve(small_remake(), kLevel, {}, {{0, -24.0}, {8 * kBar, 0.0}});
    const Remake over = lay_over(r, kLevel, kBar, 2 * kBar, {{kBar, 6.0}});
    for (const Ticks at : {Ticks{0}, kBar - 1, 2 * kBar, 3 * kBar, 6 * kBar})
        EXPECT_NEAR(value_moved(over, kLevel, at), value_moved(r, kLevel, at), 0.05) << at;
    EXPECT_DOUBLE_EQ(value_moved(over, kLevel, kBar + 100), 6.0);
    r = set_in_section(r, kLevel, SectionId(4), -40.0);
    const Remake held = lay_over(r, kLevel, 5 * kBar, 6 * kBar, {{5 * kBar, -1.0}});
    EXPECT_DOUBLE_EQ(value_moved(held, kLevel, 4 * kBar), -40.0);
    EXPECT_DOUBLE_EQ(value_moved(held, kLevel, 5 * kBar), -1.0);
    EXPECT_DOUBLE_EQ(value_moved(held, kLevel, 6 * kBar), -40.0);
}

TEST(Automation, WhatCannotBeMovedOrLastsNoTimeIsLeftAlone) {
    const Remake r = small_remake();
    EXPECT_EQ(lay_over(r, {kBass, "early_ms"}, 0, kBar, {{0, 5.0}}), r);
    EXPECT_EQ(lay_over(r, kLevel, kBar, kBar, {{kBar, 5.0}}), r);
}

TEST(Automation, ASendIsOpenForTheNotesThrownAndClosedOtherwise) {
    const Remake r = add_bus(small_remake(), "Echo");
    const BusId echo = r.mixer->buses[0].id;
    const Remake thrown = throw_notes(r, kBass, echo, test::refs(r, kBass, {2, 5}), -6.0);
    ASSERT_EQ(thrown.part(kBass)->sends.size(), 1u);
    const FieldRef level{SendRef{kBass, echo}, "level"};
    const auto notes = placed_notes(*thrown.part(kBass));
    for (std::size_t i = 0; i < 8; ++i) EXPECT_DOUBLE_EQ(value_moved(thrown, level, notes[i].note.start + 10), i == 2 || i == 5 ? -6.0 : -96.0) << i;
    EXPECT_DOUBLE_EQ(value_moved(thrown, level, notes[2].note.start + notes[2].note.length), -96.0) << "closed when it ends";
    EXPECT_DOUBLE_EQ(value_moved(thrown, level, 6 * kBar), -96.0) << "and in the next section";
    EXPECT_FALSE(what_is_wrong(thrown));
    // A further throw keeps those before.
    const Remake more = throw_notes(thrown, kBass, echo, test::refs(thrown, kBass, {3}), 0.0);
    EXPECT_DOUBLE_EQ(value_moved(more, level, notes[2].note.start + 10), -6.0);
    EXPECT_DOUBLE_EQ(value_moved(more, level, notes[3].note.start + 10), 0.0);
    EXPECT_DOUBLE_EQ(value_moved(more, level, notes[5].note.start + 10), -6.0);
}

TEST(Automation, ACurveIsUsedAgainOnRepeatsAndCutWhereOneIsShorter) {
    Remake r = set_curve(small_remake(), kLevel, SectionId(3), {{0, -10.0}, {kBar, -4.0}, {3 * kBar, 0.0}});
    r.song.edit().sections[1].length = 2 * kBar;
    const Remake again = reuse_curve(r, kLevel, SectionId(3));
    const Curve* there = find_curve(again, kLevel, SectionId(4));
    ASSERT_TRUE(there);
    EXPECT_EQ(there->points.size(), 2u);
    EXPECT_DOUBLE_EQ(value_moved(again, kLevel, 5 * kBar), -4.0);
    EXPECT_EQ(reuse_curve(r, {kBass, "pan"}, SectionId(3)), r) << "it has no curve there";
    Remake other = r;
    other.song.edit().sections[1].repeat_of = {};
    other.song.edit().sections[1].label = "B";
    EXPECT_EQ(reuse_curve(other, kLevel, SectionId(3)), other) << "what repeats nothing is left alone";
}

TEST(Automation, AMoveBesideAllSectionsIsTheSongsAndNothingOfItIsLost) {
    Remake r = small_remake();
    Song& song = r.song.edit();
    song.sections.erase(song.sections.begin());  // the first four bars belong to none
    song.sections[0].repeat_of = {};
    const Remake moved = lay_over(r, kLevel, 2 * kBar, 6 * kBar, {{2 * kBar, -20.0}, {6 * kBar - 1, -20.0}});
    EXPECT_EQ(by_bar(moved, kLevel, 8), (std::vector<double>{0, 0, -20, -20, -20, -20, 0, 0}));
    ASSERT_EQ(moved.automation->curves.size(), 2u);
    EXPECT_FALSE(what_is_wrong(moved));
}

TEST(Automation, AFieldIsChangedWhereverItIsSetAndNothingElseIs) {
    Remake r = set_curve(set_in_section(small_remake(), kLevel, SectionId(4), -9.0), kLevel, SectionId(3), {{0, -20.0}, {kBar, -2.0}});
    r = set_in_section(r, {kBass, "pan"}, SectionId(4), 0.5);
    NoteMove by_notes;
    by_notes.field = kLevel, by_notes.by = kBass, by_notes.to = 2.0;
    r = move_by_notes(r, by_notes);
    const Remake higher = changed_everywhere(r, kLevel, [](double db) { return db + 3.0; });
    EXPECT_DOUBLE_EQ(higher.part(kBass)->gain_db, r.part(kBass)->gain_db + 3.0);
    for (const Ticks at : {Ticks{0}, kBar, 5 * kBar}) EXPECT_DOUBLE_EQ(value_moved(higher, kLevel, at), value_moved(r, kLevel, at) + 3.0) << at;
    EXPECT_DOUBLE_EQ(value_moved(higher, {kBass, "pan"}, 5 * kBar), 0.5);
    EXPECT_DOUBLE_EQ(higher.automation->note_move(kLevel)->to, 5.0) << "where notes take it, too";
    EXPECT_DOUBLE_EQ(value_moved(changed_everywhere(r, kLevel, [](double) { return 1e9; }), kLevel, 0), kPartFields[0].high) << "within its range";
    EXPECT_EQ(changed_everywhere(r, {kBass, "nothing"}, [](double v) { return v; }), r);
}

}  // namespace fw
