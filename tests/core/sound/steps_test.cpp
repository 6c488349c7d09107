// SPDX-License-Identifier: GPL-3.0-or-later
// What every processor must do, and the table of how well each does it.
#include "dsp/fft.hpp"
#include "sound/catalogue.hpp"
#include "sound/tone_curve.hpp"
#include "support/rendering.hpp"

#include <gtest/gtest.h>
#include <array>
#include <cmath>
#include <numbers>
#include <random>

namespace fw {

namespace {

struct Sound {
    std::vector<float> left, right;
};

Sound noise(std::size_t frames, unsigned seed = 3) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<float> d(-0.5F, 0.5F);
    Sound s{std::vector<float>(frames), std::vector<float>(frames)};
    for (std::size_t i = 0; i < frames; ++i) s.left[i] = d(random), s.right[i] = d(random);
    return s;
}

Sound sine(double hz, std::size_t frames, double rate, float level = 0.5F) {
    Sound s{std::vector<float>(frames), {}};
    for (std::size_t i = 0; i < frames; ++i) s.left[i] = level * static_cast<float>(std::sin(2 * std::numbers::pi * hz * static_cast<double>(i) / rate));
    s.right = s.left;
    return s;
}

Sound through(Processor& p, Sound s) {
    test::run(p, s.left, s.right);
    return s;
}

double rms(std::span<const float> x) {
    double sum = 0;
    for (const float s : x) sum += static_cast<double>(s) * s;
    return std::sqrt(sum / static_cast<double>(std::max<std::size_t>(1, x.size())));
}

/// Everything that can sound, at a rate.
std::vector<std::pair<std::string, std::unique_ptr<Processor>>> all(double rate) {
    std::vector<std::pair<std::string, std::unique_ptr<Processor>>> list;
    for (const StepType* t : step_types()) list.emplace_back(t->id, t->make(rate));
    for (const SourceType* t : source_types()) list.emplace_back(t->id, test::make_source(*t, {}, rate));
    return list;
}

std::span<const Parameter> fields_of(const std::string& id) { return find_step_type(id) ? find_step_type(id)->fields : find_source_type(id)->fields; }

}  // namespace

TEST(Processors, AFiltersDrawnCurveIsWhatItDoes) {
    constexpr double kRate = 44100.0;
    for (const double kind : {0.0, 1.0, 2.0})
        for (const double steep : {0.0, 1.0})
            for (const double hz : {150.0, 900.0, 4000.0}) {
                const std::vector<double> values{kind, 900.0, 0.4, steep};
                auto p = kFilter.make(kRate);
                for (std::size_t f = 0; f < values.size(); ++f) p->set(f, values[f]);
                const Sound in = sine(hz, 44100, kRate, 0.1F), out = through(*p, in);
                const auto rest = [](const Sound& s) { return rms(std::span(s.left).subspan(22050)); };
                EXPECT_NEAR(20.0 * std::log10(rest(out) / rest(in)), filter_db(values, hz, kRate), 0.1) << kind << ' ' << steep << ' ' << hz;
            }
}

TEST(Processors, TablesAreWhole) {
    for (const auto& [name, p] : all(44100)) {
        for (const Parameter& f : fields_of(name)) {
            EXPECT_LT(f.low, f.high) << name << " " << f.id;
            EXPECT_EQ(clamped(f, f.neutral), f.neutral) << name << " " << f.id;
            EXPECT_GT(f.step, 0.0) << name << " " << f.id;
            EXPECT_TRUE(f.scale != Scale::Logarithmic || f.low > 0.0) << name << " " << f.id;
            EXPECT_EQ(f.scale == Scale::Choice, !f.choices.empty()) << name << " " << f.id;
            EXPECT_GT(std::string(f.help).size(), 4u) << name << " " << f.id;
            EXPECT_EQ(index_of_field(fields_of(name), f.id), static_cast<std::size_t>(&f - fields_of(name).data())) << name << " " << f.id;
        }
        EXPECT_TRUE(find_step_type(name) || find_source_type(name));
    }
}

TEST(Processors, SilenceComesOutOfSilence) {
    for (const double rate : {8000.0, 44100.0, 192000.0})
        for (auto& [name, p] : all(rate)) {
            const Sound out = through(*p, {std::vector<float>(8192, 0.0F), std::vector<float>(8192, 0.0F)});
            EXPECT_LT(rms(out.left), 1e-6) << name << " at " << rate;
        }
}

