// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits.hpp"
#include "model/fields.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::kBass;
using test::kDrums;
using test::small_remake;
using test::step;

namespace {

/// With a bus, a send to it, a duck by the drums, a curve, a section setting and a rival.
Remake rich() {
    Remake r = add_bus(small_remake(), "Room");
    r = add_send(r, kBass, r.mixer->buses[0].id, -8.0);
    Step duck = step(kDuck);
    duck.trigger = {kDrums, 36};
    r = add_step(r, kBass, duck);
    r = set_curve(r, {r.part(kBass)->layers[0].id, "cutoff"}, SectionId(3), {{0, 300.0, Shape::Smooth}, {3840, 6000.0}});
    r = set_in_section(r, {r.part(kBass)->steps[0].id, "on"}, SectionId(4), 0.0);
    return add_rival(r, kBass, "second");
}

}  // namespace

TEST(Fields, EveryFieldThereIsCanBeSetReadAndReset) {
    Remake r = rich();
    r = add_layer(r, kDrums, {&kDrumKit});
    for (const StepType* t : step_types()) r = add_step(r, MasterRef{}, step(*t));
    std::vector<FieldOwner> owners{
        kBass, r.part(kBass)->layers[0].id, r.part(kDrums)->layers[1].id, SendRef{kBass, r.mixer->buses[0].id}, r.mixer->buses[0].id, MasterRef{}};
    for (const Step& s : r.mixer->master.steps) owners.emplace_back(s.id);
    int fields = 0;
    for (const FieldOwner& owner : owners) {
        ASSERT_FALSE(fields_of(r, owner).empty());
        for (const Parameter* row : fields_of(r, owner)) {
            const FieldRef ref{owner, row->id};
            const double start = *field_value(r, ref);
            for (const double wanted : {row->low, row->high, value_at(*row, 0.37)}) {
                const Remake set = set_field(r, ref, wanted);
                EXPECT_EQ(*field_value(set, ref), clamped(*row, wanted)) << row->id;
                const bool range_of_notes = row->unit == Unit::Pitch;  // where the lowest may come above the highest
                EXPECT_TRUE(range_of_notes || !what_is_wrong(set)) << row->id;
                const double back = *field_value(reset_field(set, ref), ref);
                EXPECT_TRUE(back == start || back == row->neutral) << row->id;
            }
            EXPECT_EQ(*field_value(set_field(r, ref, 1e30), ref), row->high) << row->id;
            ++fields;
        }
    }
    EXPECT_GT(fields, 80);
    EXPECT_EQ(set_field(r, {StepId(9999), "on"}, 1.0), r) << "what is not there is left alone";
    EXPECT_EQ(set_field(r, {PartId(kBass), "warmth"}, 1.0), r);
}

TEST(Fields, AreNamedForPeople) {
    const Remake r = rich();
    EXPECT_EQ(owner_name(r, r.part(kBass)->layers[0].id), "Bass, first layer");
    EXPECT_EQ(owner_name(r, r.part(kBass)->steps[0].id), "Bass, duck");
    EXPECT_EQ(owner_name(r, SendRef{kBass, r.mixer->buses[0].id}), "Bass to Room");
}

TEST(SoundEdits, StepsStandInAnOrderThatCanBeChanged) {
    Remake r = add_step(add_step(add_step(small_remake(), kBass, step(kEqualiser)), kBass, step(kDrive)), kBass, step(kReverb), 0);
    const auto kinds = [&] {
        std::string all;
        for (const Step& s : r.part(kBass)->steps) all += s.type->id[0];
        return all;
    };
    EXPECT_EQ(kinds(), "red");
    r = move_step(r, r.part(kBass)->steps[0].id, 2);
    EXPECT_EQ(kinds(), "edr");
    r = move_step(r, r.part(kBass)->steps[1].id, 0);
    EXPECT_EQ(kinds(), "der");
    r = remove_step(r, r.part(kBass)->steps[1].id);
    EXPECT_EQ(kinds(), "dr");
    r = switch_steps(r, kBass, false);
    for (const Step& s : r.part(kBass)->steps) EXPECT_EQ(s.on, 0.0);
}

