// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/plan.hpp"

#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/rendering.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <cmath>
#include <set>

namespace fw {

using test::energy;
using test::kBass;
using test::kDrums;
using test::pattern;
using test::plan_of;
using test::refs;
using test::rendered;
using test::small_remake;

TEST(PlanTest, NotesStandAtTheFramesOfTheRecordingsClock) {
    const auto plan = plan_of(small_remake());
    ASSERT_EQ(plan->parts.size(), 2u);
    EXPECT_EQ(plan->parts[1].layers[0].notes[0].on, 22050);
    EXPECT_EQ(plan->parts[1].layers[0].notes[7].on, 22050 + 7 * 22050);
}

TEST(PlanTest, TheRebuildIsSilentBeforeItsFirstNoteAndBeginsExactlyThere) {
    const auto mix = render_offline(*plan_of(small_remake()));
    ASSERT_TRUE(mix);
    std::size_t first = 0;
    while (std::abs(mix->samples[2 * first]) < 1e-5F && std::abs(mix->samples[2 * first + 1]) < 1e-5F) ++first;
    EXPECT_NEAR(static_cast<double>(first), 22050.0, 12.0);
}

TEST(PlanTest, MuteSoloAndCellsDecideWhatIsHeard) {
    const Remake r = small_remake();
    const auto with = [&](const Remake& x) { return *render_offline(*plan_of(x)); };
    const Remake muted = with_part(with_part(r, kBass, [](Part& p) { p.mute = true; }), kDrums, [](Part& p) { p.mute = true; });
    EXPECT_LT(energy(with(muted), 0, 17), 1e-9);
    const Remake solo = with_part(r, kBass, [](Part& p) { p.solo = true; });
    const Remake drums_muted = with_part(r, kDrums, [](Part& p) { p.mute = true; });
    EXPECT_EQ(with(solo).samples, with(drums_muted).samples);
    const Remake cell = mute_cell(drums_muted, kBass, SectionId(4), true);
    EXPECT_GT(energy(with(cell), 1, 8), 1.0);
    EXPECT_LT(energy(with(cell), 9.5, 16), 1e-3);
}

TEST(PlanTest, PanningAndLevelFollowTheDocument) {
    const Remake r = with_part(small_remake(), kDrums, [](Part& p) { p.mute = true; });
    const Audio left = rendered(with_part(r, kBass, [](Part& p) { p.pan = -1; }));
    double l = 0, rr = 0;
    for (std::size_t f = 0; f < left.frames(); ++f) l += std::abs(left.samples[2 * f]), rr += std::abs(left.samples[2 * f + 1]);
    EXPECT_GT(l, 1000 * std::max(rr, 1e-6));
    const Audio loud = *render_offline(*plan_of(r)), soft = rendered(with_part(r, kBass, [](Part&p) { p.gain_db = -20; }));
    EXPECT_NEAR(10 * std::log10(energy(loud, 1, 8) / energy(soft, 1, 8)), 20.0, 0.5);
}

TEST(PlanTest, StemsAddUpToTheMixWhereTheLimiterRests) {
    Remake r = small_remake();
    for (const PartId id : {kBass, kDrums}) r = with_part(r, id, [](Part& p) { p.gain_db = -18; });
    const auto plan = plan_of(r);
    const Audio mix = *render_offline(*plan), bass = *render_offline(*plan, {RenderWhat::of(kBass)}), drums = *render_offline(*plan, {RenderWhat::of(kDrums)});
    float worst = 0;
    for (std::size_t i = 0; i < mix.samples.size() && i < 44100 * 20; ++i)
        worst = std::max(worst, std::abs(mix.samples[i] - bass.samples[i] - drums.samples[i]));
    EXPECT_LT(worst, 1e-4F);
}

TEST(PlanTest, AnEditKeepsEverySoundThatItDoesNotChange) {
    const Remake r = small_remake();
    const auto a = plan_of(r);
    const auto moved = plan_of(change_notes(r, kBass, refs(r, kBass, {0}), {.semitones = 1}), a);
    for (std::size_t p = 0; p < 2; ++p) EXPECT_EQ(moved->parts[p].layers[0].state, a->parts[p].layers[0].state);
    const auto other = plan_of(with_part(r, kBass, [](Part& p) { p.layers[0].patch = "Organ"; }), a);
    EXPECT_NE(other->parts[0].layers[0].state, a->parts[0].layers[0].state);
    EXPECT_EQ(other->parts[1].layers[0].state, a->parts[1].layers[0].state);
}

TEST(PlanTest, AMissingSoundFontIsToldAndTheRestPlays) {
    const Remake r = with_part(small_remake(), kBass, [](Part& p) { p.layers[0].source = &kSoundFont, p.layers[0].file = "/nowhere.sf2"; });
    Error trouble;
    const auto plan = compile_plan(r, {44100.0, {}}, nullptr, &trouble);
    EXPECT_EQ(trouble.code, ErrorCode::SoundFontUnusable);
    EXPECT_GT(energy(*render_offline(*plan), 0, 17), 0.1);
}

TEST(PlanTest, RenderingStopsWhenToldTo) {
    Progress progress;
    progress.cancel();
    const auto r = render_offline(*plan_of(small_remake()), {}, progress);
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::Cancelled);
}

TEST(AtRate, ResamplesAndWidensToStereo) {
    const Audio out = at_rate(test::sine(440, 1.0, 8000, 1), 44100);
    EXPECT_EQ(out.channels, 2);
    EXPECT_NEAR(out.duration_s(), 1.0, 0.01);
    EXPECT_EQ(out.samples[20000], out.samples[20001]);
}

