// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "cabinet.faust.hpp"

namespace fw {

namespace {
constexpr std::array kCabinetFields{
    Parameter{"low_hz", "Resonance", Unit::Hertz, 40.0, 250.0, 85.0, Scale::Logarithmic, 0.02, true, "Where the box resonates: little sounds below"},
    Parameter{"bump", "Bump", Unit::Decibels, 0.0, 12.0, 3.0, Scale::Linear, 0.5, true, "How much louder it is there"},
    Parameter{"presence_hz", "Presence at", Unit::Hertz, 1000.0, 5000.0, 2500.0, Scale::Logarithmic, 0.02, true, "Where the cone is loudest"},
    Parameter{"presence", "Presence", Unit::Decibels, -12.0, 12.0, 5.0, Scale::Linear, 0.5, true, "How much louder it is there"},
    Parameter{"dip", "Dip", Unit::Decibels, 0.0, 24.0, 8.0, Scale::Linear, 0.5, true, "What the cone cancels a fourth and more above its presence"},
    Parameter{"high_hz", "Up to", Unit::Hertz, 1500.0, 16000.0, 5000.0, Scale::Logarithmic, 0.02, true, "Falls by 24 dB an octave above"},
    Parameter{"mix", "Mix", Unit::Share, 0.0, 1.0, 1.0, Scale::Linear, 0.02, true, "How much of the sound goes through it"},
};
constexpr std::array kCabinetTelling{"low_hz", "high_hz", "presence"};
}  // namespace

const StepType kCabinet{
    "cabinet",
    "Cabinet",
    "A loudspeaker in its box, heard from close by",
    kCabinetFields,
    false,
    [](double rate) -> std::unique_ptr<Processor> { return std::make_unique<FaustStep<fw_faust::cabinet, kCabinetFields.size()>>(kCabinetFields, rate, 0.1); },
    kCabinetTelling};

}  // namespace fw
