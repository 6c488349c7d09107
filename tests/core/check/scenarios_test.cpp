// SPDX-License-Identifier: GPL-3.0-or-later
// What is done at the desk in a few lines, measured in the sound that comes of it.
#include "check/sound_summary.hpp"
#include "commands/command.hpp"
#include "engine/clip_sound.hpp"
#include "engine/offline.hpp"
#include "model/remake.hpp"
#include "support/remakes.hpp"
#include "support/rendering.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <filesystem>
#include <numbers>
#include <string>

namespace fw {

namespace {

using test::rendered;
using test::small_remake;

/// The sections of the small remake, in seconds.
constexpr double kFirst_s = 0.6, kMiddle_s = 8.4, kSecond_s = 8.6, kEnd_s = 16.4;

Remake after(const std::string& script, const Remake& r = small_remake()) {
    const auto done = run_script(r, script, "the scenario");
    EXPECT_TRUE(done) << (done ? "" : done.error().message());
    return done ? *done : r;
}

SoundSummary sound(const Remake& r) { return summarise(rendered(r)); }
double level(const SoundSummary& s, double from_s, double to_s) { return level_db(s, from_s, to_s); }
/// Level in a third octave, dB.
double at_hz(const SoundSummary& s, double hz, double from_s, double to_s) {
    const auto all = third_octaves_db(s, from_s, to_s);
    const auto& middles = third_octave_centers_hz();
    std::size_t near = 0;
    for (std::size_t i = 0; i < middles.size(); ++i)
        if (std::abs(std::log(middles[i] / hz)) < std::abs(std::log(middles[near] / hz))) near = i;
    return all[near];
}
/// How much the level differs from beat to beat over a stretch, dB.
double liveliness(const SoundSummary& s, double from_s, double to_s) {
    double sum = 0.0, squares = 0.0, count = 0.0;
    for (double at = from_s; at + 0.5 <= to_s; at += 0.5) {
        const double db = level_db(s, at, at + 0.5);
        sum += db, squares += db * db, count += 1.0;
    }
    return std::sqrt(std::max(0.0, squares / count - sum * sum / count / count));
}

}  // namespace

TEST(Scenarios, ABassOfAnotherSoundAndAnotherPatternInOneSection) {
    const Remake r = after(R"(part.mute part=Drums on=on
part.add-layer part=Bass source=synth patch="Bright lead"
field.set part=Bass layer=2 field=on value=off section=#1
note.change part=Bass from=5 to=6 semitones=12 reach=here
)");
    const SoundSummary s = sound(r);
    EXPECT_GT(at_hz(s, 2500.0, kSecond_s, kEnd_s), at_hz(s, 2500.0, kFirst_s, kMiddle_s) + 12.0) << "its second sound in the second section only";
    const auto notes = placed_notes(*r.part(test::kBass));
    EXPECT_EQ(notes[16].note.pitch, notes[0].note.pitch + 12) << "and other notes there";
}

TEST(Scenarios, ALimiterInOneSectionMakesItSteadyAndLeavesTheOtherLively) {
    const std::string lively = "part.mute part=Drums on=on\nnote.ramp part=Bass from=1 to=5 first=15 last=127\n";
    const SoundSummary loose = sound(after(lively)),
                       held =
                           sound(after(lively + "step.add part=Bass kind=limiter gain=24dB\nfield.set part=Bass step=limiter field=on value=off section=#1\n"));
    EXPECT_GT(liveliness(loose, kFirst_s, kMiddle_s), 3.0);
    EXPECT_NEAR(liveliness(held, kFirst_s, kMiddle_s), liveliness(loose, kFirst_s, kMiddle_s), 0.5);
    EXPECT_LT(liveliness(held, kSecond_s, kEnd_s), 0.5 * liveliness(loose, kSecond_s, kEnd_s));
}

TEST(Scenarios, ABassIsHeardOnSmallSpeakersByItsPartials) {
    const SoundSummary sub = sound(after("part.mute part=Drums on=on\nlayer.source part=Bass source=synth patch=\"Sub bass\"\n")),
                       driven = sound(
                           after("part.mute part=Drums on=on\nlayer.source part=Bass source=synth patch=\"Sub bass\"\nstep.add part=Bass kind=drive drive=24 "
                                 "bias=30% level=-12dB\n"));
    const auto middle = [](const SoundSummary& s) { return at_hz(s, 315.0, kFirst_s, kEnd_s) - at_hz(s, 80.0, kFirst_s, kEnd_s); };
    EXPECT_GT(middle(driven), middle(sub) + 15.0);
}

TEST(Scenarios, TheWholeIsThinNarrowAndHollowBeforeItOpensByOneControl) {
    const Remake r = after(R"(step.add part=Drums kind=width width=200% later_ms=8
step.add master=on kind=filter cutoff=20Hz
field.set master=on step=filter field=kind value=high-pass
step.add master=on kind=width width=100%
macro.add name=Build
macro.target by=Build master=on step=filter field=cutoff from=20Hz to=900Hz
macro.target by=Build master=on step=width field=width from=100% to=0%
curve.set macro=Build field=amount section=#1 points="1 0%, 2 0%, 4.4.900 100%"
)");
    const SoundSummary s = sound(r);
    EXPECT_LT(at_hz(s, 80.0, 7.4, kMiddle_s), at_hz(s, 80.0, kSecond_s, 9.6) - 15.0) << "hollow at the end of the build";
    const auto wide = [&](double from, double to) { return width_of(s, from, to)[2]; };
    EXPECT_LT(wide(7.6, kMiddle_s), 0.3 * wide(kSecond_s, 10.0));
    EXPECT_NEAR(level(s, kFirst_s, 2.0), level(s, kSecond_s, 10.0), 2.0) << "and open before and behind it";
}

TEST(Scenarios, PartsAreGluedByOneBusAndAChainIsTakenOverWithoutOneOfItsSteps) {
    const Remake r = after(R"(bus.add name=Together
part.output part=Bass bus=Together
part.output part=Drums bus=Together
step.add bus=Together kind=reverb mix=35% decay_s=2
step.add bus=Together kind=width width=40%
step.add part=Bass kind=equaliser high=-6dB
step.add part=Bass kind=drive drive=6
step.add part=Bass kind=chorus
part.copy-sheet part=Bass to=Drums take=steps
step.remove part=Drums step=drive
)");
    ASSERT_EQ(r.part(test::kDrums)->steps.size(), 2u);
    EXPECT_EQ(r.part(test::kDrums)->steps[0].type, &kEqualiser);
    EXPECT_EQ(r.part(test::kDrums)->steps[1].type, &kChorus);
    EXPECT_EQ(r.part(test::kBass)->steps.size(), 3u) << "the one it was taken from has all";
    const SoundSummary glued = sound(r), apart = sound(small_remake());
    EXPECT_GT(level(glued, 16.6, 17.5), level(apart, 16.6, 17.5) + 10.0) << "one room rings behind both";
}

TEST(Scenarios, ALevelCurveAndVelocitiesAreTwoThingsThatStandBesideEachOther) {
    const Remake r = after(
        "part.mute part=Drums on=on\nnote.ramp part=Bass from=1 to=5 first=30 last=120 reach=here\n"
        "curve.set part=Bass field=level section=#1 points=\"1 0dB, 5 -20dB\"\n");
    const auto notes = placed_notes(*r.part(test::kBass));
    EXPECT_LT(notes[0].note.velocity, 40);
    EXPECT_GT(notes[15].note.velocity, 110);
    const SoundSummary both = sound(r), velocity = sound(after("part.mute part=Drums on=on\nnote.ramp part=Bass from=1 to=5 first=30 last=120 reach=here\n"));
    EXPECT_LT(level(both, 7.5, kMiddle_s), level(velocity, 7.5, kMiddle_s) - 12.0) << "the fader comes down";
    EXPECT_GT(at_hz(velocity, 800.0, 7.5, kMiddle_s) - at_hz(velocity, 80.0, 7.5, kMiddle_s),
              at_hz(velocity, 800.0, kFirst_s, 1.5) - at_hz(velocity, 80.0, kFirst_s, 1.5))
        << "harder is brighter, which a fader is not";
}

TEST(Scenarios, ALineIsSplitOverTwoPartsAndAChordOverSeveral) {
    Remake r = after("part.add name=Answer role=lead source=synth patch=\"Reed lead\"\nnote.send part=Bass into=Answer from=2 to=3 reach=here\n");
    const auto in_bar = [](const Part& p, int bar) {
        int n = 0;
        for (const PlacedNote& x : placed_notes(p)) n += x.note.start >= (bar - 1) * 3840 - 20 && x.note.start < bar * 3840 - 20 && !x.muted;
        return n;
    };
    const Part &bass = *r.part(test::kBass), &answer = *r.parts.back();
    EXPECT_EQ(in_bar(bass, 2), 0);
    EXPECT_EQ(in_bar(answer, 2), 4);
    EXPECT_EQ(in_bar(bass, 1), 4);
    EXPECT_EQ(in_bar(answer, 1), 0);
    EXPECT_EQ(in_bar(bass, 6), 4) << "here only";
    r = after("note.send part=Bass into=Answer from=3 to=4 keep=on reach=here\n", r);
    EXPECT_EQ(in_bar(*r.part(test::kBass), 3), 4);
    EXPECT_EQ(in_bar(*r.parts.back(), 3), 4);
    // Everywhere: wherever the pattern plays they change over.
    const Remake both = after("part.add name=Answer role=lead source=synth patch=\"Reed lead\"\nnote.send part=Bass into=Answer from=2 to=3\n");
    for (const int bar : {2, 6}) {
        EXPECT_EQ(in_bar(*both.part(test::kBass), bar), 0) << bar;
        EXPECT_EQ(in_bar(*both.parts.back(), bar), 4) << bar;
    }
    EXPECT_EQ(in_bar(*both.part(test::kBass), 5), 4);
    for (const char* wrong : {"note.send part=Bass into=Bass from=1 to=2", "note.send part=Bass into=Drums from=1 to=2"})
        EXPECT_FALSE(run_command(r, **parse_line(wrong)));
}

TEST(Scenarios, TheMudOfAKickIsTakenOutAndItsClickAndSubStay) {
    const std::string kicks = "part.mute part=Bass on=on\nnote.remove part=Drums from=1 to=9 pitch=Snare\n";
    const SoundSummary whole = sound(after(kicks)), clean = sound(after(kicks + "step.add part=Drums kind=equaliser mid=-24dB mid_hz=350Hz mid_q=0.7\n"));
    EXPECT_LT(at_hz(clean, 315.0, kFirst_s, kEnd_s), at_hz(whole, 315.0, kFirst_s, kEnd_s) - 12.0);
    EXPECT_NEAR(at_hz(clean, 50.0, kFirst_s, kEnd_s), at_hz(whole, 50.0, kFirst_s, kEnd_s), 3.0);
    EXPECT_NEAR(at_hz(clean, 5000.0, kFirst_s, kEnd_s), at_hz(whole, 5000.0, kFirst_s, kEnd_s), 3.0);
}

TEST(Scenarios, ALineShadowsAnotherAStepBelowAndAccentsStandOnlyNearTheEnd) {
    const Remake r = after(R"(part.add name=Shadow role=lead source=synth patch="Reed lead"
note.send part=Bass into=Shadow from=1 to=9 keep=on
note.step part=Shadow from=1 to=9 steps=-2
note.change part=Bass from=8 to=9 velocity=20 reach=here
)");
    const auto line = placed_notes(*r.part(test::kBass)), shadow = placed_notes(*r.parts.back());
    ASSERT_EQ(shadow.size(), line.size());
    for (std::size_t i = 0; i < line.size(); ++i) {
        EXPECT_EQ(shadow[i].note.start, line[i].note.start);
        EXPECT_TRUE(line[i].note.pitch - shadow[i].note.pitch >= 3 && line[i].note.pitch - shadow[i].note.pitch <= 4) << "a third, as the scale has it";
    }
    EXPECT_EQ(line.back().note.velocity, line[15].note.velocity + 20) << "harder in the last bar, and not where the pattern plays before";
}

TEST(Scenarios, ABassIsStackedOfSubMiddlePunchAndTop) {
    const std::string alone = "part.mute part=Drums on=on\nlayer.source part=Bass source=synth patch=\"Sub bass\"\n";
    const SoundSummary sub = sound(after(alone)), stack = sound(after(alone + R"(part.add-layer part=Bass source=synth patch="Round bass" level=-6dB
part.add-layer part=Bass source=synth patch="Bright lead" octave=1 level=-16dB
part.add-layer part=Bass source=drum_voice patch="Deep kick" level=-12dB
)"));
    EXPECT_NEAR(at_hz(stack, 63.0, kFirst_s, kEnd_s), at_hz(sub, 63.0, kFirst_s, kEnd_s), 6.0) << "the sub carries it still";
    EXPECT_GT(at_hz(stack, 250.0, kFirst_s, kEnd_s), at_hz(sub, 250.0, kFirst_s, kEnd_s) + 6.0) << "a middle";
    EXPECT_GT(at_hz(stack, 2000.0, kFirst_s, kEnd_s), at_hz(sub, 2000.0, kFirst_s, kEnd_s) + 20.0) << "a top";
}

TEST(Scenarios, ASectionAtAnotherTempoInAnotherKeyWithAnotherSoundBehindAStopWithSpeech) {
    // The second section a third slower.
    Remake r = small_remake();
    std::vector<TempoMap::Anchor> anchors;
    for (int b = 0; b <= 32; ++b) anchors.push_back({b * kTicksPerQuarter, 0.5 + 0.5 * std::min(b, 16) + 0.75 * std::max(0, b - 16)});
    r.song.edit().tempo = TempoMap(anchors);
    const auto path = std::filesystem::temp_directory_path() / ("speech " + std::to_string(::getpid()) + ".wav");
    ASSERT_TRUE(write_audio(path, test::tones({{0.0, 0.2, 52}, {0.3, 0.2, 55}}, 0.6)));
    r = after(
        "part.mute part=Drums on=on\nkey.add from=5 key=\"E dorian\"\nnote.change part=Bass from=5 to=9 semitones=2 reach=here\npart.add-layer part=Bass "
        "source=synth patch=\"Bright lead\"\n"
        "field.set part=Bass layer=2 field=on value=off section=#1\npart.fall-out from=4.3 to=5\nclip.from-file file=\"" +
            path.string() + "\" to=5 seconds=0.6 name=speech ends=on\n",
        r);
    ASSERT_EQ(r.song->keys.size(), 2u);
    EXPECT_EQ(r.song->keys[1].key.tonic, 4);
    const auto plan = compile_plan(r, {44100.0, assets_from_files({})});
    const SoundSummary s = summarise(*render_offline(*plan));
    // The stop is a second long, before 8.5 s: in its last 0.6 s there is speech, before it nothing but what dies away.
    EXPECT_LT(level(s, 7.75, 7.88), level(s, 6.0, 7.4) - 12.0);
    EXPECT_GT(level(s, 7.92, 8.1), level(s, 7.75, 7.88) + 12.0);
    EXPECT_GT(at_hz(s, 2500.0, 8.6, 20.0), at_hz(s, 2500.0, 0.6, 7.4) + 9.0) << "its other sound there";
    const auto notes = placed_notes(*r.part(test::kBass));
    double first_s = 1e9;
    int semitones = 0;
    for (const PlacedNote& n : notes)
        if (n.note.start >= 4 * 3840 && n.note.start < 4 * 3840 + 240) first_s = r.song->tempo.seconds(n.note.start), semitones = n.note.pitch - 38;
    EXPECT_NEAR(first_s, 8.5, 0.01);
    EXPECT_EQ(semitones, 2) << "in its key";
    EXPECT_NEAR(r.song->tempo.seconds(Ticks{5 * 3840}) - r.song->tempo.seconds(Ticks{4 * 3840}), 3.0, 1e-6);
    std::filesystem::remove(path);
}

TEST(Scenarios, AWindyTakeGoesThroughABusThatCutsItsRumble) {
    Audio take = test::tones({{0.2, 1.2, 62}}, 2.0);
    for (std::size_t i = 0; i < take.samples.size(); ++i)
        take.samples[i] += 0.25F * static_cast<float>(std::sin(2.0 * std::numbers::pi * 40.0 * static_cast<double>(i) / take.sample_rate_hz));
    const auto path = std::filesystem::temp_directory_path() / ("windy " + std::to_string(::getpid()) + ".wav");
    ASSERT_TRUE(write_audio(path, take));
    const Remake windy = after("part.mute part=Drums on=on\npart.mute part=Bass on=on\nclip.from-file file=\"" + path.string() +
                               "\" to=2 seconds=2 name=take origin=recorded\n");
    const Remake cut = after(
        "bus.add name=Voice\nstep.add bus=Voice kind=filter cutoff=150Hz steep=on\nfield.set bus=Voice step=filter field=kind value=high-pass\nclip.output "
        "clip=take bus=Voice\n",
        windy);
    const auto sound_of = [](const Remake& r) { return summarise(*compile_plan(r, {44100.0, assets_from_files({})})); };
    const SoundSummary before = sound_of(windy), now = sound_of(cut), back = sound_of(after("clip.output clip=take\n", cut));
    EXPECT_LT(at_hz(now, 40.0, 2.7, 3.8), at_hz(before, 40.0, 2.7, 3.8) - 20.0) << "the wind";
    EXPECT_NEAR(at_hz(now, 315.0, 2.7, 3.8), at_hz(before, 315.0, 2.7, 3.8), 1.5) << "the voice";
    EXPECT_NEAR(at_hz(back, 40.0, 2.7, 3.8), at_hz(before, 40.0, 2.7, 3.8), 0.1) << "to the master again";
    std::filesystem::remove(path);
}

TEST(Scenarios, AnOutroBehindTheSongIsMadeOfWhatTheVersePlays) {
    const Remake before = small_remake();
    const Remake r =
        after("section.split at=9\nsection.rename section=#3 name=outro\nsection.copy section=#1 to=9\npart.mute-in part=Drums section=outro on=on\n", before);
    ASSERT_EQ(r.song->sections.size(), 3u);
    EXPECT_EQ(r.song->sections[2].start, 8 * 3840);
    const SoundSummary s = sound(r);
    EXPECT_LT(level(sound(before), 17.6, 20.0), -60.0) << "there was nothing";
    EXPECT_GT(level(s, 17.0, 24.0), level(s, kFirst_s, kMiddle_s) - 12.0) << "the bass plays on";
    EXPECT_LT(at_hz(s, 8000.0, 17.0, 24.0), at_hz(s, 8000.0, kFirst_s, kMiddle_s) - 12.0) << "without drums";
}

TEST(Scenarios, ABowedInstrumentOfASynthAnAmplifierAndSwellsOfEachNote) {
    const std::string bowed = R"(part.mute part=Drums on=on
layer.source part=Bass layer=1 source=synth patch="Warm pad"
steps.amp part=Bass
note.vibrato part=Bass from=1 to=9 depth=18 rate=5.5 delay=1/8
)";
    const Remake plain = after(bowed);
    const Remake swells = after(
        "field.set part=Bass layer=1 field=level value=-24dB\nfield.by-notes part=Bass layer=1 field=level to=0dB attack=220ms decay=200ms sustain=80% "
        "release=80ms\n",
        plain);
    // Notes begin each half second, from 0.5 s on: how much louder each is after a fifth of a second than as it begins.
    const auto swell = [](const Remake& r) {
        const SoundSummary s = sound(r);
        double sum = 0.0;
        for (int n = 1; n < 16; ++n) sum += level(s, 0.5 + 0.5 * n + 0.2, 0.5 + 0.5 * n + 0.3) - level(s, 0.5 + 0.5 * n + 0.02, 0.5 + 0.5 * n + 0.1);
        return sum / 15.0;
    };
    EXPECT_GT(swell(swells), swell(plain) + 4.0);
    EXPECT_LT(at_hz(sound(swells), 10000.0, 0.6, 16.0), at_hz(sound(swells), 500.0, 0.6, 16.0) - 30.0) << "an amplifier's loudspeaker has no such highs";
}

}  // namespace fw
