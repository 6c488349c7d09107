// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "chorus.faust.hpp"

namespace fw {

namespace {
constexpr std::array kChorusFields{
    Parameter{"delay_ms", "Delay", Unit::Milliseconds, 0.2, 40.0, 14.0, Scale::Logarithmic, 0.02, false, "The shortest"},
    Parameter{"depth_ms", "Depth", Unit::Milliseconds, 0.0, 12.0, 4.0, Scale::Linear, 0.1, true, "How far it moves"},
    Parameter{"rate", "Rate", Unit::Hertz, 0.02, 12.0, 0.6, Scale::Logarithmic, 0.02, true, "How often"},
    Parameter{"feedback", "Feedback", Unit::Share, -0.95, 0.95, 0.0, Scale::Linear, 0.02, true, "What comes out goes in again; below 0 % turned over"},
    Parameter{"mix", "Mix", Unit::Share, 0.0, 1.0, 0.4, Scale::Linear, 0.02, true, "50 % is deepest, 100 % a vibrato"},
};
constexpr std::array kChorusTelling{"rate", "depth_ms", "mix"};
constexpr std::array kFlangerFields{
    Parameter{"delay_ms", "Delay", Unit::Milliseconds, 0.2, 40.0, 0.6, Scale::Logarithmic, 0.02, false, "The shortest"},
    Parameter{"depth_ms", "Depth", Unit::Milliseconds, 0.0, 12.0, 3.0, Scale::Linear, 0.1, true, "How far it moves"},
    Parameter{"rate", "Rate", Unit::Hertz, 0.02, 12.0, 0.25, Scale::Logarithmic, 0.02, true, "How often"},
    Parameter{"feedback", "Feedback", Unit::Share, -0.95, 0.95, 0.5, Scale::Linear, 0.02, true, "What comes out goes in again; below 0 % turned over"},
    Parameter{"mix", "Mix", Unit::Share, 0.0, 1.0, 0.5, Scale::Linear, 0.02, true, "50 % is deepest, 100 % a vibrato"},
};
constexpr std::array kFlangerTelling{"rate", "feedback", "mix"};
}  // namespace

const StepType kChorus{
    "chorus",
    "Chorus",
    "A second voice that wavers; alone it is a vibrato",
    kChorusFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::chorus, kChorusFields.size()>>(kChorusFields, rate, 1.0); },
    kChorusTelling};

const StepType kFlanger{
    "flanger",
    "Flanger",
    "A comb that moves",
    kFlangerFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::chorus, kFlangerFields.size()>>(kFlangerFields, rate, 2.0); },
    kFlangerTelling};

}  // namespace fw
