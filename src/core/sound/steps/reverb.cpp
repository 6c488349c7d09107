// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "reverb.faust.hpp"

namespace fw {

namespace {
// The delay before the room is at most what its line holds at 192 kHz.
constexpr std::array kFields{
    Parameter{"predelay_ms", "Pre-delay", Unit::Milliseconds, 0.0, 40.0, 15.0, Scale::Linear, 1.0, false, "How long the room waits"},
    Parameter{"decay_s", "Decay", Unit::Seconds, 0.1, 12.0, 1.8, Scale::Logarithmic, 0.05, true, "Until it has fallen by 60 dB"},
    Parameter{"low", "Low decay", Unit::Share, 0.25, 4.0, 1.1, Scale::Logarithmic, 0.05, true, "How much longer the low part rings"},
    Parameter{"low_hz", "Low end", Unit::Hertz, 50.0, 1000.0, 200.0, Scale::Logarithmic, 0.02, true, "Where the low part of the decay begins"},
    Parameter{"damp_hz", "Damping", Unit::Hertz, 1500.0, 20000.0, 6000.0, Scale::Logarithmic, 0.02, true, "Above, it decays in half the time"},
    Parameter{"mix", "Mix", Unit::Share, 0.0, 1.0, 0.3, Scale::Linear, 0.02, true, "0 % is only the sound, 100 % only the room"},
};
constexpr std::array kTelling{"decay_s", "mix"};

}  // namespace

const StepType kReverb{
    "reverb", "Reverb",
    "A room", kFields,
    false,    [](double rate) -> std::unique_ptr<Processor> {
                           return std::make_unique<FaustStep<fw_faust::reverb, kFields.size()>>(kFields, rate, 12.0); },
    kTelling};

}  // namespace fw
