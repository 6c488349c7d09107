// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "tremolo.faust.hpp"

namespace fw {

namespace {
constexpr std::array kTremoloFields{
    Parameter{"rate", "Rate", Unit::Hertz, 0.05, 20.0, 5.0, Scale::Logarithmic, 0.02, true, "How often"},
    Parameter{"timed", "By note values", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "Its period follows the tempo"},
    Parameter{"every", "Every", Unit::Beats, 0.0625, 16.0, 0.5, Scale::Logarithmic, 0.05, false, "Its period, where it goes by note values"},
    Parameter{"depth", "Depth", Unit::Share, 0.0, 1.0, 0.5, Scale::Linear, 0.02, true, "How far down"},
    Parameter{"apart", "Apart", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "100 %: one side is up while the other is down"},
};
constexpr std::array kTremoloTelling{"rate", "depth", "apart"};
}  // namespace

const StepType kTremolo{
    "tremolo",
    "Tremolo",
    "The level goes up and down, or from side to side",
    kTremoloFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::tremolo, kTremoloFields.size()>>(kTremoloFields, rate, 0.1); },
    kTremoloTelling};

}  // namespace fw
