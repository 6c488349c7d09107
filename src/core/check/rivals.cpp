// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/rivals.hpp"

#include "engine/offline.hpp"
#include "model/edits/parts.hpp"

#include <cmath>

namespace fw {

std::optional<double> sound_with_rival(const Remake& remake, PartId part, std::size_t rival, const Analysis& analysis, const SoundSummary& original,
                                       const PlanInputs& inputs, const Progress& progress) {
    const Remake with = choose_rival(remake, part, rival);
    const auto plan = compile_plan(with, inputs);
    SoundMeter meter(static_cast<int>(std::lround(inputs.sample_rate_hz)), 2);
    render_offline(
        *plan, {},
        [&](std::span<const float> block) {
            meter.add(block);
            return true;
        },
        progress);
    const SoundSummary sound = meter.summary();
    return check(with, analysis, &original, &sound).match.sound;
}

}  // namespace fw
