// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/pitch.hpp"
#include "dsp/fft.hpp"
#include "sound/catalogue.hpp"
#include "sound/limiter.hpp"
#include "support/rendering.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

constexpr double kRate = 44100.0;

using test::run;

std::unique_ptr<Processor> make_synth(const std::string& patch, double rate, double cents = 0.0) {
    return test::make_source(kSynth, {patch, 0, {}, false, cents}, rate);
}
std::unique_ptr<Processor> make_drum_kit(const std::string& patch, double rate) { return test::make_source(kDrumKit, {patch}, rate); }
std::unique_ptr<Processor> make_soundfont(int program, bool drums, double rate, double cents = 0.0) {
    return test::make_source(kSoundFont, {{}, program, {}, drums, cents}, rate);
}

std::vector<float> play(Processor& i, int key, double seconds, double held_s, std::size_t block = 512, std::vector<float>* right_out = nullptr) {
    std::vector<float> left(static_cast<std::size_t>(seconds * kRate), 0.0F), right(left.size(), 0.0F);
    i.note_on(1, key, 100);
    bool held = true;
    for (std::size_t at = 0; at < left.size(); at += block) {
        if (held && static_cast<double>(at) >= held_s * kRate) i.note_off(1), held = false;
        const std::size_t n = std::min(block, left.size() - at);
        run(i, std::span(left).subspan(at, n), std::span(right).subspan(at, n));
    }
    if (right_out) *right_out = right;
    return left;
}

double rms(const std::vector<float>& x, double from_s, double to_s) {
    double sum = 0;
    const auto a = static_cast<std::size_t>(from_s * kRate), b = std::min(x.size(), static_cast<std::size_t>(to_s * kRate));
    for (std::size_t i = a; i < b; ++i) sum += x[i] * x[i];
    return std::sqrt(sum / std::max<std::size_t>(1, b - a));
}

/// Frequency of the lowest strong partial.
double fundamental_of(const std::vector<float>& x, double from_s) {
    constexpr std::size_t kSize = 32768;
    RealFft fft(kSize);
    const auto w = hann_window(kSize);
    for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = x[static_cast<std::size_t>(from_s * kRate) + i] * w[i];
    const auto out = fft.transform();
    float top = 0;
    for (std::size_t k = 10; k < out.size(); ++k) top = std::max(top, std::abs(out[k]));
    for (std::size_t k = 10; k + 1 < out.size(); ++k)
        if (std::abs(out[k]) > 0.2F * top && std::abs(out[k]) >= std::abs(out[k - 1]) && std::abs(out[k]) > std::abs(out[k + 1])) {
            const double l = std::log(std::abs(out[k - 1])), c = std::log(std::abs(out[k])), r = std::log(std::abs(out[k + 1]));
            return (static_cast<double>(k) + 0.5 * (l - r) / (l - 2 * c + r)) * kRate / kSize;
        }
    return 0;
}

std::vector<std::pair<std::string, std::unique_ptr<Processor>>> all_instruments() {
    std::vector<std::pair<std::string, std::unique_ptr<Processor>>> list;
    for (const auto& name : kSynth.patches()) list.emplace_back(name, make_synth(name, kRate));
    for (const auto& name : kDrumKit.patches()) list.emplace_back(name, make_drum_kit(name, kRate));
    auto font = make_soundfont(11, false, kRate);
    EXPECT_TRUE(font) << "timgm6mb-soundfont is needed";
    if (font) list.emplace_back("soundfont", std::move(font));
    return list;
}

}  // namespace

TEST(Synth, EveryPatchPlaysWithinEightCentsOfItsKeyAndDetunedOnesWithinFifteen) {
    for (const auto& name : kSynth.patches())
        for (const int key : {45, 57, 69}) {
            auto synth = make_synth(name, kRate);
            const double hz = fundamental_of(play(*synth, key, 1.6, 1.5), 0.15);
            EXPECT_NEAR(1200.0 * std::log2(hz / hertz_of(key)), 0.0, name.find("Bright") == 0 || name == "Warm pad" ? 15.0 : 8.0) << name << " " << key;
        }
}

TEST(Synth, BendsByTheCentsItIsTold) {
    auto synth = make_synth("Sub bass", kRate);
    synth->note_on(1, 57, 100);
    synth->bend(1, 200.0);
    std::vector<float> left(44100, 0.0F), right(44100, 0.0F);
    run(*synth, left, right);
    EXPECT_NEAR(1200.0 * std::log2(fundamental_of(left, 0.1) / hertz_of(59)), 0.0, 3.0);
}

TEST(Instruments, SoundWhileHeldAndAreSilentInTheEnd) {
    for (auto& [name, instrument] : all_instruments()) {
        const auto x = play(*instrument, 48, 8.0, 0.5);
        EXPECT_GT(rms(x, 0.0, 0.3), 1e-3) << name;
        EXPECT_LT(rms(x, 7.5, 8.0), 1e-4) << name;
        for (const float s : x) ASSERT_TRUE(std::isfinite(s)) << name;
    }
}

