// SPDX-License-Identifier: GPL-3.0-or-later
// Grids, straight, swung or with a feel, and how a feel is taken.
#pragma once

#include "model/song.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fw {

/// What notes are laid on. Steps are counted from each bar's beginning.
struct Grid {
    Ticks step = kTicksPerQuarter / 4;
    double swing = 0.5;              ///< where the second step of a pair lies in it: 0.5 straight, 2/3 a triplet
    const Groove* groove = nullptr;  ///< instead of both; not owned
};

/// A place of a grid.
struct GridPlace {
    Ticks at = 0;
    int velocity = 0;  ///< that the groove asks for; 0: it says nothing
};

/// The place of a grid that is nearest to a tick. A step of 0 or less leaves it where it is.
GridPlace nearest_on(const Grid& grid, const MeterMap& meter, Ticks at);

/// Something that was struck.
struct Struck {
    Ticks at = 0;
    int velocity = 96;
};

/// How strokes lie off a straight grid, over a cycle of bars: of each step the middle one of its strokes' offsets, and their mean velocity. Steps nobody
/// strikes lie on the grid and say nothing of velocity. The cycle is as long as `bars` bars like the one the first stroke lies in.
Groove take_groove(std::string name, const std::vector<Struck>& strokes, const MeterMap& meter, int step, int bars = 1);

/// "+12/96 0 -5/80": each step's ticks off the grid and its velocity, in order; parse_groove_steps reads it.
std::string groove_steps_text(const Groove& groove);
std::optional<std::vector<GrooveStep>> parse_groove_steps(std::string_view text);

/// By name, whatever its case; null for none.
const Groove* find_groove(const Song& song, std::string_view name);

}  // namespace fw
