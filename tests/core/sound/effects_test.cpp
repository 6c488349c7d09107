// SPDX-License-Identifier: GPL-3.0-or-later
// Delays, modulations, width, wear, resonator, transient and gate against what they claim.
#include "dsp/fft.hpp"
#include "sound/catalogue.hpp"
#include "support/rendering.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

namespace fw {

namespace {

constexpr double kRate = 48000.0;

struct Sound {
    std::vector<float> left, right;
};

std::unique_ptr<Processor> made(const StepType& type, std::initializer_list<std::pair<const char*, double>> fields, double rate = kRate) {
    auto p = type.make(rate);
    for (const auto& [field, value] : fields) p->set(*index_of_field(type.fields, field), value);
    return p;
}

Sound through(Processor& p, Sound s) {
    test::run(p, s.left, s.right);
    return s;
}

Sound silence(double seconds) {
    return {std::vector<float>(static_cast<std::size_t>(seconds * kRate), 0.0F), std::vector<float>(static_cast<std::size_t>(seconds * kRate), 0.0F)};
}

Sound impulse(double seconds, float left = 1.0F, float right = 1.0F) {
    Sound s = silence(seconds);
    s.left[480] = left, s.right[480] = right;
    return s;
}

Sound tone(double hz, double seconds, float level = 0.5F) {
    Sound s = silence(seconds);
    for (std::size_t i = 0; i < s.left.size(); ++i)
        s.left[i] = s.right[i] = level * static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(i) / kRate));
    return s;
}

double rms(const std::vector<float>& x, double from_s, double to_s) {
    double sum = 0.0;
    const auto a = static_cast<std::size_t>(from_s * kRate), b = std::min(x.size(), static_cast<std::size_t>(to_s * kRate));
    for (std::size_t i = a; i < b; ++i) sum += static_cast<double>(x[i]) * static_cast<double>(x[i]);
    return std::sqrt(sum / static_cast<double>(std::max<std::size_t>(1, b - a)));
}

double peak(const std::vector<float>& x, double from_s, double to_s) {
    float most = 0.0F;
    for (auto i = static_cast<std::size_t>(from_s * kRate); i < std::min(x.size(), static_cast<std::size_t>(to_s * kRate)); ++i)
        most = std::max(most, std::abs(x[i]));
    return static_cast<double>(most);
}

double db(double ratio) { return 20.0 * std::log10(std::max(1e-9, ratio)); }

}  // namespace

TEST(Delay, RepeatsAfterItsTimeEachByItsFeedbackAndFromSideToSide) {
    auto p = made(kDelay, {{"time", 0.25}, {"feedback", 0.5}, {"mix", 1.0}, {"low_hz", 20.0}, {"high_hz", 20000.0}});
    const Sound out = through(*p, impulse(1.2));
    EXPECT_LT(peak(out.left, 0.0, 0.2), 1e-4) << "nothing before the first repeat";
    const double first = rms(out.left, 0.25, 0.28), second = rms(out.left, 0.5, 0.53), third = rms(out.left, 0.75, 0.78);
    EXPECT_GT(first, 0.01);
    EXPECT_NEAR(db(second / first), -6.0, 1.5);
    EXPECT_NEAR(db(third / second), -6.0, 1.5);
    EXPECT_LT(rms(out.left, 0.3, 0.48), 0.02 * first);
    auto side = made(kDelay, {{"time", 0.25}, {"feedback", 0.5}, {"mix", 1.0}, {"ping_pong", 1.0}});
    const Sound moved = through(*side, impulse(1.2));
    EXPECT_GT(rms(moved.left, 0.25, 0.28), 10.0 * rms(moved.right, 0.25, 0.28));
    EXPECT_GT(rms(moved.right, 0.5, 0.53), 10.0 * rms(moved.left, 0.5, 0.53));
    auto dark = made(kDelay, {{"time", 0.25}, {"feedback", 0.8}, {"mix", 1.0}, {"high_hz", 500.0}});
    const Sound dull = through(*dark, impulse(1.2));
    EXPECT_LT(peak(dull.left, 0.5, 0.53) / peak(dull.left, 0.25, 0.28), 0.6) << "each repeat is darker";
}

