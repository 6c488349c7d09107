// SPDX-License-Identifier: GPL-3.0-or-later
// Oscillators read from band-limited tables; filter: trapezoidal state-variable (Simper, 2013), stable at any cutoff below half the sample rate; drive by the
// antiderivative of its curve, as the step of that name (steps/drive.cpp).
#include "base/pitch.hpp"
#include "sound/approximations.hpp"
#include "sound/band_limited.hpp"
#include "sound/catalogue.hpp"
#include "sound/envelope.hpp"
#include "sound/smoothed.hpp"
#include "sound/sources/synth_fields.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

using namespace synth;

constexpr std::size_t kControl = 16;  // samples between recalculations of pitch and filter
using Chunk = std::array<float, kControl>;

/// What drives an oscillator for a chunk: its wave and what belongs to it.
struct Tone {
    Wave wave = Wave::Saw;
    double step = 0.0;   ///< turns a frame
    float pulse = 0.5F;  ///< width of a square
    const std::array<float, kPartials>* partials = nullptr;
};

class Oscillator {
public:
    void restart(double phase) noexcept { phase_ = phase; }
    /// Makes a whole chunk of which `count` frames are played.
    void next(const Tone& tone, std::size_t count, Chunk& out) noexcept {
        const auto step = static_cast<float>(tone.step), begin = static_cast<float>(phase_);
        Chunk phase;
        for (std::size_t i = 0; i < kControl; ++i) {
            const float p = begin + static_cast<float>(i) * step;
            phase[i] = p - std::floor(p);
        }
        switch (tone.wave) {
            case Wave::Sine:
                for (std::size_t i = 0; i < kControl; ++i) out[i] = fast_sine(phase[i]);
                break;
            case Wave::Triangle: {
                const BandLimited table = table_for(tone);
                for (std::size_t i = 0; i < kControl; ++i) out[i] = table.at(phase[i]);
                break;
            }
            case Wave::Saw: {
                const BandLimited table = table_for(tone);
                for (std::size_t i = 0; i < kControl; ++i) out[i] = table.at(phase[i]);
                break;
            }
            case Wave::Square: {
                // Two saws, one behind the other by the width: their jumps are the pulse's edges.
                const BandLimited table = table_for(tone);
                for (std::size_t i = 0; i < kControl; ++i) {
                    const float later = phase[i] + 1.0F - tone.pulse;
                    out[i] = table.at(later - std::floor(later)) - table.at(phase[i]);
                }
                break;
            }
            case Wave::Partials: {
                out.fill(0.0F);
                const auto most = static_cast<std::size_t>(std::clamp(0.499 / tone.step, 1.0, static_cast<double>(kPartials)));
                for (std::size_t k = 0; k < most; ++k) {
                    const float level = -2.0F / std::numbers::pi_v<float> * (*tone.partials)[k], times = static_cast<float>(k + 1);
                    if (level == 0.0F) continue;
                    for (std::size_t i = 0; i < kControl; ++i) {
                        const float p = times * phase[i];
                        out[i] += level * fast_sine(p - std::floor(p));
                    }
                }
                break;
            }
        }
        // The phase itself is kept in double precision: a note does not drift however long it is held.
        phase_ += tone.step * static_cast<double>(count);
        phase_ -= std::floor(phase_);
    }

private:
    /// Looked for where pitch or wave have changed.
    BandLimited table_for(const Tone& tone) noexcept {
        if (!table_.fits(tone.step) || tone.wave != table_wave_) {
            const BandLimitedWaves& waves = BandLimitedWaves::get();
            table_ = tone.wave == Wave::Triangle ? waves.triangle(tone.step) : waves.saw(tone.step);
            table_wave_ = tone.wave;
        }
        return table_;
    }

    double phase_ = 0.0;
    Wave table_wave_ = Wave::Sine;
    BandLimited table_;
};

using Sides = double __attribute__((vector_size(16)));  // left and right in one register

