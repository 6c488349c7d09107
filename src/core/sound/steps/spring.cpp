// SPDX-License-Identifier: GPL-3.0-or-later
// A spring: what travels along it comes back again and again, lows before highs, and nothing above the frequency at which a spring carries no more
// (V. Välimäki, J. Parker & J. S. Abel, "Parametric spring reverberation effect", JAES 2010; of it the low chirps).
#include "sound/catalogue.hpp"
#include "sound/smoothed.hpp"
#include "sound/svf.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace fw {

namespace {

enum Field { kLength, kDecay, kChirp, kHigh, kLowCut, kMix, kCount };
constexpr std::array<Parameter, kCount> kFields{{
    {"length_ms", "Length", Unit::Milliseconds, 15.0, 120.0, 45.0, Scale::Logarithmic, 0.02, false, "How long sound takes along the spring and back"},
    {"decay_s", "Decay", Unit::Seconds, 0.2, 8.0, 2.2, Scale::Logarithmic, 0.05, true, "Until it has fallen by 60 dB"},
    {"chirp", "Chirp", Unit::Share, 0.0, 0.75, 0.6, Scale::Linear, 0.02, true, "How far the highs come after the lows: the drip of a spring"},
    {"high_hz", "High end", Unit::Hertz, 1500.0, 8000.0, 4300.0, Scale::Logarithmic, 0.02, false, "Above, a spring carries nothing"},
    {"low_cut_hz", "Low cut", Unit::Hertz, 20.0, 600.0, 120.0, Scale::Logarithmic, 0.02, true, "Nothing below comes back"},
    {"mix", "Mix", Unit::Share, 0.0, 1.0, 0.3, Scale::Linear, 0.02, true, "0 % is only the sound, 100 % only the spring"},
}};

constexpr std::size_t kAllPasses = 60;

/// One spring: a line that feeds back, turned over, through all-passes stretched so that their delay is longest at the spring's high end.
class Coil {
public:
    Coil(double rate, double part) : rate_(rate), part_(part), line_(static_cast<std::size_t>(0.14 * rate) + 2) {}
    void reset() noexcept {
        std::fill(line_.begin(), line_.end(), 0.0F);
        std::fill(states_.begin(), states_.end(), 0.0F);
        at_ = 0;
        pass_ = 0;
    }
    /// Of lengths that do not glide: called before the first sound and where one is set anew.
    void measure(double length_ms, double high_hz) {
        stretch_ = std::max<std::size_t>(1, static_cast<std::size_t>(rate_ / (2.0 * std::min(high_hz, 0.4 * rate_))));
        way_ = std::clamp<std::size_t>(static_cast<std::size_t>(length_ms * 0.001 * part_ * rate_), kSlice, line_.size() - 1);
    }
    void turn(double decay_s, double chirp) noexcept {
        chirp_ = static_cast<float>(chirp);
        // An all-pass takes as long, over all frequencies, as its line is.
        const double around_s = static_cast<double>(way_ + kAllPasses * stretch_) / rate_;
        back_ = static_cast<float>(-std::pow(0.001, around_s / decay_s));
    }
    float one(float in) noexcept {
        const std::size_t read = at_ >= way_ ? at_ - way_ : at_ + line_.size() - way_;
        float x = in + back_ * line_[read];
        float* state = states_.data() + pass_;
        for (std::size_t i = 0; i < kAllPasses; ++i, state += kLongest) {
            const float y = chirp_ * x + *state;
            *state = x - chirp_ * y;
            x = y;
        }
        if (++pass_ >= stretch_) pass_ = 0;
        line_[at_] = x;
        if (++at_ >= line_.size()) at_ = 0;
        return x;
    }

private:
    static constexpr std::size_t kLongest = 64;  // 192 kHz over 2 × 1.5 kHz
    double rate_, part_;
    std::vector<float> line_, states_ = std::vector<float>(kAllPasses * kLongest, 0.0F);
    std::size_t at_ = 0, way_ = 1, stretch_ = 1, pass_ = 0;
    float chirp_ = 0.0F, back_ = 0.0F;
};

class Spring final : public Processor {
public:
    explicit Spring(double rate) : rate_(rate), smoothed_(rate), left_(rate, 1.0), right_(rate, 1.13) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void reset() noexcept override {
        smoothed_.reset();
        left_.reset(), right_.reset();
        low_.reset(), high_.reset(), higher_.reset();
    }
    double tail_s() const noexcept override { return 8.0; }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        if (smoothed_.advance(io.size())) {
            for (Coil* c : {&left_, &right_}) {
                c->measure(smoothed_.target(kLength), smoothed_.target(kHigh));
                c->turn(smoothed_[kDecay], smoothed_[kChirp]);
            }
            const double top = std::min(smoothed_.target(kHigh), 0.4 * rate_);
            low_.high_pass(smoothed_[kLowCut], 0.7071, rate_);
            high_.low_pass(top, 0.541, rate_), higher_.low_pass(top, 1.307, rate_);  // a fourth-order Butterworth in two
        }
        const auto mix = static_cast<float>(smoothed_[kMix]);
        std::array<float, kSlice> l{}, r{};
        for (std::size_t i = 0; i < io.size(); ++i) {
            io.left[i] = std::isfinite(io.left[i]) ? io.left[i] : 0.0F, io.right[i] = std::isfinite(io.right[i]) ? io.right[i] : 0.0F;
            l[i] = left_.one(io.left[i]), r[i] = right_.one(io.right[i]);
        }
        const Stereo wet{std::span(l).first(io.size()), std::span(r).first(io.size())};
        low_.process(wet), high_.process(wet), higher_.process(wet);
        for (std::size_t i = 0; i < io.size(); ++i) {
            io.left[i] = (1.0F - mix) * io.left[i] + mix * l[i];
            io.right[i] = (1.0F - mix) * io.right[i] + mix * r[i];
        }
    }

private:
    double rate_;
    Smoothed<kCount> smoothed_;
    Coil left_, right_;
    Svf low_, high_, higher_;
};

constexpr std::array kTelling{"decay_s", "chirp", "mix"};

}  // namespace

const StepType kSpring{"spring", "Spring", "A spring reverb: what comes back chirps",
                       kFields,  false,    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<Spring>(rate); },
                       kTelling};

}  // namespace fw
