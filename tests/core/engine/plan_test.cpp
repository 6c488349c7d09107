// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/plan.hpp"

#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <cmath>
#include <set>

namespace fw {

using test::small_remake;

namespace {
double energy(const Audio& a, double from_s, double to_s) {
    double sum = 0;
    for (auto f = static_cast<std::size_t>(from_s * a.sample_rate_hz); f < std::min(a.frames(), static_cast<std::size_t>(to_s * a.sample_rate_hz)); ++f)
        sum += a.samples[2 * f] * a.samples[2 * f];
    return sum;
}
}  // namespace

TEST(PlanTest, NotesStandAtTheFramesOfTheRecordingsClock) {
    const auto plan = compile_plan(small_remake(), 44100.0);
    ASSERT_EQ(plan->parts.size(), 2u);
    EXPECT_EQ(plan->parts[1].notes[0].on, 22050);
    EXPECT_EQ(plan->parts[1].notes[7].on, 22050 + 7 * 22050);
}

TEST(PlanTest, TheRebuildIsSilentBeforeItsFirstNoteAndBeginsExactlyThere) {
    const auto mix = render_offline(*compile_plan(small_remake(), 44100.0));
    ASSERT_TRUE(mix);
    std::size_t first = 0;
    while (std::abs(mix->samples[2 * first]) < 1e-5F && std::abs(mix->samples[2 * first + 1]) < 1e-5F) ++first;
    EXPECT_NEAR(static_cast<double>(first), 22050.0, 12.0);
}

TEST(PlanTest, TheSameRenderingComesOutInBlocksOfAnySize) {
    const auto a = compile_plan(small_remake(), 44100.0), b = compile_plan(small_remake(), 44100.0);
    PlanRenderer one(44100), other(44100);
    one.adopt(a.get()), one.seek(0);
    other.adopt(b.get()), other.seek(0);
    std::vector<float> l1(88200), r1(88200), l2(88200), r2(88200);
    for (std::size_t at = 0; at < 88200; at += 441) one.render(std::span(l1).subspan(at, 441), std::span(r1).subspan(at, 441));
    for (std::size_t at = 0, n = 1; at < 88200; at += n, n = n % 500 + 17) {
        n = std::min(n, 88200 - at);
        other.render(std::span(l2).subspan(at, n), std::span(r2).subspan(at, n));
    }
    float worst = 0;
    for (std::size_t i = 0; i < 88200; ++i) worst = std::max(worst, std::abs(l1[i] - l2[i]));
    // Filters are set anew every 16 samples counted from the block's start, so blocks differ by that much and no more.
    EXPECT_LT(worst, 0.03F);
}

TEST(PlanTest, MuteSoloAndCellsDecideWhatIsHeard) {
    const Remake r = small_remake();
    const auto with = [&](const Remake& x) { return *render_offline(*compile_plan(x, 44100.0)); };
    const Remake muted = with_part(with_part(r, 1, [](Part& p) { p.mute = true; }), 2, [](Part& p) { p.mute = true; });
    EXPECT_LT(energy(with(muted), 0, 17), 1e-9);
    const Remake solo = with_part(r, 1, [](Part& p) { p.solo = true; });
    const Remake drums_muted = with_part(r, 2, [](Part& p) { p.mute = true; });
    EXPECT_EQ(with(solo).samples, with(drums_muted).samples);
    const Remake cell = mute_cell(drums_muted, 1, 1, true);
    EXPECT_GT(energy(with(cell), 1, 8), 1.0);
    EXPECT_LT(energy(with(cell), 9.5, 16), 1e-3);
}

TEST(PlanTest, PanningAndLevelFollowTheDocument) {
    const Remake r = with_part(small_remake(), 2, [](Part& p) { p.mute = true; });
    const Audio left = *render_offline(*compile_plan(with_part(r, 1, [](Part& p) { p.pan = -1; }), 44100.0));
    double l = 0, rr = 0;
    for (std::size_t f = 0; f < left.frames(); ++f) l += std::abs(left.samples[2 * f]), rr += std::abs(left.samples[2 * f + 1]);
    EXPECT_GT(l, 1000 * std::max(rr, 1e-6));
    const Audio loud = *render_offline(*compile_plan(r, 44100.0)),
                soft = *render_offline(*compile_plan(with_part(r, 1, [](Part&p) { p.gain_db = -20; }), 44100.0));
    EXPECT_NEAR(10 * std::log10(energy(loud, 1, 8) / energy(soft, 1, 8)), 20.0, 0.5);
}

TEST(PlanTest, StemsAddUpToTheMixWhereTheLimiterRests) {
    Remake r = small_remake();
    for (const int id : {1, 2}) r = with_part(r, id, [](Part& p) { p.gain_db = -18; });
    const auto plan = compile_plan(r, 44100.0);
    const Audio mix = *render_offline(*plan), bass = *render_offline(*plan, {}, 1), drums = *render_offline(*plan, {}, 2);
    float worst = 0;
    for (std::size_t i = 0; i < mix.samples.size() && i < 44100 * 20; ++i)
        worst = std::max(worst, std::abs(mix.samples[i] - bass.samples[i] - drums.samples[i]));
    EXPECT_LT(worst, 1e-4F);
}

TEST(PlanTest, AnEditThatLeavesTheInstrumentsKeepsThem) {
    const Remake r = small_remake();
    const auto a = compile_plan(r, 44100.0);
    EXPECT_EQ(compile_plan(change_notes(r, 1, {{0, 0}}, 0, 1, 0), 44100.0, a)->rack, a->rack);
    EXPECT_NE(compile_plan(with_part(r, 1, [](Part& p) { p.layers[0].patch = "Organ"; }), 44100.0, a)->rack, a->rack);
}

TEST(PlanTest, AMissingSoundFontIsToldAndTheRestPlays) {
    const Remake r = with_part(small_remake(), 1, [](Part& p) { p.layers[0] = {InstrumentKind::SoundFont, {}, 0, "/nowhere.sf2", 0, 0}; });
    Error trouble;
    const auto plan = compile_plan(r, 44100.0, nullptr, &trouble);
    EXPECT_EQ(trouble.code, ErrorCode::SoundFontUnusable);
    EXPECT_GT(energy(*render_offline(*plan), 0, 17), 0.1);
}

TEST(PlanTest, RenderingStopsWhenToldTo) {
    Progress progress;
    progress.cancel();
    const auto r = render_offline(*compile_plan(small_remake(), 44100.0), progress);
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::Cancelled);
}

