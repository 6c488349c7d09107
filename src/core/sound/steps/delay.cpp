// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "delay.faust.hpp"

namespace fw {

namespace {
constexpr std::array kDelayFields{
    Parameter{"time", "Time", Unit::Beats, 0.0625, 4.0, 0.5, Scale::Logarithmic, 0.05, false, "From one repeat to the next; never more than four seconds"},
    Parameter{"feedback", "Feedback", Unit::Share, 0.0, 0.95, 0.35, Scale::Linear, 0.02, true, "How much of each repeat is left in the next"},
    Parameter{"low_hz", "Low cut", Unit::Hertz, 20.0, 2000.0, 150.0, Scale::Logarithmic, 0.02, true, "Each repeat is thinner"},
    Parameter{"high_hz", "High cut", Unit::Hertz, 500.0, 20000.0, 6000.0, Scale::Logarithmic, 0.02, true, "Each repeat is darker"},
    Parameter{"ping_pong", "Ping-pong", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "From side to side"},
    Parameter{"mix", "Mix", Unit::Share, 0.0, 1.0, 0.25, Scale::Linear, 0.02, true, "0 % is only the sound, 100 % only the repeats"},
};
constexpr std::array kDelayTelling{"time", "feedback", "mix"};
}  // namespace

const StepType kDelay{
    "delay",
    "Delay",
    "Repeats in note values",
    kDelayFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::delay, kDelayFields.size()>>(kDelayFields, rate, 20.0); },
    kDelayTelling};

}  // namespace fw