TEST(SoundEdits, WhatIsTakenAwayLeavesNoLooseEnds) {
    const Remake r = rich();
    ASSERT_EQ(what_is_wrong(r), std::nullopt);
    const Remake no_bus = remove_bus(r, r.mixer->buses[0].id);
    EXPECT_TRUE(no_bus.part(kBass)->sends.empty());
    EXPECT_EQ(what_is_wrong(no_bus), std::nullopt);
    const Remake no_drums = remove_part(r, kDrums);
    EXPECT_FALSE(no_drums.part(kBass)->steps[0].trigger.part);
    EXPECT_EQ(what_is_wrong(no_drums), std::nullopt);
    const Remake no_rival = remove_rival(r, kBass, 0);
    const Remake no_step = remove_step(no_rival, r.part(kBass)->steps[0].id);
    EXPECT_TRUE(no_step.automation->settings.empty());
    EXPECT_EQ(no_step.automation->curves.size(), 1u);
    EXPECT_EQ(remove_step(r, r.part(kBass)->steps[0].id).automation->settings.size(), 1u) << "a rival still has the step";
}

TEST(SoundEdits, ARivalIsAWholeVersionAndComesBackAsItWas) {
    Remake r = rich();
    const PartVersion first = *r.part(kBass)->rivals[0];
    r = set_field(r, {r.part(kBass)->layers[0].id, "cutoff"}, 5000.0);
    r = change_notes(r, kBass, test::refs(r, kBass, {0}), {.semitones = 7});
    const PartVersion second = r.part(kBass)->version();
    r = choose_rival(r, kBass, 0);
    EXPECT_EQ(r.part(kBass)->version(), first);
    r = choose_rival(r, kBass, 0);
    EXPECT_EQ(r.part(kBass)->version(), second);
    EXPECT_EQ(what_is_wrong(r), std::nullopt);
}

TEST(Sections, ACopyBringsWhatIsPlayedWithItsCurvesSettingsAndClips) {
    Remake r = rich();
    Clip clip;
    clip.start = 960;
    r = add_clip(r, from_original(r, "Hit", 1.0, 1.5), clip);
    const Remake copied = copy_section(r, SectionId(3), 8 * 3840);
    ASSERT_EQ(copied.song->sections.size(), 3u);
    const Section& made = copied.song->sections[2];
    EXPECT_EQ(made.repeat_of, SectionId(3));
    EXPECT_EQ(test::sounding(copied, kBass).size(), 48u);
    ASSERT_TRUE(find_curve(copied, r.automation->curves[0].field, made.id));
    EXPECT_EQ(find_curve(copied, r.automation->curves[0].field, made.id)->points, r.automation->curves[0].points);
    ASSERT_EQ(copied.clips->clips.size(), 2u);
    EXPECT_EQ(copied.clips->clips[1].start, 960 + 8 * 3840);
    EXPECT_EQ(what_is_wrong(copied), std::nullopt);
    const Remake over = copy_section(r, SectionId(4), 0);
    EXPECT_TRUE(over.automation->curves.empty()) << "the curve of what was replaced goes with it";
    EXPECT_EQ(over.automation->settings.size(), 2u);
    EXPECT_EQ(what_is_wrong(over), std::nullopt);
    EXPECT_EQ(copy_section(r, SectionId(3), 5 * 3840), r) << "nothing goes into the middle of a section";
}

TEST(Clips, WithoutTheOriginalNothingOfItIsLeft) {
    Remake r = small_remake();
    r = add_clip(r, from_original(r, "Hit", 1.0, 1.5), {});
    Asset file;
    file.path = "/clap.wav";
    file.end_s = 1.0;
    r = add_clip(r, file, {});
    const Remake without = without_original(r);
    ASSERT_EQ(without.clips->clips.size(), 1u);
    ASSERT_EQ(without.clips->assets.size(), 1u);
    EXPECT_EQ(without.clips->assets[0].path, "/clap.wav");
    EXPECT_EQ(remove_clip(without, without.clips->clips[0].id).clips->assets.size(), 0u);
}

