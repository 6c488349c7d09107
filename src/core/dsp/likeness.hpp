// SPDX-License-Identifier: GPL-3.0-or-later
// Where a sound is like itself: what repeats in it, and where it can go round.
#pragma once

#include <optional>
#include <span>

namespace fw {

/// After how long a sound begins again.
struct Repetition {
    double seconds = 0.0;
    double likeness = 0.0;  ///< 0 … 1: how like itself it is that much later
};

/// The shortest time after which a sound repeats, as a loop that was cut too long does: by the correlation of its spectra with those some time later (Foote,
/// "Visualizing music and audio using self-similarity", ACM Multimedia 1999), then to the sample by its waveform. It has to be there at least one and a half
/// times. Nothing where nothing repeats: a lone stroke, a held tone, noise. Pure, thread-safe; a tenth of a second for ten seconds of
/// sound, of which the first minute is looked at.
std::optional<Repetition> find_repeat(std::span<const float> mono, double sample_rate_hz);

/// Where a held sound can go round without being heard to.
struct Round {
    double start_s = 0.0, end_s = 0.0;
    double likeness = 0.0;  ///< of the waveforms before both ends, -1 … 1
};

/// The two places in the later part of a sound before which its waveform is most alike, 0.15 to 4 s apart and of about the same level. Nothing where it is
/// shorter than 0.4 s or nothing is alike (below 0.8): noise, a stroke that dies away too soon. Pure, thread-safe; some tens of milliseconds.
std::optional<Round> find_round(std::span<const float> mono, double sample_rate_hz);

}  // namespace fw
