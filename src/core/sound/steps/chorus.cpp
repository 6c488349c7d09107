// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "chorus.faust.hpp"

namespace fw {

namespace {
/// One delay that moves; what it is called goes by where its fields begin.
constexpr std::array<Parameter, 5> fields(double delay_ms, double depth_ms, double rate, double feedback, double mix) {
    return {{{"delay_ms", "Delay", Unit::Milliseconds, 0.2, 40.0, delay_ms, Scale::Logarithmic, 0.02, false, "The shortest"},
             {"depth_ms", "Depth", Unit::Milliseconds, 0.0, 12.0, depth_ms, Scale::Linear, 0.1, true, "How far it moves"},
             {"rate", "Rate", Unit::Hertz, 0.02, 12.0, rate, Scale::Logarithmic, 0.02, true, "How often"},
             {"feedback", "Feedback", Unit::Share, -0.95, 0.95, feedback, Scale::Linear, 0.02, true, "What comes out goes in again; below 0 % turned over"},
             {"mix", "Mix", Unit::Share, 0.0, 1.0, mix, Scale::Linear, 0.02, true, "50 % is deepest, 100 % a vibrato"}}};
}
constexpr auto kChorusFields = fields(14.0, 4.0, 0.6, 0.0, 0.4), kFlangerFields = fields(0.6, 3.0, 0.25, 0.5, 0.5);
constexpr std::array kChorusTelling{"rate", "depth_ms", "mix"};
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
