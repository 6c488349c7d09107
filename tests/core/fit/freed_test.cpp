// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/freed.hpp"

#include "audio/mono.hpp"
#include "base/pitch.hpp"
#include "fit/distance.hpp"
#include "fit/moments.hpp"

#include <gtest/gtest.h>
#include <array>
#include <cmath>
#include <complex>
#include <numbers>

namespace fw {

namespace {

constexpr double kRate = 44100.0;

/// Sound that is put together in mono and is stereo in the end.
class Mixed {
public:
    explicit Mixed(double seconds) : mono_(static_cast<std::size_t>(seconds * kRate), 0.0F) {}
    /// Partials that fall by so many dB from one to the next and ring out.
    Mixed& tone(double at_s, double key, double seconds, double level, double falls_db) {
        const double hz = hertz_of(key);
        for (int k = 1; k * hz < 12000.0 && k < 14; ++k) {
            const double amplitude = level * std::pow(10.0, -falls_db * (k - 1) / 20.0);
            for (std::size_t i = 0; i < static_cast<std::size_t>(seconds * kRate); ++i) {
                const double t = static_cast<double>(i) / kRate;
                add(at_s, i, amplitude * std::min(1.0, t / 0.004) * std::exp(-2.0 * t) * std::sin(2.0 * std::numbers::pi * k * hz * t));
            }
        }
        return *this;
    }
    Mixed& noise(double at_s, double seconds, double level) {
        for (std::size_t i = 0; i < static_cast<std::size_t>(seconds * kRate); ++i) {
            dice_ = dice_ * 1664525u + 1013904223u;
            add(at_s, i, level * std::exp(-30.0 * static_cast<double>(i) / kRate) * (static_cast<double>(dice_ >> 8) / 8388608.0 - 1.0));
        }
        return *this;
    }
    Audio audio() const {
        Audio a{static_cast<int>(kRate), 2, {}, {}};
        for (const float s : mono_) a.samples.push_back(s), a.samples.push_back(s);
        return a;
    }

private:
    void add(double at_s, std::size_t i, double s) {
        if (const std::size_t at = static_cast<std::size_t>(at_s * kRate) + i; at < mono_.size()) mono_[at] += static_cast<float>(s);
    }
    std::vector<float> mono_;
    std::uint32_t dice_ = 7;
};

double off_db(const Audio& sound, const Audio& truth) { return third_octave_difference_db(mono_of(sound), mono_of(truth), kRate); }

constexpr double kKey = 55, kLong_s = 0.6, kFalls_db = 4.0;
Mixed note(double key = kKey, double level = 0.2) { return Mixed(kLong_s).tone(0.0, key, kLong_s, level, kFalls_db); }

/// The note with others beside it, other ones each time, at another level and up to two semitones away.
std::vector<Occurrence> played(int times) {
    constexpr std::array kAway{0.0, 2.0, -1.0, 0.0, 1.0, -2.0, 0.0, 2.0, -1.0, 1.0};
    std::vector<Occurrence> all;
    for (int i = 0; i < times; ++i) {
        const double away = kAway[static_cast<std::size_t>(i) % kAway.size()];
        Mixed m = note(kKey + away, 0.2 + 0.03 * (i % 3));
        m.tone(0.02 * (i % 4), 60 + 7 * i % 17, kLong_s, 0.3, 3.0).tone(0.0, 71 + 5 * i % 13, kLong_s, 0.2, 3.0).tone(0.0, 33 + 3 * i % 11, kLong_s, 0.3, 30.0);
        if (i % 2) m.noise(0.1 + 0.04 * i, 0.2, 0.2);
        all.push_back({m.audio(), std::exp2(away / 12.0)});
    }
    return all;
}

/// A song in which a part plays the notes of `played`, a second apart, from half a second on; and what was heard of it.
struct Recorded {
    Audio recording{static_cast<int>(kRate), 2, {}, {}};
    Analysis analysis;
    Remake remake;
    ClearMoment moment{0.5, 0.5 + kLong_s, static_cast<int>(kKey), {}, 0.5};
};
Recorded song(int times) {
    Recorded s;
    const auto all = played(times);
    s.recording.samples.assign(2 * static_cast<std::size_t>((times + 1) * kRate), 0.0F);
    HeardPart heard{PartRole::Bass, "Bass", {}};
    for (std::size_t i = 0; i < all.size(); ++i) {
        std::copy(all[i].sound.samples.begin(), all[i].sound.samples.end(), s.recording.samples.begin() + static_cast<std::ptrdiff_t>((2 * i + 1) * 44100));
        heard.notes.push_back({0.5 + static_cast<double>(i), kLong_s, static_cast<int>(std::lround(kKey + 12.0 * std::log2(all[i].ratio))), 90, 0.9, {}});
    }
    s.analysis.parts.push_back(heard);
    Part part;
    part.id = PartId(1);
    part.name = "Bass";
    part.role = PartRole::Bass;
    s.remake.parts = {part};
    return s;
}

}  // namespace

TEST(InCommon, IsTheNoteThatIsPlayedEachTimeAndNotWhatSoundsBesideIt) {
    const Audio alone = note().audio();
    const auto all = played(10);
    const double before = off_db(all.front().sound, alone), after = off_db(in_common(all, {hertz_of(kKey), 1, false, false}), alone);
    EXPECT_GT(before, 6.0) << "else there is nothing to take away";
    EXPECT_LT(after, 2.0);
    EXPECT_LT(after, 0.3 * before);
    // Nothing is taken from a note that is alone each time.
    std::vector<Occurrence> same;
    for (int i = 0; i < 6; ++i) same.push_back({note(kKey, 0.1 + 0.05 * i).audio(), 1.0});
    EXPECT_LT(off_db(in_common(same, {hertz_of(kKey), 0, false, false}), note(kKey, 0.1).audio()), 0.2);
    EXPECT_EQ(in_common({{alone, 1.0}}, {hertz_of(kKey), 0, false, false}).samples, alone.samples) << "one by itself has nothing to be compared with";
}

TEST(InCommon, OneThatWasMisheardTakesNothingAwayWhereOneIsSpared) {
    const Audio alone = note().audio();
    auto all = played(10);
    all.push_back({note(kKey + 12).audio(), 1.0});  // an octave higher than it was taken for
    EXPECT_LT(off_db(in_common(all, {hertz_of(kKey), 1, false, false}), alone), 2.5);
    EXPECT_GT(off_db(in_common(all, {hertz_of(kKey), 0, false, false}), alone), 3.0);
}

TEST(InCommon, WhatLiesBelowThePitchOrBetweenItsPartialsCanBeTakenOutToo) {
    // A tone below and one between, every time the same: no comparison tells them apart.
    std::vector<Occurrence> all;
    for (int i = 0; i < 6; ++i) all.push_back({note().tone(0.0, kKey - 12, kLong_s, 0.4, 40.0).tone(0.0, kKey + 6, kLong_s, 0.4, 40.0).audio(), 1.0});
    const auto level_db = [&](const InCommon& how, double key) {
        const auto mono = mono_of(in_common(all, how));
        std::complex<double> sum = 1e-9;
        for (std::size_t i = 0; i < mono.size(); ++i) {
            const double t = static_cast<double>(i) / static_cast<double>(mono.size());
            sum += (0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * t)) * static_cast<double>(mono[i]) *
                   std::polar(1.0, -2.0 * std::numbers::pi * hertz_of(key) * static_cast<double>(i) / kRate);
        }
        return 20.0 * std::log10(std::abs(sum));
    };
    const InCommon as_is{hertz_of(kKey), 0, false, false}, no_lower{hertz_of(kKey), 0, true, false}, partials{hertz_of(kKey), 0, true, true};
    EXPECT_LT(level_db(no_lower, kKey - 12), level_db(as_is, kKey - 12) - 15.0);
    EXPECT_NEAR(level_db(no_lower, kKey + 6), level_db(as_is, kKey + 6), 0.5);
    EXPECT_LT(level_db(partials, kKey + 6), level_db(as_is, kKey + 6) - 10.0);
    for (const double own : {kKey, kKey + 12, kKey + 19.02}) EXPECT_NEAR(level_db(partials, own), level_db(as_is, own), 1.0) << own;
}