TEST(Chorus, IsADelayOfItsTimeAndMovesThePitchAsFarAsItsSlope) {
    auto still = made(kChorus, {{"delay_ms", 10.0}, {"depth_ms", 0.0}, {"mix", 1.0}});
    const Sound out = through(*still, impulse(0.1));
    const auto at = static_cast<std::size_t>(std::max_element(out.left.begin(), out.left.end()) - out.left.begin());
    EXPECT_NEAR(static_cast<double>(at), 480.0 + 480.0, 3.0);
    // A delay that goes up and down by depth at a rate bends the pitch by 2π·rate·depth/2.
    auto vibrato = made(kChorus, {{"delay_ms", 5.0}, {"depth_ms", 2.0}, {"rate", 4.0}, {"mix", 1.0}});
    const Sound bent = through(*vibrato, tone(1000.0, 1.0));
    double low = 1e9, high = 0.0;
    std::size_t last = 0;
    for (std::size_t i = static_cast<std::size_t>(0.3 * kRate); i + 1 < bent.left.size(); ++i)
        if (bent.left[i] < 0.0F && bent.left[i + 1] >= 0.0F) {
            const double exact = static_cast<double>(i) + static_cast<double>(-bent.left[i] / (bent.left[i + 1] - bent.left[i]));
            static double before = 0.0;
            if (last) low = std::min(low, kRate / (exact - before)), high = std::max(high, kRate / (exact - before));
            before = exact, last = i;
        }
    const double expected = 2.0 * std::numbers::pi * 4.0 * 0.001;
    EXPECT_NEAR(high / 1000.0 - 1.0, expected, 0.006);
    EXPECT_NEAR(1.0 - low / 1000.0, expected, 0.006);
}

TEST(Phaser, WithoutDepthIsNotThereAndWithItMovesNotches) {
    std::mt19937 dice(5);
    Sound noise = silence(1.0);
    for (std::size_t i = 0; i < noise.left.size(); ++i) noise.left[i] = noise.right[i] = static_cast<float>(dice() % 2000) / 2000.0F - 0.5F;
    auto none = made(kPhaser, {{"depth", 0.0}, {"feedback", 0.0}});
    const Sound same = through(*none, noise);
    EXPECT_NEAR(db(rms(same.left, 0.2, 0.9) / rms(noise.left, 0.2, 0.9)), 0.0, 0.3);
    auto deep = made(kPhaser, {{"depth", 1.0}, {"feedback", 0.0}, {"rate", 0.5}});
    EXPECT_LT(db(rms(through(*deep, noise).left, 0.2, 0.9) / rms(noise.left, 0.2, 0.9)), -0.5) << "something is taken out";
}

TEST(Tremolo, GoesDownAsFarAsItsDepthAsOftenAsItsRateAndApart) {
    auto p = made(kTremolo, {{"rate", 4.0}, {"depth", 1.0}, {"apart", 1.0}});
    const Sound out = through(*p, tone(1000.0, 1.0));
    int dips = 0;
    bool down = false;
    double most = 0.0;
    for (double at = 0.0; at < 0.99; at += 0.005) {
        const double left = rms(out.left, at, at + 0.005), right = rms(out.right, at, at + 0.005);
        most = std::max(most, left + right);
        if (!down && left < 0.05) down = true, ++dips;
        if (left > 0.2) down = false;
    }
    EXPECT_EQ(dips, 4);
    EXPECT_NEAR(most, 0.5 / std::numbers::sqrt2, 0.03) << "one side is up while the other is down";
    auto timed = made(kTremolo, {{"timed", 1.0}, {"every", 0.5}, {"depth", 1.0}});
    const Sound slow = through(*timed, tone(1000.0, 1.0));
    EXPECT_LT(rms(slow.left, 0.37, 0.38), 0.05) << "down three quarters into its half second";
}

