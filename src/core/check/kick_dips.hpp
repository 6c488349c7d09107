// SPDX-License-Identifier: GPL-3.0-or-later
// How the original makes room for its kick, and how a Duck step does.
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

/// Where the level between two frequencies is listened to: where a kick has little.
inline constexpr double kDipLow_hz = 300.0, kDipHigh_hz = 2500.0;

/// The level there behind each stroke, the median over all of them against what was there just before.
struct AfterStrokes {
    static constexpr double kStep_s = 0.005;
    std::vector<double> db;  ///< from the stroke on, in steps of kStep_s, at most 0.7 s; ends where most strokes have met the next one
    int strokes = 0;         ///< how many it was measured at
    std::optional<KickDip> dip;
};

/// A dip is one that recovers, comes at three of four strokes and is at least 2.5 dB deep. Nothing where fewer than eight strokes stand far enough apart
/// (0.3 s) in what is no silence. mono: at the rate told. Pure, thread-safe.
std::optional<AfterStrokes> after_strokes(std::span<const float> mono, double sample_rate_hz, const std::vector<double>& strokes_s);

/// The same by section, for strokes at these ticks, ascending; sections of which nothing can be said are left out. Throws Cancelled.
std::vector<std::pair<SectionId, AfterStrokes>> after_strokes(const Remake& remake, const Audio& original, const std::vector<Ticks>& strokes,
                                                              const Progress& progress = {});

/// The kicks that the drum parts play; what sets a step off, where that is a part. Ascending.
std::vector<Ticks> kicks_of(const Remake& remake);
std::vector<Ticks> strokes_for(const Remake& remake, const Trigger& trigger);

/// What a Duck step does to the level after one stroke at a place, with the values it has there, dB in steps of AfterStrokes::kStep_s; of the lows where it
/// ducks those alone. Empty where it is none.
std::vector<double> ducked_db(const Remake& remake, StepId duck, Ticks at, double long_s);

}  // namespace fw