TEST(InCommon, OfStrokesItIsTheStroke) {
    std::vector<Occurrence> all;
    for (int i = 0; i < 9; ++i) all.push_back({Mixed(0.3).noise(0.0, 0.3, 0.3).tone(0.0, 45 + 7 * i % 25, 0.3, 0.2, 3.0).audio(), 1.0});
    const Audio stroke = Mixed(0.3).noise(0.0, 0.3, 0.3).audio();
    EXPECT_LT(off_db(in_common(all, {0.0, 1, false, false}), stroke), 0.6 * off_db(all.front().sound, stroke));
}

TEST(Freed, AMomentIsComparedWithTheOthersOfItsPart) {
    const Audio alone = note().audio();
    const Recorded many = song(10);
    const auto piece = [](const Recorded& s) { return freed(s.recording, s.analysis, s.remake, PartId(1), s.moment, s.moment.end_s); };
    const double standing = off_db(cut_out(many.recording, many.moment.start_s, many.moment.end_s), alone);
    EXPECT_LT(off_db(piece(many), alone), 0.4 * standing);
    // With two others there is no telling: the element's share it is.
    const Recorded few = song(3);
    Audio by_share = piece(few);
    EXPECT_EQ(by_share.frames(), cut_out(few.recording, few.moment.start_s, few.moment.end_s).frames());
    EXPECT_GT(off_db(by_share, alone), off_db(piece(many), alone));
}

