// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/fit_sound.hpp"

#include "audio/audio_file.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <cmath>
#include <memory>
#include <numbers>
#include <tuple>

namespace fw {

namespace {

LoneNote moment_of(const FittedSound& hidden, int key) {
    LoneNote m;
    m.mono.assign(static_cast<std::size_t>(0.8 * SoundTarget::kRate), 0.0F);
    m.key = key;
    m.held_s = 0.5;
    m.mono = played(m, hidden);
    return m;
}

}  // namespace

TEST(FitSound, APatchWithOtherFieldsIsFoundAgainAndThreeSoundsDiffer) {
    const FittedSound hidden{"Soft pluck", {{*index_of_field(kSynth.fields, "cutoff"), 1500.0}, {*index_of_field(kSynth.fields, "decay_ms"), 300.0}}, {}};
    const LoneNote moment = moment_of(hidden, 57);
    FitWish wish;
    wish.hearings = 1200;
    double best = 1e9;
    int told = 0;
    const auto found = fit_sound(moment, {}, wish, {}, [&](const FittedSound& s) {
        EXPECT_LT(s.distance.total(), best);
        best = s.distance.total();
        ++told;
    });
    ASSERT_FALSE(found.empty());
    EXPECT_GE(told, 3);
    // Against what a sound taken at random is away.
    const SoundTarget target(moment.mono);
    double random = 0.0;
    for (const auto& patch : kSynth.patches())
        random += target.distance_to(played(moment, {patch, {}, {}})).total() / static_cast<double>(kSynth.patches().size());
    EXPECT_LT(found.front().distance.total(), 0.15 * random) << "random sounds are " << random << " away";
    for (std::size_t i = 1; i < found.size(); ++i) {
        EXPECT_GE(found[i].distance.total(), found[i - 1].distance.total());
        EXPECT_GT(SoundTarget(played(moment, found[i])).distance_to(played(moment, found[0])).total(), 0.9) << "they differ";
    }
    // Its level is the moment's.
    const auto energy = [](const std::vector<float>& x) {
        double sum = 0.0;
        for (const float s : x) sum += static_cast<double>(s * s);
        return sum;
    };
    EXPECT_NEAR(10.0 * std::log10(energy(played(moment, found.front())) / energy(moment.mono)), 0.0, 0.5);
    // Taken up again it is never worse.
    wish.from = found;
    wish.hearings = 300;
    const auto more = fit_sound(moment, {}, wish);
    EXPECT_LE(more.front().distance.total(), found.front().distance.total() + 1e-6);
    for (std::size_t i = 1; i < more.size(); ++i)
        EXPECT_GT(SoundTarget(played(moment, more[i])).distance_to(played(moment, more[0])).total(), 0.9) << "and they differ still";
}

TEST(FitSound, AToneTheSynthIsNotGivenTimeForIsMadeByAnEqualiserBehindIt) {
    FittedSound hidden{"Organ", {}, {}};
    for (const auto& [id, value] : {std::pair("mid_hz", 700.0), std::pair("mid", 11.0), std::pair("high_hz", 4000.0), std::pair("high", -11.0)})
        hidden.tone.emplace_back(*index_of_field(kEqualiser.fields, id), value);
    const LoneNote moment = moment_of(hidden, 57);
    const SoundTarget target(moment.mono);
    FitWish wish;
    wish.hearings = static_cast<int>(kSynth.patches().size());
    const auto found = fit_sound(moment, {}, wish);
    ASSERT_FALSE(found.empty());
    FittedSound plain = found.front();
    ASSERT_FALSE(plain.tone.empty());
    plain.tone.clear();
    EXPECT_LT(found.front().distance.total(), target.distance_to(played(moment, plain)).total() - 0.33);
    EXPECT_NEAR(target.distance_to(played(moment, found.front())).total(), found.front().distance.total(), 0.05) << "the distance is of what is given";
    // Where there is nothing to make up for there is none.
    const LoneNote itself = moment_of({"Organ", {}, {}}, 57);
    EXPECT_TRUE(fit_sound(itself, {}, wish).front().tone.empty());
}

TEST(FitSound, SilenceHasNoSoundAndBeingToldToStopKeepsWhatThereIs) {
    LoneNote silent;
    silent.mono.assign(10000, 0.0F);
    EXPECT_TRUE(fit_sound(silent, {}, {}).empty());
    const LoneNote moment = moment_of({"Organ", {}, {}}, 60);
    Progress progress;
    FitWish wish;
    wish.seconds = 60.0;
    const auto found = fit_sound(moment, {}, wish, progress, [&](const FittedSound& s) {
        if (s.distance.total() < 1.0) progress.cancel();
    });
    ASSERT_FALSE(found.empty());
    EXPECT_LT(found.front().distance.total(), 1.0);
}

TEST(FitSound, AStackedBassWithAPunchAndAPluckWithNoiseAreRebuiltFromTheirSoundAlone) {
    const auto field = [](const char* id) { return *index_of_field(kSynth.fields, id); };
    const FittedSound stacked{"Sub bass",
                              {{field("second_wave"), 2.0},
                               {field("second_level"), 0.6},
                               {field("interval"), 12.0},
                               {field("sub_level"), 0.7},
                               {field("punch"), 10.0},
                               {field("punch_ms"), 60.0},
                               {field("cutoff"), 700.0}},
                              {}};
    const FittedSound plucked{"Woody pluck", {{field("noise"), 0.25}, {field("noise_low"), 1500.0}, {field("decay_ms"), 350.0}, {field("cutoff"), 2500.0}}, {}};
    // A tenth of a sound at random is wanted of both. Of the bass, two voices and a sub, each hides the others: it takes longer.
    for (const auto& [sound, key, hearings] : {std::tuple(stacked, 40, 12000), std::tuple(plucked, 62, 4000)}) {
        const LoneNote moment = moment_of(sound, key);
        const SoundTarget target(moment.mono);
        double random = 0.0;
        for (const auto& patch : kSynth.patches())
            random += target.distance_to(played(moment, {patch, {}, {}})).total() / static_cast<double>(kSynth.patches().size());
        FitWish wish;
        wish.hearings = hearings;
        wish.seed = 3;
        const auto found = fit_sound(moment, {}, wish);
        ASSERT_FALSE(found.empty());
        EXPECT_LT(found.front().distance.total(), 0.1 * random) << sound.patch << ": sounds taken at random are " << random << " away";
    }
}

TEST(FitSound, AnEnvelopeAndAFilterOfASampleAreFoundAgain) {
    // A bright, steady sound as the sample; hidden is how it is played.
    auto sample = std::make_shared<Audio>(Audio{44100, 1, {}, {}});
    for (std::size_t i = 0; i < 2 * 44100; ++i) {
        double x = 0.0;
        for (int k = 1; k < 30; ++k) x += 0.15 / k * std::sin(2.0 * std::numbers::pi * 220.0 * k * static_cast<double>(i) / 44100.0);
        sample->samples.push_back(static_cast<float>(x));
    }
    const auto field = [](const char* id) { return *index_of_field(kSampler.fields, id); };
    FitSource source{&kSampler, {}, {{field("root"), 57.0}}};
    source.spec.sound = sample;
    LoneNote moment;
    moment.mono.assign(static_cast<std::size_t>(0.9 * SoundTarget::kRate), 0.0F);
    moment.key = 57;
    moment.held_s = 0.5;
    FittedSound hidden{
        "", {{field("root"), 57.0}, {field("attack_ms"), 60.0}, {field("decay_ms"), 300.0}, {field("sustain"), 0.3}, {field("cutoff"), 1500.0}}, {}};
    std::sort(hidden.settings.begin(), hidden.settings.end());
    moment.mono = played(moment, hidden, source);
    const SoundTarget target(moment.mono);
    const double as_it_is = target.distance_to(played(moment, {"", source.settings, {}}, source)).total();
    FitWish wish;
    wish.hearings = 1500;
    const auto found = fit_sound(moment, source, wish);
    ASSERT_FALSE(found.empty());
    EXPECT_LT(found.front().distance.total(), 0.1 * as_it_is) << "it was " << as_it_is << " away";
    const auto value = [&](const char* id) {
        for (const auto& [f, v] : found.front().settings)
            if (f == field(id)) return v;
        return kSampler.fields[field(id)].neutral;
    };
    EXPECT_EQ(value("root"), 57.0) << "what is set stays";
    EXPECT_NEAR(std::log2(value("cutoff") / 1500.0), 0.0, 0.5);
    EXPECT_NEAR(value("sustain"), 0.3, 0.15);
}

TEST(FitSound, ALayeredKickIsRebuiltFromItsSoundAlone) {
    // A deep skin, and a beater with air over it: two drums struck together.
    const auto field = [](const char* id) { return *index_of_field(kDrumVoice.fields, id); };
    const FitSource drum{&kDrumVoice, {}, {}};
    LoneNote moment;
    moment.mono.assign(static_cast<std::size_t>(0.45 * SoundTarget::kRate), 0.0F);
    moment.key = 36;
    moment.held_s = 0.2;
    const auto layer = [&](const char* like, std::vector<std::pair<std::size_t, double>> settings) {
        std::sort(settings.begin(), settings.end());
        const auto& patches = kDrumVoice.patches();
        const auto at = std::find_if(patches.begin(), patches.end(), [&](const std::string& p) { return p.find(like) != std::string::npos; });
        EXPECT_NE(at, patches.end()) << like;
        return played(moment, {*at, settings, {}}, drum);
    };
    const auto deep =
        layer("ick", {{field("pitch_hz"), 48.0}, {field("drop"), 30.0}, {field("drop_ms"), 55.0}, {field("decay_ms"), 380.0}, {field("click"), 0.0}});
    const auto air =
        layer("ick", {{field("skin"), 0.0}, {field("noise"), 0.6}, {field("noise_low"), 2500.0}, {field("noise_ms"), 60.0}, {field("click"), 0.5}});
    for (std::size_t i = 0; i < moment.mono.size(); ++i) moment.mono[i] = deep[i] + 0.5F * air[i];
    const SoundTarget target(moment.mono);
    double random = 0.0;
    for (const auto& patch : kDrumVoice.patches())
        random += target.distance_to(played(moment, {patch, {}, {}}, drum)).total() / static_cast<double>(kDrumVoice.patches().size());
    FitWish wish;
    wish.hearings = 3000;
    const auto found = fit_sound(moment, drum, wish);
    ASSERT_FALSE(found.empty());
    EXPECT_LT(found.front().distance.total(), 0.1 * random) << "drums taken at random are " << random << " away";
}

}  // namespace fw
