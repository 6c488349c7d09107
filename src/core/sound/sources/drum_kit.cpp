// SPDX-License-Identifier: GPL-3.0-or-later
// Drums from sines with falling pitch, ringing modes and filtered noise; cymbals from six inharmonic squares, high-passed.
#include "sound/approximations.hpp"
#include "sound/catalogue.hpp"
#include "sound/free_voice.hpp"
#include "sound/smoothed.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

struct Sound {
    double low_hz = 0.0, drop_octaves = 0.0, drop_s = 0.02, tone_s = 0.0, tone = 0.0;  ///< a sine that falls in pitch
    double noise = 0.0, noise_s = 0.0, noise_low_hz = 20.0, noise_high_hz = 20000.0;
    double metal = 0.0, metal_s = 0.0;
    double pan = 0.0;
    int choke = 0;  ///< sounds of one group other than 0 stop each other
};

enum Field { kNoiseScale, kDecayScale, kToneScale, kTune, kCount };
constexpr std::array<Parameter, kCount> kFields{{
    {"noise", "Noise", Unit::Share, 0.0, 2.0, 1.0, Scale::Linear, 0.02, true, "Wires, brushes and air"},
    {"decay", "Decay", Unit::Share, 0.2, 4.0, 1.0, Scale::Logarithmic, 0.02, true, "How long each sound rings"},
    {"tone", "Tone", Unit::Share, 0.0, 2.0, 1.0, Scale::Linear, 0.02, true, "Skins and shells"},
    {"tune", "Tune", Unit::Semitones, -12.0, 12.0, 0.0, Scale::Linear, 0.05, true, "All sounds with a pitch, up or down"},
}};

struct Kit {
    const char* name;
    std::array<double, kCount> values;
};
constexpr std::array kKits{Kit{"Brushed room", {1.0, 1.0, 1.0, 0.0}}, Kit{"Tight machine", {0.8, 0.6, 1.2, 0.0}}, Kit{"Deep studio", {0.9, 1.4, 1.1, 0.0}}};

Sound sound_of(int key) {
    switch (key) {
        case 35:
        case 36: return {52, 1.9, 0.028, 0.26, 1.0, 0.10, 0.012, 1200, 6000, 0, 0, 0, 0};
        case 38:
        case 40: return {185, 0.5, 0.015, 0.12, 0.5, 0.55, 0.17, 900, 9000, 0, 0, 0.05, 0};
        case 39: return {0, 0, 0.01, 0, 0, 0.6, 0.14, 900, 3200, 0, 0, -0.1, 0};
        case 37: return {820, 0.2, 0.004, 0.03, 0.6, 0.25, 0.02, 1500, 7000, 0, 0, 0.1, 0};
        case 42:
        case 44: return {0, 0, 0.01, 0, 0, 0.16, 0.045, 6500, 16000, 0.16, 0.05, 0.25, 1};
        case 46: return {0, 0, 0.01, 0, 0, 0.16, 0.32, 6000, 16000, 0.17, 0.36, 0.25, 1};
        case 51:
        case 59:
        case 53: return {0, 0, 0.01, 0, 0, 0.07, 0.5, 5000, 14000, 0.14, 0.75, -0.3, 0};
        case 49:
        case 57:
        case 52:
        case 55: return {0, 0, 0.01, 0, 0, 0.38, 1.0, 3500, 15000, 0.15, 1.2, -0.2, 0};
        case 41:
        case 43:
        case 45:
        case 47:
        case 48:
        case 50: return {70.0 + (key - 41) * 9.0, 0.8, 0.05, 0.32, 0.8, 0.08, 0.05, 400, 3000, 0, 0, (key - 45) * 0.06, 0};
        case 54:
        case 69:
        case 70:
        case 82: return {0, 0, 0.01, 0, 0, 0.3, 0.06, 5500, 15000, 0, 0, 0.4, 0};
        default: return {540, 0.1, 0.01, 0.09, 0.5, 0.1, 0.02, 1000, 6000, 0, 0, -0.35, 0};
    }
}

using Lanes8 = float __attribute__((vector_size(32)));

struct Voice {
    bool active = false;
    int key = 0;
    Sound sound;
    double velocity = 0.0, age = 0.0, phase = 0.0, fade = 1.0;
    bool fading = false;
    double low_state = 0.0, high_state = 0.0, metal_state = 0.0;
    Lanes8 metal_phase{};
};

/// Made drums on the General MIDI keys; closed and open hat choke each other. Drums ring out by themselves: an end of a note means nothing to them.
class DrumKit final : public Processor {
public:
    DrumKit(const Kit& kit, double rate, double tuning_cents) : rate_(rate), tuning_(std::exp2(tuning_cents / 1200.0)), smoothed_(rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kit.values[i]);
        reset();
    }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    double tail_s() const noexcept override { return 6.0; }
    bool idle() const noexcept override {
        return std::none_of(voices_.begin(), voices_.end(), [](const Voice& v) { return v.active; });
    }

    void note_on(VoiceId, int key, int velocity) noexcept override {
        const Sound sound = sound_of(key);
        for (Voice& v : voices_)
            if (v.active && (v.key == key || (sound.choke != 0 && v.sound.choke == sound.choke))) v.fading = true;
        Voice& voice = free_or_oldest(voices_);
        voice = Voice{};
        voice.active = true;
        voice.key = key;
        voice.sound = sound;
        voice.velocity = std::pow(velocity / 127.0, 1.5);
    }
    void reset() noexcept override {
        for (Voice& v : voices_) v = Voice{};
        noise_ = 4711;
        smoothed_.reset();
    }

    void process(Stereo io, Stereo) noexcept override {
        smoothed_.advance(io.size());
        for (Voice& v : voices_)
            if (v.active) render_voice(v, io.left, io.right);
    }