TEST(Processors, ResetEqualsFreshlyMade) {
    for (const StepType* t : step_types()) {
        auto used = t->make(44100), fresh = t->make(44100);
        for (std::size_t f = 0; f < t->fields.size(); ++f)
            for (auto* p : {used.get(), fresh.get()}) p->set(f, value_at(t->fields[f], 0.6));
        used->note_on(1, 36, 100);
        through(*used, noise(5000, 9));
        used->reset();
        for (auto* p : {used.get(), fresh.get()}) p->note_on(1, 36, 100);
        EXPECT_EQ(through(*used, noise(4000)).left, through(*fresh, noise(4000)).left) << t->id;
    }
}

TEST(Processors, StayFiniteWhateverTheyAreGivenAtAnyRate) {
    for (const double rate : {8000.0, 22050.0, 48000.0, 96000.0, 192000.0})
        for (const StepType* t : step_types())
            for (const double extreme : {0.0, 0.5, 1.0}) {
                auto p = t->make(rate);
                for (std::size_t f = 0; f < t->fields.size(); ++f) p->set(f, value_at(t->fields[f], extreme));
                p->note_on(1, 36, 127);
                Sound s = noise(6000);
                s.left[100] = std::numeric_limits<float>::quiet_NaN();
                s.right[200] = std::numeric_limits<float>::infinity();
                s.left[300] = 1e6F;
                const Sound out = through(*p, s);
                for (const float x : out.left) ASSERT_TRUE(std::isfinite(x)) << t->id << " at " << rate << ", " << extreme;
                p->set(0, std::numeric_limits<double>::quiet_NaN());
                const Sound again = through(*p, noise(2000));
                for (const float x : again.left) ASSERT_TRUE(std::isfinite(x)) << t->id;
            }
}

TEST(Processors, EveryFieldChangesTheSound) {
    for (const StepType* t : step_types())
        for (std::size_t f = 0; f < t->fields.size(); ++f) {
            const auto sound = [&](double at) {
                auto p = t->make(44100);
                // From a setting in which each field has something to do.
                for (std::size_t k = 0; k < t->fields.size(); ++k) p->set(k, value_at(t->fields[k], 0.4));
                if (std::string_view(t->fields[f].id) == "every") p->set(*index_of_field(t->fields, "timed"), 1.0);
                if (t == &kRepeat) p->set(*index_of_field(t->fields, "hold"), 1.0);
                p->set(f, value_at(t->fields[f], at));
                p->note_on(1, 36, 100);
                // Loud, then hardly there: what opens also closes, and repeats are heard.
                Sound s = noise(88200);
                for (std::size_t i = 0; i < s.left.size(); ++i) s.left[i] *= i < 22050 ? 1.9F : 0.001F, s.right[i] *= i < 22050 ? 1.9F : 0.001F;
                if (std::string_view(t->fields[f].id) == "run_up_s") {  // heard where the speed is another
                    Sound first{{s.left.begin(), s.left.begin() + 22048}, {s.right.begin(), s.right.begin() + 22048}};
                    first = through(*p, first);
                    p->set(*index_of_field(t->fields, "rate"), value_at(t->fields[*index_of_field(t->fields, "rate")], 0.9));
                    s.left.resize(22048), s.right.resize(22048);
                }
                s = through(*p, s);
                s.left.insert(s.left.end(), s.right.begin(), s.right.end());
                return s.left;
            };
            EXPECT_NE(sound(0.1), sound(0.9)) << t->id << " " << t->fields[f].id;
        }
    for (std::size_t f = 0; f < kSynth.fields.size(); ++f) {
        const std::string id = kSynth.fields[f].id;
        const auto sound = [&](double at) {
            auto p = test::make_source(kSynth, {"Warm pad"});
            const auto set = [&](const char* field, double value) { p->set(*index_of_field(kSynth.fields, field), value); };
            for (std::size_t k = 0; k < kSynth.fields.size(); ++k) p->set(k, value_at(kSynth.fields[k], 0.3));
            set("wave", id[0] == 'p' && id.size() <= 3 ? 4.0 : 3.0), set("second_wave", 3.0), set("octave_up", 0.0);
            if (id.ends_with("every")) set("lfo_timed", 1.0), set("lfo2_timed", 1.0);
            p->set(f, value_at(kSynth.fields[f], at));
            // Notes apart, over each other, and one after silence.
            std::vector<float> all;
            const auto part = [&](std::size_t frames) {
                Sound s{std::vector<float>(frames, 0.0F), std::vector<float>(frames, 0.0F)};
                s = through(*p, s);
                all.insert(all.end(), s.left.begin(), s.left.end());
            };
            p->note_on(1, 38, 100), part(16000), p->note_off(1);
            p->note_on(2, 45, 100), part(8000);
            p->note_on(3, 50, 90), part(8000), p->note_off(2), p->note_off(3), part(64000);
            p->note_on(4, 38, 100), part(8000);
            return all;
        };
        EXPECT_NE(sound(0.1), sound(0.9)) << "synth " << id;
    }
    for (const SourceType* type : {&kDrumKit, &kDrumVoice, &kSampler})
        for (std::size_t f = 0; f < type->fields.size(); ++f) {
            const auto sound = [&](double at) {
                auto p = test::make_source(*type, {"Warm pad"});
                for (std::size_t k = 0; k < type->fields.size(); ++k) p->set(k, value_at(type->fields[k], type == &kSampler ? 0.55 : 0.3));
                if (type == &kSampler) {
                    p->set(0, 25.0);  // fast enough to come to its loop
                    for (const char* off : {"one_shot", "reverse"}) p->set(*index_of_field(type->fields, off), 0.0);
                    for (const auto& [id, value] :
                         {std::pair("attack_ms", 10.0), std::pair("decay_ms", 50.0), std::pair("release_ms", 50.0), std::pair("cutoff", 3000.0)})
                        p->set(*index_of_field(type->fields, id), value);
                }
                p->set(f, value_at(type->fields[f], at));
                p->note_on(1, 38, 100);
                std::vector<float> both;
                for (int part = 0; part < 2; ++part) {
                    Sound s{std::vector<float>(22050, 0.0F), std::vector<float>(22050, 0.0F)};
                    s = through(*p, s);
                    both.insert(both.end(), s.left.begin(), s.left.end());
                    p->note_off(1);
                    if (type == &kSampler) p->note_on(2, 45, 90);
                }
                return both;
            };
            EXPECT_NE(sound(0.1), sound(0.9)) << type->id << " " << type->fields[f].id;
        }
}

