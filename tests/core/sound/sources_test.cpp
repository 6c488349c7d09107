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
#include <set>

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
    for (const auto& name : kDrumVoice.patches()) list.emplace_back(name, test::make_source(kDrumVoice, {name, 0, {}, true, 0.0}, kRate));
    auto font = make_soundfont(11, false, kRate);
    EXPECT_TRUE(font) << "timgm6mb-soundfont is needed";
    if (font) list.emplace_back("soundfont", std::move(font));
    return list;
}

}  // namespace

TEST(Synth, EverySoundIsInTuneWithItsKeyAndAsLoudAsTheOthersWithoutClipping) {
    const auto value = [](const std::string& patch, const char* field) { return kSynth.patch_value(patch, *index_of_field(kSynth.fields, field)); };
    std::set<std::string> names;
    for (const auto& name : kSynth.patches()) {
        EXPECT_TRUE(names.insert(name).second) << name;
        const bool falls = value(name, "punch_ms") > 300.0 && value(name, "punch") != 0.0, noisy = value(name, "noise") > 0.5;
        const bool detuned = value(name, "unison") > 1 || value(name, "detune") > 0 || value(name, "drift") > 0 || value(name, "vibrato") > 0 ||
                             std::abs(value(name, "interval") - std::round(value(name, "interval"))) > 0.005;
        for (const int key : {45, 57, 69}) {
            if (falls || noisy) continue;
            auto synth = make_synth(name, kRate);
            const double cents = 1200.0 * std::log2(fundamental_of(play(*synth, key, 1.6, 1.5), 0.15) / hertz_of(key));
            // The lowest strong partial may be the sub's, an octave below, or the second oscillator's, a whole interval above.
            EXPECT_NEAR(cents - 100.0 * std::round(cents / 100.0), 0.0, value(name, "unison") > 4 ? 40.0 : detuned ? 25.0 : 6.0) << name << " " << key;
        }
        const bool bass = name.find(" bass") != std::string::npos;
        auto synth = make_synth(name, kRate);
        const auto x = play(*synth, bass ? 38 : 60, 3.0, 2.5);
        float peak = 0.0F;
        double loudest = 0.0;
        for (const float s : x) peak = std::max(peak, std::abs(s));
        for (double at = 0.0; at < 2.5; at += 0.1) loudest = std::max(loudest, rms(x, at, at + 0.4));
        EXPECT_LT(peak, 0.75F) << name << ": four notes at once leave room";
        EXPECT_GT(20.0 * std::log10(loudest), -33.0) << name;
        EXPECT_LT(20.0 * std::log10(loudest), -16.0) << name;
    }
    EXPECT_GE(names.size(), 60u);
}

TEST(Synth, ASawAndASquareHoldNothingThatIsNoPartialAboveMinusEightyDecibels) {
    for (const char* wave : {"saw", "square", "triangle"})
        for (const int key : {36, 60, 84, 99}) {
            auto synth = make_synth("Chiptone", kRate);
            const auto set = [&](const char* field, double value) { synth->set(*index_of_field(kSynth.fields, field), value); };
            set("wave", wave == std::string("saw") ? 2.0 : wave == std::string("square") ? 3.0 : 1.0);
            set("pulse", 0.3), set("cutoff", 20000.0), set("tracking", 1.0), set("sustain", 1.0);
            // A pitch whose period divides the transform.
            constexpr std::size_t kSize = 1 << 15;
            const double bins = std::round(hertz_of(key) * kSize / kRate), hz = bins * kRate / kSize;
            synth->note_on(1, key, 100);
            synth->bend(1, 1200.0 * std::log2(hz / hertz_of(key)));
            std::vector<float> left(2 * kSize, 0.0F), right = left;
            run(*synth, left, right);
            RealFft fft(kSize);
            for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = left[kSize + i];
            const auto out = fft.transform();
            double partials = 0.0, loudest_other = 0.0;
            for (std::size_t k = 8; k < out.size(); ++k) {
                const double power = std::norm(out[k]);
                if (k % static_cast<std::size_t>(bins) == 0) partials = std::max(partials, power);
                else loudest_other = std::max(loudest_other, power);
            }
            EXPECT_LT(10.0 * std::log10(loudest_other / partials), -80.0) << wave << " " << key;
        }
}

