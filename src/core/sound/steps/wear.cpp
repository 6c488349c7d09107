// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "wear.faust.hpp"

namespace fw {

namespace {
constexpr std::array kWearFields{
    Parameter{"bits", "Bits", Unit::None, 2.0, 24.0, 12.0, Scale::Linear, 0.5, true, "How many steps the level has"},
    Parameter{"rate_hz", "Sample rate", Unit::Hertz, 1000.0, 192000.0, 22050.0, Scale::Logarithmic, 0.02, true,
              "Below the rate of the song it folds back, as old samplers do"},
    Parameter{"wow", "Wow", Unit::Cents, 0.0, 60.0, 6.0, Scale::Linear, 0.5, true, "How far the speed wavers"},
    Parameter{"hiss", "Hiss", Unit::Share, 0.0, 0.05, 0.0, Scale::Linear, 0.0005, true, "Noise that is always there"},
    Parameter{"high_hz", "Highs up to", Unit::Hertz, 1000.0, 20000.0, 12000.0, Scale::Logarithmic, 0.02, true, "What is lost above"},
};
constexpr std::array kWearTelling{"bits", "rate_hz", "wow"};
}  // namespace

const StepType kWear{
    "wear",
    "Wear",
    "Fewer bits, fewer samples, a wavering speed, hiss",
    kWearFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::wear, kWearFields.size()>>(kWearFields, rate, 0.2); },
    kWearTelling};

}  // namespace fw
