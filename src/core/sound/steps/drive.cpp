// SPDX-License-Identifier: GPL-3.0-or-later
// The curve x / sqrt(1 + x²), antialiased by its first antiderivative (Parker, Zavalishin & Le Bivic, "Reducing the aliasing of nonlinear waveshaping using
// continuous-time convolution", DAFx 2016) at twice the sample rate. Of this curve the difference quotient of the antiderivative sqrt(1 + x²) is
// (x₁ + x₀) / (F₁ + F₀): a root and a division, and nothing to go wrong where two samples are alike.
#include "sound/catalogue.hpp"
#include "sound/half_band.hpp"
#include "sound/smoothed.hpp"

#include <array>
#include <cmath>
#include <numbers>

namespace fw {

namespace {

enum Field { kAmount, kBias, kTone, kMix, kLevel, kCount };
constexpr std::array<Parameter, kCount> kFields{{
    {"drive", "Drive", Unit::Decibels, 0.0, 48.0, 12.0, Scale::Linear, 0.5, true, "How hard it is pressed into the curve"},
    {"bias", "Bias", Unit::Share, -1.0, 1.0, 0.0, Scale::Linear, 0.02, true, "Off the middle: even partials besides the odd ones"},
    {"tone", "Tone", Unit::Hertz, 500.0, 20000.0, 20000.0, Scale::Logarithmic, 0.02, true, "Softer above this"},
    {"mix", "Mix", Unit::Share, 0.0, 1.0, 1.0, Scale::Linear, 0.02, true, "How much of it is heard beside the sound"},
    {"level", "Output", Unit::Decibels, -24.0, 24.0, -6.0, Scale::Linear, 0.5, true, "Softer or louder behind it"},
}};

class Drive final : public Processor {
public:
    explicit Drive(double rate) : rate_(rate), smoothed_(rate), dc_(1.0 - 2.0 * std::numbers::pi * 8.0 / rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void reset() noexcept override {
        up_ = down_ = {};
        before_ = low_ = dc_in_ = dc_out_ = Sides{};
        area_ = Sides{1.0, 1.0};
        smoothed_.reset();
    }
    double tail_s() const noexcept override { return 0.5; }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        if (smoothed_.advance(io.size())) {
            in_ = std::pow(10.0, smoothed_[kAmount] / 20.0), out_ = std::pow(10.0, smoothed_[kLevel] / 20.0);
            bias_ = smoothed_[kBias], mix_ = smoothed_[kMix], rest_ = bias_ / std::sqrt(1.0 + bias_ * bias_);
            way_ = smoothed_[kTone] >= 19999.0 ? 1.0 : 1.0 - std::exp(-2.0 * std::numbers::pi * std::min(smoothed_[kTone], 0.45 * rate_) / rate_);
        }
        for (std::size_t i = 0; i < io.size(); ++i) {
            const Sides dry{std::isfinite(io.left[i]) ? static_cast<double>(io.left[i]) : 0.0,
                            std::isfinite(io.right[i]) ? static_cast<double>(io.right[i]) : 0.0};
            const Lanes4 x = in_ * up_.interpolate(dry[0], dry[1]) + bias_;
            const Lanes4 area{std::sqrt(1.0 + x[0] * x[0]), std::sqrt(1.0 + x[1] * x[1]), std::sqrt(1.0 + x[2] * x[2]), std::sqrt(1.0 + x[3] * x[3])};
            // Each instant against the one before it.
            const Lanes4 last{before_[0], before_[1], x[0], x[1]}, last_area{area_[0], area_[1], area[0], area[1]};
            const Lanes4 shaped = (x + last) / (area + last_area) - rest_;
            before_ = Sides{x[2], x[3]};
            area_ = Sides{area[2], area[3]};
            const auto [left, right] = down_.decimate(shaped);
            const Sides y{left, right};
            // What the bias leaves of a constant is taken out below hearing.
            const Sides steady = y - dc_in_ + dc_ * dc_out_;
            dc_in_ = y;
            dc_out_ = steady;
            low_ += way_ * (steady - low_);
            const Sides wet = (1.0 - mix_) * dry + mix_ * out_ * low_;
            io.left[i] = static_cast<float>(wet[0]);
            io.right[i] = static_cast<float>(wet[1]);
        }
    }

private:
    using Sides = double __attribute__((vector_size(16)));
    double rate_;
    Smoothed<kCount> smoothed_;
    double dc_, in_ = 1.0, out_ = 1.0, bias_ = 0.0, mix_ = 1.0, rest_ = 0.0, way_ = 1.0;
    HalfBand up_, down_;
    Sides before_{}, area_{1.0, 1.0}, low_{}, dc_in_{}, dc_out_{};
};

}  // namespace

const StepType kDrive{"drive", "Drive", "Saturation, from warm to broken",
                      kFields, false,   [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<Drive>(rate); }};

}  // namespace fw