TEST(Synth, OneVoiceGlidesFromNoteToNoteAndLegatoGoesOnWithoutANewStroke) {
    const auto made = [](double play, double glide) {
        auto synth = make_synth("Sub bass", kRate);
        const auto set = [&](const char* field, double value) { synth->set(*index_of_field(kSynth.fields, field), value); };
        set("play", play), set("glide_ms", glide), set("attack_ms", 300.0), set("second_level", 0.0);
        return synth;
    };
    const auto hz_at = [](const std::vector<float>& x, double from_s, double to_s) {
        int crossings = 0;
        for (auto i = static_cast<std::size_t>(from_s * kRate); i + 1 < static_cast<std::size_t>(to_s * kRate); ++i)
            crossings += x[i] < 0.0F && x[i + 1] >= 0.0F;
        return crossings / (to_s - from_s);
    };
    for (const double play : {1.0, 2.0}) {
        auto synth = made(play, 200.0);
        std::vector<float> left(static_cast<std::size_t>(2.0 * kRate), 0.0F), right = left;
        const auto at = static_cast<std::size_t>(1.0 * kRate) / kSlice * kSlice;
        synth->note_on(1, 57, 100);
        run(*synth, std::span(left).first(at), std::span(right).first(at));
        synth->note_on(2, 69, 100);
        synth->note_off(1);
        run(*synth, std::span(left).subspan(at), std::span(right).subspan(at));
        EXPECT_NEAR(hz_at(left, 0.5, 0.9), 220.0, 4.0);
        const double between = hz_at(left, 1.05, 1.15);
        EXPECT_GT(between, 240.0) << "on its way";
        EXPECT_LT(between, 420.0);
        EXPECT_NEAR(hz_at(left, 1.4, 1.9), 440.0, 5.0) << "and there";
        // A new stroke rises from where the level is; legato has no new stroke, so that nothing of the level changes.
        EXPECT_GT(rms(left, 1.05, 1.15), 0.5 * rms(left, 0.8, 0.95));
    }
    auto synth = made(1.0, 0.0);
    std::vector<float> left(static_cast<std::size_t>(2.0 * kRate), 0.0F), right = left;
    const auto half = left.size() / 2 / kSlice * kSlice;
    synth->note_on(1, 57, 100);
    synth->note_on(2, 69, 100);
    run(*synth, std::span(left).first(half), std::span(right).first(half));
    synth->note_off(2);
    run(*synth, std::span(left).subspan(half), std::span(right).subspan(half));
    EXPECT_NEAR(hz_at(left, 1.3, 1.9), 220.0, 4.0) << "back to the key that is held still";
}

TEST(Synth, LfosMoveWhatTheyAreToldAndPartialsAreSetSingly) {
    auto synth = make_synth("Chiptone", kRate);
    const auto set = [&](Processor& p, const char* field, double value) { p.set(*index_of_field(kSynth.fields, field), value); };
    set(*synth, "lfo_rate", 4.0), set(*synth, "lfo_level", 1.0), set(*synth, "sustain", 1.0);
    const auto x = play(*synth, 69, 2.0, 1.9);
    double low = 1e9, high = 0.0;
    for (double at = 0.5; at < 1.4; at += 0.02) low = std::min(low, rms(x, at, at + 0.02)), high = std::max(high, rms(x, at, at + 0.02));
    EXPECT_LT(low, 0.15 * high) << "a tremolo to nothing";
    auto partial = make_synth("Drawbar organ", kRate);
    for (int i = 1; i <= 32; ++i) set(*partial, ("p" + std::to_string(i)).c_str(), i == 3 ? 1.0 : 0.0);
    set(*partial, "vibrato", 0.0);
    EXPECT_NEAR(fundamental_of(play(*partial, 57, 1.6, 1.5), 0.15), 3.0 * hertz_of(57), 2.0) << "nothing but the third";
}

