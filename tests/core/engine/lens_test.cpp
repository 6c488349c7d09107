// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/lens.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <numbers>
#include <random>

namespace fw {

namespace {

constexpr double kRate = 44100.0;

struct Sound {
    std::vector<float> left, right;
};

Sound sine(double hz, double seconds, float left = 0.5F, float right = 0.5F) {
    Sound s;
    for (int f = 0; f < static_cast<int>(seconds * kRate); ++f) {
        const auto v = static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * f / kRate));
        s.left.push_back(left * v), s.right.push_back(right * v);
    }
    return s;
}

Sound through(LensFilter& filter, Sound s, std::size_t block = 128) {
    for (std::size_t at = 0; at < s.left.size(); at += block) {
        const std::size_t n = std::min(block, s.left.size() - at);
        filter.process(std::span(s.left).subspan(at, n), std::span(s.right).subspan(at, n), static_cast<std::int64_t>(at));
    }
    return s;
}

Sound through(const Lens& lens, const Sound& s) {
    LensFilter filter(kRate);
    filter.jump(&lens);
    return through(filter, s);
}

double level(const std::vector<float>& v, double from_s = 0.5, double to_s = 1e9) {
    double sum = 0.0;
    std::size_t n = 0;
    for (auto f = static_cast<std::size_t>(from_s * kRate); f < v.size() && static_cast<double>(f) < to_s * kRate; ++f, ++n)
        sum += static_cast<double>(v[f]) * v[f];
    return 10.0 * std::log10(sum / static_cast<double>(std::max<std::size_t>(1, n)) + 1e-12);
}

/// What a lens leaves of a sine, in dB.
double gain(const Lens& lens, double hz) {
    const Sound in = sine(hz, 1.5);
    return level(through(lens, in).left) - level(in.left);
}

Lens lens(LensKind kind) {
    Lens l;
    l.kind = kind;
    return l;
}

/// Strokes of noise, four a second, the same in both ears.
Sound strokes(double seconds) {
    std::mt19937 random(3);
    std::normal_distribution<float> noise(0.0F, 0.3F);
    Sound s;
    for (int f = 0; f < static_cast<int>(seconds * kRate); ++f) {
        const double since = std::fmod(f / kRate, 0.25);
        const auto v = static_cast<float>(std::exp(-since / 0.012)) * noise(random);
        s.left.push_back(v), s.right.push_back(v);
    }
    return s;
}

Sound sum(const Sound& a, const Sound& b) {
    Sound s = a;
    for (std::size_t i = 0; i < s.left.size(); ++i) s.left[i] += b.left[i], s.right[i] += b.right[i];
    return s;
}

}  // namespace

TEST(Lens, BandsHaveTheirEdgesAtThreeDecibelsAndFallByTwentyFourAnOctave) {
    EXPECT_NEAR(gain(lens(LensKind::Low), kLowEdge_hz), -3.0, 0.3);
    EXPECT_NEAR(gain(lens(LensKind::Low), 60.0), 0.0, 0.2);
    EXPECT_NEAR(gain(lens(LensKind::Low), 2.0 * kLowEdge_hz), -24.1, 0.7);
    EXPECT_NEAR(gain(lens(LensKind::Body), kBodyEdge_hz), -3.0, 0.3);
    EXPECT_NEAR(gain(lens(LensKind::Body), 600.0), 0.0, 0.2);
    EXPECT_LT(gain(lens(LensKind::Body), 40.0), -40.0);
    EXPECT_NEAR(gain(lens(LensKind::Air), kAirEdge_hz), -3.0, 0.3);
    EXPECT_NEAR(gain(lens(LensKind::Air), 0.5 * kAirEdge_hz), -24.1, 1.5);
    Lens band = lens(LensKind::Band);
    band.low_hz = 400.0, band.high_hz = 800.0;
    EXPECT_NEAR(gain(band, 400.0), -3.0, 0.6);
    EXPECT_NEAR(gain(band, 566.0), -0.5, 0.6);
    EXPECT_LT(gain(band, 100.0), -40.0);
    EXPECT_LT(gain(band, 3200.0), -40.0);
}

