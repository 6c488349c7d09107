// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "width.faust.hpp"

namespace fw {

namespace {
constexpr std::array kWidthFields{
    Parameter{"width", "Width", Unit::Share, 0.0, 2.0, 1.0, Scale::Linear, 0.02, true, "0 % mono, 100 % as it is"},
    Parameter{"mono_hz", "Mono below", Unit::Hertz, 10.0, 500.0, 10.0, Scale::Logarithmic, 0.02, true, "What lies below is in the middle"},
    Parameter{"later_ms", "Right later", Unit::Milliseconds, -30.0, 30.0, 0.0, Scale::Linear, 0.5, false,
              "Widens a narrow sound; negative delays the left side"},
    Parameter{"turn", "Turn", Unit::Share, -1.0, 1.0, 0.0, Scale::Linear, 0.02, true, "Turns the whole image to one side"},
};
constexpr std::array kWidthTelling{"width", "mono_hz"};
}  // namespace

const StepType kWidth{
    "width",
    "Width",
    "Narrower, wider, turned, mono below",
    kWidthFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::width, kWidthFields.size()>>(kWidthFields, rate, 0.2); },
    kWidthTelling};

}  // namespace fw
