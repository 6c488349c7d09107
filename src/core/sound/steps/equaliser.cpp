// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "equaliser.faust.hpp"

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
}  // namespace

const StepType kEqualiser{"equaliser", "Equaliser", "Shelves, bells and cuts", kFields, false, [](double rate) -> std::unique_ptr<Processor> {
                              return std::make_unique<FaustStep<fw_faust::equaliser, kFields.size()>>(kFields, rate, 0.2);
                          }};

}  // namespace fw