TEST(DrumVoice, APitchInHertzIsWhereTheSkinComesToRestAndFollowsTheKeyWhereItIsTold) {
    for (const double hz : {48.0, 90.0}) {
        auto drum = test::make_source(kDrumVoice, {"Deep kick", 0, {}, true, 0.0}, kRate);
        const auto set = [&](const char* field, double value) { drum->set(*index_of_field(kDrumVoice.fields, field), value); };
        set("pitch_hz", hz), set("decay_ms", 3000.0), set("drop_ms", 20.0), set("drive", 0.0);
        EXPECT_NEAR(fundamental_of(play(*drum, 36, 1.6, 0.1), 0.3), hz, 1.0);
    }
    auto tuned = test::make_source(kDrumVoice, {"Tuned kick", 0, {}, true, 100.0}, kRate);
    tuned->set(*index_of_field(kDrumVoice.fields, "drive"), 0.0);
    EXPECT_NEAR(1200.0 * std::log2(fundamental_of(play(*tuned, 33, 1.6, 0.1), 0.3) / hertz_of(33)), 100.0, 15.0) << "a semitone up by its tuning";
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
        auto drums = make_soundfont(0, true, kRate, 100.0 * cents), same = make_soundfont(0, true, kRate);
        EXPECT_NE(play(*drums, 38, 0.3, 0.2), play(*same, 38, 0.3, 0.2))
            << "a drum, too, where it is told so; a recording's tuning is kept from it by the plan";
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

TEST(Sampler, ReversesCutsAndRingsOutAsItIsTold) {
    // A sound that rises over its second.
    auto rising = std::make_shared<Audio>(Audio{44100, 1, {}, {}});
    for (int i = 0; i < 44100; ++i)
        rising->samples.push_back(0.5F * static_cast<float>(i) / 44100.0F * static_cast<float>(std::sin(2.0 * std::numbers::pi * 261.63 * i / 44100.0)));
    SourceSpec spec;
    spec.sound = rising;
    const auto made = [&](std::initializer_list<std::pair<const char*, double>> fields) {
        auto s = test::make_source(kSampler, spec, kRate);
        for (const auto& [field, value] : fields) s->set(*index_of_field(kSampler.fields, field), value);
        return s;
    };
    const auto plain = play(*made({}), 60, 1.2, 1.1), reversed = play(*made({{"reverse", 1.0}}), 60, 1.2, 1.1);
    EXPECT_GT(rms(plain, 0.7, 0.9), 2.0 * rms(plain, 0.1, 0.3));
    EXPECT_GT(rms(reversed, 0.1, 0.3), 2.0 * rms(reversed, 0.7, 0.9));
    const auto held = play(*made({}), 60, 1.2, 0.3), one_shot = play(*made({{"one_shot", 1.0}}), 60, 1.2, 0.3);
    EXPECT_LT(rms(held, 0.6, 0.9), 1e-4) << "it ends with its note";
    EXPECT_GT(rms(one_shot, 0.6, 0.9), 0.1) << "however short the note";
    const auto dull = play(*made({{"cutoff", 80.0}}), 60, 1.0, 0.9);
    EXPECT_LT(rms(dull, 0.5, 0.8), 0.3 * rms(plain, 0.5, 0.8));
    const auto fading = play(*made({{"decay_ms", 200.0}, {"sustain", 0.1}}), 60, 1.0, 0.9);
    EXPECT_LT(rms(fading, 0.6, 0.9), 0.2 * rms(plain, 0.6, 0.9));
    // Two notes at once are one where it is mono.
    for (const bool mono : {false, true}) {
        auto s = made({{"play", mono ? 1.0 : 0.0}, {"velocity", 0.0}});
        std::vector<float> left(static_cast<std::size_t>(kRate), 0.0F), right = left;
        s->note_on(1, 60, 100);
        run(*s, std::span(left).first(22048), std::span(right).first(22048));
        s->note_on(2, 48, 100);
        run(*s, std::span(left).subspan(22048), std::span(right).subspan(22048));
        EXPECT_EQ(rms(left, 0.55, 0.6) < 0.2 * rms(plain, 0.55, 0.6), mono) << "the new one has only begun to rise";
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
