// SPDX-License-Identifier: GPL-3.0-or-later
// How much a remake may hold. Far above what music needs, low enough that nothing a file states takes more than seconds and some hundred megabytes.
#pragma once

#include "base/time.hpp"

#include <cstddef>

namespace fw::limits {

inline constexpr Ticks kFarthestTick = Ticks{1} << 27;  ///< either side of bar 1: eleven hours at 200 BPM
inline constexpr double kLongest_s = 6 * 3600.0;        ///< of a recording
inline constexpr double kOutside_s = 1800.0;            ///< how far before and behind the recording something may lie
inline constexpr double kSlowestBpm = 4.0, kFastestBpm = 2000.0;
inline constexpr int kBars = 50'000;
inline constexpr std::size_t kAnchors = 500'000, kMeterChanges = 4096, kKeys = 4096, kSections = 4096, kChords = 65'536, kAlternatives = 64;
inline constexpr std::size_t kParts = 128, kLayersAPart = 16, kLayers = 128;
inline constexpr std::size_t kPatternsAPart = 4096, kPlacementsAPart = 65'536;
inline constexpr std::size_t kNotes = 300'000;          ///< kept in patterns
inline constexpr std::size_t kSoundingNotes = 300'000;  ///< counted once for each placement of their pattern, and as many points of bends
inline constexpr std::size_t kBendsANote = 4096;
inline constexpr double kBendCents = 2400.0, kTuningCents = 100.0;
inline constexpr double kQuietest_db = -96.0, kLoudest_db = 24.0;
inline constexpr int kOctaves = 4;
inline constexpr std::size_t kTextBytes = 100'000;

}  // namespace fw::limits
