// SPDX-License-Identifier: GPL-3.0-or-later
// How likely what is written is wrong, what is heard and not written is missing: told from the evidence's own probabilities and not from what
// was decided by them.
#pragma once

#include "check/clues.hpp"

#include <optional>
#include <vector>

namespace fw {

struct Verdict {
    std::optional<double> wrong;  ///< the probability that it is not played there, or at another pitch; nothing where its sound cannot be judged
    double untimely = 0.0;        ///< that it is played, at another time
    double late_s = 0.0;          ///< by how much it is written later than usual in its part; early: negative
};

struct Unwritten {
    Heard heard;
    double missing = 0.0;  ///< the probability that it is played and should be written
};

struct Judgement {
    std::vector<std::vector<Verdict>> written;  ///< by part and note of the score
    std::vector<Unwritten> notes, strokes;
};

/// Judges all that is written and all that may have been heard beside it. Logistic regression over the clues (clues.hpp), fitted on errors planted into true
/// notes (training/check.py); how much is wrong in this song, and in each part, is estimated from them by expectation maximisation, so that what is right is
/// not suspected for what something wrong would deserve. Linear in the notes but for a logarithm. Pure, thread-safe.
Judgement judge(const Hearing& hearing, const Score& score);

/// How wrong a part looks as a whole: the mean log-odds, each within ±4, that its notes are wrong, at even prior. Strokes that cannot be judged by their sound
/// are taken by how clearly they are heard. Pure, thread-safe.
double suspicion(const Hearing& hearing, const Score& score, std::size_t part);

/// How much more of a part is heard where it is written than would be elsewhere in the song: 0 chance, 1 nearly all. Low where it is masked or where it is of
/// another song. Pure, thread-safe.
double heard_above_chance(const Evidence& evidence, const WrittenPart& part);

}  // namespace fw
