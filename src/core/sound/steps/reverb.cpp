// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "reverb.faust.hpp"

namespace fw {

namespace {
constexpr std::array kFields{
    Parameter{"predelay_ms", "Pre-delay", Unit::Milliseconds, 0.0, 250.0, 15.0, Scale::Linear, 1.0, false, "How long the room waits"},
    Parameter{"size_m", "Size", Unit::Metres, 1.0, 40.0, 8.0, Scale::Logarithmic, 0.05, false,
              "How far away the first walls are: 3 m a small room, 25 m a hall"},
    Parameter{"early", "Walls", Unit::Share, 0.0, 1.0, 0.3, Scale::Linear, 0.02, true, "How loud the first reflections are"},
    Parameter{"decay_s", "Decay", Unit::Seconds, 0.1, 12.0, 1.8, Scale::Logarithmic, 0.05, true, "Until it has fallen by 60 dB"},
    Parameter{"low", "Low decay", Unit::Share, 0.25, 4.0, 1.1, Scale::Logarithmic, 0.05, true, "How much longer the low part rings"},
    Parameter{"low_hz", "Low end", Unit::Hertz, 50.0, 1000.0, 200.0, Scale::Logarithmic, 0.02, true, "Where the low part of the decay begins"},
    Parameter{"damp_hz", "Damping", Unit::Hertz, 1500.0, 20000.0, 6000.0, Scale::Logarithmic, 0.02, true, "Above, it decays in half the time"},
    Parameter{"low_cut_hz", "Low cut", Unit::Hertz, 20.0, 1000.0, 20.0, Scale::Logarithmic, 0.02, true, "Nothing below comes back"},
    Parameter{"high_cut_hz", "High cut", Unit::Hertz, 1000.0, 20000.0, 20000.0, Scale::Logarithmic, 0.02, true, "Softer above this"},
    Parameter{"width", "Width", Unit::Share, 0.0, 2.0, 1.0, Scale::Linear, 0.02, true, "0 % comes back in the middle"},
    Parameter{"freeze", "Freeze", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, true,
              "Held: what sounds in the room goes on without end, and nothing comes in"},
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
