// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/compare_sound.hpp"

#include "check/words.hpp"

#include "support/signals.hpp"

#include <gtest/gtest.h>

namespace fw {

namespace {
Audio noise(float left, float right_same, float right_other, unsigned seed = 1) {
    Audio a{44100, 2, {}, {}};
    unsigned n = seed, m = seed * 77;
    for (int f = 0; f < 44100 * 4; ++f) {
        n = n * 1664525u + 1013904223u;
        m = m * 22695477u + 1u;
        const float x = static_cast<float>(n >> 8) / 8388608.0F - 1.0F, y = static_cast<float>(m >> 8) / 8388608.0F - 1.0F;
        a.samples.push_back(left * x);
        a.samples.push_back(right_same * x + right_other * y);
    }
    return a;
}
}  // namespace

TEST(CompareSound, WhiteNoiseRisesByThreeDecibelsAnOctave) {
    const auto db = third_octaves_db(summarise(noise(0.3F, 0.3F, 0.0F)));
    const auto& hz = third_octave_centers_hz();
    for (std::size_t i = 6; i + 3 < db.size(); ++i) EXPECT_NEAR(db[i + 3] - db[i], 3.01, 0.8) << hz[i] << " Hz";
}

TEST(CompareSound, WidthIsNoneForMonoHalfForUnrelatedAndAllForOpposite) {
    for (const auto& [audio, share] : {std::pair{noise(0.3F, 0.3F, 0.0F), 0.0}, {noise(0.3F, 0.0F, 0.3F), 0.5}, {noise(0.3F, -0.3F, 0.0F), 1.0}}) {
        CheckReport report;
        compare_sound(summarise(audio), summarise(audio), {}, report);
        ASSERT_EQ(report.sound.width.size(), 4u);
        for (const WidthBand& w : report.sound.width) EXPECT_NEAR(w.original, share, 0.03) << w.band;
    }
}

TEST(CompareSound, TheSameSoundHasNothingToReport) {
    CheckReport report;
    const SoundSummary a = summarise(noise(0.2F, 0.2F, 0.1F));
    compare_sound(a, a, {}, report);
    EXPECT_TRUE(report.findings.empty());
    EXPECT_NEAR(report.sound.match_gain_db, 0.0, 1e-9);
    EXPECT_EQ(report.match.sound, 1.0);
}

TEST(CompareSound, ALevelDifferenceIsLoudnessAndNotTone) {
    CheckReport report;
    compare_sound(summarise(noise(0.4F, 0.4F, 0.0F)), summarise(noise(0.1F, 0.1F, 0.0F)), {}, report);
    EXPECT_NEAR(report.sound.match_gain_db, 12.04, 0.1);
    ASSERT_EQ(report.findings.size(), 1u);
    EXPECT_EQ(report.findings[0].kind, FindingKind::Level);
    EXPECT_EQ(finding_message(report.findings[0]), "The rebuild is 12 dB softer than the original.");
    EXPECT_EQ(remedy_words(report.findings[0]), "bring the master 12 dB up");
    EXPECT_LT(report.match.sound, 0.6);
}

TEST(CompareSound, SilenceIsNoMatchAndWhatIsLopsidedIsLess) {
    const auto figure = [](const Audio& rebuild) {
        CheckReport report;
        compare_sound(summarise(noise(0.2F, 0.2F, 0.1F)), summarise(rebuild), {}, report);
        return report.match.sound.value_or(-1.0);
    };
    EXPECT_EQ(figure(Audio{44100, 2, std::vector<float>(44100 * 8, 0.0F), {}}), 0.0);
    EXPECT_LT(figure(noise(0.2F, 0.0F, 0.0F)), 0.85) << "hard left";
    EXPECT_LT(figure(noise(0.002F, 0.002F, 0.001F)), 0.05) << "40 dB too soft";
}

TEST(CompareSound, ABandTooLoudIsFoundWithARemedy) {
    const Audio plain = noise(0.05F, 0.05F, 0.0F);
    Audio hum = plain;
    for (const double hz : {800.0, 1000.0, 1250.0}) {
        const Audio tone = test::sine(hz, 4, 44100, 2, 0.1F);
        for (std::size_t i = 0; i < hum.samples.size(); ++i) hum.samples[i] += tone.samples[i];
    }
    CheckReport report;
    compare_sound(summarise(plain), summarise(hum), {}, report);
    bool found = false;
    for (const Finding& f : report.findings) {
        EXPECT_TRUE(f.kind == FindingKind::Tone || f.kind == FindingKind::Level);
        EXPECT_EQ(f.unit, "dB");
        found = found || (f.size > 8 && finding_message(f).find("louder") != std::string::npos && remedy_words(f).find("lower") != std::string::npos);
    }
    EXPECT_TRUE(found);
}

}  // namespace fw
