// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "phaser.faust.hpp"

namespace fw {

namespace {
constexpr std::array kPhaserFields{
    Parameter{"low_hz", "From", Unit::Hertz, 20.0, 2000.0, 120.0, Scale::Logarithmic, 0.02, true, "The lowest notch at its lowest"},
    Parameter{"high_hz", "Up to", Unit::Hertz, 100.0, 8000.0, 1200.0, Scale::Logarithmic, 0.02, true, "The lowest notch at its highest"},
    Parameter{"rate", "Rate", Unit::Hertz, 0.02, 10.0, 0.4, Scale::Logarithmic, 0.02, true, "How often"},
    Parameter{"feedback", "Feedback", Unit::Share, -0.9, 0.9, 0.3, Scale::Linear, 0.02, true, "Sharper peaks"},
    Parameter{"depth", "Depth", Unit::Share, 0.0, 1.0, 1.0, Scale::Linear, 0.02, true, "How deep the notches are"},
};
constexpr std::array kPhaserTelling{"rate", "feedback", "depth"};
}  // namespace

const StepType kPhaser{
    "phaser",
    "Phaser",
    "Notches that move",
    kPhaserFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::phaser, kPhaserFields.size()>>(kPhaserFields, rate, 1.0); },
    kPhaserTelling};

}  // namespace fw