TEST(Lens, AroundAPitchItsPartialsPassAndItsNeighboursDoNot) {
    Lens l = lens(LensKind::Pitch);
    l.pitch_hz = 220.0;
    for (int k = 1; k <= 4; ++k) EXPECT_NEAR(gain(l, 220.0 * k), 0.0, 1.5) << k;
    EXPECT_LT(gain(l, 220.0 * std::exp2(6.0 / 12.0)), -15.0);
    EXPECT_LT(gain(l, 110.0), -20.0);
    EXPECT_LT(gain(l, 4000.0), -25.0);
}

TEST(Lens, TheSmallSpeakerIsMonoAndWithoutBass) {
    EXPECT_LT(gain(lens(LensKind::Speaker), 60.0), -40.0);
    EXPECT_GT(gain(lens(LensKind::Speaker), 1500.0), 2.0);
    const Sound out = through(lens(LensKind::Speaker), sine(1000.0, 1.0, 0.5F, 0.0F));
    for (std::size_t i = 0; i < out.left.size(); ++i) ASSERT_EQ(out.left[i], out.right[i]);
}

TEST(Lens, BeforeLoudspeakersEachEarHearsTheLowsOfBothSides) {
    const Lens l = lens(LensKind::Loudspeakers);
    for (const double hz : {50.0, 100.0, 1000.0, 4000.0}) EXPECT_NEAR(gain(l, hz), 0.0, hz < 500.0 ? 0.3 : 2.5) << "what both sides have stays, " << hz;
    const Sound low = through(l, sine(100.0, 1.0, 0.5F, 0.0F)), high = through(l, sine(6000.0, 1.0, 0.5F, 0.0F));
    EXPECT_NEAR(level(low.left) - level(low.right), 5.4, 1.0) << "the lows come to the other ear, too";
    EXPECT_GT(level(high.left) - level(high.right), 25.0) << "the highs hardly do";
    // And later: the other ear's stroke is at its highest after its own.
    Sound click = sine(100.0, 0.2, 0.0F, 0.0F);
    click.left[2000] = 1.0F;
    const Sound out = through(l, click);
    const auto top = [](const std::vector<float>& v) { return std::max_element(v.begin(), v.end()) - v.begin(); };
    EXPECT_GT(top(out.right), top(out.left) + 8);
}

TEST(Lens, CentreAndSidesTellWhereASoundStands) {
    const Sound middle = sine(700.0, 1.5), side = sine(1300.0, 1.5, 0.5F, 0.0F);
    const Sound both = sum(middle, side);
    EXPECT_NEAR(level(through(lens(LensKind::Centre), middle).left), level(middle.left), 0.5);
    EXPECT_LT(level(through(lens(LensKind::Sides), middle).left), -60.0);
    EXPECT_NEAR(level(through(lens(LensKind::Sides), side).left), level(side.left), 0.5);
    EXPECT_LT(level(through(lens(LensKind::Centre), side).left), -60.0);
    EXPECT_NEAR(level(through(lens(LensKind::Centre), both).right), level(middle.right), 1.0);
    EXPECT_LT(level(through(lens(LensKind::Sides), both).right), -25.0) << "the right side has only the middle";
}

TEST(Lens, TonalAndPercussivePartWhatLastsFromWhatIsStruck) {
    const Sound tone = sine(440.0, 3.0, 0.3F, 0.3F), hits = strokes(3.0);
    const Sound both = sum(tone, hits);
    const Lens tonal = lens(LensKind::Tonal), percussive = lens(LensKind::Percussive);
    EXPECT_NEAR(level(through(tonal, tone).left, 1.0), level(tone.left, 1.0), 0.5);
    EXPECT_LT(level(through(percussive, tone).left, 1.0), level(tone.left, 1.0) - 30.0);
    EXPECT_GT(level(through(percussive, hits).left, 1.0), level(hits.left, 1.0) - 2.5);
    EXPECT_LT(level(through(tonal, hits).left, 1.0), level(hits.left, 1.0) - 6.0);
    EXPECT_NEAR(level(through(tonal, both).left, 1.0), level(tone.left, 1.0), 1.5);
}

