// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/tone_curve.hpp"
#include "sound/smoothed.hpp"
#include "sound/svf.hpp"

#include <array>

namespace fw {

namespace {
constexpr std::array kFields{
    Parameter{"low_cut", "Low cut", Unit::Hertz, 10.0, 2000.0, 10.0, Scale::Logarithmic, 0.02, true, "Takes out what lies below; 10 Hz is off"},
    Parameter{"low_hz", "Low shelf at", Unit::Hertz, 20.0, 1000.0, 120.0, Scale::Logarithmic, 0.02, true, "Where the low shelf turns"},
    Parameter{"low", "Low shelf", Unit::Decibels, -24.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Everything low, up or down"},
    Parameter{"mid_hz", "First bell at", Unit::Hertz, 40.0, 16000.0, 600.0, Scale::Logarithmic, 0.02, true, "The middle of the first bell"},
    Parameter{"mid", "First bell", Unit::Decibels, -24.0, 24.0, 0.0, Scale::Linear, 0.5, true, "The first bell, up or down"},
    Parameter{"mid_q", "First bell's Q", Unit::None, 0.2, 12.0, 1.0, Scale::Logarithmic, 0.05, true, "How narrow the first bell is"},
    Parameter{"top_hz", "Second bell at", Unit::Hertz, 40.0, 16000.0, 2500.0, Scale::Logarithmic, 0.02, true, "The middle of the second bell"},
    Parameter{"top", "Second bell", Unit::Decibels, -24.0, 24.0, 0.0, Scale::Linear, 0.5, true, "The second bell, up or down"},
    Parameter{"top_q", "Second bell's Q", Unit::None, 0.2, 12.0, 1.0, Scale::Logarithmic, 0.05, true, "How narrow the second bell is"},
    Parameter{"high_hz", "High shelf at", Unit::Hertz, 500.0, 18000.0, 6000.0, Scale::Logarithmic, 0.02, true, "Where the high shelf turns"},
    Parameter{"high", "High shelf", Unit::Decibels, -24.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Everything high, up or down"},
    Parameter{"high_cut", "High cut", Unit::Hertz, 1000.0, 22000.0, 22000.0, Scale::Logarithmic, 0.02, true, "Takes out what lies above; 22 kHz is off"},
};
enum Field { kLowCut, kLowHz, kLow, kMidHz, kMid, kMidQ, kTopHz, kTop, kTopQ, kHighHz, kHigh, kHighCut, kCount };
static_assert(kFields.size() == kCount);

/// Calls with each band's place, whether it does anything, and what sets a filter to it at a rate; value: of a field.
template <class Value, class Band>
void for_each_band(const Value& f, const Band& band) noexcept {
    constexpr double kButterworth = 0.70710678118654752;
    band(0, f(kLowCut) > 10.5, [&](Svf& s, double rate) { s.high_pass(f(kLowCut), kButterworth, rate); });
    band(1, f(kLow) != 0.0, [&](Svf& s, double rate) { s.low_shelf(f(kLowHz), kButterworth, f(kLow), rate); });
    band(2, f(kMid) != 0.0, [&](Svf& s, double rate) { s.bell(f(kMidHz), f(kMidQ), f(kMid), rate); });
    band(3, f(kTop) != 0.0, [&](Svf& s, double rate) { s.bell(f(kTopHz), f(kTopQ), f(kTop), rate); });
    band(4, f(kHigh) != 0.0, [&](Svf& s, double rate) { s.high_shelf(f(kHighHz), kButterworth, f(kHigh), rate); });
    band(5, f(kHighCut) < 21500.0, [&](Svf& s, double rate) { s.low_pass(f(kHighCut), kButterworth, rate); });
}

class Equaliser final : public Processor {
public:
    explicit Equaliser(double rate) : rate_(rate), smoothed_(rate) {
        for (std::size_t i = 0; i < kCount; ++i) smoothed_.set(i, kFields[i].neutral);
    }
    void reset() noexcept override {
        for (Band& b : bands_) b = {};
        smoothed_.reset();
    }
    double tail_s() const noexcept override { return 0.5; }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        for (const auto side : {io.left, io.right})
            for (float& s : side)
                if (!std::isfinite(s)) s = 0.0F;
        if (smoothed_.advance(io.size())) place();
        for (Band& b : bands_)
            if (b.on) b.filter.process(io);
    }

private:
    struct Band {
        Svf filter;
        bool on = false;
    };
    /// A band that does nothing is left out; where it comes in again it begins from rest, which is where a band of 0 dB is.
    void place() noexcept {
        for_each_band([&](Field f) { return smoothed_[f]; },
                      [&](std::size_t i, bool on, auto&& set) {
                          if (on && !bands_[i].on) bands_[i].filter.reset();
                          bands_[i].on = on;
                          if (on) set(bands_[i].filter, rate_);
                      });
    }

    double rate_;
    Smoothed<kCount> smoothed_;
    std::array<Band, 6> bands_{};
};

constexpr std::array kTelling{"low", "mid", "high"};

}  // namespace

double equaliser_db(std::span<const double> values, double hz, double sample_rate_hz) {
    double gain = 1.0;
    for_each_band([&](Field f) { return values[f]; },
                  [&](std::size_t, bool on, auto&& set) {
                      if (!on) return;
                      Svf filter;
                      set(filter, sample_rate_hz);
                      gain *= filter.gain(hz, sample_rate_hz);
                  });
    return 20.0 * std::log10(std::max(gain, 1e-9));
}

const StepType kEqualiser{"equaliser", "Equaliser", "Shelves, bells and cuts",
                          kFields,     false,       [](double rate) -> std::unique_ptr<Processor> {
                              return std::make_unique<Equaliser>(rate); },
                          kTelling};

}  // namespace fw