private:
    void render_voice(Voice& v, std::span<float> left, std::span<float> right) noexcept {
        const Sound& s = v.sound;
        const double decay = smoothed_[kDecayScale], low_hz = s.low_hz * tuning_ * std::exp2(smoothed_[kTune] / 12.0);
        const double dt = 1.0 / rate_, gain = 0.8 * v.velocity;
        const double left_gain = gain * std::sqrt(0.5 * (1.0 - s.pan)) * std::numbers::sqrt2,
                     right_gain = gain * std::sqrt(0.5 * (1.0 + s.pan)) * std::numbers::sqrt2;
        const double high = 1.0 - std::exp(-2.0 * std::numbers::pi * std::min(s.noise_high_hz, 0.45 * rate_) * dt),
                     low = 1.0 - std::exp(-2.0 * std::numbers::pi * s.noise_low_hz * dt);
        const double metal_low = 1.0 - std::exp(-2.0 * std::numbers::pi * 6000.0 * dt), fade = std::exp(-dt / 0.006);
        // Six squares; the last two lanes stand still.
        const Lanes8 metal_turn = static_cast<float>(8.0 * dt) * Lanes8{205.3F, 304.4F, 369.6F, 522.7F, 540.0F, 800.0F, 0.0F, 0.0F};
        const double longest = std::max({s.tone_s, s.noise_s, s.metal_s}) * decay;
        // Levels fall by 60 dB in about 6.9 time constants; the constants here are a third of the named times.
        const double tone_step = s.tone_s > 0 ? std::exp(-3.0 * dt / (s.tone_s * decay)) : 0.0,
                     noise_step = s.noise_s > 0 ? std::exp(-3.0 * dt / (s.noise_s * decay)) : 0.0;
        const double metal_step = s.metal_s > 0 ? std::exp(-3.0 * dt / (s.metal_s * decay)) : 0.0, drop_step = std::exp(-dt / s.drop_s);
        double tone_level = s.tone_s > 0 ? s.tone * smoothed_[kToneScale] * std::exp(-3.0 * v.age / (s.tone_s * decay)) : 0.0;
        double noise_level = s.noise_s > 0 ? s.noise * smoothed_[kNoiseScale] * std::exp(-3.0 * v.age / (s.noise_s * decay)) : 0.0;
        double metal_level = s.metal_s > 0 ? s.metal * std::exp(-3.0 * v.age / (s.metal_s * decay)) : 0.0;
        double drop = s.drop_octaves * std::exp(-v.age / s.drop_s);
        for (std::size_t i = 0; i < left.size(); ++i) {
            double out = 0.0;
            if (tone_level > 1e-5) {
                out += tone_level * static_cast<double>(fast_sine(static_cast<float>(v.phase)));
                v.phase += low_hz * (1.0 + drop * (0.7 + 0.3 * drop)) * dt;
                v.phase -= std::floor(v.phase);
            }
            if (noise_level > 1e-5) {
                noise_ = noise_ * 1664525u + 1013904223u;
                const double white = static_cast<double>(noise_ >> 8) / 8388608.0 - 1.0;
                v.high_state += high * (white - v.high_state);
                v.low_state += low * (v.high_state - v.low_state);
                out += noise_level * (v.high_state - v.low_state);
            }
            if (metal_level > 1e-5) {
                v.metal_phase += metal_turn;
                v.metal_phase = v.metal_phase >= 1.0F ? v.metal_phase - 1.0F : v.metal_phase;
                const Lanes8 square = v.metal_phase < 0.5F ? Lanes8{} + 1.0F : Lanes8{} - 1.0F;
                const auto sum = static_cast<double>(square[0] + square[1] + square[2] + square[3] + square[4] + square[5]);
                v.metal_state += metal_low * (sum - v.metal_state);
                out += metal_level * 0.35 * (sum - v.metal_state);
            }
            if (v.fading) v.fade *= fade;
            out *= v.fade * std::min(1.0, (v.age + static_cast<double>(i) * dt) / 0.0006);  // a start without a click
            left[i] += static_cast<float>(out * left_gain);
            right[i] += static_cast<float>(out * right_gain);
            tone_level *= tone_step, noise_level *= noise_step, metal_level *= metal_step, drop *= drop_step;
        }
        v.age += static_cast<double>(left.size()) * dt;
        if (v.age > 3.0 * longest || v.fade < 1e-4) v.active = false;
    }

    double rate_, tuning_;
    Smoothed<kCount> smoothed_;
    std::array<Voice, 32> voices_{};
    std::uint32_t noise_ = 4711;
};

const Kit& kit_of(const std::string& name) {
    const auto found = std::find_if(kKits.begin(), kKits.end(), [&](const Kit& k) { return name == k.name; });
    return found == kKits.end() ? kKits.front() : *found;
}

const std::vector<std::string>& kit_names() {
    static const std::vector<std::string> names{kKits[0].name, kKits[1].name, kKits[2].name};
    return names;
}

}  // namespace

const SourceType kDrumKit{"drum_kit",
                          "Drum kit",
                          "Made drums on the General MIDI keys",
                          kFields,
                          kit_names,
                          [](const std::string& patch, std::size_t field) { return kit_of(patch).values[field]; },
                          [](const SourceSpec& spec, double rate) -> Result<std::unique_ptr<Processor>> {
                              return std::unique_ptr<Processor>(std::make_unique<DrumKit>(kit_of(spec.patch), rate, spec.tuning_cents));
                          }};

}  // namespace fw