struct Voice {
    VoiceId id = 0;
    int key = -1;
    double velocity = 0.0, cents = 0.0, age = 0.0;
    bool held = false;
    double glide = 0.0, glide_step = 0.0;  ///< cents still to go to the key's pitch, and a frame's share of them
    int tuned_key = -1;
    double key_turns = 0.0, bent = 0.0, turns = 0.0;  ///< the key's turns a frame; the cents it is away from it, and its turns then
    double octaves = 1e9, g = 0.0;                    ///< how far the cutoff last was from its field, and what the filter makes of it
    double drift = 0.0, wear_cents = 0.0, wear_octaves = 0.0, wear_gain = 1.0;
    std::uint32_t dice = 1;
    Envelope<kControl> level, filter;
    std::array<Oscillator, kMostUnison> first;
    Oscillator second_left, second_right, sub;
    std::array<double, 2> lfo{};  ///< phases
    Sides low[2]{}, band[2]{};
    float driven[2]{};  ///< the last input of the drive, left and right
    float noise_low = 0.0F, noise_high = 0.0F;
};

/// −1 … 1, the same for the same number.
double chance(std::uint32_t& dice) noexcept {
    dice = dice * 1664525u + 1013904223u;
    return static_cast<double>(dice >> 8) / 8388608.0 - 1.0;
}

/// A subtractive synthesiser: two oscillators, the first up to seven-fold, a sub and noise through a resonant filter, envelopes for level and filter, a punch
/// of pitch, two LFOs; 16 voices, or one.
class Synth final : public Processor {
public:
    Synth(const Patch& patch, double rate, double tuning_cents) : rate_(rate), tuning_cents_(tuning_cents), smoothed_(rate) {
        BandLimitedWaves::get();
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, value_in(patch, i));
        reset();
    }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    double tail_s() const noexcept override { return 10.0; }
    bool idle() const noexcept override {
        return std::all_of(voices_.begin(), voices_.end(), [](const Voice& v) { return v.level.idle(); });
    }

    void note_on(VoiceId id, int key, int velocity) noexcept override {
        const auto play = static_cast<Play>(smoothed_.target(kPlay));
        const bool overlaps = std::any_of(voices_.begin(), voices_.end(), [](const Voice& v) { return v.held; });
        if (play != Play::Poly) {
            if (held_count_ == held_.size()) std::move(held_.begin() + 1, held_.end(), held_.begin()), --held_count_;
            held_[held_count_++] = {id, key};
        }
        Voice& voice = play == Play::Poly ? free_voice(key) : voices_.front();
        const bool goes_on = !voice.level.idle(), new_stroke = play != Play::Legato || !goes_on || !voice.held;
        const double before = last_key_ < 0 ? 0.0 : 100.0 * (last_key_ - key) + (goes_on && play != Play::Poly ? voice.glide : 0.0);
        if (!goes_on) begin_voice(voice);
        voice.id = id;
        voice.key = key;
        voice.cents = 0.0;
        voice.held = true;
        if (new_stroke) {
            voice.velocity = std::pow(velocity / 127.0, 1.3);
            voice.age = 0.0;
            if (smoothed_.target(kLfo + kRestart) >= 0.5) voice.lfo[0] = 0.0;
            if (smoothed_.target(kLfo2 + kRestart) >= 0.5) voice.lfo[1] = 0.0;
            voice.dice = ++strokes_ * 2654435761u;
            const double wear = smoothed_.target(kWearing);
            voice.wear_cents = 8.0 * wear * chance(voice.dice);
            voice.wear_octaves = 0.4 * wear * chance(voice.dice);
            voice.wear_gain = std::pow(10.0, 1.5 / 20.0 * wear * chance(voice.dice));
            shape_envelopes(voice);
            voice.level.start();
            voice.filter.start();
        }
        glide_from(voice, before, overlaps);
        last_key_ = key;
    }

    void note_off(VoiceId id) noexcept override {
        const auto end = held_.begin() + static_cast<std::ptrdiff_t>(held_count_);
        held_count_ = static_cast<std::size_t>(std::remove_if(held_.begin(), end, [&](const HeldKey& h) { return h.id == id; }) - held_.begin());
        for (Voice& v : voices_)
            if (v.id == id && v.held) {
                if (held_count_ > 0 && &v == &voices_.front() && static_cast<Play>(smoothed_.target(kPlay)) != Play::Poly) {
                    // Back to the key that is held still.
                    const HeldKey& back = held_[held_count_ - 1];
                    const double before = 100.0 * (v.key - back.key) + v.glide;
                    v.id = back.id, v.key = back.key, last_key_ = back.key;
                    glide_from(v, before, true);
                } else {
                    v.held = false;
                    v.level.stop();
                    v.filter.stop();
                }
            }
    }

    void bend(VoiceId id, double cents) noexcept override {
        for (Voice& v : voices_)
            if (v.id == id && !v.level.idle()) v.cents = cents;
    }

    void reset() noexcept override {
        for (Voice& v : voices_) v = Voice{};
        noise_ = 22222;
        strokes_ = 0;
        last_key_ = -1;
        held_count_ = 0;
        free_phase_ = {};
        smoothed_.reset();
    }

    void process(Stereo io, Stereo) noexcept override {
        if (smoothed_.advance(io.size())) {
            gain_ = std::pow(10.0, smoothed_[kTrim] / 20.0);
            for (std::size_t i = 0; i < kPartials; ++i) partials_[i] = static_cast<float>(smoothed_[kPartial + i]);
            tune_oscillators();
            for (Voice& v : voices_) v.octaves = 1e9;
            for (Voice& v : voices_)
                if (!v.level.idle()) shape_envelopes(v);
        }
        for (Voice& v : voices_)
            if (!v.level.idle())
                for (std::size_t begin = 0; begin < io.size() && !v.level.idle(); begin += kControl)
                    render_voice(v, begin, io.part(begin, std::min(kControl, io.size() - begin)));
        for (std::size_t l = 0; l < 2; ++l) {
            free_phase_[l] += lfo_hz(l) * static_cast<double>(io.size()) / rate_;
            free_phase_[l] -= std::floor(free_phase_[l] / 65536.0) * 65536.0;
        }
    }

