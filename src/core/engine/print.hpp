// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/progress.hpp"
#include "engine/plan.hpp"

namespace fw {

/// What a part plays between two places as sound, as it leaves its own fader, with or without its steps: from the first place on, beyond the second until it
/// has died away, four seconds at most. Stereo at the inputs' rate. What is muted within the part is silent; what begins before the first place or behind the
/// second is not played. Errors: those of compile_for_rendering; CommandRefused where nothing sounds.
Result<Audio> print_part(const Remake& remake, PartId part, Ticks from, Ticks to, bool steps, const PlanInputs& inputs, const Progress& progress = {});

}  // namespace fw