TEST(Width, NarrowsWidensAndKeepsTheLowsInTheMiddle) {
    Sound apart = tone(80.0, 0.6);
    for (std::size_t i = 0; i < apart.left.size(); ++i) {
        const auto high = 0.3F * static_cast<float>(std::sin(2.0 * std::numbers::pi * 2000.0 * static_cast<double>(i) / kRate));
        apart.left[i] = 0.3F * apart.left[i] + high;
        apart.right[i] = -0.3F * apart.right[i] - high;  // nothing but sides
    }
    EXPECT_LT(rms(through(*made(kWidth, {{"width", 0.0}}), apart).left, 0.2, 0.5), 1e-3);
    const Sound as_is = through(*made(kWidth, {}), apart);
    EXPECT_NEAR(db(rms(as_is.left, 0.2, 0.5) / rms(apart.left, 0.2, 0.5)), 0.0, 0.2);
    EXPECT_NEAR(db(rms(through(*made(kWidth, {{"width", 2.0}}), apart).left, 0.2, 0.5) / rms(apart.left, 0.2, 0.5)), 6.0, 0.3);
    Sound low = tone(60.0, 0.6);
    for (float& s : low.right) s = -s;
    EXPECT_LT(db(rms(through(*made(kWidth, {{"mono_hz", 300.0}}), low).left, 0.2, 0.5) / rms(low.left, 0.2, 0.5)), -20.0);
    const Sound later = through(*made(kWidth, {{"later_ms", 10.0}}), impulse(0.1));
    const auto left = std::max_element(later.left.begin(), later.left.end()) - later.left.begin(),
               right = std::max_element(later.right.begin(), later.right.end()) - later.right.begin();
    EXPECT_NEAR(static_cast<double>(right - left), 480.0, 2.0);
}

TEST(Wear, EachBitFewerIsSixDecibelsOfError) {
    const Sound in = tone(440.0, 0.6, 0.9F);
    const auto error_db = [&](double bits) {
        const Sound full = through(*made(kWear, {{"bits", 24.0}, {"rate_hz", 192000.0}, {"wow", 0.0}, {"high_hz", 20000.0}}), in);
        const Sound worn = through(*made(kWear, {{"bits", bits}, {"rate_hz", 192000.0}, {"wow", 0.0}, {"high_hz", 20000.0}}), in);
        double sum = 0.0;
        for (std::size_t i = 9600; i < full.left.size(); ++i) sum += std::pow(static_cast<double>(full.left[i] - worn.left[i]), 2);
        return 10.0 * std::log10(sum / static_cast<double>(full.left.size() - 9600));
    };
    EXPECT_NEAR(error_db(6.0) - error_db(10.0), 24.0, 3.0);
    const Sound hiss = through(*made(kWear, {{"hiss", 0.05}, {"bits", 24.0}}), silence(0.5));
    EXPECT_GT(rms(hiss.left, 0.1, 0.4), 1e-3);
    EXPECT_LT(rms(through(*made(kWear, {{"bits", 24.0}}), silence(0.5)).left, 0.1, 0.4), 1e-5) << "without it silence stays silent";
}