private:
    struct HeldKey {
        VoiceId id;
        int key;
    };

    Voice& free_voice(int key) noexcept {
        for (Voice& v : voices_)  // a key that sounds is struck again; the note that held it has no more say
            if (v.key == key && !v.level.idle()) return v;
        for (Voice& v : voices_)
            if (v.level.idle()) return v;
        // All busy: take the one that is quietest, released ones first.
        return *std::min_element(voices_.begin(), voices_.end(),
                                 [](const Voice& a, const Voice& b) { return a.held != b.held ? !a.held : a.level.value() < b.level.value(); });
    }

    void begin_voice(Voice& v) noexcept {
        v.low[0] = v.low[1] = v.band[0] = v.band[1] = Sides{};
        v.driven[0] = v.driven[1] = 0.0F;
        v.noise_low = v.noise_high = 0.0F;
        v.drift = 0.0;
        v.filter.clear();
        if (smoothed_.target(kPhases) < 0.5 && v.age > 0.0) return;  // its waves run on
        std::uint32_t dice = 12345;
        for (std::size_t i = 0; i < v.first.size(); ++i) v.first[i].restart(i == 0 ? 0.0 : 0.5 + 0.5 * chance(dice));
        v.second_left.restart(0.25);
        v.second_right.restart(0.6);
        v.sub.restart(0.0);
        v.lfo = {};
    }

    void glide_from(Voice& v, double cents, bool overlaps) noexcept {
        const double ms = smoothed_.target(kGlide);
        const bool glides = ms >= 1.0 && cents != 0.0 && (overlaps || smoothed_.target(kGlideAlways) >= 0.5);
        v.glide = glides ? cents : 0.0;
        v.glide_step = glides ? std::abs(cents) / (ms / 1000.0 * rate_) : 0.0;
    }

    void shape_envelopes(Voice& v) noexcept {
        // From what was set, not from what is on its way there: a note may begin before the first stretch is made.
        const auto f = [&](Field field) { return smoothed_.target(field); };
        v.level.set(f(kAttack), f(kDecay), f(kSustain), f(kRelease), f(kCurve), rate_);
        v.filter.set(f(kSweepAttack), f(kSweepDecay), f(kSweepSustain), f(kSweepRelease), f(kSweepCurve), rate_);
    }

    /// What the oscillators' pitches are to the key's.
    void tune_oscillators() noexcept {
        first_ = std::exp2(smoothed_.target(kOctave) + smoothed_[kFine] / 1200.0);
        below_ = first_ * std::exp2(smoothed_.target(kSubOctave));
        unison_ = static_cast<std::size_t>(std::clamp(smoothed_.target(kUnison), 1.0, static_cast<double>(kMostUnison)));
        for (std::size_t u = 0; u < unison_; ++u) {
            // The middle one first, then outwards to either side in turn.
            out_[u] = unison_ == 1 ? 0.0 : (u % 2 ? 1.0 : -1.0) * static_cast<double>((u + 1) / 2) / static_cast<double>(unison_ / 2);
            beside_[u] = first_ * std::exp2(out_[u] * smoothed_[kUnisonDetune] / 1200.0);
        }
        const double spread = std::exp2(smoothed_[kDetune] / 1200.0), ratio = std::exp2(smoothed_[kInterval] / 12.0);
        second_ = {ratio * spread, ratio / spread};
    }

    double lfo_hz(std::size_t which) const noexcept {
        const std::size_t at = which == 0 ? kLfo : kLfo2;
        return smoothed_.target(at + kTimed) >= 0.5 ? 1.0 / std::max(0.01, smoothed_[at + kEvery]) : smoothed_[at + kRate];
    }

    /// −1 … 1, with what fades it in.
    double lfo(Voice& v, std::size_t which, std::size_t frame, std::size_t count) noexcept {
        const std::size_t at = which == 0 ? kLfo : kLfo2;
        const bool moves = smoothed_[at + kToPitch] != 0.0 || smoothed_[at + kToCutoff] != 0.0 || smoothed_[at + kToResonance] != 0.0 ||
                           smoothed_[at + kToPulse] != 0.0 || smoothed_[at + kToLevel] != 0.0;
        if (!moves) return 0.0;
        const double hz = lfo_hz(which);
        const bool restarts = smoothed_.target(at + kRestart) >= 0.5;
        const double turns = restarts ? v.lfo[which] : free_phase_[which] + hz * static_cast<double>(frame) / rate_;
        v.lfo[which] += hz * static_cast<double>(count) / rate_;
        const double p = turns - std::floor(turns), fades_s = smoothed_[at + kFadeIn] / 1000.0;
        const double in = fades_s <= 0.0 ? 1.0 : std::min(1.0, v.age / fades_s);
        switch (static_cast<int>(smoothed_.target(at + kShape))) {
            case 0: return in * static_cast<double>(fast_sine(static_cast<float>(p)));
            case 1: return in * (p < 0.25 ? 4.0 * p : p < 0.75 ? 2.0 - 4.0 * p : 4.0 * p - 4.0);
            case 2: return in * (1.0 - 2.0 * p);
            case 3: return in * (p < 0.5 ? 1.0 : -1.0);
            default: {
                auto dice = static_cast<std::uint32_t>(static_cast<std::int64_t>(std::floor(turns))) * 2654435761u + static_cast<std::uint32_t>(which);
                chance(dice);
                return in * chance(dice);
            }
        }
    }

    /// At most kControl frames. Oscillators are made a chunk at a time, without branches; envelopes and filter go from frame to frame.
    void render_voice(Voice& v, std::size_t frame, Stereo io) noexcept {
        const std::size_t count = io.size();
        const std::array<double, 2> waves{lfo(v, 0, frame, count), lfo(v, 1, frame, count)};
        const auto moved = [&](std::size_t what) { return waves[0] * smoothed_[kLfo + what] + waves[1] * smoothed_[kLfo2 + what]; };

        // Pitch.
        double cents = v.cents + tuning_cents_ + v.wear_cents + moved(kToPitch);
        if (const double vibrato = smoothed_[kVibrato]; vibrato > 0.0) {
            const double turns = 5.2 * v.age;
            cents += vibrato * static_cast<double>(fast_sine(static_cast<float>(turns - std::floor(turns)))) * std::min(1.0, v.age / 0.6);
        }
        if (const double punch = smoothed_[kPunch]; punch != 0.0) cents += 100.0 * punch * std::exp(-5.0 * v.age / (smoothed_[kPunchTime] / 1000.0));
        if (v.glide != 0.0) {
            cents += v.glide;
            v.glide = std::copysign(std::max(0.0, std::abs(v.glide) - v.glide_step * static_cast<double>(count)), v.glide);
        }
        if (const double drift = smoothed_[kDrift]; drift > 0.0) {
            // A walk that is drawn back to the middle within a second or so.
            const double dt = static_cast<double>(count) / rate_;
            v.drift += -v.drift * dt / 1.2 + chance(v.dice) * std::sqrt(dt) * 1.3;
            cents += drift * std::clamp(v.drift, -1.5, 1.5);
        }
        if (v.key != v.tuned_key || cents != v.bent) {
            if (v.key != v.tuned_key) v.key_turns = hertz_of(v.key) / rate_;
            v.tuned_key = v.key, v.bent = cents;
            v.turns = v.key_turns * fast_exp2_of_pitch(cents / 1200.0);
        }
        const auto step = [&](double ratio) { return std::min(0.49, v.turns * ratio); };

        // Oscillators.
        const auto width_of = [&](Field field) { return static_cast<float>(std::clamp(smoothed_[field] + 0.5 * moved(kToPulse), 0.02, 0.98)); };
        Chunk left, right;
        Tone tone{static_cast<Wave>(smoothed_.target(kFirst)), step(first_), width_of(kPulse), &partials_};
        if (unison_ == 1) {
            v.first[0].next(tone, count, left);
            right = left;
        } else {
            left.fill(0.0F), right.fill(0.0F);
            const float each = 1.0F / std::sqrt(static_cast<float>(unison_));
            for (std::size_t u = 0; u < unison_; ++u) {
                tone.step = step(beside_[u]);
                const auto side = static_cast<float>(out_[u] * smoothed_[kUnisonWidth]);
                Chunk one;
                v.first[u].next(tone, count, one);
                for (std::size_t i = 0; i < kControl; ++i) left[i] += each * (1.0F - side) * one[i], right[i] += each * (1.0F + side) * one[i];
            }
        }
        if (const auto sub = static_cast<float>(smoothed_[kSubLevel]); sub > 0.0F) {
            constexpr std::array kWavesBelow{Wave::Sine, Wave::Triangle, Wave::Square};
            Chunk below;
            v.sub.next({kWavesBelow[static_cast<std::size_t>(smoothed_.target(kSub))], step(below_), 0.5F, nullptr}, count, below);
            for (std::size_t i = 0; i < kControl; ++i) left[i] += sub * below[i], right[i] += sub * below[i];
        }
        if (const auto noise = static_cast<float>(smoothed_[kNoise]); noise > 0.0F) {
            const auto pole = [&](double hz) { return static_cast<float>(1.0 - std::exp(-2.0 * std::numbers::pi * std::min(hz, 0.45 * rate_) / rate_)); };
            const bool high = smoothed_[kNoiseHigh]<19000.0, low = smoothed_[kNoiseLow]> 21.0;
            const float up_to = high ? pole(smoothed_[kNoiseHigh]) : 1.0F, from = low ? pole(smoothed_[kNoiseLow]) : 0.0F;
            for (std::size_t i = 0; i < count; ++i) {
                noise_ = noise_ * 1664525u + 1013904223u;
                v.noise_high += up_to * (static_cast<float>(noise_ >> 8) / 8388608.0F - 1.0F - v.noise_high);
                v.noise_low += from * (v.noise_high - v.noise_low);
                const float s = noise * (v.noise_high - v.noise_low);
                left[i] += s, right[i] += s;
            }
        }
        if (const auto second = static_cast<float>(smoothed_[kSecondLevel]); second > 0.0F) {
            const auto width = static_cast<float>(smoothed_[kSecondWidth]);
            tone.wave = static_cast<Wave>(smoothed_.target(kSecond));
            tone.pulse = width_of(kSecondPulse);
            Chunk one, two;
            tone.step = step(second_[0]);
            v.second_left.next(tone, count, one);
            tone.step = step(second_[1]);
            v.second_right.next(tone, count, two);
            const float near = second * 0.5F * (1.0F + width), far = second * 0.5F * (1.0F - width);
            for (std::size_t i = 0; i < kControl; ++i) {
                left[i] += near * one[i] + far * two[i];
                right[i] += near * two[i] + far * one[i];
            }
        }

        drive(v, count, left, right);
        filter(v, count, moved(kToCutoff), moved(kToResonance), left, right);

        Chunk level;
        v.level.next(count, level);
        const double down = 0.5 * smoothed_[kLfo + kToLevel] * (1.0 - waves[0]) + 0.5 * smoothed_[kLfo2 + kToLevel] * (1.0 - waves[1]);
        const auto gain = static_cast<float>(gain_ * v.velocity * v.wear_gain * std::max(0.0, 1.0 - down));
        for (std::size_t i = 0; i < count; ++i) {
            io.left[i] += gain * level[i] * left[i];
            io.right[i] += gain * level[i] * right[i];
        }
        v.age += static_cast<double>(count) / rate_;
    }

    void drive(Voice& v, std::size_t count, Chunk& left, Chunk& right) noexcept {
        const double db = smoothed_[kFilterDrive];
        if (db <= 0.0) return;
        // Blended in over the first decibel, so that the field has no step in it.
        const auto gain = static_cast<float>(std::pow(10.0, db / 20.0)), blend = static_cast<float>(std::min(1.0, db)), back = blend / std::sqrt(gain);
        std::size_t side = 0;
        for (Chunk* x : {&left, &right}) {
            // What goes in, and before it the last of the chunk before; of each the antiderivative sqrt(1 + x²).
            std::array<float, kControl + 1> in, area;
            in[0] = v.driven[side];
            for (std::size_t i = 0; i < kControl; ++i) in[i + 1] = gain * (*x)[i];
            for (std::size_t i = 0; i <= kControl; ++i) area[i] = std::sqrt(1.0F + in[i] * in[i]);
            for (std::size_t i = 0; i < kControl; ++i) (*x)[i] = (1.0F - blend) * (*x)[i] + back * ((in[i + 1] + in[i]) / (area[i + 1] + area[i]));
            v.driven[side++] = in[count];
        }
    }

    void filter(Voice& v, std::size_t count, double octaves, double more_resonance, Chunk& left, Chunk& right) noexcept {
        octaves += smoothed_[kSweep] * v.filter.value() * (0.5 + 0.5 * v.velocity) + smoothed_[kTracking] * (v.key - 60) / 12.0 + v.wear_octaves;
        const double resonance = std::clamp(smoothed_[kResonance] + more_resonance + smoothed_[kResonanceSweep] * v.filter.value(), 0.0, 1.0);
        v.filter.skip(count);
        const auto pass = static_cast<Pass>(smoothed_.target(kPass));
        if (octaves != v.octaves) {
            v.octaves = octaves;
            const double hz = smoothed_[kCutoff] * static_cast<double>(fast_exp2(static_cast<float>(octaves)));
            v.g = fast_tangent(std::numbers::pi * std::clamp(hz, 20.0, 0.45 * rate_) / rate_);
        }
        if (smoothed_.target(kSlope) < 0.5) {
            Stage one(v, 0, pass, 2.0 - 1.9 * resonance);
            for (std::size_t i = 0; i < count; ++i) {
                const Sides out = one.next(Sides{left[i], right[i]});
                left[i] = static_cast<float>(out[0]), right[i] = static_cast<float>(out[1]);
            }
            one.leave(v, 0);
        } else {
            // Two stages make a Butterworth filter of the fourth order until the first one rings. In one loop the second works on a frame while the first
            // is at the next.
            Stage one(v, 0, pass, 0.7654 - 0.7 * resonance), two(v, 1, pass, 1.8478);
            for (std::size_t i = 0; i < count; ++i) {
                const Sides out = two.next(one.next(Sides{left[i], right[i]}));
                left[i] = static_cast<float>(out[0]), right[i] = static_cast<float>(out[1]);
            }
            one.leave(v, 0), two.leave(v, 1);
        }
    }

    /// A stage of a voice's filter over a chunk. The integrators' next states are written out of the last: two steps from frame to frame instead of three.
    struct Stage {
        Stage(const Voice& v, std::size_t stage, Pass pass, double k) noexcept : low(v.low[stage]), band(v.band[stage]) {
            a1 = 1.0 / (1.0 + v.g * (v.g + k)), a2 = v.g * a1, a3 = v.g * a2;
            m_in = pass == Pass::High ? 1.0 : 0.0;
            m_band = pass == Pass::Low ? 0.0 : pass == Pass::Band ? k : -k;
            m_low = pass == Pass::Low ? 1.0 : pass == Pass::High ? -1.0 : 0.0;
        }
        Sides next(Sides in) noexcept {
            const Sides v1 = (a2 * in + a1 * band) - a2 * low, v2 = (a3 * in + a2 * band) + (1.0 - a3) * low;
            const Sides next_band = (2.0 * a2 * in - 2.0 * a2 * low) + (2.0 * a1 - 1.0) * band;
            low = (2.0 * a3 * in + 2.0 * a2 * band) + (1.0 - 2.0 * a3) * low;
            band = next_band;
            return m_in * in + m_band * v1 + m_low * v2;
        }
        void leave(Voice& v, std::size_t stage) const noexcept { v.low[stage] = low, v.band[stage] = band; }

        Sides low, band;
        double a1, a2, a3, m_in, m_band, m_low;
    };

    double rate_, tuning_cents_;
    Smoothed<kCount> smoothed_;
    std::array<Voice, 16> voices_{};
    std::array<float, kPartials> partials_{};
    std::array<HeldKey, 16> held_{};
    std::size_t held_count_ = 0;
    std::array<double, 2> free_phase_{};  ///< of LFOs that run freely
    double gain_ = 1.0, first_ = 1.0, below_ = 1.0;
    std::size_t unison_ = 1;
    std::array<double, kMostUnison> out_{}, beside_{};  ///< where each of the unison stands, −1 … 1, and its pitch
    std::array<double, 2> second_{1.0, 1.0};            ///< left and right
    int last_key_ = -1;
    std::uint32_t noise_ = 22222, strokes_ = 0;
};

const Patch& patch_of(const std::string& name) {
    const auto& all = patches();
    const auto found = std::find_if(all.begin(), all.end(), [&](const Patch& p) { return name == p.name; });
    return found == all.end() ? all.front() : *found;
}

const std::vector<std::string>& patch_names() {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> list;
        for (const Patch& p : patches()) list.emplace_back(p.name);
        return list;
    }();
    return names;
}

}  // namespace

const SourceType kSynth{"synth",
                        "Synth",
                        "Two oscillators, a sub and noise through a filter",
                        fields(),
                        patch_names,
                        [](const std::string& patch, std::size_t field) { return value_in(patch_of(patch), field); },
                        [](const SourceSpec& spec, double rate) -> Result<std::unique_ptr<Processor>> {
                            return std::unique_ptr<Processor>(std::make_unique<Synth>(patch_of(spec.patch), rate, spec.tuning_cents));
                        }};

}  // namespace fw
