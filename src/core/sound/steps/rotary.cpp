// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "rotary.faust.hpp"

namespace fw {

namespace {
constexpr std::array kRotaryFields{
    Parameter{"rate", "Speed", Unit::Hertz, 0.1, 10.0, 6.6, Scale::Logarithmic, 0.02, true, "How often the horn turns: about 0.8 slow, 6.6 fast"},
    Parameter{"run_up_s", "Run-up", Unit::Seconds, 0.05, 8.0, 1.2, Scale::Logarithmic, 0.05, false, "How long it takes to turn at another speed"},
    Parameter{"drum", "Drum speed", Unit::Share, 0.0, 1.5, 0.85, Scale::Linear, 0.02, true, "How fast what lies below the split turns, beside the horn"},
    Parameter{"split_hz", "Split", Unit::Hertz, 200.0, 3000.0, 800.0, Scale::Logarithmic, 0.02, false,
              "The horn takes what lies above, the drum what lies below"},
    Parameter{"radius_m", "Radius", Unit::Metres, 0.0, 0.4, 0.18, Scale::Linear, 0.005, true, "How far from its middle it turns: how far the pitch moves"},
    Parameter{"beam", "Beam", Unit::Share, 0.0, 1.0, 0.6, Scale::Linear, 0.02, true, "How much softer it is when it looks away"},
    Parameter{"apart", "Apart", Unit::Share, 0.0, 1.0, 0.7, Scale::Linear, 0.02, true, "How far the microphones stand apart: 100 % on both sides"},
    Parameter{"mix", "Mix", Unit::Share, 0.0, 1.0, 1.0, Scale::Linear, 0.02, true, "How much of it is heard beside the sound"},
};
constexpr std::array kRotaryTelling{"rate", "mix"};
}  // namespace

const StepType kRotary{
    "rotary",
    "Rotary",
    "A loudspeaker that turns: pitch, level and side move together",
    kRotaryFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::rotary, kRotaryFields.size()>>(kRotaryFields, rate, 0.5); },
    kRotaryTelling};

}  // namespace fw
