// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

namespace fw {

/// A partial of a note as it is in a recording.
struct Partial {
    int number = 1;      ///< 1 the fundamental
    double hz = 0.0;     ///< where it lies
    double cents = 0.0;  ///< above number times the fundamental: strings and bells are stretched
    double db = 0.0;     ///< against the strongest
};

/// The partials of a steady note that stand out: peaks of the spectrum (Blackman-Harris window, parabola through the peak's logarithms: Smith & Serra,
/// "PARSHL", ICMC 1987) within a third of a semitone of a multiple of the fundamental — a whole one higher up, for stretched strings — and at least 12 dB above
/// what lies around them and no more than 70 dB below the loudest of all. Ascending; at most 32; none of silence or noise. mono: from a tenth of a second on.
/// Pure, thread-safe.
std::vector<Partial> standing_partials(std::span<const float> mono, double sample_rate_hz, double fundamental_hz);

}  // namespace fw
