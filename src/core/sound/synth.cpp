// SPDX-License-Identifier: GPL-3.0-or-later
// Oscillators by polynomial band-limited steps (Välimäki & Huovilainen, "Antialiasing oscillators in subtractive synthesis",
// IEEE SPM 2007); filter: trapezoidal state-variable (Simper, 2013), stable at any cutoff below half the sample rate.
#include "sound/instrument.hpp"

#include "base/pitch.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

enum class Wave { Sine, Triangle, Saw, Square };

struct Envelope {
    double attack_s, decay_s, sustain, release_s;
};

struct Patch {
    const char* name;
    Wave first, second;
    double second_level, detune_cents, second_octave, noise;
    double cutoff_hz, key_tracking, resonance, cutoff_octaves;  ///< cutoff at C4 and how far its envelope opens it
    Envelope level, filter;
    double vibrato_cents, width, gain;
};

constexpr std::array kPatches{
    Patch{"Round bass", Wave::Saw, Wave::Sine, 0.9, 0, 0, 0, 300, 0.4, 0.15, 2.2, {0.004, 0.5, 0.65, 0.07}, {0.003, 0.22, 0.25, 0.1}, 0, 0, 0.55},
    Patch{"Sub bass", Wave::Sine, Wave::Triangle, 0.25, 0, 0, 0, 900, 0.3, 0.0, 0.5, {0.006, 0.4, 0.9, 0.06}, {0.01, 0.3, 0.5, 0.1}, 0, 0, 0.6},
    Patch{"Reed lead", Wave::Square, Wave::Saw, 0.55, 7, 0, 0.01, 1500, 0.6, 0.2, 0.9, {0.03, 0.3, 0.85, 0.09}, {0.05, 0.5, 0.7, 0.2}, 6, 0.25, 0.3},
    Patch{"Bright lead", Wave::Saw, Wave::Saw, 0.9, 11, 0, 0, 3200, 0.5, 0.25, 1.2, {0.005, 0.4, 0.8, 0.12}, {0.005, 0.4, 0.5, 0.2}, 5, 0.5, 0.26},
    Patch{"Soft pluck", Wave::Triangle, Wave::Saw, 0.3, 5, 0, 0, 700, 0.7, 0.15, 2.6, {0.002, 0.55, 0.0, 0.18}, {0.001, 0.16, 0.05, 0.15}, 0, 0.3, 0.5},
    Patch{"Warm pad", Wave::Saw, Wave::Saw, 1.0, 14, 0, 0.02, 900, 0.4, 0.1, 0.8, {0.25, 0.8, 0.85, 0.6}, {0.4, 1.0, 0.6, 0.8}, 3, 0.9, 0.22},
    Patch{"Organ", Wave::Sine, Wave::Sine, 0.7, 0, 1, 0, 5000, 0.3, 0.0, 0.0, {0.006, 0.1, 1.0, 0.05}, {0.01, 0.1, 1.0, 0.1}, 4, 0.2, 0.34},
    Patch{"Bell", Wave::Sine, Wave::Sine, 0.35, 2, 1.585, 0, 6000, 0.5, 0.0, 0.5, {0.001, 1.8, 0.0, 0.9}, {0.001, 0.6, 0.2, 0.5}, 0, 0.4, 0.42},
};