TEST(Instruments, ResetEqualsFreshlyMade) {
    for (const auto& name : kSynth.patches()) {
        auto used = make_synth(name, kRate), fresh = make_synth(name, kRate);
        play(*used, 50, 0.3, 0.1);
        used->note_on(1, 72, 90);
        used->reset();
        EXPECT_EQ(play(*used, 57, 0.5, 0.3), play(*fresh, 57, 0.5, 0.3)) << name;
    }
    for (const auto& name : kDrumKit.patches()) {
        auto used = make_drum_kit(name, kRate), fresh = make_drum_kit(name, kRate);
        play(*used, 38, 0.1, 0.1);
        used->reset();
        EXPECT_EQ(play(*used, 46, 0.5, 0.3), play(*fresh, 46, 0.5, 0.3)) << name;
    }
    auto used = make_soundfont(11, false, kRate), fresh = make_soundfont(11, false, kRate);
    ASSERT_TRUE(used && fresh);
    play(*used, 50, 0.3, 0.1);
    used->note_on(1, 72, 90);
    used->bend(1, 300.0);
    used->reset();
    std::vector<float> left(4410, 0.0F), right(4410, 0.0F);
    run(*used, left, right);
    for (const float s : left) ASSERT_EQ(s, 0.0F) << "a SoundFont is silent, too, once it is reset";
    const auto again = play(*used, 57, 0.5, 0.3), first = play(*fresh, 57, 0.5, 0.3);
    EXPECT_NEAR(rms(again, 0.01, 0.5) / rms(first, 0.01, 0.5), 1.0, 0.01);
    EXPECT_NEAR(fundamental_of(play(*used, 57, 1.2, 1.0), 0.1), fundamental_of(play(*fresh, 57, 1.2, 1.0), 0.1), 0.01) << "and nothing is bent";
}

TEST(Instruments, AreTunedAsTheyAreTold) {
    for (const double cents : {-37.0, 14.0, 49.0}) {
        auto synth = make_synth("Sub bass", kRate, cents);
        const double hz = fundamental_of(play(*synth, 57, 1.6, 1.5), 0.15);
        EXPECT_NEAR(1200.0 * std::log2(hz / hertz_of(57)), cents, 3.0);
        auto plain = make_soundfont(16, false, kRate), tuned = make_soundfont(16, false, kRate, cents);  // an organ: it holds its pitch
        ASSERT_TRUE(plain && tuned);
        const double a = fundamental_of(play(*plain, 69, 1.6, 1.5), 0.3), b = fundamental_of(play(*tuned, 69, 1.6, 1.5), 0.3);
        EXPECT_NEAR(1200.0 * std::log2(b / a), cents, 3.0);
        auto drums = make_soundfont(0, true, kRate, cents), same = make_soundfont(0, true, kRate);
        EXPECT_EQ(play(*drums, 38, 0.3, 0.2), play(*same, 38, 0.3, 0.2)) << "drums keep their own pitch";
    }
}

TEST(SoundFont, PlaysItsKeyAtAnyRate) {
    for (const double rate : {44100.0, 96000.0, 192000.0}) {
        auto flute = make_soundfont(73, false, rate);
        ASSERT_TRUE(flute);
        flute->note_on(1, 69, 100);
        std::vector<float> left(static_cast<std::size_t>(1.5 * rate), 0.0F), right(left.size(), 0.0F);
        run(*flute, left, right);
        // At 44.1 kHz the measure's own rate; what it says of others scales.
        EXPECT_NEAR(1200.0 * std::log2(fundamental_of(left, 0.6 * rate / kRate) * rate / kRate / 440.0), 0.0, 25.0)
            << rate << ": the flute wavers by some 13 cents";
    }
}

TEST(Instruments, MoreNotesThanVoicesDoNoHarm) {
    for (auto& [name, instrument] : all_instruments()) {
        for (int key = 20; key < 110; ++key) instrument->note_on(static_cast<VoiceId>(key), key, 127);
        std::vector<float> left(4096, 0.0F), right(4096, 0.0F);
        run(*instrument, left, right);
        for (const float s : left) ASSERT_TRUE(std::isfinite(s)) << name;
    }
}

