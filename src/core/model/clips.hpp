// SPDX-License-Identifier: GPL-3.0-or-later
// Pieces of sound in the song, and what was done to each.
#pragma once

#include "base/time.hpp"
#include "model/ids.hpp"
#include "model/shared.hpp"

#include <cstdint>
#include <string>
#include <vector>

namespace fw {

enum class AssetOrigin { Made, Recorded, File, Original };
inline constexpr int kAssetOrigins = 4;

/// A sound between two places that is made instead of being looked for.
enum class Transition { None, Riser, Sweep, Fall, Impact, Crash, Swell, SubDrop, NoiseBuild, SnareBuild, ChordSwell };
inline constexpr int kTransitions = 11;

/// How a transition is made: anew whenever it is wanted, so that it can be changed later and fits the tempo there.
struct Making {
    Transition kind = Transition::None;
    double beats = 4.0;        ///< how long it lasts, in quarters
    std::vector<int> pitches;  ///< MIDI keys, ascending: what it is tuned to, or a chord's tones
    Unknown unknown{};
    bool operator==(const Making&) const = default;
};

/// A sound, by what is in it. One from the original is a span of the reference and needs no file of its own; it can be left out of all that leaves the house.
struct Asset {
    AssetId id;
    std::string name;
    AssetOrigin origin = AssetOrigin::File;
    std::string path;                   ///< the file; of one from the original empty, or where it lies freed of what sounds beside it
    std::uint64_t content_hash = 0;     ///< of the decoded samples; of the reference for one from the original
    double start_s = 0.0, end_s = 0.0;  ///< what of it is meant
    bool kept = false;                  ///< whether the remake file holds it, too
    Shared<std::string> bytes{};        ///< its file as the remake file held it; empty where it was not kept yet
    Making made{};                      ///< of one that is made: how; it has no file then
    Unknown unknown{};
    bool operator==(const Asset&) const = default;
};

/// What can be done to a piece of sound.
enum class Treatment { Trim, Gain, Fade, Reverse, Pitch, Stretch, Bars, Stop, Gate, Freeze, Clean, Tune, Warp, Speed, Even };
inline constexpr int kTreatments = 15;

/// Of a warp: what sounds at one time from here is heard at another.
struct WarpMark {
    double from_ms = 0.0, to_ms = 0.0;
    Unknown unknown{};
    bool operator==(const WarpMark&) const = default;
};

/// One entry of a recipe; what its two numbers mean stands in model/recipe.hpp.
struct RecipeEntry {
    Treatment treatment = Treatment::Gain;
    double first = 0.0, second = 0.0;
    double on = 1.0;
    Unknown unknown{};
    std::vector<WarpMark> marks{};  ///< of a warp, ascending on both sides; what lies between two is stretched, the beginning and the end stay
    bool operator==(const RecipeEntry&) const = default;
};

/// An asset placed in the song with the ordered list of what was done to it.
struct Clip {
    ClipId id;
    AssetId asset;
    std::string name;
    Ticks start = 0;  ///< where it begins, or where it ends
    bool ends_here = false;
    std::vector<RecipeEntry> recipe;
    double gain_db = 0.0;
    double pan = 0.0;
    bool mute = false;
    BusId output{};
    Unknown unknown{};
    bool operator==(const Clip&) const = default;
};

struct Clips {
    std::vector<Asset> assets;
    std::vector<Clip> clips;
    Unknown unknown{};
    bool operator==(const Clips&) const = default;

    const Asset* asset(AssetId id) const;
    const Clip* clip(ClipId id) const;
};

}  // namespace fw