/// Attack, decay, sustain, release with exponential curves that reach their ends.
class EnvelopeRunner {
public:
    void set(const Envelope& e, double rate) noexcept {
        attack_ = coefficient(e.attack_s / 3.0, rate);
        decay_ = coefficient(e.decay_s / 4.0, rate);
        release_ = coefficient(e.release_s / 4.0, rate);
        sustain_ = e.sustain;
    }
    void start() noexcept { stage_ = Stage::Attack; }
    void stop() noexcept {
        if (stage_ != Stage::Idle) stage_ = Stage::Release;
    }
    void clear() noexcept {
        stage_ = Stage::Idle;
        value_ = 0.0;
    }
    bool idle() const noexcept { return stage_ == Stage::Idle; }
    double value() const noexcept { return value_; }
    double next() noexcept {
        switch (stage_) {
            case Stage::Attack:
                value_ += (1.05 - value_) * attack_;
                if (value_ >= 1.0) value_ = 1.0, stage_ = Stage::Decay;
                break;
            case Stage::Decay:
                value_ += (sustain_ - value_) * decay_;
                if (sustain_ == 0.0 && value_ < 1e-4) clear();
                break;
            case Stage::Release:
                value_ -= value_ * release_;
                if (value_ < 1e-4) clear();
                break;
            case Stage::Idle: break;
        }
        return value_;
    }

private:
    static double coefficient(double time_s, double rate) { return 1.0 - std::exp(-1.0 / std::max(1.0, time_s * rate)); }
    enum class Stage { Idle, Attack, Decay, Release } stage_ = Stage::Idle;
    double value_ = 0.0, attack_ = 1.0, decay_ = 1.0, release_ = 1.0, sustain_ = 1.0;
};

double step_correction(double phase, double increment) noexcept {
    if (phase < increment) {
        const double t = phase / increment;
        return t + t - t * t - 1.0;
    }
    if (phase > 1.0 - increment) {
        const double t = (phase - 1.0) / increment;
        return t * t + t + t + 1.0;
    }
    return 0.0;
}

class Oscillator {
public:
    void restart(double phase) noexcept { phase_ = phase; }
    double next(Wave wave, double increment) noexcept {
        double out = 0.0;
        switch (wave) {
            case Wave::Sine: out = std::sin(2.0 * std::numbers::pi * phase_); break;
            case Wave::Triangle: out = 4.0 * std::abs(phase_ - 0.5) - 1.0; break;
            case Wave::Saw: out = 2.0 * phase_ - 1.0 - step_correction(phase_, increment); break;
            case Wave::Square: {
                const double other = phase_ < 0.5 ? phase_ + 0.5 : phase_ - 0.5;
                out = (phase_ < 0.5 ? 1.0 : -1.0) + step_correction(phase_, increment) - step_correction(other, increment);
                break;
            }
        }
        phase_ += increment;
        if (phase_ >= 1.0) phase_ -= 1.0;
        return out;
    }

private:
    double phase_ = 0.0;
};

struct Voice {
    int key = -1;
    double velocity = 0.0, cents = 0.0, age = 0.0;
    bool held = false;
    EnvelopeRunner level, filter;
    Oscillator first, second_left, second_right;
    double low = 0.0, band = 0.0, low_r = 0.0, band_r = 0.0;
};

class Synth final : public Instrument {
public:
    Synth(const Patch& patch, double rate, double tuning_cents) : patch_(patch), rate_(rate), tuning_cents_(tuning_cents) { reset(); }

    void note_on(int key, int velocity) noexcept override {
        Voice* voice = nullptr;
        for (Voice& v : voices_)
            if (v.key == key && !v.level.idle()) voice = &v;
        if (!voice)
            for (Voice& v : voices_)
                if (v.level.idle()) {
                    voice = &v;
                    break;
                }
        if (!voice)  // all busy: take the one that is quietest, released ones first
            voice = &*std::min_element(voices_.begin(), voices_.end(),
                                       [](const Voice& a, const Voice& b) { return a.held != b.held ? !a.held : a.level.value() < b.level.value(); });
        if (voice->level.idle()) {
            voice->low = voice->band = voice->low_r = voice->band_r = 0.0;
            voice->first.restart(0.0);
            voice->second_left.restart(0.25);
            voice->second_right.restart(0.6);
            voice->filter.clear();
        }
        voice->key = key;
        voice->velocity = std::pow(velocity / 127.0, 1.3);
        voice->cents = 0.0;
        voice->age = 0.0;
        voice->held = true;
        voice->level.set(patch_.level, rate_);
        voice->filter.set(patch_.filter, rate_);
        voice->level.start();
        voice->filter.start();
    }

    void note_off(int key) noexcept override {
        for (Voice& v : voices_)
            if (v.key == key && v.held) {
                v.held = false;
                v.level.stop();
                v.filter.stop();
            }
    }