TEST(Processors, MovingAFieldMakesNoZipper) {
    // A tone of 200 Hz while each field that moves goes from end to end in half a second, set once a slice: what appears above 3 kHz is noise of the moving.
    for (const StepType* t : step_types())
        for (std::size_t f = 0; f < t->fields.size(); ++f) {
            if (!t->fields[f].moves || t == &kDrive || t == &kWear) continue;  // these make partials of their own
            auto p = t->make(48000);
            Sound s = sine(200, 48000, 48000, 0.25F);
            for (std::size_t at = 0; at < s.left.size(); at += kSlice) {
                p->set(f, value_at(t->fields[f], std::min(1.0, static_cast<double>(at) / 24000.0)));
                p->process({std::span(s.left).subspan(at, kSlice), std::span(s.right).subspan(at, kSlice)}, {});
            }
            constexpr std::size_t kSize = 16384;
            RealFft fft(kSize);
            const auto w = hann_window(kSize);
            for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = s.left[4000 + i] * w[i];
            const auto out = fft.transform();
            double high = 0, whole = 0;
            for (std::size_t k = 0; k < out.size(); ++k) (k > 1024 ? high : whole) += std::norm(out[k]);
            EXPECT_LT(10 * std::log10(std::max(high, 1e-30) / std::max(whole, 1e-12)), -50.0) << t->id << " " << t->fields[f].id;
        }
}

TEST(Equaliser, GainsAreWhatTheySayAtAnyRate) {
    for (const double rate : {44100.0, 48000.0, 96000.0, 192000.0})
        for (const double gain : {-12.0, -6.0, 6.0, 12.0}) {
            auto p = kEqualiser.make(rate);
            p->set(*index_of_field(kEqualiser.fields, "mid_hz"), 1000.0);
            p->set(*index_of_field(kEqualiser.fields, "mid"), gain);
            const auto frames = static_cast<std::size_t>(rate / 2);
            const Sound in = sine(1000, frames, rate), out = through(*p, in);
            const double db = 20 * std::log10(rms(std::span(out.left).subspan(frames / 2)) / rms(std::span(in.left).subspan(frames / 2)));
            EXPECT_NEAR(db, gain, 0.02) << rate;
        }
    auto neutral = kEqualiser.make(44100);
    const Sound in = noise(8000);
    const Sound out = through(*neutral, in);
    for (std::size_t i = 0; i < in.left.size(); ++i) ASSERT_NEAR(out.left[i], in.left[i], 1e-6F) << "neutral, it changes nothing";
}