TEST(Sampler, PlaysAFileAtTheKeysPitchFromItsRoot) {
    const test::TemporaryFolder folder;
    Audio a4{48000, 1, {}, {}};
    for (int i = 0; i < 96000; ++i) a4.samples.push_back(0.4F * static_cast<float>(std::sin(2 * std::numbers::pi * 440.0 * i / 48000.0)));
    ASSERT_TRUE(write_audio(folder / "a4.wav", a4));
    for (const int key : {57, 69, 76}) {
        auto sampler = test::make_source(kSampler, {{}, 0, (folder / "a4.wav").string()}, kRate);
        ASSERT_TRUE(sampler);
        sampler->set(*index_of_field(kSampler.fields, "root"), 69.0);
        sampler->set(*index_of_field(kSampler.fields, "loop"), 1.0);
        EXPECT_NEAR(1200.0 * std::log2(fundamental_of(play(*sampler, key, 1.2, 1.1), 0.1) / hertz_of(key)), 0.0, 1.0) << key;
    }
}

TEST(Sampler, ALoopHoldsAsLongAsItsNoteAndAOneShotEndsByItself) {
    for (const bool loop : {false, true}) {
        auto sampler = test::make_source(kSampler, {}, kRate);
        sampler->set(*index_of_field(kSampler.fields, "loop"), loop ? 1.0 : 0.0);
        const auto x = play(*sampler, 60, 5.0, 4.0);
        EXPECT_GT(rms(x, 0.0, 0.5), 0.02);
        EXPECT_EQ(rms(x, 3.0, 4.0) > 1e-5, loop) << loop;
        EXPECT_LT(rms(x, 4.5, 5.0), 1e-6);
        float step = 0.0F;
        for (std::size_t i = 1; i < x.size(); ++i) step = std::max(step, std::abs(x[i] - x[i - 1]));
        EXPECT_LT(step, 0.08F) << "no click where it goes round, ends or is let go";
    }
}

TEST(Sampler, SaysWhatIsWrongWithItsFile) {
    const auto gone = kSampler.make({{}, 0, "/nowhere/ping.wav"}, kRate);
    ASSERT_FALSE(gone);
    EXPECT_NE(gone.error().message().find("/nowhere/ping.wav"), std::string::npos);
    const test::TemporaryFolder folder;
    ASSERT_TRUE(write_audio(folder / "long.flac", Audio{8000, 1, std::vector<float>(8000 * 121, 0.1F), {}}));
    const auto long_one = kSampler.make({{}, 0, (folder / "long.flac").string()}, kRate);
    ASSERT_FALSE(long_one);
    EXPECT_EQ(long_one.error().code, ErrorCode::SampleTooLong);
}

TEST(DrumKit, AClosedHatStopsAnOpenOne) {
    auto alone = make_drum_kit("Brushed room", kRate), choked = make_drum_kit("Brushed room", kRate);
    const auto rung = play(*alone, 46, 0.4, 1.0);
    choked->note_on(1, 46, 100);
    std::vector<float> left(static_cast<std::size_t>(0.4 * kRate), 0.0F), right(left.size(), 0.0F);
    run(*choked, std::span(left).first(2205), std::span(right).first(2205));
    choked->note_on(2, 42, 1);
    run(*choked, std::span(left).subspan(2205), std::span(right).subspan(2205));
    EXPECT_LT(rms(left, 0.15, 0.3), 0.2 * rms(rung, 0.15, 0.3));
}

TEST(SoundFont, AMissingFileIsAnErrorWithASentence) {
    const auto r = kSoundFont.make({{}, 0, "/nowhere.sf2"}, kRate);
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::SoundFontUnusable);
}

TEST(LimiterTest, NothingLeavesAboveTheCeilingAndQuietSoundPassesUnchanged) {
    Limiter limiter(kRate, 0.9F);
    std::vector<float> left(44100), right(44100);
    for (std::size_t i = 0; i < left.size(); ++i) {
        const double t = static_cast<double>(i) / kRate;
        left[i] = static_cast<float>((t > 0.5 && t < 0.6 ? 3.0 : 0.5) * std::sin(2 * std::numbers::pi * 220 * t));
        right[i] = i == 30000 ? 5.0F : 0.1F;
    }
    const auto before = left;
    limiter.process(left, right);
    for (std::size_t i = 0; i < left.size(); ++i) {
        ASSERT_LE(std::abs(left[i]), 0.9F + 1e-6F);
        ASSERT_LE(std::abs(right[i]), 0.9F + 1e-6F);
    }
    const std::size_t delay = limiter.latency();
    for (std::size_t i = delay; i < 20000; ++i) ASSERT_EQ(left[i], before[i - delay]) << "below the ceiling it is a delay and nothing else";
}

TEST(LimiterTest, ResetEqualsFreshlyMade) {
    Limiter used(kRate), fresh(kRate);
    std::vector<float> a(3000, 2.0F), b(3000, 2.0F);
    used.process(a, b);
    used.reset();
    std::vector<float> l1(3000, 0.7F), r1(3000, 1.4F), l2 = l1, r2 = r1;
    used.process(l1, r1);
    fresh.process(l2, r2);
    EXPECT_EQ(l1, l2);
    EXPECT_EQ(r1, r2);
}

}  // namespace fw
