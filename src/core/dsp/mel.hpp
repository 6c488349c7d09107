// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "dsp/frames.hpp"

#include <span>

namespace fw {

/// Log-mel spectra for onsets, beats and drums, at the analysis rate of 22 050 Hz.
///
/// Two windows side by side: a short one that places hits in time and a long one that tells low drums apart.
/// Columns 0..63 are the short window's bands, 64..127 the long one's, 30 Hz to 11 kHz, triangular on the mel scale
/// (O'Shaughnessy 1987), as log10(1 + 10⁴·power), 0 to about 4. Frame f is centred on sample f·hop.
struct MelSpectra {
    static constexpr int kHop = 256;
    static constexpr int kBands = 64;
    static constexpr int kShortWindow = 512;
    static constexpr int kLongWindow = 2048;

    /// Frames first .. first+count-1 of a signal; outside the signal there is silence. Pure, thread-safe.
    static Frames analyse(std::span<const float> signal, std::ptrdiff_t first, std::size_t count);
};

}  // namespace fw
