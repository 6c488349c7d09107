// SPDX-License-Identifier: GPL-3.0-or-later
// One made drum with all its fields: a skin, that is a sine whose pitch falls, ringing modes of a shell or of metal, and a band of noise, each with a decay of
// its own. Modes: frequency ratios of a membrane (Fletcher & Rossing, "The Physics of Musical Instruments", 1998) and of a free bar.
#include "base/pitch.hpp"
#include "sound/approximations.hpp"
#include "sound/catalogue.hpp"
#include "sound/free_voice.hpp"
#include "sound/smoothed.hpp"
#include "sound/svf.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

enum Field {
    kPitch,
    kFollow,
    kDrop,
    kDropTime,
    kSkin,
    kSkinDecay,
    kHold,
    kModes,
    kModesKind,
    kModesDecay,
    kNoise,
    kNoiseLow,
    kNoiseHigh,
    kNoiseDecay,
    kBursts,
    kBurstsApart,
    kClick,
    kDrive,
    kVelocity,
    kTrim,
    kCount
};
constexpr std::array<const char*, 3> kModeKinds{"skin", "bar", "cymbal"};
constexpr const char *kSkinGroup = "Skin", *kModesGroup = "Modes", *kNoiseGroup = "Noise", *kAllGroup = "Stroke";

constexpr std::array<Parameter, kCount> kFields{{
    {"pitch_hz", "Pitch", Unit::Hertz, 20.0, 8000.0, 60.0, Scale::Logarithmic, 0.01, true, "Where the skin comes to rest", {}, kSkinGroup},
    {"follow", "Follows the key", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "Its pitch is the key's instead: a tuned drum", {}, kSkinGroup},
    {"drop", "Drop", Unit::Semitones, -48.0, 60.0, 24.0, Scale::Linear, 0.5, true, "How much higher it begins", {}, kSkinGroup},
    {"drop_ms", "Drop time", Unit::Milliseconds, 1.0, 500.0, 40.0, Scale::Logarithmic, 0.05, true, "Until the pitch has come to rest", {}, kSkinGroup},
    {"skin", "Skin", Unit::Share, 0.0, 1.0, 1.0, Scale::Linear, 0.02, true, "How much of it", {}, kSkinGroup},
    {"decay_ms", "Decay", Unit::Milliseconds, 5.0, 5000.0, 350.0, Scale::Logarithmic, 0.05, true, "Until the skin is 60 dB down", {}, kSkinGroup},
    {"hold", "Hold", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "How long it stays loud before it falls", {}, kSkinGroup},
    {"modes", "Modes", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "How much of what rings above the pitch", {}, kModesGroup},
    {"modes_kind", "Kind", Unit::None, 0.0, 2.0, 0.0, Scale::Choice, 1.0, false, "Whose modes they are", kModeKinds, kModesGroup},
    {"modes_ms", "Ring", Unit::Milliseconds, 5.0, 8000.0, 200.0, Scale::Logarithmic, 0.05, true, "Until they are 60 dB down", {}, kModesGroup},
    {"noise", "Noise", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "Wires, hands, brushes and air", {}, kNoiseGroup},
    {"noise_low", "From", Unit::Hertz, 20.0, 16000.0, 1000.0, Scale::Logarithmic, 0.02, true, "Its lowest", {}, kNoiseGroup},
    {"noise_high", "Up to", Unit::Hertz, 100.0, 20000.0, 9000.0, Scale::Logarithmic, 0.02, true, "Its highest", {}, kNoiseGroup},
    {"noise_ms", "Noise decay", Unit::Milliseconds, 5.0, 8000.0, 180.0, Scale::Logarithmic, 0.05, true, "Until it is 60 dB down", {}, kNoiseGroup},
    {"bursts", "Bursts", Unit::None, 1.0, 5.0, 1.0, Scale::Whole, 1.0, false, "How many hands clap", {}, kNoiseGroup},
    {"bursts_ms", "Apart", Unit::Milliseconds, 2.0, 40.0, 11.0, Scale::Logarithmic, 0.05, false, "From one burst to the next", {}, kNoiseGroup},
    {"click", "Click", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "The beater's touch", {}, kAllGroup},
    {"drive", "Drive", Unit::Decibels, 0.0, 24.0, 0.0, Scale::Linear, 0.5, true, "How hard it is driven", {}, kAllGroup},
    {"velocity", "Velocity", Unit::Share, 0.0, 1.0, 0.9, Scale::Linear, 0.02, true, "How far soft strokes are softer", {}, kAllGroup},
    {"trim", "Trim", Unit::Decibels, -24.0, 12.0, -3.0, Scale::Linear, 0.5, true, "The drum's own loudness", {}, kAllGroup},
}};

