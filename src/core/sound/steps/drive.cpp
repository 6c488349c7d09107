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
    explicit Drive(double rate) : rate_(rate), smoothed_(rate), dc_(static_cast<float>(1.0 - 2.0 * std::numbers::pi * 8.0 / rate)) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void reset() noexcept override {
        up_ = down_ = {};
        before_ = Lanes4{};
        area_ = Lanes4{1.0F, 1.0F, 1.0F, 1.0F};
        low_ = dc_in_ = dc_out_ = Lanes4{};
        smoothed_.reset();
    }
    double tail_s() const noexcept override { return 0.5; }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        if (smoothed_.advance(io.size())) {
            const double bias = smoothed_[kBias];
            in_ = static_cast<float>(std::pow(10.0, smoothed_[kAmount] / 20.0)), out_ = static_cast<float>(std::pow(10.0, smoothed_[kLevel] / 20.0));
            bias_ = static_cast<float>(bias), rest_ = static_cast<float>(bias / std::sqrt(1.0 + bias * bias)), mix_ = static_cast<float>(smoothed_[kMix]);
            way_ = smoothed_[kTone] >= 19999.0 ? 1.0F
                                               : static_cast<float>(1.0 - std::exp(-2.0 * std::numbers::pi * std::min(smoothed_[kTone], 0.45 * rate_) / rate_));
        }
        const std::size_t count = io.size();
        std::array<float, kSlice> left, right;
        for (std::size_t i = 0; i < count; ++i) {
            left[i] = std::isfinite(io.left[i]) ? io.left[i] : 0.0F;
            right[i] = std::isfinite(io.right[i]) ? io.right[i] : 0.0F;
        }
        // Instants at twice the rate, two in each place, and before them the last of the slice before.
        std::array<Lanes4, kSlice + 1> x, area;
        x[0] = before_, area[0] = area_;
        up_.interpolate(std::span(left).first(count), std::span(right).first(count), std::span(x).subspan(1, count));
        for (std::size_t i = 1; i <= count; ++i) {
            x[i] = in_ * x[i] + bias_;
            const Lanes4 squares = 1.0F + x[i] * x[i];
            area[i] = Lanes4{std::sqrt(squares[0]), std::sqrt(squares[1]), std::sqrt(squares[2]), std::sqrt(squares[3])};
        }
        before_ = x[count], area_ = area[count];
        std::array<Lanes4, kSlice> shaped;
        for (std::size_t i = 0; i < count; ++i) {  // each instant against the one before it
            const Lanes4 last = __builtin_shuffle(x[i], x[i + 1], kOneBefore), last_area = __builtin_shuffle(area[i], area[i + 1], kOneBefore);
            shaped[i] = (x[i + 1] + last) / (area[i + 1] + last_area) - rest_;
        }
        std::array<float, kSlice> wet_left, wet_right;
        down_.decimate(std::span(shaped).first(count), std::span(wet_left).first(count), std::span(wet_right).first(count));
        finish(std::span(wet_left).first(count), std::span(wet_right).first(count));
        for (std::size_t i = 0; i < count; ++i) {
            io.left[i] = (1.0F - mix_) * left[i] + mix_ * wet_left[i];
            io.right[i] = (1.0F - mix_) * right[i] + mix_ * wet_right[i];
        }
    }

private:
    using Order = int __attribute__((vector_size(16)));
    static constexpr Order kOneBefore{2, 3, 4, 5};  ///< of two pairs of instants: the second of the one, the first of the other

    /// What the bias leaves of a constant is taken out below hearing; then tone and level.
    void finish(std::span<float> left, std::span<float> right) noexcept {
        Lanes4 in = dc_in_, steady = dc_out_, low = low_;
        const float rest = 1.0F - way_;
        for (std::size_t i = 0; i < left.size(); ++i) {
            const Lanes4 s{left[i], right[i], 0.0F, 0.0F};
            steady = (s - in) + dc_ * steady;
            in = s;
            low = way_ * steady + rest * low;
            left[i] = out_ * low[0], right[i] = out_ * low[1];
        }
        dc_in_ = in, dc_out_ = steady, low_ = low;
    }

    double rate_;
    Smoothed<kCount> smoothed_;
    float dc_, in_ = 1.0F, out_ = 1.0F, bias_ = 0.0F, mix_ = 1.0F, rest_ = 0.0F, way_ = 1.0F;
    HalfBand up_, down_;
    Lanes4 before_{}, area_{1.0F, 1.0F, 1.0F, 1.0F};
    Lanes4 low_{}, dc_in_{}, dc_out_{};  ///< left and right in the first two
};

constexpr std::array kTelling{"drive", "level"};

}  // namespace

const StepType kDrive{"drive", "Drive", "Saturation, from warm to broken",
                      kFields, false,   [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<Drive>(rate); },
                      kTelling};

}  // namespace fw