TEST(Resonator, RingsAtItsPitchWithinFiveCentsForItsDecay) {
    for (const double key : {38.0, 50.0, 62.0, 74.0}) {
        auto p = made(kResonator, {{"pitch", key}, {"decay_s", 2.0}, {"damp_hz", 12000.0}, {"mix", 1.0}});
        const Sound out = through(*p, impulse(3.0));
        constexpr std::size_t kSize = 65536;
        RealFft fft(kSize);
        const auto window = hann_window(kSize);
        for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = out.left[4800 + i] * window[i];
        const auto bins = fft.transform();
        const double hz = 440.0 * std::exp2((key - 69.0) / 12.0);
        std::size_t top = static_cast<std::size_t>(hz * 0.97 * kSize / kRate);
        for (std::size_t k = top; k < static_cast<std::size_t>(hz * 1.03 * kSize / kRate) + 2; ++k)
            if (std::abs(bins[k]) > std::abs(bins[top])) top = k;
        const double l = std::log(std::abs(bins[top - 1])), c = std::log(std::abs(bins[top])), r = std::log(std::abs(bins[top + 1]));
        const double found = (static_cast<double>(top) + 0.5 * (l - r) / (l - 2 * c + r)) * kRate / kSize;
        EXPECT_NEAR(1200.0 * std::log2(found / hz), 0.0, 5.0) << key;
        EXPECT_LT(db(rms(out.left, 2.0, 2.2) / rms(out.left, 0.05, 0.25)), -40.0) << "it has fallen by about 60 dB";
        EXPECT_GT(db(rms(out.left, 0.5, 0.6) / rms(out.left, 0.05, 0.15)), -35.0);
    }
}

TEST(Transient, MakesStrokesLouderAndWhatRingsSofter) {
    Sound hits = silence(1.0);
    for (int hit = 0; hit < 4; ++hit)
        for (int i = 0; i < 9600; ++i)
            hits.left[static_cast<std::size_t>(hit * 12000 + i)] = hits.right[static_cast<std::size_t>(hit * 12000 + i)] =
                0.3F * static_cast<float>(std::exp(-i / 2400.0) * std::sin(2.0 * std::numbers::pi * 200.0 * i / kRate));
    const Sound more = through(*made(kTransient, {{"attack", 12.0}, {"body", 0.0}}), hits),
                less = through(*made(kTransient, {{"attack", 0.0}, {"body", -12.0}}), hits);
    EXPECT_GT(db(peak(more.left, 0.25, 0.27) / peak(hits.left, 0.25, 0.27)), 3.0);
    EXPECT_NEAR(db(rms(more.left, 0.4, 0.45) / rms(hits.left, 0.4, 0.45)), 0.0, 2.0) << "what rings stays";
    EXPECT_LT(db(rms(less.left, 0.38, 0.45) / rms(hits.left, 0.38, 0.45)), -4.0);
    EXPECT_NEAR(db(peak(less.left, 0.25, 0.27) / peak(hits.left, 0.25, 0.27)), 0.0, 2.0);
}

TEST(Gate, LetsThroughWhatIsLoudAndTakesTheRestDownByItsRange) {
    const auto level = [](float in) {
        auto p = made(kGate, {{"threshold", -30.0}, {"range", 40.0}, {"hold_ms", 0.0}, {"release_ms", 20.0}});
        const Sound sound = tone(500.0, 1.0, in);
        return db(rms(through(*p, sound).left, 0.5, 0.95) / rms(sound.left, 0.5, 0.95));
    };
    EXPECT_NEAR(level(0.5F), 0.0, 0.5);
    EXPECT_NEAR(level(0.002F), -40.0, 1.5);
}

