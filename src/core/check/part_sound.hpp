// SPDX-License-Identifier: GPL-3.0-or-later
// How single parts sound against the original, estimated from the mix: their own renderings explain its spectrum by gains.
#pragma once

#include "check/left_over.hpp"
#include "engine/plan.hpp"

#include <optional>
#include <utility>
#include <vector>

namespace fw {

/// What each part sounds like by itself in some stretches of the song.
struct Stems {
    std::vector<std::pair<double, double>> stretches;  ///< seconds
    std::vector<PartId> parts;
    std::vector<std::vector<SoundSummary>> sounds;  ///< by part and stretch
};
/// Renders the parts that sound, each in a handful of stretches of a few seconds spread over the song. Throws Cancelled.
Stems render_stems(const Remake& remake, const Plan& plan, const Progress& progress = {});

struct PartSound {
    PartId part;
    double clear = 0.0;                             ///< share of its energy that lies where it is the loudest part: what is told of it rests on that
    std::optional<double> level_db;                 ///< the part against what of the original it explains, once the whole is matched; louder is positive
    std::optional<double> balance;                  ///< how much farther to the right it is than what it explains, -1 … 1 being from hard left to hard right
    std::optional<std::pair<double, double>> tone;  ///< of the octave in which it differs most from its own level: middle in Hz, dB louder
    struct Octave {
        double hz = 0.0;      ///< its middle
        double off_db = 0.0;  ///< louder there than what of the original it explains, once its level is matched
        double weight = 0.0;  ///< how much of what is told of the part rests on it
    };
    std::vector<Octave> octaves;  ///< in which it is clear, ascending
};

/// Least squares with gains that cannot be negative, by octave, each cell weighed by its own level; a part's level is the mean over the octaves it is clear in.
/// Nothing of a part that is nowhere clear. match_gain_db: what brings the rebuild to the original's loudness. What its buses and its master add to the parts
/// is not theirs: they are taken as loud together as the rebuild is. Pure, thread-safe.
std::vector<PartSound> part_sounds(const SoundSummary& original, const SoundSummary& rebuild, const Stems& stems, double match_gain_db);

/// Adds findings of them to a report, in its order.
void tell_part_sounds(const Remake& remake, const std::vector<PartSound>& sounds, CheckReport& report);

/// All that can be said of a rebuild: check() with both sounds, what is told of single parts, what is left.
struct FullCheck {
    CheckReport report;
    LeftOver left;
    std::vector<PartSound> parts;
};
/// plan: of the remake, as the rebuild was rendered by; nothing else may be using it. Renders the stems. Throws Cancelled.
FullCheck full_check(const Remake& remake, const Analysis& analysis, const Plan& plan, const SoundSummary& original, const SoundSummary& rebuild,
                     const Progress& progress = {});

}  // namespace fw
