// SPDX-License-Identifier: GPL-3.0-or-later
// Oscillators by polynomial band-limited steps (Välimäki & Huovilainen, "Antialiasing oscillators in subtractive synthesis",
// IEEE SPM 2007); filter: trapezoidal state-variable (Simper, 2013), stable at any cutoff below half the sample rate.
#include "base/pitch.hpp"
#include "sound/catalogue.hpp"
#include "sound/smoothed.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

enum class Wave { Sine, Triangle, Saw, Square };
constexpr std::array<const char*, 4> kWaves{"sine", "triangle", "saw", "square"};

enum Field {
    kFirst,
    kSecond,
    kSecondLevel,
    kDetune,
    kInterval,
    kNoise,
    kCutoff,
    kTracking,
    kResonance,
    kSweep,
    kAttack,
    kDecay,
    kSustain,
    kRelease,
    kSweepAttack,
    kSweepDecay,
    kSweepSustain,
    kSweepRelease,
    kVibrato,
    kWidth,
    kTrim,
    kCount
};
constexpr std::array<Parameter, kCount> kFields{{
    {"wave", "Wave", Unit::None, 0.0, 3.0, 2.0, Scale::Choice, 1.0, false, "The first oscillator's", kWaves},
    {"second_wave", "Second wave", Unit::None, 0.0, 3.0, 2.0, Scale::Choice, 1.0, false, "The second oscillator's", kWaves},
    {"second_level", "Second level", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "How much of the second oscillator"},
    {"detune", "Detune", Unit::Cents, 0.0, 50.0, 0.0, Scale::Linear, 0.5, true, "The second oscillator's sides, up and down"},
    {"interval", "Interval", Unit::Semitones, -24.0, 36.0, 0.0, Scale::Linear, 0.01, true, "The second oscillator above the first"},
    {"noise", "Noise", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.01, true, "How much noise besides"},
    {"cutoff", "Cutoff", Unit::Hertz, 20.0, 20000.0, 2000.0, Scale::Logarithmic, 0.02, true, "The low-pass at C4, before its envelope opens it"},
    {"tracking", "Key tracking", Unit::Share, 0.0, 1.0, 0.5, Scale::Linear, 0.02, true, "How far the cutoff follows the notes"},
    {"resonance", "Resonance", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "How much it rings at the cutoff"},
    {"sweep", "Sweep", Unit::Octaves, -6.0, 6.0, 0.0, Scale::Linear, 0.1, true, "How far the filter's envelope moves the cutoff"},
    {"attack_ms", "Attack", Unit::Milliseconds, 1.0, 5000.0, 5.0, Scale::Logarithmic, 0.05, true, "Until a note is at its loudest"},
    {"decay_ms", "Decay", Unit::Milliseconds, 5.0, 10000.0, 400.0, Scale::Logarithmic, 0.05, true, "From there to what is held"},
    {"sustain", "Sustain", Unit::Share, 0.0, 1.0, 0.8, Scale::Linear, 0.02, true, "What is held"},
    {"release_ms", "Release", Unit::Milliseconds, 5.0, 10000.0, 100.0, Scale::Logarithmic, 0.05, true, "Until it is silent"},
    {"sweep_attack_ms", "Sweep attack", Unit::Milliseconds, 1.0, 5000.0, 5.0, Scale::Logarithmic, 0.05, true, "Until the filter is open"},
    {"sweep_decay_ms", "Sweep decay", Unit::Milliseconds, 5.0, 10000.0, 300.0, Scale::Logarithmic, 0.05, true, "From there to where it stays"},
    {"sweep_sustain", "Sweep sustain", Unit::Share, 0.0, 1.0, 0.5, Scale::Linear, 0.02, true, "Where it stays"},
    {"sweep_release_ms", "Sweep release", Unit::Milliseconds, 5.0, 10000.0, 200.0, Scale::Logarithmic, 0.05, true, "Until it is closed"},
    {"vibrato", "Vibrato", Unit::Cents, 0.0, 100.0, 0.0, Scale::Linear, 1.0, true, "How far held notes waver"},
    {"width", "Width", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "How far the second oscillator's sides lie apart"},
    {"trim", "Trim", Unit::Decibels, -24.0, 12.0, -6.0, Scale::Linear, 0.5, true, "The patch's own loudness"},
}};

struct Patch {
    const char* name;
    std::array<double, kCount> values;
};

constexpr double kSaw = static_cast<double>(Wave::Saw), kSine = static_cast<double>(Wave::Sine), kTriangle = static_cast<double>(Wave::Triangle),
                 kSquare = static_cast<double>(Wave::Square);
