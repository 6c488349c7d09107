// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "plate.faust.hpp"

namespace fw {

namespace {
constexpr std::array kPlateFields{
    Parameter{"predelay_ms", "Pre-delay", Unit::Milliseconds, 0.0, 250.0, 0.0, Scale::Linear, 1.0, false, "How long the plate waits"},
    Parameter{"decay_s", "Decay", Unit::Seconds, 0.1, 12.0, 1.6, Scale::Logarithmic, 0.05, true, "Until it has fallen by 60 dB"},
    Parameter{"low_cut_hz", "Low cut", Unit::Hertz, 20.0, 1000.0, 80.0, Scale::Logarithmic, 0.02, true, "What reaches the plate begins here"},
    Parameter{"damp_hz", "Damping", Unit::Hertz, 1000.0, 20000.0, 9000.0, Scale::Logarithmic, 0.02, true, "Highs above are lost with each round"},
    Parameter{"width", "Width", Unit::Share, 0.0, 2.0, 1.0, Scale::Linear, 0.02, true, "0 % comes back in the middle"},
    Parameter{"mix", "Mix", Unit::Share, 0.0, 1.0, 0.3, Scale::Linear, 0.02, true, "0 % is only the sound, 100 % only the plate"},
};
constexpr std::array kPlateTelling{"decay_s", "mix"};
}  // namespace

const StepType kPlate{
    "plate",
    "Plate",
    "A sheet of metal: dense at once, without walls",
    kPlateFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::plate, kPlateFields.size()>>(kPlateFields, rate, 12.0); },
    kPlateTelling};

}  // namespace fw
