// SPDX-License-Identifier: GPL-3.0-or-later
// Oscillators by polynomial band-limited steps (Välimäki & Huovilainen, "Antialiasing oscillators in subtractive synthesis",
// IEEE SPM 2007); filter: trapezoidal state-variable (Simper, 2013), stable at any cutoff below half the sample rate.
#include "base/pitch.hpp"
#include "sound/approximations.hpp"
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

constexpr std::size_t kControl = 16;  // samples between recalculations of pitch and filter
using Chunk = std::array<float, kControl>;

/// Attack, decay, sustain, release with exponential curves that reach their ends.
class EnvelopeRunner {
public:
    void set(double attack_ms, double decay_ms, double sustain, double release_ms, double rate) noexcept {
        attack_.set(attack_ms / 3000.0, rate);
        decay_.set(decay_ms / 4000.0, rate);
        release_.set(release_ms / 4000.0, rate);
        sustain_ = static_cast<float>(sustain);
    }
    void start() noexcept { stage_ = Stage::Attack; }
    void stop() noexcept {
        if (stage_ != Stage::Idle) stage_ = Stage::Release;
    }
    void clear() noexcept {
        stage_ = Stage::Idle;
        value_ = 0.0F;
    }
    bool idle() const noexcept { return stage_ == Stage::Idle; }
    double value() const noexcept { return static_cast<double>(value_); }
    /// The next `count` values.
    void next(std::size_t count, Chunk& out) noexcept {
        for (std::size_t done = 0; done < count;) done += stretch(count - done, out, done);
    }
    void skip(std::size_t count) noexcept {
        Chunk unheard;
        next(count, unheard);
    }

private:
    /// Of the way to a target what is left after 1, 2, … frames.
    struct Curve {
        Chunk left{};
        void set(double time_s, double rate) noexcept {
            const double keep = std::exp(-1.0 / std::max(1.0, time_s * rate));
            double power = 1.0;
            for (float& l : left) l = static_cast<float>(power *= keep);
        }
    };
    static constexpr float kSilent = 1e-4F;

    /// Goes to the end of the stage or of what is asked for; returns the frames made.
    std::size_t stretch(std::size_t count, Chunk& out, std::size_t from) noexcept {
        const auto to = out.begin() + static_cast<std::ptrdiff_t>(from);
        if (stage_ == Stage::Idle) {
            std::fill_n(to, count, 0.0F);
            return count;
        }
        const Curve& curve = stage_ == Stage::Attack ? attack_ : stage_ == Stage::Decay ? decay_ : release_;
        const float target = stage_ == Stage::Attack ? 1.05F : stage_ == Stage::Decay ? sustain_ : 0.0F, way = value_ - target;
        Chunk made;
        for (std::size_t i = 0; i < kControl; ++i) made[i] = target + way * curve.left[i];
        const auto over = [&](float v) { return stage_ == Stage::Attack ? v >= 1.0F : target < kSilent && v < kSilent; };
        std::size_t frames = count;
        if (over(made[count - 1])) {
            frames = static_cast<std::size_t>(std::find_if(made.begin(), made.end(), over) - made.begin()) + 1;
            if (stage_ == Stage::Attack) made[frames - 1] = 1.0F, stage_ = Stage::Decay;
            else made[frames - 1] = 0.0F, stage_ = Stage::Idle;
        }
        value_ = made[frames - 1];
        std::copy_n(made.begin(), frames, to);
        return frames;
    }

    enum class Stage { Idle, Attack, Decay, Release } stage_ = Stage::Idle;
    float value_ = 0.0F, sustain_ = 1.0F;
    Curve attack_, decay_, release_;
};

/// What a step of height 2 at phase 0 lacks to be band-limited; `inverse` is 1 / increment. Written without a branch, so that loops over it are vectors.
inline float step_correction(float phase, float increment, float inverse) noexcept {
    const float a = phase * inverse, b = (phase - 1.0F) * inverse;
    const float behind = a + a - a * a - 1.0F, before = b * b + b + b + 1.0F;
    return phase < increment ? behind : phase > 1.0F - increment ? before : 0.0F;
}

class Oscillator {
public:
    void restart(double phase) noexcept { phase_ = phase; }
    /// Makes a whole chunk of which `count` frames are played.
    void next(Wave wave, double increment, std::size_t count, Chunk& out) noexcept {
        const auto step = static_cast<float>(increment), inverse = 1.0F / step, begin = static_cast<float>(phase_);
        Chunk phase;
        for (std::size_t i = 0; i < kControl; ++i) {
            const float p = begin + static_cast<float>(i) * step;
            phase[i] = p - std::floor(p);
        }
        switch (wave) {
            case Wave::Sine:
                for (std::size_t i = 0; i < kControl; ++i) out[i] = fast_sine(phase[i]);
                break;
            case Wave::Triangle:
                for (std::size_t i = 0; i < kControl; ++i) out[i] = 4.0F * std::abs(phase[i] - 0.5F) - 1.0F;
                break;
            case Wave::Saw:
                for (std::size_t i = 0; i < kControl; ++i) out[i] = 2.0F * phase[i] - 1.0F - step_correction(phase[i], step, inverse);
                break;
            case Wave::Square:
                for (std::size_t i = 0; i < kControl; ++i) {
                    const float other = phase[i] < 0.5F ? phase[i] + 0.5F : phase[i] - 0.5F;
                    out[i] = (phase[i] < 0.5F ? 1.0F : -1.0F) + step_correction(phase[i], step, inverse) - step_correction(other, step, inverse);
                }
                break;
        }
        // The phase itself is kept in double precision: a note does not drift however long it is held.
        phase_ += increment * static_cast<double>(count);
        phase_ -= std::floor(phase_);
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
    bool retuned = true;  ///< the increments below are to be worked out anew
    double first_step = 0.0, left_step = 0.0, right_step = 0.0;
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
        voice->retuned = true;
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
            if (v.id == id && !v.level.idle()) v.cents = cents, v.retuned = true;
    }