constexpr std::array kPatches{
    Patch{"Round bass", {kSaw, kSine, 0.9, 0, 0, 0, 300, 0.4, 0.15, 2.2, 4, 500, 0.65, 70, 3, 220, 0.25, 100, 0, 0, -5.19}},
    Patch{"Sub bass", {kSine, kTriangle, 0.25, 0, 0, 0, 900, 0.3, 0.0, 0.5, 6, 400, 0.9, 60, 10, 300, 0.5, 100, 0, 0, -4.44}},
    Patch{"Reed lead", {kSquare, kSaw, 0.55, 7, 0, 0.01, 1500, 0.6, 0.2, 0.9, 30, 300, 0.85, 90, 50, 500, 0.7, 200, 6, 0.25, -10.46}},
    Patch{"Bright lead", {kSaw, kSaw, 0.9, 11, 0, 0, 3200, 0.5, 0.25, 1.2, 5, 400, 0.8, 120, 5, 400, 0.5, 200, 5, 0.5, -11.7}},
    Patch{"Soft pluck", {kTriangle, kSaw, 0.3, 5, 0, 0, 700, 0.7, 0.15, 2.6, 2, 550, 0.0, 180, 1, 160, 0.05, 150, 0, 0.3, -6.02}},
    Patch{"Warm pad", {kSaw, kSaw, 1.0, 14, 0, 0.02, 900, 0.4, 0.1, 0.8, 250, 800, 0.85, 600, 400, 1000, 0.6, 800, 3, 0.9, -13.15}},
    Patch{"Organ", {kSine, kSine, 0.7, 0, 12, 0, 5000, 0.3, 0.0, 0.0, 6, 100, 1.0, 50, 10, 100, 1.0, 100, 4, 0.2, -9.37}},
    Patch{"Bell", {kSine, kSine, 0.35, 2, 19.02, 0, 6000, 0.5, 0.0, 0.5, 1, 1800, 0.0, 900, 1, 600, 0.2, 500, 0, 0.4, -7.54}},
};

/// Attack, decay, sustain, release with exponential curves that reach their ends.
class EnvelopeRunner {
public:
    void set(double attack_ms, double decay_ms, double sustain, double release_ms, double rate) noexcept {
        attack_ = coefficient(attack_ms / 3000.0, rate);
        decay_ = coefficient(decay_ms / 4000.0, rate);
        release_ = coefficient(release_ms / 4000.0, rate);
        sustain_ = sustain;
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
                if (sustain_ < 1e-4 && value_ < 1e-4) clear();
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

using Sides = double __attribute__((vector_size(16)));  // left and right in one register

struct Voice {
    VoiceId id = 0;
    int key = -1;
    double velocity = 0.0, cents = 0.0, age = 0.0;
    bool held = false;
    EnvelopeRunner level, filter;
    Oscillator first, second_left, second_right;
    Sides low{}, band{};
};

/// A polyphonic subtractive synthesiser (16 voices): two band-limited oscillators and noise through a resonant low-pass, envelopes for level and cutoff,
/// vibrato.
class Synth final : public Processor {
public:
    Synth(const Patch& patch, double rate, double tuning_cents) : rate_(rate), tuning_cents_(tuning_cents), smoothed_(rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, patch.values[i]);
        reset();
    }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    double tail_s() const noexcept override { return 10.0; }
    bool idle() const noexcept override {
        return std::all_of(voices_.begin(), voices_.end(), [](const Voice& v) { return v.level.idle(); });
    }

    void note_on(VoiceId id, int key, int velocity) noexcept override {
        Voice* voice = nullptr;
        for (Voice& v : voices_)  // a key that sounds is struck again; the note that held it has no more say
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
            voice->low = voice->band = Sides{};
            voice->first.restart(0.0);
            voice->second_left.restart(0.25);
            voice->second_right.restart(0.6);
            voice->filter.clear();
        }
        voice->id = id;
        voice->key = key;
        voice->velocity = std::pow(velocity / 127.0, 1.3);
        voice->cents = 0.0;
        voice->age = 0.0;
        voice->held = true;
        shape_envelopes(*voice);
        voice->level.start();
        voice->filter.start();
    }

    void note_off(VoiceId id) noexcept override {
        for (Voice& v : voices_)
            if (v.id == id && v.held) {
                v.held = false;
                v.level.stop();
                v.filter.stop();
            }
    }

    void bend(VoiceId id, double cents) noexcept override {
        for (Voice& v : voices_)
            if (v.id == id && !v.level.idle()) v.cents = cents;
    }

    void reset() noexcept override {
        for (Voice& v : voices_) v = Voice{};
        noise_ = 22222;
        smoothed_.reset();
    }

