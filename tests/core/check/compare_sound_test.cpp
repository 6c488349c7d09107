// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/compare_sound.hpp"

#include "check/words.hpp"

#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <cmath>

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

namespace {

std::vector<Finding> found(const Audio& original, const Audio& rebuild, const SoundPlaces& places, FindingKind kind) {
    CheckReport report;
    compare_sound(summarise(original), summarise(rebuild), places, report);
    std::vector<Finding> out;
    for (const Finding& f : report.findings)
        if (f.kind == kind) out.push_back(f);
    return out;
}

/// Noise that dies away after each half second, with so many decibels lost a tenth.
Audio strokes(double db_a_tenth, float bed = 0.0F) {
    Audio a = noise(0.3F, 0.3F, 0.0F);
    const Audio still = noise(1.0F, 1.0F, 0.0F, 9);
    for (std::size_t i = 0; i < a.samples.size(); ++i) {
        const double t = std::fmod(static_cast<double>(i / 2) / 44100.0, 0.5);
        a.samples[i] = a.samples[i] * static_cast<float>(std::pow(10.0, -db_a_tenth * t / 2.0)) + bed * still.samples[i];
    }
    return a;
}

SoundPlaces every_half_second() {
    SoundPlaces places;
    for (int k = 0; k < 8; ++k) places.strokes_s.push_back(0.5 * k);
    return places;
}

}  // namespace

TEST(CompareSound, ATruePeakLiesBetweenTheSamples) {
    // A quarter of the rate, an eighth of a turn off: no sample is higher than -3 dB.
    Audio a{44100, 2, {}, {}};
    for (int f = 0; f < 44100; ++f)
        for (int c = 0; c < 2; ++c)
            a.samples.push_back(static_cast<float>(0.5 * std::sin(2.0 * 3.14159265358979 * (f / 4.0 + 0.125)) * std::min(1.0, f / 4000.0)));
    EXPECT_NEAR(summarise(a).peak_db, -6.02, 0.35);
    EXPECT_NEAR(summarise(test::sine(997, 2, 48000, 1, 1.0F)).peak_db, 0.0, 0.05);
    EXPECT_LE(summarise(Audio{44100, 2, std::vector<float>(44100, 0.0F), {}}).peak_db, -100.0);
    const auto over = found(noise(0.2F, 0.2F, 0.0F), noise(1.3F, 1.3F, 0.0F), {}, FindingKind::Peak);
    ASSERT_EQ(over.size(), 1u);
    EXPECT_GT(over[0].size, 2.0);
    EXPECT_NE(finding_message(over[0]).find("above full scale"), std::string::npos);
}

TEST(CompareSound, HardLeftIsWiderAndMonoNarrower) {
    const auto left = found(noise(0.2F, 0.2F, 0.05F), noise(0.3F, 0.0F, 0.0F), {}, FindingKind::Width);
    ASSERT_GE(left.size(), 1u);
    EXPECT_GT(left[0].size, 6.0);
    const auto mono = found(noise(0.2F, 0.2F, 0.1F), noise(0.2F, 0.2F, 0.0F), {}, FindingKind::Width);
    ASSERT_GE(mono.size(), 1u);
    EXPECT_LT(mono[0].size, -6.0);
    EXPECT_NE(finding_message(mono[0]).find("narrower"), std::string::npos);
    EXPECT_TRUE(found(noise(0.2F, 0.2F, 0.1F), noise(0.2F, 0.2F, 0.12F), {}, FindingKind::Width).empty());
}

TEST(CompareSound, HowItDiesAwayAfterStrokesIsTold) {
    const auto shorter = found(strokes(4.0), strokes(12.0), every_half_second(), FindingKind::Envelope);
    ASSERT_EQ(shorter.size(), 1u);
    EXPECT_LT(shorter[0].size, -6.0);
    EXPECT_NE(remedy_words(shorter[0]).find("lengthen"), std::string::npos);
    EXPECT_TRUE(found(strokes(4.0), strokes(4.5), every_half_second(), FindingKind::Envelope).empty());
    EXPECT_TRUE(found(strokes(4.0), strokes(12.0), {}, FindingKind::Envelope).empty()) << "without strokes nothing is said";
}

TEST(CompareSound, ANoiseBedThatIsNotThereIsTold) {
    const auto dry = found(strokes(14.0, 0.02F), strokes(14.0, 0.002F), every_half_second(), FindingKind::Noise);
    ASSERT_EQ(dry.size(), 1u);
    EXPECT_LT(dry[0].size, -6.0);
    EXPECT_TRUE(found(strokes(14.0, 0.02F), strokes(14.0, 0.02F), every_half_second(), FindingKind::Noise).empty());
}

TEST(CompareSound, ASectionIsToldOnlyWhereItDiffersOtherwiseThanTheWhole) {
    const Audio original = noise(0.2F, 0.2F, 0.05F);
    SoundPlaces places;
    places.sections = {{"verse", 0.0, 2.0, 1}, {"chorus", 2.0, 4.0, 5}};
    Audio second = original, all = original;
    for (std::size_t i = 0; i < second.samples.size(); ++i) {
        all.samples[i] *= 0.25F;
        if (i / 2 >= 88200) second.samples[i] *= 0.4F;
    }
    EXPECT_EQ(found(original, all, places, FindingKind::Level).size(), 1u) << "the whole is softer: one cause, one finding";
    const auto sections = found(original, second, places, FindingKind::Level);
    ASSERT_FALSE(sections.empty());
    bool chorus = false;
    for (const Finding& f : sections) chorus = chorus || (f.place == "chorus" && f.size < -3.0 && f.bar == 5);
    EXPECT_TRUE(chorus);
    CheckReport report;
    compare_sound(summarise(original), summarise(second), places, report);
    ASSERT_EQ(report.sound.sections.size(), 2u);
    ASSERT_TRUE(report.sound.sections[0].sound && report.sound.sections[1].sound);
    EXPECT_LT(*report.sound.sections[1].sound, *report.sound.sections[0].sound);
    CheckReport same;
    compare_sound(summarise(original), summarise(original), places, same);
    EXPECT_TRUE(same.findings.empty());
    EXPECT_EQ(same.sound.sections[0].sound, 1.0);
}

}  // namespace fw