TEST(PlanTest, TheRebuildIsTunedAsTheRecordingIs) {
    Remake r = small_remake();
    r = with_part(r, kBass, [](Part& p) {
        p.layers[0].patch = "Sub bass";
        p.patterns[0].edit().notes = {{0, 8000, 57, 100, 1.0, Origin::Drawn, NoteId(2)}};
    });
    const auto crossings = [](const Remake& x) {
        const Audio a = rendered(x, RenderWhat::of(kBass));
        int count = 0;
        for (std::size_t f = 44100; f < 3 * 44100; ++f) count += a.samples[2 * f - 2] < 0 && a.samples[2 * f] >= 0;
        return count;
    };
    EXPECT_NEAR(crossings(r), 440, 1);
    r.song.edit().tuning_cents = 50.0;
    EXPECT_NEAR(crossings(r), 440 * std::exp2(50.0 / 1200), 1.5);
}

TEST(PlanTest, APartPlayedEarlySoundsEarlierAndIsWrittenWhereItWas) {
    const Remake r = small_remake();
    const Remake early = with_part(r, kBass, [](Part& p) { p.early_ms = 25.0; });
    const auto a = plan_of(r), b = plan_of(early);
    const auto& before = a->parts[0].layers[0].notes;
    const auto& after = b->parts[0].layers[0].notes;
    ASSERT_EQ(before.size(), after.size());
    const auto frames = static_cast<std::int64_t>(std::lround(0.025 * a->sample_rate_hz));
    for (std::size_t i = 0; i < before.size(); ++i) EXPECT_EQ(before[i].on - after[i].on, std::min(before[i].on, frames)) << i;
    EXPECT_EQ(placed_notes(*early.part(kBass)).front().note.start, placed_notes(*r.part(kBass)).front().note.start);
}

TEST(PlanTest, ARollIsStruckAsOftenAsItSaysAndAMutedNoteNotAtAll) {
    const Remake r = small_remake();
    const std::size_t plain = plan_of(r)->parts[0].layers[0].notes.size();
    Roll roll;
    roll.strokes = 4, roll.apart = 60;
    const Remake rolled = roll_notes(r, kBass, test::refs(r, kBass, {2}), roll, Reach::Here);
    const auto plan = plan_of(rolled);
    const auto& notes = plan->parts[0].layers[0].notes;
    EXPECT_EQ(notes.size(), plain + 3);
    for (std::size_t i = 1; i < notes.size(); ++i)
        if (notes[i].voice == notes[i - 1].voice) {
            EXPECT_LE(notes[i - 1].off, notes[i].on) << "a stroke ends before the next of its note";
        }
    EXPECT_EQ(plan_of(mute_notes(r, kBass, test::refs(r, kBass, {2}), true, Reach::Here))->parts[0].layers[0].notes.size(), plain - 1);
}

TEST(PlanTest, RenderingIntoASinkGivesTheSameSoundAndStopsWhenItTakesNoMore) {
    const auto plan = plan_of(small_remake());
    const Audio whole = *render_offline(*plan);
    std::vector<float> pieces;
    EXPECT_TRUE(render_offline(*plan, {}, [&](std::span<const float> block) {
        pieces.insert(pieces.end(), block.begin(), block.end());
        return true;
    }));
    EXPECT_EQ(pieces, whole.samples);
    int blocks = 0;
    EXPECT_FALSE(render_offline(*plan, {}, [&](std::span<const float>) { return ++blocks < 5; }));
    EXPECT_EQ(blocks, 5);
}

TEST(PlanTest, ADrumSoundWithALayerOfItsOwnIsNoLongerPlayedByTheKit) {
    Remake r = small_remake();
    Layer own;
    own.source = &kDrumVoice;
    own.patch = "Deep kick";
    own.low_key = own.high_key = 36;
    r = add_layer(r, kDrums, own);
    const auto keys = [](const PlanLayer& l) {
        std::set<int> all;
        for (const PlanNote& n : l.notes) all.insert(n.key);
        return all;
    };
    auto plan = plan_of(r);
    EXPECT_EQ(keys(plan->parts[1].layers[0]), (std::set<int>{38}));
    EXPECT_EQ(keys(plan->parts[1].layers[1]), (std::set<int>{36}));
    // Switched off it gives the sound back; a pitched part has no kit.
    r = set_field(r, {r.part(kDrums)->layers[1].id, "on"}, 0.0);
    EXPECT_EQ(keys(plan_of(r)->parts[1].layers[0]), (std::set<int>{36, 38}));
    Remake bass = small_remake();
    Layer note;
    note.low_key = note.high_key = 38;
    bass = add_layer(bass, kBass, note);
    EXPECT_TRUE(keys(plan_of(bass)->parts[0].layers[0]).contains(38));
}

TEST(PlanTest, LayersAreChosenByVelocityAndTunedByTheirOwnCentsWhileDrumsKeepTheirPitch) {
    Remake r = small_remake();
    r.song.edit().tuning_cents = 20.0;
    Layer loud;
    loud.low_velocity = 100;
    loud.tune_cents = -35.0;
    r = add_layer(r, kBass, loud);
    const auto plan = plan_of(r);
    EXPECT_EQ(plan->parts[0].layers[0].spec.tuning_cents, 20.0);
    EXPECT_EQ(plan->parts[0].layers[1].spec.tuning_cents, -15.0);
    EXPECT_EQ(plan->parts[1].layers[0].spec.tuning_cents, 0.0) << "a recording's tuning is not the drums'";
    ASSERT_FALSE(plan->parts[0].layers[1].notes.empty());
    for (const PlanNote& n : plan->parts[0].layers[1].notes) EXPECT_GE(n.velocity, 100);
    EXPECT_LT(plan->parts[0].layers[1].notes.size(), plan->parts[0].layers[0].notes.size());
}

}  // namespace fw