TEST(Bands, AreFlatTogetherTurnDownTheLoudOneAloneAndLiftWhatIsSoft) {
    const auto level = [](double hz, float in, std::initializer_list<std::pair<const char*, double>> fields) {
        auto p = made(kThreeBands, fields);
        const Sound sound = tone(hz, 1.0, in);
        return db(rms(through(*p, sound).left, 0.5, 0.95) / rms(sound.left, 0.5, 0.95));
    };
    // Below the threshold, nothing lifted: as it was, at and between the edges.
    for (const double hz : {60.0, 200.0, 700.0, 2500.0, 8000.0}) EXPECT_NEAR(level(hz, 0.01F, {}), 0.0, 0.3) << hz;
    // 12 dB above at 4 : 1 are 3 above: 9 dB less; the follower stands at the crest.
    EXPECT_NEAR(level(60.0, 0.398F, {{"threshold", -20.0}, {"ratio", 4.0}}), -9.0, 1.0);
    // 20 dB under at 2 : 1 come up by 10; silence stays it.
    EXPECT_NEAR(level(700.0, 0.001F, {{"under", -40.0}, {"up_ratio", 2.0}}), 10.0, 1.0);
    EXPECT_NEAR(level(8000.0, 0.01F, {{"high", -6.0}}), -6.0, 0.3);
    // A loud bass does not pull the highs down.
    Sound both = tone(60.0, 1.0, 0.4F);
    const Sound high = tone(6000.0, 1.0, 0.02F);
    for (std::size_t i = 0; i < both.left.size(); ++i) both.left[i] += high.left[i], both.right[i] += high.right[i];
    auto p = made(kThreeBands, {{"threshold", -30.0}, {"ratio", 10.0}});
    const Sound out = through(*p, both);
    const auto at = [&](const Sound& s, double hz) {
        double re = 0.0, im = 0.0;
        for (std::size_t i = 24000; i < 43200; ++i)
            re += s.left[i] * std::cos(2.0 * std::numbers::pi * hz * static_cast<double>(i) / kRate),
                im += s.left[i] * std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(i) / kRate);
        return std::hypot(re, im);
    };
    EXPECT_LT(db(at(out, 60.0) / at(both, 60.0)), -12.0);
    EXPECT_NEAR(db(at(out, 6000.0) / at(both, 6000.0)), 0.0, 0.5);
}

TEST(Repeat, PlaysTheFirstPieceAgainAndAgainUntilItIsLetGo) {
    Sound ramp = silence(2.0);
    std::mt19937 dice(3);
    for (std::size_t i = 0; i < ramp.left.size(); ++i) ramp.left[i] = ramp.right[i] = static_cast<float>(static_cast<int>(dice() % 2001) - 1000) / 2000.0F;
    const std::size_t piece = 4800, from = 9600, until = 48000;  // a tenth of a second
    const auto play = [&](double decay) {
        auto p = made(kRepeat, {{"length", 0.1}, {"decay", decay}});
        Sound s = ramp;
        for (std::size_t at = 0; at < s.left.size(); at += kSlice) {
            p->set(0, at >= from && at < until ? 1.0 : 0.0);
            p->process({std::span(s.left).subspan(at, kSlice), std::span(s.right).subspan(at, kSlice)}, {});
        }
        return s;
    };
    const Sound s = play(0.0);
    const std::size_t edge = 100;  // two milliseconds
    for (std::size_t i = 0; i < from + piece - edge; ++i) ASSERT_EQ(s.left[i], ramp.left[i]) << "as it comes, the first time";
    for (std::size_t k = 1; k < 7; ++k)
        for (std::size_t i = edge; i < piece - edge; ++i) ASSERT_FLOAT_EQ(s.left[from + k * piece + i], ramp.left[from + i]) << k;
    for (std::size_t i = until + 200; i < s.left.size(); ++i) ASSERT_EQ(s.left[i], ramp.left[i]) << "let go";
    const Sound softer = play(6.0);
    for (std::size_t k = 1; k < 4; ++k)
        EXPECT_NEAR(db(rms(softer.left, 0.2 + 0.1 * static_cast<double>(k) + 0.01, 0.29 + 0.1 * static_cast<double>(k)) / rms(ramp.left, 0.21, 0.29)),
                    -6.0 * static_cast<double>(k), 0.1);
}