struct Drum {
    const char* name;
    std::array<double, kCount> values;
};
constexpr std::array kDrums{
    //    name              pitch flw drop drop_ms skin decay hold modes kind ring noise low   high  decay burst apart click drive vel trim
    Drum{"Round kick", {52, 0, 28, 38, 1, 420, 0.1, 0, 0, 200, 0.05, 1200, 6000, 25, 1, 11, 0.2, 0, 0.9, -2}},
    Drum{"Deep kick", {44, 0, 20, 70, 1, 900, 0.25, 0, 0, 200, 0, 1000, 9000, 180, 1, 11, 0.1, 4, 0.9, -2}},
    Drum{"Hard kick", {58, 0, 42, 24, 1, 300, 0.2, 0, 0, 200, 0.08, 2000, 9000, 18, 1, 11, 0.6, 9, 0.9, -4}},
    Drum{"Soft kick", {62, 0, 14, 45, 1, 280, 0, 0.05, 0, 120, 0.03, 300, 2500, 40, 1, 11, 0, 0, 0.9, -1}},
    Drum{"Snappy snare", {190, 0, 7, 18, 0.45, 160, 0, 0.3, 0, 140, 0.75, 1200, 11000, 190, 1, 11, 0.2, 0, 0.9, -3}},
    Drum{"Dark snare", {165, 0, 6, 25, 0.55, 220, 0, 0.35, 0, 180, 0.55, 500, 5500, 220, 1, 11, 0.05, 3, 0.9, -3}},
    Drum{"Brush snare", {210, 0, 3, 20, 0.15, 120, 0, 0.1, 0, 90, 0.6, 1800, 9000, 260, 1, 11, 0, 0, 0.9, -2}},
    Drum{"Clap", {900, 0, 0, 10, 0, 60, 0, 0, 0, 60, 1, 800, 4200, 200, 4, 11, 0, 2, 0.9, -3}},
    Drum{"Rim click", {820, 0, 4, 4, 0.6, 45, 0, 0.6, 1, 40, 0.2, 1500, 7000, 20, 1, 11, 0.5, 0, 0.9, -4}},
    Drum{"Closed hat", {420, 0, 0, 5, 0, 30, 0, 0.6, 2, 60, 0.5, 6500, 18000, 55, 1, 11, 0.1, 0, 0.9, -4}},
    Drum{"Open hat", {420, 0, 0, 5, 0, 30, 0, 0.6, 2, 500, 0.5, 6000, 18000, 450, 1, 11, 0.1, 0, 0.9, -5}},
    Drum{"Ride", {330, 0, 0, 5, 0, 30, 0, 0.8, 2, 1600, 0.2, 5000, 15000, 700, 1, 11, 0.25, 0, 0.9, -6}},
    Drum{"Crash", {360, 0, 0, 5, 0, 30, 0, 0.6, 2, 2400, 0.8, 3000, 16000, 1800, 1, 11, 0.1, 0, 0.9, -7}},
    Drum{"Low tom", {88, 0, 10, 70, 1, 600, 0.05, 0.2, 0, 250, 0.06, 400, 3000, 60, 1, 11, 0.15, 0, 0.9, -3}},
    Drum{"High tom", {150, 0, 9, 55, 1, 430, 0.05, 0.2, 0, 200, 0.06, 500, 3500, 50, 1, 11, 0.15, 0, 0.9, -3}},
    Drum{"Wood block", {980, 0, 2, 5, 0.8, 70, 0, 0.5, 1, 60, 0.05, 1500, 6000, 15, 1, 11, 0.2, 0, 0.9, -5}},
    Drum{"Shaker", {2000, 0, 0, 5, 0, 30, 0, 0, 0, 60, 0.9, 5000, 14000, 90, 2, 18, 0, 0, 0.9, -3}},
    Drum{"Tuned kick", {55, 1, 30, 40, 1, 1100, 0.3, 0, 0, 200, 0, 1000, 9000, 180, 1, 11, 0.2, 6, 0.9, -3}},
    Drum{"Noise hit", {200, 0, 0, 10, 0, 60, 0, 0, 0, 60, 1, 200, 12000, 400, 1, 11, 0, 0, 0.9, -6}},
};

