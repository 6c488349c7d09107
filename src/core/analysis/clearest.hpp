// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"

#include <vector>

namespace fw {

/// A moment in which something stands nearly alone.
struct ClearMoment {
    double start_s = 0.0, end_s = 0.0;
    int pitch = -1;      ///< of a note; of a stroke −1
    DrumKind kind{};     ///< of a stroke
    double alone = 0.0;  ///< its share of what sounds there, by the evidence, 0..1
};

/// Where what was heard for a part (HeardPart::is_of; of drums: each of their sounds) stands most alone, best first, no two of the same second: single notes of at least 0.15 s
/// and strokes, by how sure they are and by how little else the evidence has there. At most `most`. Empty where nothing of the kind was heard. Pure,
/// thread-safe.
std::vector<ClearMoment> clearest_moments(const Analysis& analysis, PartRole role, const std::string& name = {}, std::size_t most = 12);

}  // namespace fw
