// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/renderer.hpp"

#include "engine/print.hpp"
#include "model/edits.hpp"
#include "sound/plug_ins/plug_ins.hpp"
#include "support/plug_ins.hpp"
#include "support/remakes.hpp"
#include "support/rendering.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <functional>

namespace fw {

using test::energy;
using test::kBass;
using test::kDrums;
using test::plan_of;
using test::refs;
using test::rendered;
using test::small_remake;
using test::step;

namespace {

Remake with_step(const Remake& r, const Chain& chain, const StepType& type, std::vector<std::pair<const char*, double>> values = {}) {
    const StepId id(r.next_id);
    Remake next = add_step(r, chain, step(type));
    for (const auto& [field, value] : values) next = set_field(next, {id, field}, value);
    return next;
}

/// One of everything.
Remake full() {
    Remake r = small_remake();
    r = add_layer(r, kBass, {&kSoundFont, {}, 33});
    for (const StepType* t : step_types()) r = with_step(r, kBass, *t);
    r = with_step(with_step(add_bus(r, "Room"), r.next_id ? Chain(BusId(r.next_id)) : Chain(MasterRef{}), kReverb, {{"mix", 1.0}}), MasterRef{}, kCompressor);
    r = add_send(r, kDrums, r.mixer->buses[0].id, -6.0);
    r = set_curve(r, {r.part(kBass)->layers[0].id, "cutoff"}, SectionId(3), {{0, 300.0, Shape::Smooth}, {3840, 6000.0}});
    r = set_in_section(r, {r.part(kBass)->steps[4].id, "on"}, SectionId(4), 0.0);
    return r;
}

/// What a running renderer gives in blocks of a size; each block may change the plan.
std::vector<float> played(const std::shared_ptr<const Plan>& plan, std::int64_t from, std::size_t frames, std::size_t block) {
    PlanRenderer renderer;
    renderer.adopt(plan.get());
    renderer.seek(from);
    std::vector<float> left(frames), right(frames);
    for (std::size_t at = 0; at < frames; at += block) {
        const std::size_t n = std::min(block, frames - at);
        renderer.render({std::span(left).subspan(at, n), std::span(right).subspan(at, n)});
    }
    left.insert(left.end(), right.begin(), right.end());
    return left;
}

/// The largest second difference: what a click is made of, and smooth sound is not.
float roughness(std::span<const float> x) {
    float worst = 0.0F;
    for (std::size_t i = 2; i < x.size(); ++i) worst = std::max(worst, std::abs(x[i] - 2 * x[i - 1] + x[i - 2]));
    return worst;
}

float difference(const Audio& a, const Audio& b) {
    EXPECT_EQ(a.samples.size(), b.samples.size());
    float worst = 0.0F;
    for (std::size_t i = 0; i < std::min(a.samples.size(), b.samples.size()); ++i) worst = std::max(worst, std::abs(a.samples[i] - b.samples[i]));
    return worst;
}

/// A remake whose bass holds one low sine for a long time, and nothing else.
Remake held_tone() {
    Remake r = with_part(small_remake(), kDrums, [](Part& p) { p.placements.clear(); });
    r = with_part(r, kBass, [](Part& p) {
        p.layers[0].patch = "Organ";
        p.patterns[0].edit().notes = {{0, 8 * 3840, 45, 100, 1.0, Origin::Drawn, NoteId(2)}};
        p.placements.resize(1);
    });
    return r;
}

/// Plays one remake, changes to another at half a second, and gives the left side around the change.
std::vector<float> across(const Remake& before, const Remake& after) {
    PlanRenderer renderer;
    const auto a = plan_of(before), b = plan_of(after, a);
    renderer.adopt(a.get());
    renderer.seek(22050 + 4000);
    std::vector<float> left(128), right(128), out;
    for (int i = 0; i < 400; ++i) {
        if (i == 200) renderer.adopt(b.get());
        renderer.render({left, right});
        if (i > 100) out.insert(out.end(), left.begin(), left.end());
    }
    EXPECT_TRUE(renderer.settled());
    return out;
}

}  // namespace

TEST(Renderer, BlocksOfAnySizeGiveTheSameSamples) {
    const Remake r = full();
    const auto wanted = played(plan_of(r), 0, 30000, 441);
    for (const std::size_t block : {1u, 7u, 31u, 32u, 33u, 64u, 128u, 500u, 1024u}) EXPECT_EQ(played(plan_of(r), 0, 30000, block), wanted) << block;
}

TEST(Renderer, OfflineAndPlayingGiveTheSameSamples) {
    const Remake r = full();
    const Audio offline = *render_offline(*plan_of(r), {{}, 0, 40000});
    const auto live = played(plan_of(r), 0, 40000, 128);
    for (std::size_t i = 0; i < 40000; ++i) ASSERT_EQ(offline.samples[2 * i], live[i]) << i;
}

TEST(Renderer, ARangeIsWhatThePlayerGivesFromThere) {
    const Remake r = full();
    const Audio range = *render_offline(*plan_of(r), {{}, 50001, 60000});
    ASSERT_EQ(range.frames(), 9999u);
    const auto live = played(plan_of(r), 50001, 9999, 100);
    for (std::size_t i = 0; i < range.frames(); ++i) ASSERT_EQ(range.samples[2 * i], live[i]) << i;
}

TEST(Renderer, WhatComesLateIsBroughtTogether) {
    // A limiter looks ahead; neither the part that has one nor the other may come out elsewhere for it.
    const Remake r = small_remake();
    const auto onset = [](const Audio& a) {
        std::size_t f = 0;
        while (std::abs(a.samples[2 * f]) < 1e-4F) ++f;
        return f;
    };
    const Remake limited = with_step(r, kDrums, kLimiter);
    EXPECT_EQ(onset(rendered(limited)), onset(rendered(r)));
    const Remake solo = with_part(limited, kBass, [](Part&p) { p.mute = true; }), plain = with_part(r, kBass, [](Part&p) { p.mute = true; });
    EXPECT_LT(difference(rendered(solo), rendered(plain)), 1e-6F) << "below its ceiling a limiter changes nothing";
    EXPECT_EQ(plan_of(limited)->latency, 66u);
}

TEST(Renderer, ALayerPlaysItsRangeAtItsOctaveLevelAndTime) {
    Remake r = with_part(small_remake(), kDrums, [](Part& p) { p.mute = true; });
    Layer layer{&kSynth, "Sub bass"};
    layer.low_key = 40;
    layer.offset_ms = 100;
    r = add_layer(r, kBass, layer);
    const LayerId id = r.part(kBass)->layers[1].id;
    const Audio a = rendered(r, RenderWhat::of(id));
    // The pattern goes 38 39 40 41: only the third and fourth beat sound, a tenth of a second late.
    EXPECT_LT(energy(a, 0.5, 1.59), 1e-9);
    EXPECT_GT(energy(a, 1.62, 2.5), 1.0);
    const Audio soft = rendered(set_field(r, {id, "level"}, -20.0), RenderWhat::of(id));
    EXPECT_NEAR(10 * std::log10(energy(a, 1, 8) / energy(soft, 1, 8)), 20.0, 0.1);
    EXPECT_LT(energy(rendered(set_field(r, {id, "on"}, 0.0), RenderWhat::of(id)), 0, 8), 1e-12);
}

TEST(Renderer, StepsActInTheirOrderAndCanBeLeftOut) {
    const Remake r = small_remake();
    const Remake eq_first = with_step(with_step(r, kBass, kEqualiser, {{"low", 18.0}}), kBass, kDrive, {{"drive", 30.0}});
    const Remake drive_first = move_step(eq_first, eq_first.part(kBass)->steps[0].id, 1);
    const auto sound = [](const Remake& x, bool steps = true) {
        RenderWhat what = RenderWhat::of(kBass);
        what.steps = steps;
        return rendered(x, what).samples;
    };
    EXPECT_NE(sound(eq_first), sound(drive_first));
    EXPECT_EQ(sound(eq_first, false), sound(r)) << "dry is without any step";
    EXPECT_EQ(sound(switch_steps(eq_first, kBass, false)), sound(r)) << "and so are steps that are off";
}

TEST(Renderer, ASendReachesItsBusAndTheMaster) {
    Remake r = add_bus(with_part(small_remake(), kBass, [](Part& p) { p.mute = true; }), "Room");
    const BusId room = r.mixer->buses[0].id;
    const Remake sent = add_send(r, kDrums, room, 0.0);
    const double dry = energy(rendered(r), 0, 8);
    EXPECT_LT(energy(rendered(r, RenderWhat::of(room)), 0, 8), 1e-12) << "nothing goes there yet";
    EXPECT_GT(energy(rendered(sent), 0, 8), 1.5 * dry);
    const Audio bus = rendered(sent, RenderWhat::of(room)), part = rendered(sent, RenderWhat::of(kDrums));
    EXPECT_LT(difference(bus, part), 1e-6F) << "at 0 dB a bus without steps gives what it gets";
    EXPECT_NEAR(energy(rendered(set_output(r, kDrums, room)), 0, 8), dry, 1e-6 * dry) << "through a bus that does nothing";
    EXPECT_LT(energy(rendered(set_field(sent, {room, "level"}, -96.0), RenderWhat::of(room)), 0, 8), 1e-12);
}

TEST(Renderer, ADuckMakesRoomForEachHitInItsSectionOnly) {
    Remake r = with_part(held_tone(), kDrums, [](Part& p) { p.placements = {{PatternId(1), 0, false, PlacementId(p.next_id++)}}; });
    Step duck = step(kDuck);
    duck.trigger = {kDrums, 36};
    duck.on = 0.0;
    r = add_step(r, kBass, duck);
    const StepId id = r.part(kBass)->steps[0].id;
    r = set_field(set_field(r, {id, "depth"}, 12.0), {id, "release"}, 0.5);
    const Remake ducked = set_in_section(r, {id, "on"}, SectionId(4), 1.0);
    const Audio plain = rendered(r, RenderWhat::of(kBass)), with = rendered(ducked, RenderWhat::of(kBass));
    const auto dip = [&](double at) { return 10 * std::log10(energy(with, at, at + 0.02) / energy(plain, at, at + 0.02)); };
    for (const double kick : {8.5, 9.5, 10.5}) {
        EXPECT_NEAR(dip(kick + 0.015), -12.0, 1.0) << "down on the kick";
        EXPECT_NEAR(dip(kick + 0.35), 0.0, 0.3) << "and back an eighth later";
    }
    EXPECT_NEAR(dip(9.02), 0.0, 0.3) << "the snare does nothing";
    EXPECT_NEAR(dip(2.515), 0.0, 1e-6) << "nor a kick in the first section";
}

TEST(Renderer, ACurveMovesItsFieldAlongItsSection) {
    const Remake r = held_tone();
    const Remake swell = set_curve(r, {kBass, "level"}, SectionId(4), {{0, -40.0}, {4 * 3840, 0.0}});
    const Audio flat = rendered(r, RenderWhat::of(kBass)), moved = rendered(swell, RenderWhat::of(kBass));
    const auto db = [&](double at) { return 10 * std::log10(energy(moved, at, at + 0.05) / energy(flat, at, at + 0.05)); };
    EXPECT_NEAR(db(4.0), 0.0, 0.01) << "the first section is as it was";
    EXPECT_NEAR(db(8.55), -39.6, 0.5);
    EXPECT_NEAR(db(12.475), -20.0, 0.5) << "half way";
    EXPECT_NEAR(db(16.0), -2.5, 0.5);
}

TEST(Renderer, ChangesWhilePlayingDoNotClick) {
    const Remake r = held_tone();
    const auto smooth = roughness(across(r, r));
    const LayerId layer = r.part(kBass)->layers[0].id;
    const std::pair<const char*, std::function<Remake(const Remake&)>> changes[] = {
        {"level",
         [&](const Remake& x) {
             return set_field(x, {kBass, "level"}, -30.0);
         }},
        {"mute", [&](const Remake& x) { return with_part(x, kBass, [](Part& p) { p.mute = true; }); }},
        {"pan",
         [&](const Remake& x) {
             return set_field(x, {kBass, "pan"}, 1.0);
         }},
        {"cutoff",
         [&](const Remake& x) {
             return set_field(x, {layer, "cutoff"}, 200.0);
         }},
        {"a step more",
         [&](const Remake& x) {
             return with_step(x, kBass, kEqualiser, {{"low", 12.0}});
         }},
        {"a drive more",
         [&](const Remake& x) {
             return with_step(x, kBass, kDrive, {{"drive", 12.0}});
         }},
        {"a bus", [&](const Remake& x) { return set_output(add_bus(x, "Room"), kBass, BusId(x.next_id)); }},
        {"a send", [&](const Remake& x) { return add_send(add_bus(x, "Room"), kBass, BusId(x.next_id), 0.0); }},
        {"the part", [&](const Remake& x) { return remove_part(x, kBass); }},
        {"master",
         [&](const Remake& x) {
             return set_field(x, {MasterRef{}, "level"}, -20.0);
         }},
    };
    for (const auto& [name, change] : changes) {
        // A gain that goes to nothing in 4 ms bends the sound by a little; a step of the sound itself would be two hundred times as much.
        EXPECT_LT(roughness(across(r, change(r))), std::max(3.0F * smooth, 0.01F)) << name;
        EXPECT_LT(roughness(across(change(r), r)), std::max(3.0F * smooth, 0.01F)) << "back from " << name;
    }
    const Remake eq = with_step(r, kBass, kEqualiser, {{"low", 12.0}, {"low_hz", 400.0}});
    EXPECT_LT(roughness(across(eq, switch_steps(eq, kBass, false))), std::max(3.0F * smooth, 0.01F)) << "a step switched off";
}

TEST(Renderer, AnEditElsewhereLeavesHeldNotesAndTailsAlone) {
    const Remake r = with_step(held_tone(), kBass, kReverb, {{"mix", 0.5}});
    Note far;
    far.start = 7 * 3840;
    far.length = 960;
    const Remake edited = add_note(r, kBass, far);
    const auto same = across(r, r), changed = across(r, edited);
    EXPECT_EQ(same, changed) << "sample for sample: nothing is struck, released or reset";
    const auto moved = across(r, set_field(r, {kDrums, "level"}, -3.0));
    EXPECT_EQ(same, moved);
}

TEST(Renderer, AChangedNoteAloneIsReleasedAndStruck) {
    const Remake r = held_tone();
    const Remake up = change_notes(r, kBass, refs(r, kBass, {0}), {.semitones = 12});
    const auto x = across(r, up);
    int before = 0, after = 0;
    const std::size_t half = 99 * 128;
    for (std::size_t i = 1; i < half; ++i) {
        before += x[i - 1] < 0 && x[i] >= 0;
        after += x[x.size() - i - 1] < 0 && x[x.size() - i] >= 0;
    }
    EXPECT_NEAR(static_cast<double>(after) / before, 2.0, 0.25) << "an octave higher from the change on";
}

TEST(Renderer, ClipsSoundWhereTheyStandAndAreStemsOfTheirOwn) {
    Remake r = small_remake();
    for (const PartId p : {kBass, kDrums}) r = with_part(r, p, [](Part& x) { x.mute = true; });
    Clip clip;
    clip.start = 2 * 3840;
    clip.ends_here = true;
    clip.recipe = {{Treatment::Reverse}};
    r = add_clip(r, from_original(r, "Ramp", 1.0, 1.5), clip);
    auto original = std::make_shared<Audio>(Audio{44100, 2, std::vector<float>(2 * 44100 * 17, 0.0F), {}});
    for (std::size_t f = 44100; f < 44100 + 22050; ++f)
        original->samples[2 * f] = original->samples[2 * f + 1] = static_cast<float>(f - 44100) / 22050.0F * 0.5F;
    const PlanInputs inputs{44100.0, assets_beside(original)};
    const auto plan = compile_plan(r, inputs);
    const Audio clips = *render_offline(*plan, {RenderWhat::clips()});
    // It ends at bar 3 (4.5 s), falling: it is reversed.
    EXPECT_LT(energy(clips, 0.0, 3.99), 1e-9);
    EXPECT_GT(energy(clips, 4.0, 4.1), 10 * energy(clips, 4.4, 4.5));
    EXPECT_LT(energy(clips, 4.501, 17.0), 1e-9);
    EXPECT_GT(energy(*render_offline(*plan), 4.0, 4.5), 1.0);
    EXPECT_LT(energy(*render_offline(*compile_plan(without_original(r), inputs)), 4.0, 4.5), 1e-9);
    EXPECT_EQ(compile_plan(set_field(r, {kBass, "level"}, -1.0), inputs, plan)->clips[0].sound, plan->clips[0].sound) << "made once";
    Error trouble;
    compile_plan(r, {44100.0, assets_from_files("/nowhere.wav")}, nullptr, &trouble);
    EXPECT_EQ(trouble.code, ErrorCode::FileMissing);
}

TEST(Recipes, DoWhatTheySayInTheirOrder) {
    Audio tone{44100, 1, {}, {}};
    for (int f = 0; f < 44100; ++f) tone.samples.push_back(0.5F * static_cast<float>(std::sin(2 * 3.14159265 * 441 * f / 44100.0)));
    const auto crossings = [](const Audio& a) {
        int n = 0;
        for (std::size_t f = 1; f < a.frames(); ++f) n += a.samples[2 * f - 2] < 0 && a.samples[2 * f] >= 0;
        return n;
    };
    const auto made = [&](std::vector<RecipeEntry> recipe) { return follow_recipe(tone, recipe, 44100); };
    EXPECT_EQ(made({}).frames(), 44100u);
    EXPECT_EQ(made({{Treatment::Trim, 250.0, 750.0}}).frames(), 22050u);
    EXPECT_NEAR(made({{Treatment::Stretch, 2.0}}).duration_s(), 2.0, 0.02);
    EXPECT_NEAR(crossings(made({{Treatment::Stretch, 2.0}})), 882, 12);
    EXPECT_NEAR(crossings(made({{Treatment::Pitch, 12.0}})), 882, 12);
    EXPECT_NEAR(energy(made({{Treatment::Gain, -20.0}}), 0, 1) / energy(made({}), 0, 1), 0.01, 1e-4);
    const Audio faded = made({{Treatment::Fade, 100.0, 500.0}});
    EXPECT_LT(energy(faded, 0, 0.02), 0.01 * energy(faded, 0.2, 0.22));
    EXPECT_LT(energy(faded, 0.97, 0.99), 0.01 * energy(faded, 0.2, 0.22));
    EXPECT_EQ(made({{Treatment::Gain, -20.0, 0.0, 0.0}}).samples, made({}).samples) << "an entry that is off does nothing";
}

TEST(Print, IsWhatThePartSoundsLikeThereAndTheClipOfItSoundsTheSame) {
    const Remake r = small_remake();
    const PlanInputs inputs{44100.0, assets_from_files("/nowhere.wav")};
    const auto printed = print_part(r, kBass, 0, 4 * 3840, true, inputs);
    ASSERT_TRUE(printed) << printed.error().message();
    const double from_s = r.song->tempo.seconds(Ticks{0}), to_s = r.song->tempo.seconds(Ticks{4 * 3840});
    const Audio alone = *render_offline(*compile_plan(r, inputs), {RenderWhat::of(kBass)});
    const auto first = static_cast<std::size_t>(std::llround(from_s * 44100.0)), frames = static_cast<std::size_t>((to_s - from_s) * 44100.0) - 4410;
    for (std::size_t i = 0; i < 2 * frames; ++i) ASSERT_FLOAT_EQ(printed->samples[i], alone.samples[2 * first + i]) << i;
    // Nothing of what begins behind: only what dies away.
    EXPECT_LT(energy(*printed, to_s - from_s + 1.5, to_s - from_s + 4.0), 1e-3 * energy(*printed, 0.0, 2.0));
    EXPECT_FALSE(print_part(r, kBass, 40 * 3840, 41 * 3840, true, inputs)) << "silence is not printed";
    EXPECT_FALSE(print_part(r, PartId(99), 0, 3840, true, inputs));
    EXPECT_FALSE(print_part(r, kBass, 3840, 3840, true, inputs));
}

TEST(Renderer, AClipsSoundIsMadeAnewOnlyWhereItsRecipeGoesByTheTempo) {
    Remake r = small_remake();
    std::vector<TempoMap::Anchor> anchors;
    for (int b = 0; b <= 32; ++b) anchors.push_back({b * kTicksPerQuarter, 0.5 + 0.5 * b + 0.004 * b * b});
    r.song.edit().tempo = TempoMap(anchors);
    const auto sounds = [&](std::vector<RecipeEntry> recipe) {
        Remake two = r;
        for (const Ticks at : {Ticks{3840}, Ticks{4 * 3840}}) {
            Clip clip;
            clip.start = at;
            clip.recipe = recipe;
            two = add_clip(two, from_original(two, "piece", 1.0, 1.5), clip);
        }
        auto original = std::make_shared<Audio>(Audio{44100, 2, std::vector<float>(2 * 44100 * 17, 0.1F), {}});
        const auto plan = compile_plan(two, {44100.0, assets_beside(original)});
        return std::pair(plan->clips[0].sound, plan->clips[1].sound);
    };
    const auto [plain, plain_later] = sounds({{Treatment::Reverse}, {Treatment::Stretch, 1.5}});
    EXPECT_EQ(plain, plain_later) << "the same sound wherever it stands";
    const auto [bar, longer_bar] = sounds({{Treatment::Bars, 1.0}});
    EXPECT_NE(bar, longer_bar);
    EXPECT_GT(longer_bar->frames(), bar->frames());
    const auto [gate, slower_gate] = sounds({{Treatment::Gate, 4.0, 0.5}});
    EXPECT_NE(gate->samples, slower_gate->samples);
}

TEST(Renderer, ATransitionEndsOnItsBarWhateverTheTempoThere) {
    Remake r = small_remake();
    for (const PartId p : {kBass, kDrums}) r = with_part(r, p, [](Part& x) { x.mute = true; });
    Asset made;
    made.name = "Riser";
    made.origin = AssetOrigin::Made;
    made.made = {Transition::Riser, 4.0, {57}, {}};
    made.end_s = 2.0;
    Clip clip;
    clip.start = 4 * 3840;
    clip.ends_here = true;
    r = add_clip(r, made, clip);
    // Half as fast from bar 3 on: the beats before bar 5 take a second each.
    std::vector<TempoMap::Anchor> anchors;
    for (int b = 0; b <= 32; ++b) anchors.push_back({b * kTicksPerQuarter, b <= 8 ? 0.5 + 0.5 * b : 4.5 + (b - 8)});
    r.song.edit().tempo = TempoMap(anchors);
    const auto plan = compile_plan(r, {44100.0, assets_from_files("/nowhere.wav")});
    ASSERT_EQ(plan->clips.size(), 1u) << "it needs no file";
    EXPECT_EQ(plan->clips[0].sound->frames(), 4u * 44100u) << "as long as its beats are there";
    const Audio heard = *render_offline(*plan, {RenderWhat::clips()});
    EXPECT_LT(energy(heard, 0.0, 8.4), 1e-9);
    EXPECT_GT(energy(heard, 11.5, 12.5), 10.0 * energy(heard, 8.5, 9.5));
    EXPECT_LT(energy(heard, 12.51, 17.0), 1e-9);
}

TEST(Renderer, ABusInABusIsHeardThroughBoth) {
    // The bass goes to "In", "In" to "Out", whichever was made first; what either does is done to it.
    Remake r = add_bus(add_bus(small_remake(), "Out"), "In");
    const BusId out = r.mixer->buses[0].id, in = r.mixer->buses[1].id;
    r = set_bus_output(set_output(r, kBass, in), in, out);
    const Audio direct = rendered(small_remake()), through = rendered(r);
    for (std::size_t i = 0; i < direct.samples.size(); ++i) ASSERT_NEAR(through.samples[i], direct.samples[i], 1e-5F) << i;
    const Audio softer = rendered(set_field(set_field(r, {in, "level"}, -6.0), {out, "level"}, -6.0));
    const Audio alone = rendered(set_field(small_remake(), {kBass, "level"}, r.part(kBass)->gain_db - 12.0));
    for (std::size_t i = 0; i < alone.samples.size(); ++i) ASSERT_NEAR(softer.samples[i], alone.samples[i], 1e-5F) << i;
    // A step that comes late on the inner one is waited for by all else.
    const Remake late = with_step(r, in, kLimiter, {{"ceiling", 0.0}});
    EXPECT_GE(plan_of(late)->latency, plan_of(r)->latency);
    EXPECT_EQ(played(plan_of(late), 0, 3000, 64), played(plan_of(late), 0, 3000, 1000));
    // Never in a circle; and where the outer one is taken away the inner one goes to the master.
    EXPECT_EQ(set_bus_output(r, out, in), r);
    EXPECT_EQ(set_bus_output(r, in, in), r);
    EXPECT_EQ(remove_bus(r, out).mixer->bus(in)->output, BusId{});
    EXPECT_EQ(plan_of(remove_bus(r, out))->buses.size(), 1u);
}

TEST(Renderer, APlugInIsAStepLikeOthers) {
    test::see_made_plug_ins();
    const StepType* gain = find_step_type("lv2:urn:fakturwerk:test:gain");
    ASSERT_TRUE(gain);
    const Remake r = small_remake();
    const Remake with = with_step(r, kBass, *gain);
    // It comes seven frames late, and the rest waits for it: at its neutral values nothing is heard of it.
    const Audio as_it_was = rendered(r), same = rendered(with);
    ASSERT_EQ(same.frames(), as_it_was.frames());
    for (std::size_t i = 0; i < same.samples.size(); ++i) ASSERT_NEAR(same.samples[i], as_it_was.samples[i], 1e-6F) << i;
    const auto plan = plan_of(with_step(r, kBass, *gain, {{"gain", 0.25}}));
    EXPECT_EQ(played(plan, 1000, 3000, 128), played(plan, 1000, 3000, 17)) << "the same samples at any block size";
    EXPECT_LT(energy(rendered(with_step(r, kBass, *gain, {{"gain", 0.0}})), 0.0, 3.0), energy(as_it_was, 0.0, 3.0));
}

TEST(Renderer, APlugInIsToldWhereInTheSongItIsAndKeepsItsState) {
    test::see_made_plug_ins();
    const StepType* keeper = find_step_type("lv2:urn:fakturwerk:test:keeper");
    ASSERT_TRUE(keeper);
    Remake r = with_step(small_remake(), kBass, *keeper);
    for (auto& p : r.parts)
        if (p->id != kBass) p.edit().mute = true;
    // What it puts on the right is the beat of the bar: at 120 BPM from half a second on, each half second one more, in bars of four.
    const auto plan = plan_of(r);
    for (const auto& [at_s, beat] : {std::pair(0.5, 0.0), std::pair(1.0, 1.0), std::pair(2.25, 3.5), std::pair(2.5, 0.0), std::pair(0.25, 3.5)})
        EXPECT_NEAR(plan->time_at(std::llround(at_s * 44100.0)).bar_beat, beat, 1e-3) << at_s;
    EXPECT_EQ(plan->time_at(44100 * 3).bar, 1);
    EXPECT_EQ(plan->time_at(44100 / 4).bar, -1) << "before the first bar";
    EXPECT_NEAR(plan->time_at(44100).bpm, 120.0, 1e-6);
    const auto wet = render_offline(*plan_of(with_step(r, kBass, *keeper)), {RenderWhat::of(kBass)});
    ASSERT_TRUE(wet);
    EXPECT_GT(wet->samples[2 * 44100 * 9 / 4 + 1], 10.0F * wet->samples[2 * 22700 + 1]) << "later in the bar it puts out more";
    // Another state is another plug-in; the same one goes on.
    Remake other = r;
    for (auto& p : other.parts)
        if (p->id == kBass) p.edit().steps[0].state = presets_of(*keeper->plug_in)[0].state;
    EXPECT_EQ(plan_of(r, plan)->parts[0].steps[0].state, plan->parts[0].steps[0].state);
    EXPECT_NE(plan_of(other, plan)->parts[0].steps[0].state, plan->parts[0].steps[0].state);
}

TEST(Renderer, ARenderingInWhichAPlugInFailsIsAnErrorThatNamesIt) {
    test::see_made_plug_ins();
    const Remake r = with_step(small_remake(), kBass, *find_step_type("lv2:urn:fakturwerk:test:crash"));
    const auto plan = plan_of(r);
    const auto sound = render_offline(*plan);
    ASSERT_FALSE(sound);
    EXPECT_EQ(sound.error().code, ErrorCode::PlugInFailed);
    EXPECT_NE(sound.error().message().find("Test crash"), std::string::npos);
    // The next plan starts it anew.
    EXPECT_NE(plan_of(r, plan)->parts[0].steps.at(0).state, plan->parts[0].steps.at(0).state);
}

}  // namespace fw