    void process(Stereo io, Stereo) noexcept override {
        const bool changed = smoothed_.advance(io.size());
        for (Voice& v : voices_)
            if (!v.level.idle()) {
                if (changed) shape_envelopes(v);
                render_voice(v, io.left, io.right);
            }
    }

private:
    void shape_envelopes(Voice& v) noexcept {
        // From what was set, not from what is on its way there: a note may begin before the first stretch is made.
        const auto f = [&](Field field) { return smoothed_.target(field); };
        v.level.set(f(kAttack), f(kDecay), f(kSustain), f(kRelease), rate_);
        v.filter.set(f(kSweepAttack), f(kSweepDecay), f(kSweepSustain), f(kSweepRelease), rate_);
    }

    void render_voice(Voice& v, std::span<float> left, std::span<float> right) noexcept {
        constexpr std::size_t kControl = 16;  // samples between recalculations of pitch and filter
        for (std::size_t begin = 0; begin < left.size() && !v.level.idle(); begin += kControl) {
            const std::size_t end = std::min(left.size(), begin + kControl);
            const double vibrato = smoothed_[kVibrato] * std::sin(2.0 * std::numbers::pi * 5.2 * v.age) * std::min(1.0, v.age / 0.6);
            const double hz = hertz_of(v.key + (v.cents + vibrato + tuning_cents_) / 100.0);
            const double increment = std::min(0.45, hz / rate_);
            const double ratio = std::exp2(smoothed_[kInterval] / 12.0), spread = std::exp2(smoothed_[kDetune] / 1200.0);
            const double second_left = std::min(0.45, increment * ratio * spread), second_right = std::min(0.45, increment * ratio / spread);
            const double octaves = smoothed_[kSweep] * v.filter.value() * (0.5 + 0.5 * v.velocity) + smoothed_[kTracking] * (v.key - 60) / 12.0;
            const double cutoff = std::clamp(smoothed_[kCutoff] * std::exp2(octaves), 20.0, 0.45 * rate_);
            const double g = std::tan(std::numbers::pi * cutoff / rate_), k = 2.0 - 1.9 * smoothed_[kResonance];
            const double a1 = 1.0 / (1.0 + g * (g + k)), a2 = g * a1, a3 = g * a2;
            const double gain = std::pow(10.0, smoothed_[kTrim] / 20.0) * v.velocity, width = smoothed_[kWidth];
            const double noise = smoothed_[kNoise], second_level = smoothed_[kSecondLevel];
            const auto first_wave = static_cast<Wave>(smoothed_.target(kFirst)), second_wave = static_cast<Wave>(smoothed_.target(kSecond));
            for (std::size_t i = begin; i < end; ++i) {
                const double level = v.level.next() * gain;
                v.filter.next();
                noise_ = noise_ * 1664525u + 1013904223u;
                const double hiss = noise * (static_cast<double>(noise_ >> 8) / 8388608.0 - 1.0);
                const double one = v.first.next(first_wave, increment) + hiss;
                const double two_l = second_level * v.second_left.next(second_wave, second_left),
                             two_r = second_level * v.second_right.next(second_wave, second_right);
                const double mid = 0.5 * (two_l + two_r);
                const Sides in{one + mid + width * (two_l - mid), one + mid + width * (two_r - mid)};
                const Sides v3 = in - v.low, v1 = a1 * v.band + a2 * v3, v2 = v.low + a2 * v.band + a3 * v3;
                v.band = v1 + v1 - v.band;
                v.low = v2 + v2 - v.low;
                left[i] += static_cast<float>(level * v2[0]);
                right[i] += static_cast<float>(level * v2[1]);
            }
            v.age += static_cast<double>(end - begin) / rate_;
        }
    }

    double rate_, tuning_cents_;
    Smoothed<kCount> smoothed_;
    std::array<Voice, 16> voices_{};
    std::uint32_t noise_ = 22222;
};

const Patch& patch_of(const std::string& name) {
    const auto found = std::find_if(kPatches.begin(), kPatches.end(), [&](const Patch& p) { return name == p.name; });
    return found == kPatches.end() ? kPatches.front() : *found;
}

const std::vector<std::string>& patch_names() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> list;
        for (const Patch& p : kPatches) list.emplace_back(p.name);
        return list;
    }();
    return names;
}

}  // namespace

const SourceType kSynth{"synth",
                        "Synth",
                        "Two oscillators and noise through a filter",
                        kFields,
                        patch_names,
                        [](const std::string& patch, std::size_t field) { return patch_of(patch).values[field]; },
                        [](const SourceSpec& spec, double rate) -> Result<std::unique_ptr<Processor>> {
                            return std::unique_ptr<Processor>(std::make_unique<Synth>(patch_of(spec.patch), rate, spec.tuning_cents));
                        }};

}  // namespace fw
