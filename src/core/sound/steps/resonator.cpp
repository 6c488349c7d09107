// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "resonator.faust.hpp"

namespace fw {

namespace {
constexpr std::array kResonatorFields{
    Parameter{"pitch", "Pitch", Unit::Pitch, 24.0, 108.0, 50.0, Scale::Whole, 1.0, false, "Where it rings: a tone of the key"},
    Parameter{"cents", "Tune", Unit::Cents, -100.0, 100.0, 0.0, Scale::Linear, 1.0, true, "Up or down besides"},
    Parameter{"decay_s", "Decay", Unit::Seconds, 0.05, 8.0, 1.0, Scale::Logarithmic, 0.05, true, "Until it has fallen by 60 dB"},
    Parameter{"damp_hz", "Damping", Unit::Hertz, 300.0, 20000.0, 5000.0, Scale::Logarithmic, 0.02, true, "Higher partials die sooner"},
    Parameter{"mix", "Mix", Unit::Share, 0.0, 1.0, 0.3, Scale::Linear, 0.02, true, "0 % is only the sound, 100 % only the body"},
};
constexpr std::array kResonatorTelling{"pitch", "decay_s", "mix"};
}  // namespace

const StepType kResonator{"resonator",
                          "Resonator",
                          "A body that rings at a pitch",
                          kResonatorFields,
                          false,
                          [](double rate) -> std::unique_ptr<Processor> {
                              return std::make_unique<FaustStep<fw_faust::resonator, kResonatorFields.size()>>(kResonatorFields, rate, 8.0);
                          },
                          kResonatorTelling};

}  // namespace fw
