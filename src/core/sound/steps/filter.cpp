// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/smoothed.hpp"
#include "sound/svf.hpp"
#include "sound/tone_curve.hpp"

#include <array>

namespace fw {

namespace {
constexpr std::array<const char*, 3> kKinds{"low-pass", "high-pass", "band-pass"};
constexpr std::array kFields{
    Parameter{"kind", "Kind", Unit::None, 0.0, 2.0, 0.0, Scale::Choice, 1.0, false, "What passes", kKinds},
    Parameter{"cutoff", "Cutoff", Unit::Hertz, 20.0, 20000.0, 2000.0, Scale::Logarithmic, 0.02, true, "Where it begins to take away"},
    Parameter{"resonance", "Resonance", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "How much it rings at the cutoff"},
    Parameter{"steep", "Steep", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "24 instead of 12 dB an octave"},
};
enum Field { kKind, kCutoff, kResonance, kSteep, kCount };
static_assert(kFields.size() == kCount);

/// Sets both stages; value: of a field.
template <class Value>
void place(const Value& f, Svf& first, Svf& second, double rate) noexcept {
    constexpr double kButterworth = 0.70710678118654752;
    const double q = kButterworth * std::pow(20.0, f(kResonance));
    const int kind = static_cast<int>(f(kKind));
    const auto stage = [&](Svf& s, double sharp) {
        if (kind == 0) s.low_pass(f(kCutoff), sharp, rate);
        else if (kind == 1) s.high_pass(f(kCutoff), sharp, rate);
        else s.band_pass(f(kCutoff), q, rate);
    };
    stage(first, q);
    stage(second, kButterworth);
}

class Filter final : public Processor {
public:
    explicit Filter(double rate) : rate_(rate), smoothed_(rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void reset() noexcept override {
        first_.reset(), second_.reset();
        smoothed_.reset();
    }
    double tail_s() const noexcept override { return 1.0; }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        for (const auto side : {io.left, io.right})
            for (float& s : side)
                if (!std::isfinite(s)) s = 0.0F;
        if (smoothed_.advance(io.size())) place([&](Field f) { return f == kKind ? smoothed_.target(f) : smoothed_[f]; }, first_, second_, rate_);
        first_.process(io);
        if (smoothed_.target(kSteep) >= 0.5) second_.process(io);
    }

private:
    double rate_;
    Smoothed<kCount> smoothed_;
    Svf first_, second_;
};

constexpr std::array kTelling{"cutoff", "resonance"};

}  // namespace

double filter_db(std::span<const double> values, double hz, double sample_rate_hz) {
    Svf first, second;
    place([&](Field f) { return values[f]; }, first, second, sample_rate_hz);
    const double gain = first.gain(hz, sample_rate_hz) * (values[kSteep] >= 0.5 ? second.gain(hz, sample_rate_hz) : 1.0);
    return 20.0 * std::log10(std::max(gain, 1e-9));
}

const StepType kFilter{"filter", "Filter", "A low-, high- or band-pass with resonance",
                       kFields,  false,    [](double rate) -> std::unique_ptr<Processor> {
                           return std::make_unique<Filter>(rate); },
                       kTelling};

}  // namespace fw
