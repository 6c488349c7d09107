// SPDX-License-Identifier: GPL-3.0-or-later
// A hyperbolic tangent, antialiased by its first antiderivative (Parker, Zavalishin & Le Bivic, "Reducing the aliasing of nonlinear waveshaping using
// continuous-time convolution", DAFx 2016) at four times the sample rate.
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

/// log cosh without overflow.
double antiderivative(double x) {
    const double a = std::abs(x);
    return a + std::log1p(std::exp(-2.0 * a)) - std::numbers::ln2;
}

struct Side {
    double before = 0.0, area = 0.0, low = 0.0, dc_in = 0.0, dc_out = 0.0;
    HalfBand up, up_again, down, down_again;

    /// One sample in, one out, four shaped in between.
    double drive(double x) noexcept {
        const auto [a, b] = up.interpolate(x);
        std::array<double, 2> halves;
        std::size_t i = 0;
        for (const double half : {a, b}) {
            const auto [c, d] = up_again.interpolate(half);
            const double first = shape(c);
            halves[i++] = down_again.decimate(first, shape(d));
        }
        return down.decimate(halves[0], halves[1]);
    }

    double shape(double x) noexcept {
        const double step = x - before, now = antiderivative(x);
        const double y = std::abs(step) > 1e-5 ? (now - area) / step : std::tanh(0.5 * (x + before));
        before = x;
        area = now;
        return y;
    }
};

class Drive final : public Processor {
public:
    explicit Drive(double rate) : rate_(rate), smoothed_(rate), dc_(1.0 - 2.0 * std::numbers::pi * 8.0 / rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void reset() noexcept override {
        sides_ = {};
        smoothed_.reset();
    }
    double tail_s() const noexcept override { return 0.05; }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        smoothed_.advance(io.size());
        const double in = std::pow(10.0, smoothed_[kAmount] / 20.0), out = std::pow(10.0, smoothed_[kLevel] / 20.0);
        const double bias = smoothed_[kBias], mix = smoothed_[kMix], rest = std::tanh(bias);
        const double low = 1.0 - std::exp(-2.0 * std::numbers::pi * std::min(smoothed_[kTone], 0.45 * rate_) / rate_);
        const bool open = smoothed_[kTone] >= 19999.0;
        std::size_t s = 0;
        for (const auto side : {io.left, io.right}) {
            Side& state = sides_[s++];
            for (float& sample : side) {
                const double x = std::isfinite(sample) ? static_cast<double>(sample) : 0.0;
                const double y = state.drive(in * x + bias) - rest;
                // What the bias leaves of a constant is taken out below hearing.
                const double steady = y - state.dc_in + dc_ * state.dc_out;
                state.dc_in = y;
                state.dc_out = steady;
                state.low += low * (steady - state.low);
                sample = static_cast<float>((1.0 - mix) * x + mix * out * (open ? steady : state.low));
            }
        }
    }

private:
    double rate_;
    Smoothed<kCount> smoothed_;
    double dc_;
    std::array<Side, 2> sides_{};
};

}  // namespace

const StepType kDrive{"drive", "Drive", "Saturation, from warm to broken", kFields, false,
                      [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<Drive>(rate); }};

}  // namespace fw
