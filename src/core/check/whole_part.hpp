// SPDX-License-Identifier: GPL-3.0-or-later
// What is wrong with a part as a whole.
#pragma once

#include "check/score.hpp"

#include <optional>

namespace fw {

struct WholePart {
    std::optional<int> up;         ///< by how many semitones all of it is written off, up to an octave
    std::optional<double> late_s;  ///< by how much it is written late (early: negative) throughout, up to 0.75 s
    double righter = 0.0;          ///< mean log-odds by which it looks more right there
    bool wrong() const { return up || late_s; }
};

/// Asks whether a part looks clearly more right moved in pitch or in time than where it is written, to the same judge that judges its notes (suspicion).
/// Nothing of parts of fewer than twelve notes. Pure, thread-safe.
WholePart wrong_as_a_whole(const Hearing& hearing, const Score& score, std::size_t part);
/// The same of all parts, the clearest first: what looks wrong only while another part is, is right. By part of the score.
std::vector<WholePart> wrong_as_a_whole(const Hearing& hearing, const Score& score);

}  // namespace fw
