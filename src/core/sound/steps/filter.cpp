// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/catalogue.hpp"
#include "sound/faust_step.hpp"

#include "filter.faust.hpp"

namespace fw {

namespace {
constexpr std::array<const char*, 3> kKinds{"low-pass", "high-pass", "band-pass"};
constexpr std::array kFields{
    Parameter{"kind", "Kind", Unit::None, 0.0, 2.0, 0.0, Scale::Choice, 1.0, false, "What passes", kKinds},
    Parameter{"cutoff", "Cutoff", Unit::Hertz, 20.0, 20000.0, 2000.0, Scale::Logarithmic, 0.02, true, "Where it begins to take away"},
    Parameter{"resonance", "Resonance", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "How much it rings at the cutoff"},
    Parameter{"steep", "Steep", Unit::None, 0.0, 1.0, 0.0, Scale::Switch, 1.0, false, "24 instead of 12 dB an octave"},
};
}  // namespace

const StepType kFilter{"filter", "Filter", "A low-, high- or band-pass with resonance", kFields, false, [](double rate) -> std::unique_ptr<Processor> {
                           return std::make_unique<FaustStep<fw_faust::filter, kFields.size()>>(kFields, rate, 0.2);
                       }};

}  // namespace fw
