// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "check/check.hpp"

namespace fw {

/// Fills in tone, width and loudness of a report and adds findings of tone. Takes about a second for a song.
void compare_sound(const Audio& original, const Audio& rebuild, CheckReport& report);

}  // namespace fw