TEST(Filter, FallsAsSteeplyAsItSays) {
    for (const double steep : {0.0, 1.0}) {
        const auto level = [&](double hz) {
            auto p = kFilter.make(48000);
            p->set(1, 500.0);
            p->set(3, steep);
            const Sound in = sine(hz, 24000, 48000), out = through(*p, in);
            return 20 * std::log10(rms(std::span(out.left).subspan(12000)) / rms(std::span(in.left).subspan(12000)));
        };
        EXPECT_NEAR(level(2000) - level(4000), steep > 0.5 ? 24.0 : 12.0, 1.0);
        EXPECT_NEAR(level(500), steep > 0.5 ? -6.0 : -3.0, 0.1);
        EXPECT_NEAR(level(60), 0.0, 0.1);
    }
}

TEST(Drive, AliasesFarBelowThePartialsItMakes) {
    // 5 kHz driven hard: partials at odd multiples; what lies elsewhere is aliasing.
    for (const double rate : {44100.0, 96000.0}) {
        auto p = kDrive.make(rate);
        p->set(0, 18.0);
        constexpr std::size_t kSize = 32768;
        const double bin = rate / kSize, hz = std::round(5000.0 / bin) * bin;
        const Sound out = through(*p, sine(hz, 2 * kSize, rate, 0.5F));
        RealFft fft(kSize);
        for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = out.left[kSize + i];
        const auto spectrum = fft.transform();
        double partials = 0, rest = 0;
        const auto base = static_cast<std::size_t>(std::lround(hz / bin));
        for (std::size_t k = 8; k < spectrum.size(); ++k) (k % base == 0 ? partials : rest) += std::norm(spectrum[k]);
        EXPECT_LT(10 * std::log10(rest / partials), rate > 50000 ? -60.0 : -40.0) << rate << ": " << 10 * std::log10(rest / partials);
        RecordProperty("aliasing_db_" + std::to_string(static_cast<int>(rate)), std::to_string(10 * std::log10(rest / partials)));
    }
}

TEST(Compressor, TurnsDownWhatIsAboveItsThresholdByItsRatio) {
    const auto gain = [](float level) {
        auto p = kCompressor.make(48000);
        p->set(0, -20.0), p->set(1, 4.0), p->set(2, 1.0), p->set(3, 50.0);
        const Sound in = sine(1000, 96000, 48000, level), out = through(*p, in);
        return 20 * std::log10(rms(std::span(out.left).subspan(48000)) / rms(std::span(in.left).subspan(48000)));
    };
    EXPECT_NEAR(gain(0.01F), 0.0, 0.1);
    EXPECT_NEAR(gain(0.5F) - gain(0.25F), -6.02 * 0.75, 0.4) << "three of four dB are taken away";
}

TEST(Reverb, DecaysInTheTimeItSays) {
    for (const double seconds : {0.6, 2.0}) {
        auto p = kReverb.make(44100);
        p->set(*index_of_field(kReverb.fields, "decay_s"), seconds);
        p->set(*index_of_field(kReverb.fields, "mix"), 1.0);
        p->set(*index_of_field(kReverb.fields, "low"), 1.0);
        p->set(*index_of_field(kReverb.fields, "damp_hz"), 20000.0);
        Sound s{std::vector<float>(44100 * 3, 0.0F), std::vector<float>(44100 * 3, 0.0F)};
        for (std::size_t i = 0; i < 2000; ++i) s.left[i] = s.right[i] = noise(2000).left[i];
        s = through(*p, s);
        const auto level = [&](double at) { return 20 * std::log10(rms(std::span(s.left).subspan(static_cast<std::size_t>(at * 44100), 4410))); };
        const double slope = (level(0.2 + 0.4 * seconds) - level(0.2)) / (0.4 * seconds);
        EXPECT_NEAR(-60.0 / slope, seconds, 0.2 * seconds);
    }
}

TEST(Limiter, HoldsItsCeilingAndTellsItsLatency) {
    auto p = kLimiter.make(44100);
    p->set(0, 18.0);
    p->set(1, -3.0);
    const Sound out = through(*p, noise(20000));
    for (const float s : out.left) ASSERT_LE(std::abs(s), std::pow(10.0F, -3.0F / 20.0F) * 1.0001F);
    EXPECT_EQ(p->latency(), 66u);
}

}  // namespace fw
