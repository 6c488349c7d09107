// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "check/check.hpp"

namespace fw {

/// Fills in tone, width and loudness of a report and adds findings of tone. Pure but for the report, thread-safe.
void compare_sound(const SoundSummary& original, const SoundSummary& rebuild, CheckReport& report);

}  // namespace fw
