// SPDX-License-Identifier: GPL-3.0-or-later
// Sounds that lead from one section to the next, made instead of being looked for.
#pragma once

#include "audio/audio_file.hpp"
#include "model/clips.hpp"

namespace fw {

/// Makes a transition: stereo, exactly as long as told, its loudest sample at -6 dBFS. The same wish gives the same samples. What rises or swells is loudest at
/// its very end, so that it can end on a bar line. Without pitches it is tuned to A. Takes about a twentieth of the sound's length. Pure, thread-safe.
Audio transition_sound(const Making& making, double seconds, double sample_rate_hz);

}  // namespace fw
