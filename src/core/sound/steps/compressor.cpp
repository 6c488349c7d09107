// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "compressor.faust.hpp"

namespace fw {

namespace {
constexpr std::array kFields{
    Parameter{"threshold", "Threshold", Unit::Decibels, -60.0, 0.0, -18.0, Scale::Linear, 0.5, true, "What is louder is turned down"},
    Parameter{"ratio", "Ratio", Unit::Ratio, 1.0, 20.0, 3.0, Scale::Logarithmic, 0.05, true, "So many dB more come out as one"},
    Parameter{"attack_ms", "Attack", Unit::Milliseconds, 0.1, 200.0, 10.0, Scale::Logarithmic, 0.05, true, "How soon it turns down"},
    Parameter{"release_ms", "Release", Unit::Milliseconds, 5.0, 2000.0, 120.0, Scale::Logarithmic, 0.05, true, "How soon it lets go"},
    Parameter{"makeup", "Make-up", Unit::Decibels, -12.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Louder again behind it"},
};
}  // namespace

const StepType kCompressor{"compressor", "Compressor", "Evens out loud and soft", kFields, false, [](double rate) -> std::unique_ptr<Processor> {
                               return std::make_unique<FaustStep<fw_faust::compressor, kFields.size()>>(kFields, rate, 3.0);
                           }};

}  // namespace fw
