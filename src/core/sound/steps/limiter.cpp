// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/limiter.hpp"

#include "sound/catalogue.hpp"
#include "sound/smoothed.hpp"

#include <array>
#include <cmath>

namespace fw {

namespace {

constexpr std::array kFields{
    Parameter{"gain", "Gain", Unit::Decibels, 0.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Louder into the ceiling"},
    Parameter{"ceiling", "Ceiling", Unit::Decibels, -24.0, 0.0, -1.0, Scale::Linear, 0.5, true, "No peak leaves above"},
};

class LimiterStep final : public Processor {
public:
    explicit LimiterStep(double rate) : smoothed_(rate), limiter_(rate, 1.0F) {
        for (std::size_t i = 0; i < kFields.size(); ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void reset() noexcept override {
        smoothed_.reset();
        limiter_.reset();
    }
    std::size_t latency() const noexcept override { return limiter_.latency(); }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        smoothed_.advance(io.size());
        // The limiter holds what it lets out below 1; the ceiling is put before and taken behind it.
        const auto ceiling = static_cast<float>(std::pow(10.0, smoothed_[1] / 20.0)), in = static_cast<float>(std::pow(10.0, smoothed_[0] / 20.0)) / ceiling;
        for (const auto side : {io.left, io.right})
            for (float& s : side) s = std::isfinite(s) ? s * in : 0.0F;
        limiter_.process(io.left, io.right);
        for (const auto side : {io.left, io.right})
            for (float& s : side) s *= ceiling;
    }

private:
    Smoothed<kFields.size()> smoothed_;
    Limiter limiter_;
};

}  // namespace

const StepType kLimiter{"limiter", "Limiter", "No peak leaves above its ceiling",
                        kFields,   false,     [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<LimiterStep>(rate); }};

}  // namespace fw
