// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/share.hpp"

#include "base/pitch.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <algorithm>

namespace fw {

using test::kBass;
using test::kDrums;
using test::small_remake;

namespace {

Analysis heard() {
    Analysis a;
    a.tuning.cents = 20.0;
    a.parts = {{PartRole::Bass, "Bass", {{1.0, 0.5, 40, 90, 0.9}}}, {PartRole::Lead, "Lead", {{1.0, 0.5, 76, 90, 0.8}}}};
    a.drums = {{1.0, DrumKind::Kick, 90, 0.9}, {1.5, DrumKind::HatClosed, 90, 0.7}};
    return a;
}

std::size_t mine(const Share& s) {
    return static_cast<std::size_t>(std::count_if(s.tones.begin(), s.tones.end(), [](const Share::Tone& t) { return t.mine; }));
}

}  // namespace

TEST(ShareOf, APartsIsWhatWasHeardForItsRoleInTheRecordingsTuning) {
    const auto s = share_of(heard(), small_remake(), kBass);
    ASSERT_TRUE(s);
    EXPECT_EQ(s->tones.size(), 4u) << "all others stand against it";
    ASSERT_EQ(mine(*s), 1u);
    const auto bass = std::find_if(s->tones.begin(), s->tones.end(), [](const Share::Tone& t) { return t.mine; });
    EXPECT_NEAR(bass->hz, hertz_of(40.2), 0.01);
    for (std::size_t i = 1; i < s->tones.size(); ++i) EXPECT_LE(s->tones[i - 1].start_s, s->tones[i].start_s);
}

TEST(ShareOf, DrumsAreTheirStrokesAndOneSoundAloneCanBeMeant) {
    EXPECT_EQ(mine(*share_of(heard(), small_remake(), kDrums)), 2u);
    const auto kick = share_of_drum(heard(), DrumKind::Kick);
    ASSERT_EQ(mine(*kick), 1u);
    for (const Share::Tone& t : kick->tones)
        if (t.mine) {
            EXPECT_LT(t.high_hz, 300.0F);
        }
}

TEST(ShareOf, APartNothingWasHeardForIsWhatItPlaysItself) {
    Analysis a = heard();
    a.parts.erase(a.parts.begin());
    EXPECT_EQ(mine(*share_of(a, small_remake(), kBass)), placed_notes(*small_remake().part(kBass)).size());
}

TEST(ShareOf, ChordsAreTheirTonesAndTempoHasNone) {
    EXPECT_EQ(mine(*share_of(heard(), small_remake(), ElementId::chords())) % 3, 0u) << "in three octaves";
    EXPECT_FALSE(share_of(heard(), small_remake(), ElementId::tempo()));
}

TEST(LensOf, AFindingIsHeardAroundItsPitchItsDrumItsBandOrItsElement) {
    Finding f;
    f.element = ElementId(kBass);
    f.role = PartRole::Bass;
    f.kind = FindingKind::WrongPitch;
    f.pitch = 45, f.expected_pitch = 40;
    Lens l = lens_of(f, heard(), small_remake());
    EXPECT_EQ(l.kind, LensKind::Pitch);
    EXPECT_NEAR(l.pitch_hz, hertz_of(40.2), 0.01) << "around what the original has";
    f.role = PartRole::Drums, f.pitch = 36, f.expected_pitch = -1;
    l = lens_of(f, heard(), small_remake());
    EXPECT_EQ(l.kind, LensKind::Element);
    EXPECT_EQ(mine(*l.share), 1u);
    Finding tone;
    tone.center_hz = 1000.0;
    l = lens_of(tone, heard(), small_remake());
    EXPECT_EQ(l.kind, LensKind::Band);
    EXPECT_LT(l.low_hz, 1000.0);
    EXPECT_GT(l.high_hz, 1000.0);
    Finding whole;
    whole.element = ElementId(kBass);
    EXPECT_EQ(lens_of(whole, heard(), small_remake()).kind, LensKind::Element);
    EXPECT_EQ(lens_of(Finding{}, heard(), small_remake()).kind, LensKind::Whole);
}

}  // namespace fw