constexpr std::size_t kModeCount = 6;
constexpr std::array<std::array<double, kModeCount>, 3> kRatios{{{1.594, 2.136, 2.296, 2.653, 2.918, 3.156},  // an ideal membrane's, above its first
                                                                 {2.756, 5.404, 8.933, 13.34, 18.64, 24.8},   // a free bar's
                                                                 {5.13, 7.61, 9.24, 13.07, 13.5, 20.0}}};     // a cymbal's, inharmonic squares

struct Voice {
    bool active = false;
    int key = 0;
    double gain = 0.0, age = 0.0, phase = 0.0;
    std::array<double, kModeCount> mode_phase{};
    Svf low, high;
    double fade = 1.0;
    bool fading = false;
};

/// One drum on every key. A stroke goes on when the next is struck on another key; on its own key it gives way within some milliseconds.
class DrumVoice final : public Processor {
public:
    DrumVoice(const Drum& drum, double rate, double tuning_cents) : rate_(rate), tuning_(std::exp2(tuning_cents / 1200.0)), smoothed_(rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, drum.values[i]);
        reset();
    }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    double tail_s() const noexcept override { return 8.0; }
    bool idle() const noexcept override {
        return std::none_of(voices_.begin(), voices_.end(), [](const Voice& v) { return v.active; });
    }
    void note_on(VoiceId, int key, int velocity) noexcept override {
        for (Voice& v : voices_)
            if (v.active && v.key == key) v.fading = true;
        Voice& voice = free_or_oldest(voices_);
        voice = Voice{};
        voice.active = true;
        voice.key = key;
        const double depth = smoothed_.target(kVelocity);
        voice.gain = 1.0 - depth + depth * std::pow(velocity / 127.0, 1.5);
    }
    void reset() noexcept override {
        for (Voice& v : voices_) v = Voice{};
        noise_ = 8191;
        smoothed_.reset();
    }
    void process(Stereo io, Stereo) noexcept override {
        smoothed_.advance(io.size());
        for (Voice& v : voices_)
            if (v.active)
                for (std::size_t at = 0; at < io.size() && v.active; at += kSlice) render(v, io.part(at, std::min(kSlice, io.size() - at)));
    }

