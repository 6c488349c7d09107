// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace fw {

namespace {

enum Field { kHold, kLength, kDecay, kCount };
constexpr double kLongest_s = 8.0;  // four beats at 30 BPM
constexpr std::array<Parameter, kCount> kFields{{
    {"hold", "Hold", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, true,
     "From where it is switched on, what sounds first comes again and again: a stutter, drawn as a curve"},
    {"length", "Length", Unit::Beats, 0.03125, 4.0, 0.25, Scale::Logarithmic, 0.03125, true, "How much of it comes again, in the song's time"},
    {"decay", "Decay", Unit::Decibels, 0.0, 24.0, 0.0, Scale::Linear, 0.5, true, "How much softer each time is than the one before"},
}};

/// Takes what comes in while it is held, and plays the first piece of it once more each time it is over. Edges are ramped over two milliseconds, so neither a
/// piece's end nor letting go clicks.
class Repeat final : public Processor {
public:
    explicit Repeat(double rate) : rate_(rate), left_(static_cast<std::size_t>(kLongest_s * rate) + 1), right_(left_.size()) {
        for (std::size_t i = 0; i < kCount; ++i) wanted_[i] = kFields[i].neutral;
        wanted_[kLength] = 0.125;  // seconds: a quarter of a beat at 120 BPM until it is set
    }
    void reset() noexcept override {
        at_ = 0, piece_ = 0;
        held_ = again_ = false;
        wet_ = 0.0F;
        loud_ = 1.0F;
    }
    void set(std::size_t field, double value) noexcept override {
        if (std::isfinite(value)) wanted_[field] = value;
    }
    void process(Stereo io, Stereo) noexcept override {
        const bool hold = wanted_[kHold] >= 0.5;
        if (hold && !held_) {
            at_ = 0, loud_ = 1.0F;
            piece_ = std::clamp<std::size_t>(static_cast<std::size_t>(wanted_[kLength] * rate_), kSlice, left_.size());
            again_ = false;
        }
        held_ = hold;
        const std::size_t ramp = std::min<std::size_t>(static_cast<std::size_t>(0.002 * rate_), piece_ / 2);
        const auto step = static_cast<float>(1.0 / std::max(1.0, 0.002 * rate_));
        for (std::size_t i = 0; i < io.size(); ++i) {
            const float l = std::isfinite(io.left[i]) ? io.left[i] : 0.0F, r = std::isfinite(io.right[i]) ? io.right[i] : 0.0F;
            float out_l = l, out_r = r;
            if (hold && !again_) {
                left_[at_] = l, right_[at_] = r;
                // The first time it is heard as it comes, but for its end, from which it leaps back.
                if (const std::size_t left = piece_ - at_; left < ramp) {
                    const float edge = static_cast<float>(left) / static_cast<float>(ramp);
                    out_l *= edge, out_r *= edge;
                }
            }
            if (again_ && (hold || wet_ > 0.0F)) {
                const float edge =
                    ramp == 0
                        ? 1.0F
                        : std::min({1.0F, static_cast<float>(at_) / static_cast<float>(ramp), static_cast<float>(piece_ - at_) / static_cast<float>(ramp)});
                wet_ = std::clamp(wet_ + (hold ? step : -step), 0.0F, 1.0F);
                out_l = (1.0F - wet_) * l + wet_ * edge * loud_ * left_[at_], out_r = (1.0F - wet_) * r + wet_ * edge * loud_ * right_[at_];
            }
            if (hold || wet_ > 0.0F)
                if (++at_ >= piece_) {
                    at_ = 0;
                    if (again_) loud_ *= static_cast<float>(std::pow(10.0, -wanted_[kDecay] / 20.0));
                    else again_ = true, wet_ = 1.0F, loud_ = static_cast<float>(std::pow(10.0, -wanted_[kDecay] / 20.0));
                }
            io.left[i] = out_l, io.right[i] = out_r;
        }
    }

private:
    double rate_;
    std::vector<float> left_, right_;
    std::array<double, kCount> wanted_{};
    std::size_t at_ = 0, piece_ = 0;
    bool held_ = false, again_ = false;
    float wet_ = 0.0F, loud_ = 1.0F;
};

constexpr std::array kTelling{"hold", "length"};

}  // namespace

const StepType kRepeat{"repeat", "Repeat", "Holds on to a moment and plays it again and again, from where a curve switches it on",
                       kFields,  false,    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<Repeat>(rate); },
                       kTelling};

}  // namespace fw
