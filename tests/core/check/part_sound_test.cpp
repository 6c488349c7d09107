// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/part_sound.hpp"

#include "check/remedy.hpp"
#include "check/words.hpp"
#include "engine/offline.hpp"
#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/rendering.hpp"

#include <gtest/gtest.h>
#include <functional>

namespace fw {

using test::kBass;
using test::kDrums;
using test::plan_of;
using test::small_remake;

namespace {

SoundSummary sound_of(const Remake& r) {
    const auto sound = render_offline(*plan_of(r));
    EXPECT_TRUE(sound);
    return summarise(*sound);
}

/// What is told of the parts of a rebuild, against the small remake as it sounds.
std::vector<Finding> told(const std::function<void(Part&)>& change, PartId id = kBass, const std::function<Remake(Remake)>& also = {}) {
    Remake right = small_remake();
    right.reference.duration_s = right.song->tempo.seconds(right.end_tick());
    Remake r = with_part(right, id, change);
    if (also) r = also(r);
    const SoundSummary original = sound_of(right), rebuild = sound_of(r);
    CheckReport report;
    tell_part_sounds(r, part_sounds(original, rebuild, render_stems(r, *plan_of(r)), original.lufs - rebuild.lufs), report);
    return report.findings;
}

}  // namespace

TEST(PartSound, OfTheRightSoundsNothingIsTold) {
    EXPECT_TRUE(told([](Part&) {}).empty());
}

TEST(PartSound, WhatTheMasterAndABusDoIsNotTheParts) {
    for (const double db : {-9.0, 7.0})
        EXPECT_TRUE(told([](Part&) {}, kBass, [&](Remake r) { return set_field(r, {MasterRef{}, "level"}, db); }).empty()) << db << " dB on the master";
    EXPECT_TRUE(told([](Part&) {}, kBass,
                     [](Remake r) {
                         r = add_bus(r, "Both");
                         const BusId both = r.mixer->buses[0].id;
                         return set_field(set_output(set_output(r, kBass, both), kDrums, both), {both, "level"}, 8.0);
                     })
                    .empty());
}

TEST(PartSound, APartTooSoftOrTooLoudIsNamedWithItsRemedy) {
    // The drums carry the loudness, so that the whole is matched much as before.
    for (const double db : {-8.0, 8.0}) {
        const auto findings = told([&](Part& p) { p.gain_db += db; });
        const auto of_bass =
            std::find_if(findings.begin(), findings.end(), [](const Finding& f) { return f.element == ElementId(kBass) && f.kind == FindingKind::Level; });
        const auto of_drums =
            std::find_if(findings.begin(), findings.end(), [](const Finding& f) { return f.element == ElementId(kDrums) && f.kind == FindingKind::Level; });
        ASSERT_TRUE(of_bass != findings.end() || of_drums != findings.end()) << db;
        const double bass = of_bass == findings.end() ? 0.0 : of_bass->size, drums = of_drums == findings.end() ? 0.0 : of_drums->size;
        EXPECT_GT((bass - drums) * db, 0.0) << "the bass against the drums is " << db << " dB off";
        const Finding& f = of_bass != findings.end() ? *of_bass : *of_drums;
        EXPECT_NE(finding_message(f).find("as far as the mix tells"), std::string::npos);
        const auto line = remedy_line(small_remake(), f);
        ASSERT_TRUE(line) << "it can be applied";
    }
}

TEST(PartSound, APartHardToOneSideIsNamed) {
    const auto findings = told([](Part& p) { p.pan = -1.0; });
    const auto at = std::find_if(findings.begin(), findings.end(), [](const Finding& f) { return f.kind == FindingKind::Balance; });
    ASSERT_NE(at, findings.end());
    EXPECT_EQ(at->element, ElementId(kBass));
    EXPECT_LT(at->size, -60.0);
    EXPECT_NE(finding_message(*at).find("farther to the left"), std::string::npos);
    EXPECT_EQ(remedy_words(*at), "pan the part to the right");
}

TEST(PartSound, WhatIsMeantOrLeftOutIsNotTold) {
    const auto meant = [](State state, const char* words) {
        return [=](Remake r) {
            ElementState now = r.element(kBass);
            now.state = state;
            now.intended = words;
            return set_element(r, kBass, now);
        };
    };
    for (const auto& also : {meant(State::Draft, "left on purpose"), meant(State::LeftOut, "")})
        for (const Finding& f : told([](Part& p) { p.pan = -1.0; }, kBass, also)) EXPECT_NE(f.element, ElementId(kBass)) << finding_message(f);
}

TEST(PartSound, AnEqualisersCurveIsFoundAgainByOctave) {
    // The original's bass has 9 dB more around 1 kHz than ours: that is what ours is told to want there, and nothing much elsewhere.
    Remake mine = small_remake();
    mine.reference.duration_s = mine.song->tempo.seconds(mine.end_tick());
    Remake theirs = add_step(mine, kBass, test::step(kEqualiser));
    const StepId eq = theirs.part(kBass)->steps[0].id;
    theirs = set_field(set_field(set_field(theirs, {eq, "mid"}, 9.0), {eq, "mid_hz"}, 300.0), {eq, "mid_q"}, 0.7);
    const SoundSummary original = sound_of(theirs), rebuild = sound_of(mine);
    const auto sounds = part_sounds(original, rebuild, render_stems(mine, *plan_of(mine)), 0.0);
    const auto bass = std::find_if(sounds.begin(), sounds.end(), [](const PartSound& s) { return s.part == kBass; });
    ASSERT_NE(bass, sounds.end());
    ASSERT_GE(bass->octaves.size(), 2u);
    double there = 0.0, low = 0.0;
    for (const auto& o : bass->octaves) {
        if (o.hz > 220.0 && o.hz < 420.0) there = o.off_db;
        if (o.hz < 60.0) low = o.off_db;
        EXPECT_GT(o.weight, 0.0);
    }
    EXPECT_LT(there - low, -4.0) << "softer there than the original, against its own lows";
    for (const PartSound& s : part_sounds(rebuild, rebuild, render_stems(mine, *plan_of(mine)), 0.0))
        for (const auto& o : s.octaves) EXPECT_NEAR(o.off_db, 0.0, 1.5) << "against itself nothing is off";
}

}  // namespace fw
