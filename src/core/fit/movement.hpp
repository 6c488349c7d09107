// SPDX-License-Identifier: GPL-3.0-or-later
// How an element moves in the original from beat to beat, and what that asks of a field of ours.
#pragma once

#include "base/progress.hpp"
#include "engine/plan.hpp"
#include "engine/share.hpp"

#include <memory>
#include <optional>
#include <vector>

namespace fw {

/// What can be followed.
enum class Movement { Level, Brightness, Width };

/// Which of them a field moves: levels, cutoffs, widths. Nothing for other fields, and for those of a send, a bus or a macro.
std::optional<Movement> movement_of(const Remake& remake, const FieldRef& field);

/// A sound over one quarter of the song: sums of power, so that one can be taken out of another.
struct BeatSound {
    double middle = 0.0, sides = 0.0;  ///< mean power of both
    double high = 0.0, octaves = 0.0;  ///< power above 100 Hz weighed by the square of its frequency, and that times how many octaves above 100 Hz it lies
    double level_db() const;
    double brightness() const;  ///< octaves above 100 Hz at which the middle of its power lies
    double sides_db() const;    ///< against the middle
};

/// An element in the recording and in ours, beat by beat from the song's first quarter on, all through the element's share, so that what the share takes away
/// of it is taken away of both.
struct BeatMoves {
    std::vector<BeatSound> original, ours;
    std::vector<BeatSound> others;  ///< what of all else in our rebuild comes through the share, at the original's loudness; empty where all is meant
    std::vector<BeatSound> higher;  ///< ours with a cutoff an octave higher: how much that is heard decides how far it must be moved
};
/// Of the part that a field moves, or of all of the recording against all of the rebuild for one of the master. Renders the part, for a cutoff once more an
/// octave higher, and the rest. Throws Cancelled, Failed.
BeatMoves beat_moves(const Remake& remake, const Audio& recording, const FieldRef& field, Movement movement, const std::shared_ptr<const Share>& share,
                     const PlanInputs& inputs, const Progress& progress = {});

/// What a field would have to be, beat by beat (song time, within its range), for ours to move as the original does: what it is there now, moved by how much
/// farther the original is from ours than it mostly is. That steady distance is left out: how loud an element is as a whole cannot be told from its share as
/// surely as how it moves. A cutoff that is hardly heard is not asked for. What else comes through the share, as our own rebuild tells, at its loudness against
/// the original, is taken out first; beats in which that is more than half are left out, and those in which either is silent. None where fewer than four are
/// left. Single beats are smoothed by the median of three.
std::vector<CurvePoint> asked_of(const Remake& remake, const FieldRef& field, Movement movement, const BeatMoves& moves);

/// The same as a curve a hand would have drawn: only the points it needs to stay within a twenty-fifth of the field's scale.
std::vector<CurvePoint> followed(const Parameter& row, const std::vector<CurvePoint>& asked);

}  // namespace fw