TEST(Duck, TurnsDownTheLowsAloneWhereItIsTold) {
    const auto level = [](double hz, double below) {
        auto p = made(kDuck, {{"depth", 12.0}, {"attack_ms", 1.0}, {"hold_ms", 400.0}, {"release", 0.2}, {"below", below}});
        Sound s = tone(hz, 1.0);
        const Sound dry = s;
        p->note_on(1, 36, 100);
        s = through(*p, s);
        return std::pair(db(rms(s.left, 0.1, 0.35) / rms(dry.left, 0.1, 0.35)), db(rms(s.left, 0.8, 0.95) / rms(dry.left, 0.8, 0.95)));
    };
    EXPECT_NEAR(level(50.0, 20000.0).first, -12.0, 0.1);
    EXPECT_NEAR(level(5000.0, 20000.0).first, -12.0, 0.1);
    EXPECT_LT(level(40.0, 300.0).first, -10.0);
    EXPECT_NEAR(level(5000.0, 300.0).first, 0.0, 0.3);
    for (const double hz : {40.0, 300.0, 5000.0}) EXPECT_NEAR(level(hz, 300.0).second, 0.0, 1e-3) << "nothing is changed once it is back";
}

TEST(Thickening, MakesTwoSidesOfOne) {
    // What *Thicken it* adds, in its order: a sound alike on both sides gets sides.
    Sound s = tone(330.0, 1.5);
    for (auto& p : {made(kDrive, {{"drive", 4.0}, {"level", -2.0}}), made(kChorus, {{"mix", 0.4}}), made(kWidth, {{"width", 1.4}, {"mono_hz", 150.0}})})
        s = through(*p, s);
    std::vector<float> sides(s.left.size());
    for (std::size_t i = 0; i < sides.size(); ++i) sides[i] = 0.5F * (s.left[i] - s.right[i]);
    EXPECT_GT(db(rms(sides, 0.3, 1.4) / rms(s.left, 0.3, 1.4)), -30.0);
}

TEST(Repeat, ALengthLongerThanItCanHoldIsCutAndNothingIsHeardOfSilence) {
    auto p = made(kRepeat, {{"hold", 1.0}, {"length", 4.0}});
    Sound s = silence(1.0);
    s = through(*p, s);
    EXPECT_EQ(rms(s.left, 0.0, 1.0), 0.0);
    auto q = made(kRepeat, {{"length", 0.1}});
    const Sound in = tone(200.0, 1.0);
    EXPECT_EQ(through(*q, in).left, in.left) << "off it changes nothing, to the last bit";
}

TEST(Rooms, PlateAndSpringDieAwayInTheTimeTheySay) {
    std::mt19937 dice(4);
    for (const auto& [type, decay] : {std::pair(&kPlate, 1.0), std::pair(&kPlate, 3.0), std::pair(&kSpring, 1.0), std::pair(&kSpring, 2.5)}) {
        auto p = made(*type, {{"decay_s", decay}, {"mix", 1.0}});
        if (type == &kPlate) p->set(*index_of_field(kPlate.fields, "damp_hz"), 20000.0);
        Sound burst = silence(decay + 1.0);
        for (std::size_t i = 0; i < 4800; ++i) burst.left[i] = burst.right[i] = static_cast<float>(dice() % 2000) / 2000.0F - 0.5F;
        const Sound out = through(*p, burst);
        // From a tenth to a half of its decay it falls by 24 dB.
        const double early = rms(out.left, 0.2 + 0.1 * decay, 0.2 + 0.2 * decay), late = rms(out.left, 0.2 + 0.5 * decay, 0.2 + 0.6 * decay);
        EXPECT_GT(early, 1e-3) << type->id;
        EXPECT_NEAR(db(early / late), 24.0, 5.0) << type->id << " of " << decay << " s";
        EXPECT_GT(rms(out.right, 0.3, 0.6), 1e-3) << type->id << " comes back on both sides";
    }
}