private:
    void render(Voice& v, Stereo io) noexcept {
        const std::size_t count = io.size();
        const double dt = 1.0 / rate_, fall = 6.908 * 1000.0;  // 60 dB in the time that is named
        const double rest_hz = (smoothed_.target(kFollow) >= 0.5 ? hertz_of(v.key) : smoothed_[kPitch]) * tuning_;
        const double drop = std::exp2(smoothed_[kDrop] / 12.0) - 1.0, drop_rate = 4.0 * 1000.0 / smoothed_[kDropTime];
        const double skin_decay = fall / smoothed_[kSkinDecay], hold_s = smoothed_[kHold] * smoothed_[kSkinDecay] / 2000.0;
        const double modes_decay = fall / smoothed_[kModesDecay], noise_decay = fall / smoothed_[kNoiseDecay];
        const double skin = smoothed_[kSkin], modes = smoothed_[kModes], noise = smoothed_[kNoise], click = smoothed_[kClick];
        const auto kind = static_cast<std::size_t>(smoothed_.target(kModesKind));
        const double burst_s = smoothed_.target(kBurstsApart) / 1000.0, last_burst_s = burst_s * (smoothed_.target(kBursts) - 1.0);
        std::array<float, kSlice> band{}, band_right{};
        if (noise > 0.0) {
            for (std::size_t i = 0; i < count; ++i) {
                noise_ = noise_ * 1664525u + 1013904223u;
                band[i] = static_cast<float>(noise_ >> 8) / 8388608.0F - 1.0F;
            }
            band_right = band;
            v.high.high_pass(smoothed_[kNoiseLow], 0.707, rate_);
            v.low.low_pass(std::max(smoothed_[kNoiseLow] * 1.1, smoothed_[kNoiseHigh]), 0.707, rate_);
            const Stereo both{std::span(band).first(count), std::span(band_right).first(count)};
            v.high.process(both);
            v.low.process(both);
        }
        const double g = std::pow(10.0, smoothed_[kDrive] / 20.0), back = 1.0 / std::pow(g, 0.7), gain = v.gain * std::pow(10.0, smoothed_[kTrim] / 20.0);
        const double fade = std::exp(-dt / 0.004);
        const bool driven = smoothed_[kDrive] > 0.0;
        for (std::size_t i = 0; i < count; ++i) {
            const double t = v.age + static_cast<double>(i) * dt;
            double out = 0.0;
            if (skin > 0.0) {
                v.phase += rest_hz * (1.0 + drop * std::exp(-drop_rate * t)) * dt;
                v.phase -= std::floor(v.phase);
                out += skin * std::exp(-skin_decay * std::max(0.0, t - hold_s)) * static_cast<double>(fast_sine(static_cast<float>(v.phase)));
            }
            if (modes > 0.0) {
                const double level = 0.4 * modes * std::exp(-modes_decay * t);
                double sum = 0.0;
                for (std::size_t m = 0; m < kModeCount; ++m) {
                    const double hz = rest_hz * kRatios[kind][m];
                    if (hz > 0.45 * rate_) break;
                    v.mode_phase[m] += hz * dt;
                    v.mode_phase[m] -= std::floor(v.mode_phase[m]);
                    // Higher modes die sooner, but for metal.
                    const double less = kind == 2 ? 1.0 : std::exp(-modes_decay * t * 0.4 * static_cast<double>(m)) / (1.0 + 0.5 * static_cast<double>(m));
                    sum += less * static_cast<double>(fast_sine(static_cast<float>(v.mode_phase[m])));
                }
                out += level * sum;
            }
            if (noise > 0.0) {
                // Bursts before the last one are short; the last one rings.
                double level = 0.0;
                if (t >= last_burst_s) level = std::exp(-noise_decay * (t - last_burst_s));
                else level = std::exp(-std::fmod(t, burst_s) / (0.25 * burst_s));
                out += 1.4 * noise * level * static_cast<double>(band[i]);
            }
            if (click > 0.0) out += 0.8 * click * std::exp(-t / 0.0012) * std::sin(2.0 * std::numbers::pi * 2600.0 * t);
            if (driven) out = back * std::tanh(g * out);
            if (v.fading) v.fade *= fade;
            const auto s = static_cast<float>(gain * v.fade * std::min(1.0, t / 0.0004) * out);
            io.left[i] += s;
            io.right[i] += s;
        }
        v.age += static_cast<double>(count) * dt;
        const double longest = std::max({skin > 0.0 ? smoothed_[kSkinDecay] * (1.0 + 0.5 * smoothed_[kHold]) : 0.0, modes > 0.0 ? smoothed_[kModesDecay] : 0.0,
                                         noise > 0.0 ? smoothed_[kNoiseDecay] + 1000.0 * last_burst_s : 0.0, 20.0});
        if (v.age > 1.6 * longest / 1000.0 || v.fade < 1e-4) v.active = false;
    }

    double rate_, tuning_;
    Smoothed<kCount> smoothed_;
    std::array<Voice, 12> voices_{};
    std::uint32_t noise_ = 8191;
};

const Drum& drum_of(const std::string& name) {
    const auto found = std::find_if(kDrums.begin(), kDrums.end(), [&](const Drum& d) { return name == d.name; });
    return found == kDrums.end() ? kDrums.front() : *found;
}

const std::vector<std::string>& drum_names() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> list;
        for (const Drum& d : kDrums) list.emplace_back(d.name);
        return list;
    }();
    return names;
}

}  // namespace

const SourceType kDrumVoice{"drum_voice",
                            "Made drum",
                            "A skin whose pitch falls, modes and noise",
                            kFields,
                            drum_names,
                            [](const std::string& patch, std::size_t field) { return drum_of(patch).values[field]; },
                            [](const SourceSpec& spec, double rate) -> Result<std::unique_ptr<Processor>> {
                                return std::unique_ptr<Processor>(std::make_unique<DrumVoice>(drum_of(spec.patch), rate, spec.tuning_cents));
                            }};

}  // namespace fw