    void reset() noexcept override {
        for (Voice& v : voices_) v = Voice{};
        noise_ = 22222;
        smoothed_.reset();
    }

    void process(Stereo io, Stereo) noexcept override {
        const bool changed = smoothed_.advance(io.size());
        if (changed) gain_ = std::pow(10.0, smoothed_[kTrim] / 20.0);
        for (Voice& v : voices_)
            if (!v.level.idle()) {
                if (changed) shape_envelopes(v), v.retuned = true;
                for (std::size_t begin = 0; begin < io.size() && !v.level.idle(); begin += kControl)
                    render_voice(v, io.part(begin, std::min(kControl, io.size() - begin)));
            }
    }

private:
    void shape_envelopes(Voice& v) noexcept {
        // From what was set, not from what is on its way there: a note may begin before the first stretch is made.
        const auto f = [&](Field field) { return smoothed_.target(field); };
        v.level.set(f(kAttack), f(kDecay), f(kSustain), f(kRelease), rate_);
        v.filter.set(f(kSweepAttack), f(kSweepDecay), f(kSweepSustain), f(kSweepRelease), rate_);
    }

    void tune(Voice& v) noexcept {
        const double turns = 5.2 * v.age;
        const double vibrato = smoothed_[kVibrato] * static_cast<double>(fast_sine(static_cast<float>(turns - std::floor(turns)))) * std::min(1.0, v.age / 0.6);
        const double spread = std::exp2(smoothed_[kDetune] / 1200.0), ratio = std::exp2(smoothed_[kInterval] / 12.0);
        v.first_step = std::min(0.45, hertz_of(v.key + (v.cents + vibrato + tuning_cents_) / 100.0) / rate_);
        v.left_step = std::min(0.45, v.first_step * ratio * spread), v.right_step = std::min(0.45, v.first_step * ratio / spread);
        v.retuned = smoothed_[kVibrato] > 0.0;
    }

    /// At most kControl frames. Oscillators are made a chunk at a time, without branches; envelopes and filter go from frame to frame.
    void render_voice(Voice& v, Stereo io) noexcept {
        const std::size_t count = io.size();
        if (v.retuned) tune(v);
        const double octaves = smoothed_[kSweep] * v.filter.value() * (0.5 + 0.5 * v.velocity) + smoothed_[kTracking] * (v.key - 60) / 12.0;
        const double cutoff = std::clamp(smoothed_[kCutoff] * std::exp2(octaves), 20.0, 0.45 * rate_);
        const double g = std::tan(std::numbers::pi * cutoff / rate_), k = 2.0 - 1.9 * smoothed_[kResonance];
        const double a1 = 1.0 / (1.0 + g * (g + k)), a2 = g * a1, a3 = g * a2;
        const auto gain = static_cast<float>(gain_ * v.velocity);

        Chunk left, right;
        v.first.next(static_cast<Wave>(smoothed_.target(kFirst)), v.first_step, count, left);
        if (const auto noise = static_cast<float>(smoothed_[kNoise]); noise > 0.0F)
            for (float& s : left) {
                noise_ = noise_ * 1664525u + 1013904223u;
                s += noise * (static_cast<float>(noise_ >> 8) / 8388608.0F - 1.0F);
            }
        right = left;
        const auto second = static_cast<float>(smoothed_[kSecondLevel]), width = static_cast<float>(smoothed_[kWidth]);
        if (second > 0.0F) {
            const auto wave = static_cast<Wave>(smoothed_.target(kSecond));
            Chunk one, two;
            v.second_left.next(wave, v.left_step, count, one);
            v.second_right.next(wave, v.right_step, count, two);
            const float near = second * 0.5F * (1.0F + width), far = second * 0.5F * (1.0F - width);
            for (std::size_t i = 0; i < kControl; ++i) {
                left[i] += near * one[i] + far * two[i];
                right[i] += near * two[i] + far * one[i];
            }
        }

        Chunk level;
        v.level.next(count, level);
        v.filter.skip(count);
        Sides low = v.low, band = v.band;
        for (std::size_t i = 0; i < count; ++i) {
            const Sides in{left[i], right[i]};
            const Sides out = (a3 * in + a2 * band) + (1.0 - a3) * low;
            const Sides next = (2.0 * a2 * in + (2.0 * a1 - 1.0) * band) - 2.0 * a2 * low;
            low = (2.0 * a3 * in + 2.0 * a2 * band) + (1.0 - 2.0 * a3) * low;
            band = next;
            left[i] = static_cast<float>(out[0]);
            right[i] = static_cast<float>(out[1]);
        }
        v.low = low;
        v.band = band;
        for (std::size_t i = 0; i < count; ++i) {
            io.left[i] += gain * level[i] * left[i];
            io.right[i] += gain * level[i] * right[i];
        }
        v.age += static_cast<double>(count) / rate_;
    }

    double rate_, tuning_cents_;
    Smoothed<kCount> smoothed_;
    std::array<Voice, 16> voices_{};
    double gain_ = 1.0;
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
