// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "check/check.hpp"
#include "engine/plan.hpp"

namespace fw {

/// How near the whole rebuild would sound to the original if a part's rival were chosen: the sound figure of a check (Match::sound). Renders the whole.
/// Nothing where there is nothing to compare. Throws Cancelled, and what compile_plan and render_offline throw.
std::optional<double> sound_with_rival(const Remake& remake, PartId part, std::size_t rival, const Analysis& analysis, const SoundSummary& original,
                                       const PlanInputs& inputs, const Progress& progress = {});

}  // namespace fw
