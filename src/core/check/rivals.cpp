// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/rivals.hpp"

#include "model/edits/parts.hpp"

namespace fw {

std::optional<double> sound_with_rival(const Remake& remake, PartId part, std::size_t rival, const Analysis& analysis, const SoundSummary& original,
                                       const PlanInputs& inputs, const Progress& progress) {
    const Remake with = choose_rival(remake, part, rival);
    const auto plan = compile_plan(with, inputs);
    const SoundSummary sound = summarise(*plan, {}, progress);
    return check(with, analysis, &original, &sound).match.sound;
}

}  // namespace fw
