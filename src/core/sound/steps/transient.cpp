// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "transient.faust.hpp"

namespace fw {

namespace {
constexpr std::array kTransientFields{
    Parameter{"attack", "Attack", Unit::Decibels, -18.0, 18.0, 4.0, Scale::Linear, 0.5, true, "The stroke itself"},
    Parameter{"body", "Body", Unit::Decibels, -18.0, 18.0, 0.0, Scale::Linear, 0.5, true, "What rings on"},
    Parameter{"low_hz", "From", Unit::Hertz, 20.0, 8000.0, 20.0, Scale::Logarithmic, 0.02, false, "Only what lies above is shaped"},
    Parameter{"high_hz", "Up to", Unit::Hertz, 60.0, 20000.0, 20000.0, Scale::Logarithmic, 0.02, false, "Only what lies below is shaped"},
};
constexpr std::array kTransientTelling{"attack", "body"};
}  // namespace

const StepType kTransient{"transient",
                          "Transient",
                          "More or less of strokes and of what follows them",
                          kTransientFields,
                          false,
                          [](double rate) -> std::unique_ptr<Processor> {
                              return std::make_unique<FaustStep<fw_faust::transient, kTransientFields.size()>>(kTransientFields, rate, 0.5);
                          },
                          kTransientTelling};

}  // namespace fw
