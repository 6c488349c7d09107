// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/fit_synth.hpp"

#include <gtest/gtest.h>
#include <random>

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

TEST(FitSynth, APatchWithOtherFieldsIsFoundAgainAndThreeSoundsDiffer) {
    const FittedSound hidden{"Soft pluck", {{*index_of_field(kSynth.fields, "cutoff"), 1500.0}, {*index_of_field(kSynth.fields, "decay_ms"), 300.0}}, {}};
    const LoneNote moment = moment_of(hidden, 57);
    FitWish wish;
    wish.hearings = 1200;
    double best = 1e9;
    int told = 0;
    const auto found = fit_synth(moment, wish, {}, [&](const FittedSound& s) {
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
    EXPECT_LE(fit_synth(moment, wish).front().distance.total(), found.front().distance.total() + 1e-6);
}

TEST(FitSynth, SilenceHasNoSoundAndBeingToldToStopKeepsWhatThereIs) {
    LoneNote silent;
    silent.mono.assign(10000, 0.0F);
    EXPECT_TRUE(fit_synth(silent, {}).empty());
    const LoneNote moment = moment_of({"Organ", {}, {}}, 60);
    Progress progress;
    FitWish wish;
    wish.seconds = 60.0;
    const auto found = fit_synth(moment, wish, progress, [&](const FittedSound& s) {
        if (s.distance.total() < 1.0) progress.cancel();
    });
    ASSERT_FALSE(found.empty());
    EXPECT_LT(found.front().distance.total(), 1.0);
}

TEST(FitSynth, AStackedBassWithAPunchAndAPluckWithNoiseAreRebuiltFromTheirSoundAlone) {
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
    for (const auto& [sound, key] : {std::pair(stacked, 40), std::pair(plucked, 62)}) {
        const LoneNote moment = moment_of(sound, key);
        const SoundTarget target(moment.mono);
        double nearest = 1e9;
        for (const auto& patch : kSynth.patches()) nearest = std::min(nearest, target.distance_to(played(moment, {patch, {}, {}})).total());
        FitWish wish;
        wish.hearings = 2500;
        const auto found = fit_synth(moment, wish);
        ASSERT_FALSE(found.empty());
        EXPECT_LT(found.front().distance.total(), 0.5 * nearest) << "no more than the ready-made sounds have";
    }
}

}  // namespace fw