    void bend(int key, double cents) noexcept override {
        for (Voice& v : voices_)
            if (v.key == key) v.cents = cents;
    }

    void reset() noexcept override {
        for (Voice& v : voices_) v = Voice{};
        noise_ = 22222;
    }

    void render(std::span<float> left, std::span<float> right) noexcept override {
        for (Voice& v : voices_)
            if (!v.level.idle()) render_voice(v, left, right);
    }

private:
    void render_voice(Voice& v, std::span<float> left, std::span<float> right) noexcept {
        constexpr std::size_t kControl = 16;  // samples between recalculations of pitch and filter
        for (std::size_t begin = 0; begin < left.size() && !v.level.idle(); begin += kControl) {
            const std::size_t end = std::min(left.size(), begin + kControl);
            const double vibrato = patch_.vibrato_cents * std::sin(2.0 * std::numbers::pi * 5.2 * v.age) * std::min(1.0, v.age / 0.6);
            const double hz = hertz_of(v.key + (v.cents + vibrato + tuning_cents_) / 100.0);
            const double increment = std::min(0.45, hz / rate_);
            const double ratio = std::exp2(patch_.second_octave), spread = std::exp2(patch_.detune_cents / 1200.0);
            const double second_left = std::min(0.45, increment * ratio * spread), second_right = std::min(0.45, increment * ratio / spread);
            const double octaves = patch_.cutoff_octaves * v.filter.value() * (0.5 + 0.5 * v.velocity) + patch_.key_tracking * (v.key - 60) / 12.0;
            const double cutoff = std::clamp(patch_.cutoff_hz * std::exp2(octaves), 20.0, 0.45 * rate_);
            const double g = std::tan(std::numbers::pi * cutoff / rate_), k = 2.0 - 1.9 * patch_.resonance;
            const double a1 = 1.0 / (1.0 + g * (g + k)), a2 = g * a1, a3 = g * a2;
            const double gain = patch_.gain * v.velocity, width = patch_.width;
            for (std::size_t i = begin; i < end; ++i) {
                const double level = v.level.next() * gain;
                v.filter.next();
                noise_ = noise_ * 1664525u + 1013904223u;
                const double hiss = patch_.noise * (static_cast<double>(noise_ >> 8) / 8388608.0 - 1.0);
                const double one = v.first.next(patch_.first, increment) + hiss;
                const double two_l = patch_.second_level * v.second_left.next(patch_.second, second_left),
                             two_r = patch_.second_level * v.second_right.next(patch_.second, second_right);
                const double mid = 0.5 * (two_l + two_r);
                const auto filtered = [&](double in, double& low, double& band) {
                    const double v3 = in - low, v1 = a1 * band + a2 * v3, v2 = low + a2 * band + a3 * v3;
                    band = 2.0 * v1 - band;
                    low = 2.0 * v2 - low;
                    return v2;
                };
                left[i] += static_cast<float>(level * filtered(one + mid + width * (two_l - mid), v.low, v.band));
                right[i] += static_cast<float>(level * filtered(one + mid + width * (two_r - mid), v.low_r, v.band_r));
            }
            v.age += static_cast<double>(end - begin) / rate_;
        }
    }

    const Patch& patch_;
    double rate_, tuning_cents_;
    std::array<Voice, 16> voices_{};
    std::uint32_t noise_ = 22222;
};

}  // namespace

const std::vector<std::string>& synth_patch_names() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> list;
        for (const Patch& p : kPatches) list.emplace_back(p.name);
        return list;
    }();
    return names;
}

std::unique_ptr<Instrument> make_synth(const std::string& name, double sample_rate_hz, double tuning_cents) {
    const auto found = std::find_if(kPatches.begin(), kPatches.end(), [&](const Patch& p) { return name == p.name; });
    return std::make_unique<Synth>(found == kPatches.end() ? kPatches.front() : *found, sample_rate_hz, tuning_cents);
}

}  // namespace fw
