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

}  // namespace fw
