// SPDX-License-Identifier: GPL-3.0-or-later
// A rebuild before a step or a chain, as loud as behind it: what is louder seems better, and is not what is asked.
#pragma once

#include "base/progress.hpp"
#include "base/result.hpp"
#include "engine/plan.hpp"
#include "model/edits/sound.hpp"

#include <vector>

namespace fw {

struct Before {
    Remake remake;           ///< for listening only: the steps are off, the part's, bus's or master's level makes up for it
    double louder_db = 0.0;  ///< how much louder the steps make it (integrated loudness, ITU-R BS.1770-4)
};

/// steps: of one chain; those that are off are left as they are. Renders what the chain is of with and without them. Errors: Cancelled, PlugInFailed, and
/// CommandRefused where either is silent, so that there is nothing to compare.
Result<Before> before_steps(const Remake& remake, const Chain& chain, const std::vector<StepId>& steps, const PlanInputs& inputs,
                            const Progress& progress = {});

}  // namespace fw
