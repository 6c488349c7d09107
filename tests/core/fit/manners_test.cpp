// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/manners.hpp"

#include "model/edits/parts.hpp"
#include "model/edits/sound.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>

namespace fw {

using test::kBass;
using test::small_remake;

namespace {

Remake with_settings(const char* patch, const std::vector<std::pair<const char*, double>>& values) {
    Remake r = small_remake();
    return with_part(r, kBass, [&](Part& p) {
        p.layers[0].patch = patch;
        for (const auto& [field, value] : values) p.layers[0].settings.set(*index_of_field(kSynth.fields, field), value);
    });
}

Audio beating(double apart_hz, double seconds) {
    Audio a{44100, 1, {}, {}};
    for (std::size_t i = 0; i < static_cast<std::size_t>(seconds * 44100); ++i) {
        const double t = static_cast<double>(i) / 44100.0, turn = 2.0 * std::numbers::pi * t;
        a.samples.push_back(static_cast<float>(0.3 * std::sin(220.0 * turn) + 0.25 * std::sin((220.0 + apart_hz) * turn)));
    }
    return a;
}

}  // namespace

TEST(SoundManners, ASlowAttackIsMeasuredAndAQuickOneIsNone) {
    for (const double attack : {200.0, 400.0}) {
        const auto m = measure_manners(with_settings("Sub bass", {{"attack_ms", attack}, {"sweep", 0.0}}), kBass);
        ASSERT_TRUE(m);
        // The rise is round: half its height is reached after two fifths of it.
        EXPECT_NEAR(m->speaks_ms, 0.23 * attack, 0.12 * attack) << attack;
    }
    const auto quick = measure_manners(with_settings("Sub bass", {{"attack_ms", 1.0}}), kBass);
    ASSERT_TRUE(quick);
    EXPECT_LT(quick->speaks_ms, 20.0);
}

TEST(SoundManners, TuningIsToldInCentsAndAPunchedPitchTakesItsTime) {
    const auto flat = measure_manners(with_settings("Sub bass", {{"fine", -40.0}}), kBass);
    ASSERT_TRUE(flat && flat->cents);
    EXPECT_NEAR(*flat->cents, -40.0, 4.0);
    const auto right = measure_manners(with_settings("Sub bass", {}), kBass);
    ASSERT_TRUE(right && right->cents);
    EXPECT_NEAR(*right->cents, 0.0, 4.0);
    EXPECT_LT(right->settles_ms, 100.0);
    const auto punched = measure_manners(with_settings("Sub bass", {{"punch", 12.0}, {"punch_ms", 900.0}}), kBass);
    ASSERT_TRUE(punched);
    EXPECT_GT(punched->settles_ms, 300.0) << "a pitch envelope that leaves short notes out of tune";
}

TEST(SoundManners, BeatingIsFoundWithItsRateAndAnEvenToneHasNone) {
    const SoundManners m = manners_of(beating(4.0, 1.8), 220.0);
    EXPECT_GT(m.beats_db, 10.0);
    EXPECT_NEAR(m.beats_hz, 4.0, 1.0);
    EXPECT_EQ(manners_of(beating(0.0, 1.8), 220.0).beats_db, 0.0);
}

TEST(SoundManners, SilenceAndAPartWithoutNotesTellNothing) {
    EXPECT_FALSE(measure_manners(with_settings("Sub bass", {{"trim", -24.0}}), PartId(77)));
    Remake r = with_part(small_remake(), kBass, [](Part& p) { p.patterns.clear(), p.placements.clear(); });
    EXPECT_FALSE(measure_manners(r, kBass));
    r = with_part(small_remake(), kBass, [](Part& p) { p.layers[0].on = 0.0; });
    EXPECT_FALSE(measure_manners(r, kBass));
}

TEST(HeardEffect, ADriveIsHeardAndAnEqualiserThatDoesNothingIsNot) {
    const Remake r = with_part(small_remake(), kBass, [](Part& p) {
        Step drive = test::step(kDrive), flat = test::step(kEqualiser);
        drive.id = StepId(900), flat.id = StepId(901);
        drive.settings.set(*index_of_field(kDrive.fields, "drive"), 18.0);
        p.steps = {drive, flat};
    });
    const auto heard = heard_db(r, kBass, StepId(900)), not_heard = heard_db(r, kBass, StepId(901));
    ASSERT_TRUE(heard && not_heard);
    EXPECT_GT(*heard, -25.0);
    EXPECT_LT(*not_heard, -60.0);
}

TEST(SoundManners, WhatIsLostInMonoAndWhatOfTheLowsIsNotInTheMiddle) {
    const auto sides = [](double hz, double turned) {
        Audio a{44100, 2, {}, {}};
        for (int i = 0; i < 66150; ++i) {
            const double t = i / 44100.0;
            a.samples.push_back(static_cast<float>(0.3 * std::sin(2.0 * std::numbers::pi * hz * t)));
            a.samples.push_back(static_cast<float>(0.3 * std::sin(2.0 * std::numbers::pi * hz * t + turned)));
        }
        return a;
    };
    EXPECT_NEAR(manners_of(sides(100.0, 0.0), 100.0).mono_db, 0.0, 0.01);
    EXPECT_NEAR(manners_of(sides(100.0, 0.0), 100.0).lows_off, 0.0, 1e-6);
    EXPECT_NEAR(manners_of(sides(100.0, std::numbers::pi / 2), 100.0).mono_db, 3.0, 0.1) << "a quarter turn apart";
    EXPECT_NEAR(manners_of(sides(100.0, std::numbers::pi / 2), 100.0).lows_off, 0.5, 0.05);
    EXPECT_GT(manners_of(sides(100.0, std::numbers::pi), 100.0).mono_db, 40.0) << "gone";
    EXPECT_EQ(manners_of(sides(2000.0, std::numbers::pi / 2), 2000.0).lows_off, 0.0) << "there are no lows";
}

TEST(SoundManners, EachLayersShareOfTheWholeAndNoneOfOneAlone) {
    Remake r = test::small_remake();
    EXPECT_TRUE(layer_shares(r, test::kBass).empty());
    r = add_layer(r, test::kBass, {&kSynth, "Round bass"});
    const LayerId first = r.part(test::kBass)->layers[0].id, second = r.part(test::kBass)->layers[1].id;
    auto shares = layer_shares(r, test::kBass);
    ASSERT_EQ(shares.size(), 2u);
    EXPECT_NEAR(shares[0].second, 0.5, 0.02) << "the same sound twice";
    r = set_field(r, {second, "level"}, -10.0);
    shares = layer_shares(r, test::kBass);
    EXPECT_EQ(shares[0].first, first);
    EXPECT_NEAR(shares[1].second, 1.0 / 11.0, 0.01) << "a tenth of the energy beside one";
    EXPECT_TRUE(layer_shares(set_field(r, {second, "on"}, 0.0), test::kBass).empty());
}

TEST(SoundManners, NotesLongerThanASampleAreCounted) {
    const Remake r = test::small_remake();  // sixteen notes of 0.36 s, twice, on keys 38 to 41
    const TempoMap& tempo = r.song->tempo;
    Layer l;
    l.source = &kSampler;
    l.settings.set(*index_of_field(kSampler.fields, "root"), 38.0);
    EXPECT_EQ(notes_cut_short(*r.part(test::kBass), l, tempo, 1.0), 0);
    EXPECT_EQ(notes_cut_short(*r.part(test::kBass), l, tempo, 0.2), 32);
    EXPECT_EQ(notes_cut_short(*r.part(test::kBass), l, tempo, 0.37), 16) << "higher keys play it faster";
    Layer loops = l, shot = l;
    loops.settings.set(*index_of_field(kSampler.fields, "loop"), 1.0);
    shot.settings.set(*index_of_field(kSampler.fields, "one_shot"), 1.0);
    EXPECT_EQ(notes_cut_short(*r.part(test::kBass), loops, tempo, 0.2), 0);
    EXPECT_EQ(notes_cut_short(*r.part(test::kBass), shot, tempo, 0.2), 0);
    EXPECT_EQ(notes_cut_short(*r.part(test::kBass), r.part(test::kBass)->layers[0], tempo, 0.01), 0) << "a synth holds as long as asked";
}

}  // namespace fw
