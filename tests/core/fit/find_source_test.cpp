// SPDX-License-Identifier: GPL-3.0-or-later
// What the original itself was made of is found under whatever else plays, and nothing is found where nothing of it is.
#include "fit/find_source.hpp"

#include "engine/clip_sound.hpp"
#include "model/recipe.hpp"

#include "../../support/remakes.hpp"
#include "../../support/signals.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

namespace fw {
namespace {

constexpr int kRate = 44100;

/// A piece of music made up from a seed: chords, a line above and strokes, in some key and tempo.
Audio made_up(unsigned seed, double seconds, bool drums = true) {
    std::mt19937 random(seed);
    const auto one_of = [&](int low, int high) { return low + static_cast<int>(random() % static_cast<unsigned>(high - low + 1)); };
    const int key = one_of(43, 54);
    const double beat_s = 60.0 / one_of(78, 138);
    constexpr int kScale[] = {0, 2, 4, 5, 7, 9, 11, 12, 14, 16};
    std::vector<test::Tone> list;
    std::vector<double> strokes;
    for (double t = 0.0; t + beat_s < seconds; t += beat_s) {
        const int beat = static_cast<int>(std::llround(t / beat_s));
        if (beat % 4 == 0) {
            const int root = one_of(0, 5);
            for (const int k : {0, 2, 4}) list.push_back({t, std::min(4.0 * beat_s, seconds - t), key + kScale[root + k], 0.14F});
        }
        for (const double half : {0.0, 0.5})
            if (random() % 3 != 0) list.push_back({t + half * beat_s, 0.45 * beat_s, key + 12 + kScale[one_of(0, 9)], 0.2F});
        if (drums) strokes.push_back(t);
        if (drums && random() % 2 == 0) strokes.push_back(t + 0.5 * beat_s);
    }
    Audio a = test::tones(list, seconds);
    if (drums) {
        const Audio hits = test::clicks(strokes, seconds);
        for (std::size_t i = 0; i < a.samples.size(); ++i) a.samples[i] += 0.4F * hits.samples[i];
    }
    return a;
}

/// A song of another seed into which a treated piece of a source was laid.
struct Mix {
    Audio original;
    double at_s = 6.0, seconds = 8.0;
};
Mix mixed(const Audio& source, const SourcePlace& place, unsigned seed, double gain = 1.0) {
    Mix m;
    m.original = made_up(seed, 24.0);
    const Audio piece = follow_recipe(source, recipe_of(place, m.seconds), kRate);
    const auto at = static_cast<std::size_t>(m.at_s * kRate);
    for (std::size_t i = 0; i < piece.frames() && at + i < m.original.samples.size(); ++i)
        m.original.samples[at + i] += static_cast<float>(gain) * 0.5F * (piece.samples[2 * i] + piece.samples[2 * i + 1]);
    return m;
}

std::optional<SourcePlace> found(const Mix& m, const Audio& source) {
    const auto place = find_source(m.original, m.at_s, m.at_s + m.seconds, source);
    EXPECT_TRUE(place) << (place ? "" : place.error().message());
    return place ? *place : std::nullopt;
}

TEST(FindSource, APieceIsFoundWithItsPlaceSpeedAndPitchUnderAnotherSong) {
    const Audio source = made_up(104, 40.0);
    SourcePlace as_it_was, stretched, tape;
    as_it_was.from_s = 11.0;
    stretched.from_s = 9.0, stretched.speed = 1.25, stretched.semitones = -5.0;
    tape.from_s = 17.0, tape.speed = 0.94, tape.semitones = 12.0 * std::log2(0.94), tape.as_tape = true;
    for (const SourcePlace& place : {as_it_was, stretched, tape}) {
        const Mix m = mixed(source, place, 204, 0.7);
        const auto there = found(m, source);
        ASSERT_TRUE(there) << place.speed;
        EXPECT_NEAR(there->from_s, place.from_s, 0.008) << place.speed;
        EXPECT_NEAR(there->speed / place.speed, 1.0, 0.002);
        EXPECT_NEAR(there->semitones, place.semitones, 0.06);
        EXPECT_EQ(there->as_tape, place.as_tape);
    }
}

TEST(FindSource, NothingIsFoundOfASongThatIsNotThereOrOfSilence) {
    const Mix m = mixed(made_up(104, 30.0), {8.0}, 204, 0.7);
    for (const unsigned other : {301u, 302u}) EXPECT_FALSE(found(m, made_up(other, 40.0))) << other;
    const Audio silence{kRate, 1, std::vector<float>(20 * kRate, 0.0F), {}};
    const auto none = find_source(m.original, 6.0, 14.0, silence);
    ASSERT_FALSE(none);
    EXPECT_EQ(none.error().code, ErrorCode::AudioSilent);
    const auto brief = find_source(m.original, 6.0, 7.0, m.original);
    ASSERT_FALSE(brief);
    EXPECT_NE(brief.error().message().find("two seconds or more"), std::string::npos);
    Progress stopped;
    stopped.cancel();
    const auto cancelled = find_source(m.original, 6.0, 14.0, m.original, stopped);
    ASSERT_FALSE(cancelled);
    EXPECT_EQ(cancelled.error().code, ErrorCode::Cancelled);
}

TEST(FindSource, WhatIsFoundBecomesAClipThatSoundsAsTheStretchDoes) {
    SourcePlace place;
    place.from_s = 12.34, place.speed = 1.04, place.semitones = -2.0;
    EXPECT_EQ(words_of(place), "from 12.34 s of it on, 4.0 % faster, 2 semitones lower");
    SourcePlace tape = place;
    tape.as_tape = true, tape.semitones = 12.0 * std::log2(1.04);
    EXPECT_EQ(words_of(tape), "from 12.34 s of it on, 4.0 % faster, 0.68 semitones higher, as a tape");
    EXPECT_EQ(words_of({1.0}), "from 1.00 s of it on, as fast and as high");
    const auto done = run_command(test::small_remake(), place_source(test::small_remake(), "/songs/ferry tape.wav", 60.0, 2 * 3840, 4.0, place));
    ASSERT_TRUE(done) << done.error().message();
    const Clip& clip = done->remake.clips->clips.at(0);
    EXPECT_EQ(clip.name, "Source ferry tape");
    EXPECT_EQ(clip.start, 2 * 3840);
    EXPECT_NEAR(recipe_seconds(*done->remake.song, done->remake.clips->assets.at(0), clip), 4.0, 1e-3) << "as long as the stretch";
    ASSERT_EQ(clip.recipe.size(), 3u);
    EXPECT_NEAR(clip.recipe[1].first, 1.0 / 1.04, 1e-5);
    EXPECT_EQ(recipe_of(tape, 4.0)[1].treatment, Treatment::Speed);
    EXPECT_EQ(recipe_of({1.0}, 4.0).size(), 1u);
}

}  // namespace
}  // namespace fw
