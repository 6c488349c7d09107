// SPDX-License-Identifier: GPL-3.0-or-later
// How much a remake may hold. Far above what music needs, low enough that nothing a file states takes more than seconds and some hundred megabytes.
#pragma once

#include "base/time.hpp"

#include <cstddef>

namespace fw::limits {

inline constexpr Ticks kFarthestTick = Ticks{1} << 27;  ///< either side of bar 1: eleven hours at 200 BPM
inline constexpr double kOutside_s = 1800.0;            ///< how far before and behind the recording something may lie
inline constexpr double kSlowestBpm = 4.0, kFastestBpm = 2000.0;
inline constexpr int kBars = 50'000;
inline constexpr std::size_t kAnchors = 500'000, kMeterChanges = 4096, kKeys = 4096, kSections = 4096, kChords = 65'536, kAlternatives = 64;
inline constexpr std::size_t kParts = 128, kLayersAPart = 16, kLayers = 128, kStepsAChain = 32, kSteps = 512, kSends = 16, kBuses = 64, kRivals = 32;
inline constexpr std::size_t kPatternsAPart = 4096, kPlacementsAPart = 65'536;
inline constexpr std::size_t kNotes = 300'000;          ///< kept in patterns, rivals' included
inline constexpr std::size_t kSoundingNotes = 300'000;  ///< counted once for each placement of their pattern, and as many points of bends
inline constexpr std::size_t kBendsANote = 4096;
inline constexpr int kGrooveStep = 7680;  ///< ticks: two whole notes
inline constexpr std::size_t kGrooves = 64, kGrooveSteps = 256;
inline constexpr int kStrokesANote = 256;
inline constexpr std::size_t kVoices = 32;  ///< of a chord's layout
inline constexpr double kBendCents = 2400.0, kTuningCents = 100.0;
inline constexpr std::size_t kCurves = 4096, kPointsACurve = 65'536, kSettings = 65'536, kMacros = 256, kMacroTargets = 256, kNoteMoves = 4096;
inline constexpr std::size_t kAssets = 4096, kClips = 4096, kRecipe = 64, kWarpMarks = 4096;
inline constexpr std::size_t kTransitionPitches = 16;
inline constexpr double kTransitionBeats = 256.0;
inline constexpr double kAsset_s = 600.0;  ///< the longest a clip's sound may be, stretched
inline constexpr std::size_t kRows = 256, kPictures = 64, kRemarks = 4096;
inline constexpr std::size_t kTextBytes = 100'000;
inline constexpr double kMostNumber = 1e12;

}  // namespace fw::limits
