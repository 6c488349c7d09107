// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

#include <vector>

namespace fw {

/// Both sides, or one, as their mean. Pure, thread-safe.
std::vector<float> mono_of(const Audio& sound);

}  // namespace fw
