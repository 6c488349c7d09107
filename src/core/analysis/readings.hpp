// SPDX-License-Identifier: GPL-3.0-or-later
// Other ways to count the same music, and what was meant by tapping along.
#pragma once

#include "analysis/analysis.hpp"
#include "model/song.hpp"

#include <optional>
#include <string>
#include <vector>

namespace fw {

/// One way to count: what take_reading makes of the song.
struct Reading {
    double factor = 1.0;                 ///< its tempo over the present one, in quarters
    Ticks later = 0;                     ///< how much later it counts its beats, in its own ticks
    int numerator = 0, denominator = 0;  ///< its meter; 0: the present one
    double bpm = 0.0;                    ///< quarters a minute at the beginning
    std::string words;                   ///< "2/3", "half a beat later", "triplets"
    /// How well it fits, 0..1: what is struck or changes on its beats (drums, bass) and bar lines (harmony) against what does half-way between, and how many of
    /// them are borne out. Nothing where there is nothing to go by.
    std::optional<double> drums, harmony, bass;
    double fit = 0.0;  ///< all together, and how near the tempo lies to walking pace
};

/// The present reading first, then the others, best first: half, double, 3/2, 2/3, 4/3 and 3/4 of the tempo, each from the beats and bar lines that fit it
/// best; beats half a beat later and earlier; triplets for straight time and the other way round. Pure, thread-safe; some tens of milliseconds for a song.
std::vector<Reading> readings(const Song& song, const Evidence& evidence);

/// Where the recording itself has the beats of a stretch, from one felt beat to another (included): each at the nearest peak of the evidence, up to 60 ms away,
/// or where the song counts it.
std::vector<double> beats_as_heard(const Song& song, const Evidence& evidence, Ticks from, Ticks to);

/// What was meant by taps along with the recording.
struct TapMeaning {
    double tapped_bpm = 0.0;  ///< as they were tapped, quarters a minute
    double factor = 1.0;      ///< of the present tempo, where it is a simple one
    Ticks later = 0;          ///< in the ticks of the new reading
    std::vector<double>
        beats_s;  ///< where no simple factor explains the taps: the beats of the whole song, counted on from the taps by the evidence; else empty
};

/// times_s: of at least four taps, ascending, each on one beat. Period and place by a line through them that leaves out what lies far off; the tempo then is
/// that of the recording's own beats, to whose simple multiple it belongs, so that the hand's unsteadiness takes no part. Nothing for fewer than four taps or
/// taps that are no pulse (10 % unsteady and more). Pure, thread-safe.
std::optional<TapMeaning> meaning_of_taps(const Song& song, const Evidence& evidence, const std::vector<double>& times_s);

}  // namespace fw