TEST(Spring, ItsHighsComeAfterItsLowsAndNothingAboveItsEnd) {
    const auto arrives = [](double chirp, double hz) {
        auto p = made(kSpring, {{"mix", 1.0}, {"chirp", chirp}, {"low_cut_hz", 20.0}, {"length_ms", 60.0}});
        Sound s = silence(0.4);
        for (std::size_t i = 0; i < 960; ++i)  // a short, soft-edged tone
            s.left[i] = s.right[i] = static_cast<float>(std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(i) / kRate) *
                                                        (0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / 960.0)));
        const Sound out = through(*p, s);
        // The middle of its energy, before it comes round again.
        double energy = 0.0, when = 0.0;
        for (std::size_t i = 0; i < static_cast<std::size_t>(0.04 * kRate); ++i) {
            const double e = static_cast<double>(out.left[i]) * static_cast<double>(out.left[i]);
            energy += e, when += e * static_cast<double>(i) / kRate;
        }
        return when / energy;
    };
    EXPECT_GT(arrives(0.7, 3000.0), arrives(0.7, 400.0) + 0.002);
    EXPECT_LT(std::abs(arrives(0.0, 3000.0) - arrives(0.0, 400.0)), 0.002) << "without chirp together";
    auto p = made(kSpring, {{"mix", 1.0}, {"high_hz", 4000.0}});
    EXPECT_LT(db(rms(through(*p, tone(12000.0, 0.5)).left, 0.2, 0.5) / rms(tone(12000.0, 0.5).left, 0.2, 0.5)), -30.0);
}

TEST(Reverb, ItsWallsStandAsFarAwayAsItsSizeAndItCanBeHeld) {
    const auto first = [](double size) {
        auto p = made(kReverb, {{"mix", 1.0}, {"predelay_ms", 0.0}, {"size_m", size}, {"early", 1.0}});
        const Sound out = through(*p, impulse(0.6, 1.0F, 0.0F));
        for (std::size_t i = 481; i < out.left.size(); ++i)
            if (std::abs(out.left[i]) > 0.2F) return static_cast<double>(i - 480) / kRate;
        return 1.0;
    };
    EXPECT_NEAR(first(10.0), 0.62 * 10.0 / 343.0, 0.001);
    EXPECT_NEAR(first(30.0), 0.62 * 30.0 / 343.0, 0.001);
    auto wait = made(kReverb, {{"mix", 1.0}, {"predelay_ms", 200.0}});
    EXPECT_LT(peak(through(*wait, impulse(0.5)).left, 0.0, 0.2), 1e-4);
    // Held, it goes on; let go, it dies away; and what comes in meanwhile is not in it.
    auto p = made(kReverb, {{"mix", 1.0}, {"decay_s", 0.5}, {"early", 0.0}});
    Sound s = tone(440.0, 1.0);
    through(*p, s);
    const auto freeze = *index_of_field(kReverb.fields, "freeze");
    p->set(freeze, 1.0);
    through(*p, silence(0.5));
    const double held = rms(through(*p, silence(1.0)).left, 0.0, 1.0);
    through(*p, silence(3.0));
    EXPECT_GT(held, 0.01);
    EXPECT_NEAR(db(rms(through(*p, silence(1.0)).left, 0.0, 1.0) / held), 0.0, 2.0) << "four seconds later as loud";
    p->set(freeze, 0.0);
    through(*p, silence(1.5));
    EXPECT_LT(db(rms(through(*p, silence(0.5)).left, 0.0, 0.5) / held), -40.0);
}

TEST(Cabinet, LetsThroughWhatALoudspeakerDoes) {
    const auto gain = [](double hz) {
        auto p = made(kCabinet, {{"low_hz", 80.0}, {"bump", 0.0}, {"presence", 6.0}, {"presence_hz", 2500.0}, {"dip", 12.0}, {"high_hz", 5000.0}});
        return db(rms(through(*p, tone(hz, 0.5)).left, 0.2, 0.5) / rms(tone(hz, 0.5).left, 0.2, 0.5));
    };
    EXPECT_LT(gain(30.0), -12.0);
    EXPECT_NEAR(gain(400.0), 0.0, 1.0);
    EXPECT_GT(gain(2300.0), 4.0);
    EXPECT_LT(gain(2500.0 * 1.45), gain(2300.0) - 8.0) << "the cone's dip";
    EXPECT_LT(gain(10000.0), -20.0);
    auto dry = made(kCabinet, {{"mix", 0.0}});
    EXPECT_EQ(through(*dry, tone(400.0, 0.1)).left, tone(400.0, 0.1).left);
}

