// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/sound_file.hpp"

#include "audio/audio_file.hpp"
#include "commands/command.hpp"
#include "model/edits/parts.hpp"
#include "model/fields.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <iterator>

namespace fw {

using test::kBass;
using test::kDrums;

TEST(SoundFile, AKitIsGivenAwayWithItsSamplesAndItsKeys) {
    const test::TemporaryFolder folder;
    std::filesystem::create_directories(folder / "mine/a");
    std::filesystem::create_directories(folder / "mine/b");
    ASSERT_TRUE(write_audio(folder / "mine/a/hit.wav", test::sine(80.0, 0.2)));
    ASSERT_TRUE(write_audio(folder / "mine/b/hit.wav", test::sine(200.0, 0.1)));
    const auto read = [](const std::filesystem::path& file) {
        std::ifstream in(file, std::ios::binary);
        return std::string(std::istreambuf_iterator<char>(in), {});
    };
    const std::string kick = read(folder / "mine/a/hit.wav"), snare = read(folder / "mine/b/hit.wav");
    Remake r = test::small_remake();
    const auto layer = [&](const std::string& file, const char* key) {
        auto with = run_command(
            r, Line("part.add-layer").with("part", "Drums").with("source", "sampler").with("file", file).with("low_key", key).with("high_key", key));
        ASSERT_TRUE(with) << with.error().message();
        r = with->remake;
    };
    layer((folder / "mine/a/hit.wav").string(), "C2");
    layer((folder / "mine/b/hit.wav").string(), "D2");
    layer((folder / "mine/b/hit.wav").string(), "E2");
    ASSERT_TRUE(write_sound_with_samples(folder / "kit.sound.txt", r, kDrums));
    EXPECT_NE(read(folder / "kit.sound.txt").find("keys C2: hit.wav, from " + (folder / "mine/a/hit.wav").string()), std::string::npos)
        << read(folder / "kit.sound.txt");
    // Carried elsewhere, while what it was made of is gone.
    std::filesystem::create_directories(folder / "theirs");
    std::filesystem::rename(folder / "kit.sound.txt", folder / "theirs/kit.sound.txt");
    std::filesystem::rename(folder / "kit samples", folder / "theirs/kit samples");
    std::filesystem::remove_all(folder / "mine");
    const auto back = read_sound(folder / "theirs/kit.sound.txt", test::small_remake(), kDrums);
    ASSERT_TRUE(back) << back.error().message();
    const auto& layers = back->part(kDrums)->layers;
    ASSERT_EQ(layers.size(), 4u) << "the kit's own instrument, and three samples";
    EXPECT_EQ(read(layers[1].file), kick);
    EXPECT_EQ(read(layers[2].file), snare) << "two files of one name stay two";
    EXPECT_EQ(layers[3].file, layers[2].file) << "and one that is played twice is one";
    EXPECT_EQ(layers[1].low_key, r.part(kDrums)->layers[1].low_key);
    EXPECT_EQ(layers[2].high_key, r.part(kDrums)->layers[2].high_key);
    // A sample that is gone is told, and no sound without it is written.
    const auto gone = write_sound_with_samples(folder / "again.sound.txt", r, kDrums);
    ASSERT_FALSE(gone);
    EXPECT_NE(gone.error().message().find("hit.wav"), std::string::npos) << gone.error().message();
    EXPECT_FALSE(std::filesystem::exists(folder / "again.sound.txt"));
}

TEST(SoundFile, EveryFieldOfASoundIsRecalledInAnotherRemakeOnAnotherPart) {
    const test::TemporaryFolder folder;
    Remake r = test::small_remake();
    // All sources and kinds of steps, each field away from where it starts.
    for (const char* line : {"part.add-layer part=Bass source=sampler file=/sounds/a.wav", "part.add-layer part=Bass source=soundfont program=11",
                             "part.add-layer part=Bass source=drum_voice patch=Clap octave=1 pan=-30% low_key=C2 tuning=25"}) {
        const auto parsed = parse_line(line);
        ASSERT_TRUE(parsed && *parsed);
        auto with = run_command(r, **parsed);
        ASSERT_TRUE(with) << with.error().message();
        r = with->remake;
    }
    for (const StepType* type : step_types()) {
        auto with = run_command(r, Line("step.add").with("part", "Bass").with("kind", type->id));
        ASSERT_TRUE(with) << with.error().message();
        r = with->remake;
    }
    r = with_part(r, kBass, [](Part& p) {
        int i = 0;
        const auto spread = [&](Settings& settings, std::span<const Parameter> fields) {
            for (std::size_t f = 0; f < fields.size(); ++f) settings.set(f, clamped(fields[f], value_at(fields[f], 0.1 + 0.07 * (i++ % 12))));
        };
        for (Layer& l : p.layers) spread(l.settings, l.source->fields);
        for (Step& s : p.steps) spread(s.settings, s.type->fields);
    });
    ASSERT_FALSE(what_is_wrong(r)) << *what_is_wrong(r);
    ASSERT_TRUE(write_sound(folder / "a.sound.txt", r, kBass));
    const auto back = read_sound(folder / "a.sound.txt", test::small_remake(), kDrums);
    ASSERT_TRUE(back) << back.error().message();
    const Part &was = *r.part(kBass), &now = *back->part(kDrums);
    ASSERT_EQ(now.layers.size(), was.layers.size());
    ASSERT_EQ(now.steps.size(), was.steps.size());
    for (std::size_t l = 0; l < was.layers.size(); ++l) {
        EXPECT_EQ(now.layers[l].source, was.layers[l].source);
        EXPECT_EQ(now.layers[l].patch, was.layers[l].patch);
        EXPECT_EQ(now.layers[l].file, was.layers[l].file);
        EXPECT_EQ(now.layers[l].program, was.layers[l].program);
        EXPECT_EQ(now.layers[l].tune_cents, was.layers[l].tune_cents);
        EXPECT_EQ(now.layers[l].pan, was.layers[l].pan);
        for (std::size_t f = 0; f < was.layers[l].source->fields.size(); ++f) {
            const double a = was.layers[l].value(f), b = now.layers[l].value(f);
            EXPECT_NEAR(b, a, 1e-5 * std::abs(a) + 1e-6) << was.layers[l].source->id << " " << was.layers[l].source->fields[f].id;
        }
    }
    for (std::size_t s = 0; s < was.steps.size(); ++s)
        for (std::size_t f = 0; f < was.steps[s].type->fields.size(); ++f) {
            const double a = was.steps[s].value(f), b = now.steps[s].value(f);
            EXPECT_NEAR(b, a, 1e-5 * std::abs(a) + 1e-6) << was.steps[s].type->id << " " << was.steps[s].type->fields[f].id;
        }
}

TEST(SoundFile, WhatIsNoSoundIsSaidInOneSentenceAndNothingIsLost) {
    const test::TemporaryFolder folder;
    const Remake r = test::small_remake();
    std::ofstream(folder / "empty.txt") << "# nothing\n";
    std::ofstream(folder / "other.txt") << "part.remove part=Bass\n";
    std::ofstream(folder / "odd.txt") << "part.add-layer part=* source=harp\n";
    for (const char* name : {"empty.txt", "other.txt", "odd.txt"}) {
        const auto back = read_sound(folder / name, r, kBass);
        ASSERT_FALSE(back) << name;
        EXPECT_EQ(back.error().code, ErrorCode::SoundUnusable) << name;
        EXPECT_NE(back.error().message().find(name), std::string::npos);
    }
    EXPECT_EQ(read_sound(folder / "gone.txt", r, kBass).error().code, ErrorCode::FileMissing);
    EXPECT_EQ(read_sound(folder / "odd.txt", r, PartId(99)).error().code, ErrorCode::SoundUnusable);
}

}  // namespace fw
