// SPDX-License-Identifier: GPL-3.0-or-later
// How a chord is laid out where it is heard.
#pragma once

#include "analysis/evidence.hpp"
#include "model/harmony.hpp"

#include <vector>

namespace fw {

/// The pitches of a chord's tones that sound through most of a stretch, ascending, the lowest in the bass where one sounds there. A pitch that is likely the
/// overtone of one an octave or a twelfth below, being softer than that, is left out. Empty where fewer than two are clear. Pure, thread-safe.
std::vector<int> heard_layout(const Evidence& evidence, const Chord& chord, double start_s, double end_s);

}  // namespace fw
