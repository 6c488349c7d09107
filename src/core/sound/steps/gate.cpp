// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "gate.faust.hpp"

namespace fw {

namespace {
constexpr std::array kGateFields{
    Parameter{"threshold", "Threshold", Unit::Decibels, -80.0, 0.0, -40.0, Scale::Linear, 0.5, true, "From where on it opens"},
    Parameter{"attack_ms", "Attack", Unit::Milliseconds, 0.1, 100.0, 0.5, Scale::Logarithmic, 0.05, true, "Until it is open"},
    Parameter{"hold_ms", "Hold", Unit::Milliseconds, 0.0, 500.0, 40.0, Scale::Linear, 1.0, true, "How long it stays open"},
    Parameter{"release_ms", "Release", Unit::Milliseconds, 1.0, 2000.0, 120.0, Scale::Logarithmic, 0.05, true, "Until it is closed"},
    Parameter{"range", "Range", Unit::Decibels, 0.0, 80.0, 80.0, Scale::Linear, 0.5, true, "How far down it goes"},
};
constexpr std::array kGateTelling{"threshold", "release_ms"};
}  // namespace

const StepType kGate{
    "gate",
    "Gate",
    "Lets through what is loud enough",
    kGateFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::gate, kGateFields.size()>>(kGateFields, rate, 1.0); },
    kGateTelling};

}  // namespace fw
