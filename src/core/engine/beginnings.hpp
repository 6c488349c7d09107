// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

#include <vector>

namespace fw {

/// Where something begins in a sound, seconds, ascending, at least 60 ms apart: what is struck (find_hits), and, where most of it is one voice, the notes it
/// sings (sung_notes). Empty for silence and noise. Pure, thread-safe; a tenth of real time.
std::vector<double> find_beginnings(const Audio& sound);

}  // namespace fw
