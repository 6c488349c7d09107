// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <span>

namespace fw {

/// The sounding pitch of a short stretch.
struct ProbedPitch {
    double hz = 0.0;
    double clear = 0.0;                   ///< how periodic it is, 0..1
    double start_hz = 0.0, end_hz = 0.0;  ///< where it begins and ends, for bends; nearly hz where it stays
};

/// The strongest pitch of a stretch of sound between two frequencies, by the period at which it is most like itself (de Cheveigné & Kawahara, "YIN, a
/// fundamental frequency estimator for speech and music", JASA 2002): per window of four of the longest periods, then the middle of those that are clear.
/// Nothing where no pitch is clear: noise, silence, a chord, or less than two windows. Of low notes (below 60 Hz) a quarter of a second is needed. Pure,
/// thread-safe.
std::optional<ProbedPitch> probe_pitch(std::span<const float> mono, double sample_rate_hz, double low_hz = 25.0, double high_hz = 4200.0);

}  // namespace fw