TEST(Freed, AStrokeIsComparedWithTheOthersOfItsSound) {
    constexpr int kTimes = 9;
    Mixed mix(kTimes + 1);
    Recorded s;
    for (int i = 0; i < kTimes; ++i) {
        mix.noise(0.5 + i, 0.3, 0.3).tone(0.5 + i, 45 + 7 * i % 25, 0.3, 0.2, 3.0);
        s.analysis.drums.push_back({0.5 + i, DrumKind::Snare, 100, 0.9});
        // Another sound between them has no say.
        mix.tone(0.75 + i, 40, 0.2, 0.4, 2.0);
        s.analysis.drums.push_back({0.75 + i, DrumKind::Kick, 100, 0.95});
    }
    s.recording = mix.audio();
    const ClearMoment moment{0.5, 0.7, -1, DrumKind::Snare, 0.5};
    const Audio stroke = Mixed(0.2).noise(0.0, 0.3, 0.3).audio();
    const double standing = off_db(cut_out(s.recording, moment.start_s, moment.end_s), stroke);
    EXPECT_LT(off_db(freed(s.recording, s.analysis, s.remake, PartId(1), moment, moment.end_s), stroke), 0.7 * standing);
}

TEST(Freed, OfSilenceItIsSilence) {
    Recorded s = song(10);
    std::fill(s.recording.samples.begin(), s.recording.samples.end(), 0.0F);
    for (const float x : freed(s.recording, s.analysis, s.remake, PartId(1), s.moment, s.moment.end_s).samples) ASSERT_EQ(x, 0.0F);
    // Of a part that is gone, and beyond the recording's end, it is no more than what stands there.
    EXPECT_NO_THROW(freed(s.recording, s.analysis, s.remake, PartId(9), s.moment, s.moment.end_s));
    s.moment.start_s = 400.0, s.moment.end_s = 400.5;
    EXPECT_EQ(freed(s.recording, s.analysis, s.remake, PartId(1), s.moment, s.moment.end_s).frames(), 0U);
}

}  // namespace fw
