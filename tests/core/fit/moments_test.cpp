// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/moments.hpp"

#include "base/pitch.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

Audio ringing(const std::vector<std::pair<double, double>>& partials, double seconds, double decay, double noise = 0.0) {
    Audio a{44100, 1, {}, {}};
    std::uint32_t dice = 7;
    for (int i = 0; i < static_cast<int>(seconds * 44100); ++i) {
        const double t = i / 44100.0;
        double s = 0.0;
        for (const auto& [hz, level] : partials) s += level * std::sin(2.0 * std::numbers::pi * hz * t);
        dice = dice * 1664525u + 1013904223u;
        s += noise * (static_cast<double>(dice >> 8) / 8388608.0 - 1.0);
        a.samples.push_back(static_cast<float>(0.2 * std::exp(-decay * t) * std::min(1.0, t / 0.003) * s));
    }
    return a;
}

}  // namespace

TEST(Root, OfToneBassAndBellIsFoundWithinFiveCents) {
    for (int key = 24; key <= 96; key += 7)
        for (const double cents : {-37.0, 0.0, 22.0}) {
            const double hz = hertz_of(key + cents / 100.0);
            // Strings and reeds: a period. The fundamental of the lowest is weak, as small boxes have it.
            std::vector<std::pair<double, double>> tone;
            for (int k = 1; k < 12 && k * hz < 16000.0; ++k) tone.emplace_back(k * hz, (k == 1 && key < 36 ? 0.3 : 1.0) / k);
            const auto root = find_root(ringing(tone, 1.2, 2.0, 0.01));
            ASSERT_TRUE(root) << key;
            EXPECT_EQ(root->key, key) << cents;
            EXPECT_NEAR(root->cents, cents, 5.0) << key;
        }
    for (int key = 48; key <= 91; key += 5) {
        // A free bar: its first partial is what is heard.
        const double hz = hertz_of(key + 0.13);
        const auto bar = find_root(ringing({{hz, 1.0}, {2.756 * hz, 0.4}, {5.404 * hz, 0.2}}, 1.0, 3.0));
        ASSERT_TRUE(bar) << key;
        EXPECT_EQ(bar->key, key);
        EXPECT_NEAR(bar->cents, 13.0, 5.0);
        // A bell whose nominal is strongest.
        const auto bell = find_root(ringing({{hz, 1.0}, {0.25 * hz, 0.2}, {0.6 * hz, 0.3}, {1.5 * hz, 0.3}, {2.67 * hz, 0.2}}, 1.5, 1.5));
        ASSERT_TRUE(bell) << key;
        EXPECT_NEAR(bell->cents, 13.0, 5.0) << key;
    }
}

TEST(Root, NoiseAndSilenceHaveNone) {
    EXPECT_FALSE(find_root(ringing({}, 1.0, 3.0, 1.0)));
    EXPECT_FALSE(find_root(ringing({}, 1.0, 3.0, 0.0)));
    EXPECT_FALSE(find_root(Audio{44100, 1, {0.1F, 0.2F}, {}}));
}

TEST(CutOut, BeginsAtAZeroCrossingAndEndsInSilence) {
    Audio long_one = ringing({{220.0, 1.0}}, 3.0, 0.0);
    const Audio piece = cut_out(long_one, 1.0013, 1.5);
    ASSERT_EQ(piece.channels, 2);
    EXPECT_NEAR(piece.duration_s(), 0.5, 0.005);
    EXPECT_EQ(piece.samples[0], 0.0F);
    EXPECT_NEAR(piece.samples[piece.samples.size() - 1], 0.0F, 1e-4F);
    float step = 0.0F;
    for (std::size_t i = 2; i < 200; i += 2) step = std::max(step, std::abs(piece.samples[i] - piece.samples[i - 2]));
    EXPECT_LT(step, 0.02F) << "no click";
    const Audio beyond = cut_out(long_one, 2.9, 9.0);
    EXPECT_NEAR(beyond.duration_s(), 0.1, 0.005) << "no farther than the recording";
    const LoneNote m = moment_from(piece, 57, 100, 0.4, 0.0);
    EXPECT_LE(m.mono.size(), static_cast<std::size_t>(1.2 * SoundTarget::kRate));
    EXPECT_GT(std::abs(m.mono[1]) + std::abs(m.mono[2]), 0.0F);
}

TEST(Moments, ALoopsFieldsAreSharesOfWhatIsPlayed) {
    double length = 0.0, start = 0.0, on = 0.0;
    for (const auto& [field, value] : loop_fields({0.6, 1.2, 0.99}, 1.5)) {
        const Parameter& row = kSampler.fields[*index_of_field(kSampler.fields, field)];
        EXPECT_EQ(clamped(row, value), value) << field;
        (std::string_view(field) == "length" ? length : std::string_view(field) == "loop_start" ? start : on) = value;
    }
    EXPECT_NEAR(length, 0.8, 1e-9);
    EXPECT_NEAR(start, 0.5, 1e-9);
    EXPECT_EQ(on, 1.0);
}

}  // namespace fw