TEST(Rotary, TurnsAsOftenAsItsSpeedOnBothSidesInTurnAndMovesThePitch) {
    auto p = made(kRotary, {{"rate", 5.0}, {"beam", 1.0}, {"radius_m", 0.0}, {"apart", 1.0}, {"split_hz", 400.0}});
    const Sound out = through(*p, tone(2000.0, 2.0));
    int dips = 0;
    bool down = false;
    double together = 0.0;
    for (double at = 0.5; at < 1.495; at += 0.005) {
        const double left = rms(out.left, at, at + 0.005), right = rms(out.right, at, at + 0.005);
        together = std::max(together, std::min(left, right));
        if (!down && left < 0.04) down = true, ++dips;
        if (left > 0.15) down = false;
    }
    EXPECT_EQ(dips, 5);
    EXPECT_LT(together, 0.25) << "opposite microphones never hear it loudest at once";
    // The pitch moves by 2π·rate·radius over the speed of sound.
    auto bends = made(kRotary, {{"rate", 6.0}, {"beam", 0.0}, {"radius_m", 0.2}, {"apart", 0.0}, {"split_hz", 300.0}});
    const Sound bent = through(*bends, tone(1500.0, 1.5));
    double low = 1e9, high = 0.0, before = 0.0;
    for (std::size_t i = static_cast<std::size_t>(0.6 * kRate); i + 1 < bent.left.size(); ++i)
        if (bent.left[i] < 0.0F && bent.left[i + 1] >= 0.0F) {
            const double exact = static_cast<double>(i) + static_cast<double>(-bent.left[i] / (bent.left[i + 1] - bent.left[i]));
            if (before > 0.0) low = std::min(low, kRate / (exact - before)), high = std::max(high, kRate / (exact - before));
            before = exact;
        }
    const double expected = 2.0 * std::numbers::pi * 6.0 * 0.2 / 343.0;
    EXPECT_NEAR(high / 1500.0 - 1.0, expected, 0.25 * expected);
    EXPECT_NEAR(1.0 - low / 1500.0, expected, 0.25 * expected);
}

TEST(Transient, ShapesOnlyItsBand) {
    // Strokes of a low and a high tone: the high band's attack is taken down, the low one stays.
    const auto stroke = [](double hz) {
        Sound s = silence(0.5);
        for (std::size_t i = 4800; i < s.left.size(); ++i) {
            const double t = static_cast<double>(i - 4800) / kRate;
            s.left[i] = s.right[i] = static_cast<float>(0.5 * std::exp(-t / 0.08) * std::sin(2.0 * std::numbers::pi * hz * t));
        }
        return s;
    };
    const auto change = [&](double hz) {
        auto p = made(kTransient, {{"attack", -12.0}, {"body", 0.0}, {"low_hz", 1000.0}, {"high_hz", 20000.0}});
        return db(peak(through(*p, stroke(hz)).left, 0.1, 0.11) / peak(stroke(hz).left, 0.1, 0.11));
    };
    EXPECT_LT(change(6000.0), -3.0);
    EXPECT_NEAR(change(100.0), 0.0, 1.0);
    auto nothing = made(kTransient, {{"attack", 0.0}, {"body", 0.0}, {"low_hz", 200.0}, {"high_hz", 3000.0}});
    for (const double hz : {100.0, 200.0, 1000.0, 3000.0, 9000.0})
        EXPECT_NEAR(db(rms(through(*nothing, tone(hz, 0.5)).left, 0.2, 0.5) / rms(tone(hz, 0.5).left, 0.2, 0.5)), 0.0, 0.1) << hz << ": flat together";
}

}  // namespace fw
