// SPDX-License-Identifier: GPL-3.0-or-later
// Bend curves from tones made in code, whose pitch at every moment is known.
#include "analysis/decoders.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <functional>
#include <random>

namespace fw {

namespace {

using Bending = std::function<double(double)>;  // seconds -> cents

/// A tone of eight partials that follows a curve, added to a sound.
void add_tone(Audio& to, double start_s, double length_s, double pitch, const Bending& cents, float level = 0.2F) {
    double phase = 0.0;
    for (int i = 0; i < static_cast<int>(length_s * to.sample_rate_hz); ++i) {
        const double s = static_cast<double>(i) / to.sample_rate_hz;
        phase += 2.0 * std::numbers::pi * 440.0 * std::exp2((pitch - 69.0 + cents(s) / 100.0) / 12.0) / to.sample_rate_hz;
        double v = 0.0;
        for (int k = 1; k <= 8; ++k) v += std::sin(k * phase) / k;
        const double fade = std::min({1.0, s / 0.01, (length_s - s) / 0.03});
        to.samples[static_cast<std::size_t>(start_s * to.sample_rate_hz) + static_cast<std::size_t>(i)] += level * static_cast<float>(fade * v);
    }
}

Audio silence(double seconds) { return {44100, 1, std::vector<float>(static_cast<std::size_t>(seconds * 44100), 0.0F), {}}; }

/// The curve heard, read at a moment of the note.
double at(const std::vector<HeardBend>& bend, double s) {
    for (std::size_t i = 1; i < bend.size(); ++i)
        if (s <= bend[i].offset_s)
            return bend[i - 1].cents + (bend[i].cents - bend[i - 1].cents) * (s - bend[i - 1].offset_s) / (bend[i].offset_s - bend[i - 1].offset_s);
    return bend.empty() ? 0.0 : bend.back().cents;
}

std::vector<HeardNote> heard(const Audio& sound, std::vector<HeardNote> notes, double tuning_cents = 0.0) {
    const auto mono = make_mono(sound, "made in code");
    EXPECT_TRUE(mono);
    hear_bends(*mono, tuning_cents, notes);
    return notes;
}

}  // namespace

class Glides : public testing::TestWithParam<int> {};
TEST_P(Glides, AreFollowedWithinTwentyCents) {
    Audio sound = silence(3);
    const Bending fall = [](double s) { return s < 0.4 ? -200.0 * (1.0 - s / 0.4) : 0.0; };  // up from a whole tone below
    add_tone(sound, 0.5, 1.2, GetParam(), fall);
    const auto notes = heard(sound, {{0.5, 1.2, GetParam(), 90, 0.9}});
    ASSERT_GE(notes[0].bend.size(), 2u);
    EXPECT_EQ(notes[0].bend.front().offset_s, 0.0);
    for (double s = 0.06; s < 1.1; s += 0.02) EXPECT_NEAR(at(notes[0].bend, s), fall(s), 20.0) << s;
    EXPECT_LT(notes[0].bend.size(), 12u) << "a curve has few points";
}
INSTANTIATE_TEST_SUITE_P(Pitches, Glides, testing::Values(36, 48, 60, 76));

TEST(Bends, VibratoIsFollowed) {
    Audio sound = silence(3);
    const Bending vibrato = [](double s) { return s < 0.2 ? 0.0 : 50.0 * std::sin(2.0 * std::numbers::pi * 5.2 * (s - 0.2)); };
    add_tone(sound, 0.5, 1.5, 69, vibrato);
    const auto notes = heard(sound, {{0.5, 1.5, 69, 90, 0.9}});
    ASSERT_GE(notes[0].bend.size(), 8u);
    double same = 0, own = 1e-9, other = 1e-9;
    for (double s = 0.25; s < 1.4; s += 0.01)
        same += at(notes[0].bend, s) * vibrato(s), own += std::pow(vibrato(s), 2), other += std::pow(at(notes[0].bend, s), 2);
    EXPECT_GT(same / std::sqrt(own * other), 0.9);
    EXPECT_NEAR(std::sqrt(other / own), 1.0, 0.35) << "a window of a tenth of a second flattens it a little";
}

TEST(Bends, StraightNotesStayStraightAloneAndInChordsAndWhenTheyFollowOneAnother) {
    Audio sound = silence(8);
    const Bending none = [](double) { return 0.0; };
    std::vector<HeardNote> line;
    for (int i = 0; i < 12; ++i) {
        const int pitch = 60 + (i * 5) % 8;
        add_tone(sound, 0.5 + i * 0.5, 0.5, pitch, none);
        line.push_back({0.5 + i * 0.5, 0.5, pitch, 90, 0.9});
        for (const int chord : {48, 52, 55}) add_tone(sound, 0.5 + i * 0.5, 0.5, chord, none, 0.1F);
    }
    for (const HeardNote& n : heard(sound, line)) EXPECT_TRUE(n.bend.empty()) << n.onset_s << " " << n.pitch;
}

TEST(Bends, TheTuningOfTheRecordingIsNoBend) {
    Audio sound = silence(3);
    add_tone(sound, 0.5, 1.5, 64.31, [](double) { return 0.0; });
    EXPECT_TRUE(heard(sound, {{0.5, 1.5, 64, 90, 0.9}}, 31.0)[0].bend.empty());
}

TEST(Bends, OfOneNoteAskedAboutBothAWayAndAPlaceBesideItAreTold) {
    const auto ask = [](const Audio& sound, int pitch, double tuning_cents = 0.0) {
        const auto mono = make_mono(sound, "made in code");
        return mono ? hear_pitch(*mono, tuning_cents, {0.5, 1.2, pitch, 90, 0.9}) : std::nullopt;
    };
    for (const int pitch : {40, 60, 76}) {
        Audio flat = silence(3), straight = silence(3), fall = silence(3);
        add_tone(flat, 0.5, 1.2, pitch, [](double) { return -34.0; });
        add_tone(straight, 0.5, 1.2, pitch, [](double) { return 0.0; });
        add_tone(fall, 0.5, 1.2, pitch, [](double s) { return s < 0.6 ? 0.0 : -150.0 * std::min(1.0, (s - 0.6) / 0.3); });
        const auto a = ask(flat, pitch), b = ask(straight, pitch), c = ask(fall, pitch);
        ASSERT_TRUE(a && b && c) << pitch;
        ASSERT_EQ(a->size(), 1u) << pitch;
        EXPECT_NEAR(a->front().cents, -34.0, 5.0) << pitch;
        EXPECT_TRUE(b->empty()) << pitch;
        ASSERT_GE(c->size(), 2u) << pitch;
        EXPECT_NEAR(c->back().cents, -150.0, 15.0) << pitch;
        EXPECT_TRUE(ask(flat, pitch, -34.0)->empty()) << "against the recording's own tuning it is none";
        EXPECT_FALSE(ask(straight, pitch + 6)) << "a tritone away something else is written";
    }
    Audio faint = silence(3);
    faint.samples[100] = 1e-4F;
    EXPECT_FALSE(ask(faint, 60)) << "silence has no pitch";
    Audio hiss = silence(3);
    std::minstd_rand random(7);
    for (float& v : hiss.samples) v = 0.2F * (static_cast<float>(random() % 2001) / 1000.0F - 1.0F);
    EXPECT_FALSE(ask(hiss, 60)) << "nor has noise";
}

TEST(Bends, StopWhenToldTo) {
    const auto mono = make_mono(test::sine(440, 3), "made in code");
    ASSERT_TRUE(mono);
    std::vector<HeardNote> line(100, HeardNote{0.5, 1.0, 69, 90, 0.9});
    Progress progress;
    progress.cancel();
    EXPECT_THROW(hear_bends(*mono, 0.0, line, progress), Cancelled);
}

}  // namespace fw
