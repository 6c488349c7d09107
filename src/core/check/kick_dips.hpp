// SPDX-License-Identifier: GPL-3.0-or-later
// How the original makes room for its kick.
#pragma once

#include "audio/audio_file.hpp"
#include "base/progress.hpp"
#include "model/remake.hpp"

#include <optional>
#include <span>
#include <vector>

namespace fw {

/// A dip in the level of everything but the kick, after each of its strokes.
struct KickDip {
    double depth_db = 0.0;   ///< how far it goes down
    double release_s = 0.0;  ///< until it is back, along half a cosine in decibels, as the Duck step's release
    int strokes = 0;         ///< how many it was measured at
};

/// Measures the level between 300 Hz and 2.5 kHz, where a kick has little, around each stroke: the median over all of them against what was there just before.
/// A dip is one that recovers, comes at three of four strokes and is at least 2.5 dB deep; nothing where there is none, or where fewer than eight strokes stand
/// far enough apart (0.3 s). mono: at the rate told. Pure, thread-safe.
std::optional<KickDip> kick_dip(std::span<const float> mono, double sample_rate_hz, const std::vector<double>& strokes_s);

/// The same by section, for the kicks that the drum parts play; sections without a dip are left out. Throws Cancelled.
std::vector<std::pair<SectionId, KickDip>> kick_dips(const Remake& remake, const Audio& original, const Progress& progress = {});

}  // namespace fw