TEST(AtRate, ResamplesAndWidensToStereo) {
    const Audio out = at_rate(test::sine(440, 1.0, 8000, 1), 44100);
    EXPECT_EQ(out.channels, 2);
    EXPECT_NEAR(out.duration_s(), 1.0, 0.01);
    EXPECT_EQ(out.samples[20000], out.samples[20001]);
}

TEST(PlanTest, OfNotesOfOneKeyThatOverlapTheFirstOnesEndDoesNotCutTheSecond) {
    // Against the definition: an end counts where no other note of the key holds on beyond it.
    Remake r = small_remake();
    unsigned random = 7;
    const auto pick = [&](unsigned n) { return random = random * 1664525u + 1013904223u, static_cast<Ticks>(random >> 8) % n; };
    r = with_part(r, 1, [&](Part& p) {
        Pattern made{1, "A", 0, 8 * 3840, {}};
        for (int i = 0; i < 400; ++i) made.notes.push_back({pick(120) * 240, 1 + pick(6) * 240, 40 + static_cast<int>(pick(3)), 90, 1.0, Origin::Drawn, {}});
        std::sort(made.notes.begin(), made.notes.end(), [](const Note& a, const Note& b) { return a.start < b.start; });
        p.patterns = {made};
        p.placements = {{1, 0, false}};
    });
    const PlanPart part = compile_plan(r, 44100.0)->parts[0];
    std::multiset<std::pair<std::int64_t, int>> wanted, found;
    for (const PlanNote& n : part.notes) {
        const bool held = std::any_of(part.notes.begin(), part.notes.end(), [&](const PlanNote& o) { return o.key == n.key && o.on < n.off && o.off > n.off; });
        if (!held) wanted.emplace(n.off, n.key);
    }
    for (const PlanEvent& e : part.events)
        if (e.kind == PlanEvent::Kind::Off) found.emplace(e.frame, e.key);
    EXPECT_EQ(wanted, found);
}

TEST(PlanTest, TheRebuildIsTunedAsTheRecordingIs) {
    Remake r = small_remake();
    r = with_part(r, 1, [](Part& p) {
        p.layers = {{InstrumentKind::Synth, "Sub bass", 0, {}, 0.0, 0}};
        p.patterns[0].notes = {{0, 8000, 57, 100, 1.0, Origin::Drawn, {}}};
    });
    const auto crossings = [](const Remake& x) {
        const Audio a = *render_offline(*compile_plan(x, 44100.0), {}, 1);
        int count = 0;
        for (std::size_t f = 44100; f < 3 * 44100; ++f) count += a.samples[2 * f - 2] < 0 && a.samples[2 * f] >= 0;
        return count;
    };
    EXPECT_NEAR(crossings(r), 440, 1);
    r.tuning_cents = 50.0;
    EXPECT_NEAR(crossings(r), 440 * std::exp2(50.0 / 1200), 1.5);
}

TEST(PlanTest, RenderingIntoASinkGivesTheSameSoundAndStopsWhenItTakesNoMore) {
    const auto plan = compile_plan(small_remake(), 44100.0);
    const Audio whole = *render_offline(*plan);
    std::vector<float> pieces;
    EXPECT_TRUE(render_offline(*plan, [&](std::span<const float> block) {
        pieces.insert(pieces.end(), block.begin(), block.end());
        return true;
    }));
    EXPECT_EQ(pieces, whole.samples);
    int blocks = 0;
    EXPECT_FALSE(render_offline(*plan, [&](std::span<const float>) { return ++blocks < 5; }));
    EXPECT_EQ(blocks, 5);
}

}  // namespace fw