TEST(Lens, AnElementsShareLetsItsNotesThroughAndHoldsTheOthersBack) {
    auto share = std::make_shared<Share>();
    share->tones = {{0.0, 3.0, 220.0F, 0, 0, 1.0F, true}, {0.0, 3.0, 330.0F, 0, 0, 1.0F, false}};
    share->longest_s = 3.0;
    Lens l = lens(LensKind::Element);
    l.share = share;
    const Sound mine = sine(220.0, 3.0), other = sine(330.0, 3.0);
    EXPECT_NEAR(level(through(l, mine).left, 0.5, 2.8), level(mine.left), 0.5);
    EXPECT_LT(level(through(l, other).left, 0.5, 2.8), level(other.left) - 30.0);
    // Where it does not sound nothing of it is let through.
    share->tones[0].end_s = 1.0;
    EXPECT_LT(level(through(l, mine).left, 1.4, 2.8), level(mine.left) - 30.0);
    l.share = nullptr;
    EXPECT_NEAR(level(through(l, other).left), level(other.left), 0.5) << "without a share all is let through";
}

TEST(Lens, WhatComesOutLagsByWhatIsSaid) {
    for (const LensKind kind : {LensKind::Centre, LensKind::Tonal, LensKind::Element, LensKind::Low}) {
        const Lens l = lens(kind);
        LensFilter filter(kRate);
        filter.jump(&l);
        // A tone that begins in the middle: its level is half of what it becomes where it begins.
        Sound s = sine(100.0, 2.0);
        for (std::size_t f = 0; f < 44100; ++f) s.left[f] = s.right[f] = 0.0F;
        const Sound out = through(filter, s);
        const double full = level(out.left, 1.6);
        std::size_t begin = 0;
        for (std::size_t f = 44100 - 4410; f + 441 < out.left.size() && begin == 0; f += 21) {
            const double here = level(out.left, static_cast<double>(f) / kRate, static_cast<double>(f + 441) / kRate);
            if (here > full - 6.0) begin = f + 220;
        }
        const double late = static_cast<double>(begin) - 44100.0 - static_cast<double>(filter.latency_frames());
        EXPECT_LT(std::abs(late), 0.06 * kRate) << lens_name(kind) << ": " << late / kRate;
    }
}

TEST(Lens, ChangingWhileItSoundsMakesNoClick) {
    std::array<Lens, kLenses> all;
    for (int k = 0; k < kLenses; ++k) all[static_cast<std::size_t>(k)] = lens(static_cast<LensKind>(k));
    LensFilter filter(kRate);
    filter.jump(all.data());
    Sound s = sine(300.0, 12.0, 0.5F, 0.4F);
    std::size_t next = 1;
    for (std::size_t at = 0; at + 128 <= s.left.size(); at += 128) {
        if (at % (128 * 150) == 0 && filter.settled()) filter.change(&all[next++ % kLenses]);
        filter.process(std::span(s.left).subspan(at, 128), std::span(s.right).subspan(at, 128), static_cast<std::int64_t>(at));
    }
    EXPECT_GE(next, 12u);
    // The steepest step a sine of this pitch and level makes is 0.021, with the speaker's bell 0.034; at 24 dB an octave filters ring a little.
    for (std::size_t f = 1; f < s.left.size() / 128 * 128; ++f) ASSERT_LT(std::abs(s.left[f] - s.left[f - 1]), 0.045F) << f;
}

TEST(Lens, BlocksOfAnySizeSoundTheSame) {
    const Sound in = sum(strokes(1.0), sine(500.0, 1.0));
    for (const LensKind kind : {LensKind::Low, LensKind::Pitch, LensKind::Tonal, LensKind::Sides}) {
        const Lens l = lens(kind);
        LensFilter a(kRate), b(kRate);
        a.jump(&l), b.jump(&l);
        const Sound x = through(a, in, 1000), y = through(b, in, 37);
        EXPECT_EQ(x.left, y.left) << lens_name(kind);
    }
}

TEST(Lens, IsWrittenAndReadBack) {
    Lens band = lens(LensKind::Band);
    band.low_hz = 120.5, band.high_hz = 900.0;
    const auto read = parse_lens(lens_text(band));
    ASSERT_TRUE(read);
    EXPECT_EQ(read->low_hz, 120.5);
    EXPECT_EQ(read->high_hz, 900.0);
    for (int k = 0; k < kLenses; ++k) {
        const auto again = parse_lens(lens_text(lens(static_cast<LensKind>(k))));
        ASSERT_TRUE(again);
        EXPECT_EQ(static_cast<int>(again->kind), k);
    }
    for (const char* bad : {"", "band", "band 200", "band 900 200", "pitch x", "pitch -3", "loud"}) EXPECT_FALSE(parse_lens(bad)) << bad;
}

}  // namespace fw