TEST(Curves, GoTheWayTheirShapesSay) {
    Curve c;
    c.points = {{0, 0.0, Shape::Straight}, {100, 1.0, Shape::Smooth}, {200, 0.0, Shape::Hold}, {300, 1.0, Shape::Curved, 1.0}, {400, 0.0}};
    EXPECT_DOUBLE_EQ(c.at(-5), 0.0);
    EXPECT_DOUBLE_EQ(c.at(25), 0.25);
    EXPECT_DOUBLE_EQ(c.at(150), 0.5);
    EXPECT_GT(c.at(120), 0.85);
    EXPECT_DOUBLE_EQ(c.at(299), 0.0);
    EXPECT_GT(c.at(350), 0.95) << "late";
    EXPECT_DOUBLE_EQ(c.at(999), 0.0);
}

TEST(TimeEdits, EveryPlaceInTimeIsReached) {
    Remake r = rich();
    Clip clip;
    clip.start = 1920;
    r = add_clip(r, from_original(r, "Hit", 1.0, 1.5), clip);
    r.notebook.edit().remarks.push_back({RemarkKind::Question, kBass, 960, 480, "is it?"});
    const Remake twice = reread_tempo(r, 2.0);
    EXPECT_EQ(twice.clips->clips[0].start, 3840);
    EXPECT_EQ(twice.automation->curves[0].points[1].tick, 2 * 3840);
    EXPECT_EQ(twice.notebook->remarks[0].start, 1920);
    EXPECT_EQ(twice.notebook->remarks[0].length, 960);
    EXPECT_EQ(twice.part(kBass)->rivals[0]->patterns[0]->notes[1].start, 2 * r.part(kBass)->rivals[0]->patterns[0]->notes[1].start);
    EXPECT_EQ(reread_tempo(twice, 0.5).parts, r.parts);
}

TEST(CopySheet, OnlyWhatIsTakenIsReplacedAndWhatIsCopiedIsItsOwn) {
    Remake r = small_remake();
    r = set_field(r, {r.part(kBass)->layers[0].id, "cutoff"}, 777.0);
    r = add_step(r, kBass, test::step(kDrive));
    r = set_field(r, {kBass, "level"}, -7.0);
    const Remake layers = copy_sheet(r, kBass, test::kDrums, {true, false, false, false});
    ASSERT_FALSE(what_is_wrong(layers)) << *what_is_wrong(layers);
    const Part& now = *layers.part(test::kDrums);
    EXPECT_EQ(now.layers[0].source, &kSynth);
    EXPECT_EQ(now.layers[0].value(*index_of_field(kSynth.fields, "cutoff")), 777.0);
    EXPECT_NE(now.layers[0].id, r.part(kBass)->layers[0].id);
    EXPECT_TRUE(now.steps.empty());
    EXPECT_EQ(now.gain_db, 0.0);
    EXPECT_EQ(placed_notes(now).size(), placed_notes(*r.part(test::kDrums)).size());
    const Remake moved = set_field(layers, {now.layers[0].id, "cutoff"}, 100.0);
    EXPECT_EQ(moved.part(kBass)->layers[0].value(*index_of_field(kSynth.fields, "cutoff")), 777.0) << "the other part's sound stays";
    const Remake all = copy_sheet(r, kBass, test::kDrums, {true, true, true, true});
    ASSERT_FALSE(what_is_wrong(all)) << *what_is_wrong(all);
    EXPECT_EQ(all.part(test::kDrums)->steps.size(), 1u);
    EXPECT_EQ(all.part(test::kDrums)->gain_db, -7.0);
    EXPECT_EQ(placed_notes(*all.part(test::kDrums)).size(), placed_notes(*r.part(kBass)).size());
    EXPECT_EQ(copy_sheet(r, kBass, kBass, {}), r);
}

}  // namespace fw
