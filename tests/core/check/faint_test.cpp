// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/faint.hpp"

#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <functional>
#include <numbers>
#include <random>

namespace fw {

using test::small_remake;

namespace {

constexpr int kRate = 44100;

/// Notes of 0.4 s with a rest behind each, at 220 Hz, and what is added to them.
Audio song_with(const std::function<double(double t, double noise)>& added, double music = 0.3) {
    Audio a;
    a.sample_rate_hz = kRate;
    a.channels = 2;
    std::mt19937 random(4);
    std::normal_distribution<double> noise(0.0, 1.0);
    for (int f = 0; f < 17 * kRate; ++f) {
        const double t = static_cast<double>(f) / kRate, since = std::fmod(t, 0.8);
        double v = since < 0.4 ? music * std::sin(2.0 * std::numbers::pi * 220.0 * t) * std::exp(-since / 0.1) * std::min(1.0, since / 0.005) : 0.0;
        v += added(t, noise(random));
        a.samples.push_back(static_cast<float>(v)), a.samples.push_back(static_cast<float>(v));
    }
    return a;
}

std::vector<FaintFind> scan(const Audio& audio) { return scan_faint(Analysis{}, small_remake(), summarise(audio)); }

std::vector<FaintFind> of_kind(const std::vector<FaintFind>& all, FaintKind kind) {
    std::vector<FaintFind> out;
    for (const FaintFind& f : all)
        if (f.kind == kind) out.push_back(f);
    return out;
}

}  // namespace

TEST(Faint, ASoftHighLayerIsFoundInEachSectionWithItsBandAndPitch) {
    // E7 (2637 Hz), 46 dB below the notes.
    const auto found = scan(song_with([](double t, double) { return 0.0015 * std::sin(2.0 * std::numbers::pi * 2637.0 * t); }));
    const auto layers = of_kind(found, FaintKind::Layer);
    int sections = 0;
    for (const FaintFind& f : layers)
        if (f.low_hz < 2637.0 && f.high_hz > 2637.0) {
            ++sections;
            EXPECT_EQ(f.pitch, 100) << faint_words(f, false);
            EXPECT_LT(f.below_db, -20.0);
        }
    EXPECT_EQ(sections, 2);
    EXPECT_TRUE(of_kind(found, FaintKind::Hiss).empty() && of_kind(found, FaintKind::Room).empty()) << "a tone is no noise";
}

TEST(Faint, HissHumAndRoomAreToldFromMusicAndFromEachOther) {
    const auto hiss = scan(song_with([](double, double noise) { return 0.002 * noise; }));
    ASSERT_EQ(of_kind(hiss, FaintKind::Hiss).size(), 1u);
    EXPECT_FALSE(of_kind(hiss, FaintKind::Hiss)[0].music());
    const auto hum = scan(song_with([](double t, double) {
        double v = 0.0;
        for (int k = 1; k <= 3; ++k) v += 0.004 / k * std::sin(2.0 * std::numbers::pi * 50.0 * k * t);
        return v;
    }));
    EXPECT_EQ(of_kind(hum, FaintKind::Hum).size(), 1u);
    EXPECT_TRUE(of_kind(hum, FaintKind::Hiss).empty());
    double low = 0.0;
    const auto room = scan(song_with([&low](double, double noise) { return low += 0.02 * (0.05 * noise - low); }));
    EXPECT_EQ(of_kind(room, FaintKind::Room).size(), 1u);
    EXPECT_TRUE(of_kind(room, FaintKind::Hiss).empty());
}

TEST(Faint, OfCleanNotesAndOfSilenceNothingIsSaid) {
    for (const FaintFind& f : scan(song_with([](double, double) { return 0.0; }))) ADD_FAILURE() << faint_words(f, false);
    EXPECT_TRUE(scan(song_with([](double, double) { return 0.0; }, 0.0)).empty());
    EXPECT_TRUE(scan_faint(Analysis{}, small_remake(), {}).empty());
}

TEST(Faint, SoftStrokesThatComeAgainAndAgainAreTold) {
    Analysis a;
    for (int k = 0; k < 32; ++k) a.faint_drums.push_back({0.5 + 0.5 * k, DrumKind::HatClosed, 30, 0.3});
    const auto audio = song_with([](double, double) { return 0.0; });
    const auto drums = of_kind(scan_faint(a, small_remake(), summarise(audio)), FaintKind::Drum);
    ASSERT_EQ(drums.size(), 2u) << "in both sections";
    EXPECT_EQ(drums[0].drum, DrumKind::HatClosed);
    a.drums = a.faint_drums;
    EXPECT_TRUE(of_kind(scan_faint(a, small_remake(), summarise(audio)), FaintKind::Drum).empty()) << "what is surely there is not faint";
}

}  // namespace fw
