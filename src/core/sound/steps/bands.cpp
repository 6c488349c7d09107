// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "bands.faust.hpp"

namespace fw {

namespace {
constexpr std::array kBandsFields{
    Parameter{"low_hz", "Lower edge", Unit::Hertz, 40.0, 1000.0, 200.0, Scale::Logarithmic, 1.0, false, "Where the low band ends"},
    Parameter{"high_hz", "Upper edge", Unit::Hertz, 500.0, 12'000.0, 2500.0, Scale::Logarithmic, 10.0, false, "Where the high band begins"},
    Parameter{"threshold", "Threshold", Unit::Decibels, -60.0, 0.0, -20.0, Scale::Linear, 0.5, true, "What a band has above is turned down"},
    Parameter{"ratio", "Ratio", Unit::Ratio, 1.0, 20.0, 2.0, Scale::Logarithmic, 0.05, true, "By how much"},
    Parameter{"under", "Lift below", Unit::Decibels, -70.0, 0.0, -40.0, Scale::Linear, 0.5, true, "What a band has below is brought up: its body and its tail"},
    Parameter{"up_ratio", "Lift ratio", Unit::Ratio, 1.0, 8.0, 1.0, Scale::Logarithmic, 0.05, true, "By how much; 1: not at all"},
    Parameter{"attack_ms", "Attack", Unit::Milliseconds, 0.1, 200.0, 10.0, Scale::Logarithmic, 0.1, true, "How soon it follows what grows"},
    Parameter{"release_ms", "Release", Unit::Milliseconds, 5.0, 2000.0, 120.0, Scale::Logarithmic, 1.0, true, "How soon it follows what fades"},
    Parameter{"low", "Low", Unit::Decibels, -24.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Level of the low band"},
    Parameter{"mid", "Mid", Unit::Decibels, -24.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Level of the middle band"},
    Parameter{"high", "High", Unit::Decibels, -24.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Level of the high band"},
};
constexpr std::array kBandsTelling{"threshold", "ratio", "low", "mid", "high"};
}  // namespace

const StepType kThreeBands{
    "bands",
    "Three-band compressor",
    "Evens out lows, middle and highs by themselves, down from above and up from below",
    kBandsFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::bands, kBandsFields.size()>>(kBandsFields, rate, 0.1); },
    kBandsTelling};

}  // namespace fw
