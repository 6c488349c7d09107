// SPDX-License-Identifier: GPL-3.0-or-later
// How likely what is written is wrong, told from the evidence's own probabilities and not from what was decided by them.
#pragma once

#include "analysis/analysis.hpp"

#include <array>
#include <optional>
#include <span>
#include <vector>

namespace fw {

/// A note, or a stroke of a drum sound, as a part has it.
struct Written {
    double onset_s = 0.0, end_s = 0.0;
    int pitch = 0;  ///< of a stroke its key
};

inline constexpr std::size_t kWrittenClues = 6;
/// What is heard where a note is written: log-odds of its onset (the clearest within 50 ms), of its sounding (mean of its first 0.4 s), its level; and onset
/// or sounding an octave below and above, of which it may be a partial. Pure, thread-safe.
std::array<double, kWrittenClues> written_clues(const Evidence& evidence, const Written& note);
/// The clearer of a note's onset and sounding, in log-odds: above 0 more likely heard than not.
double clarity(const std::array<double, kWrittenClues>& clues);

inline constexpr std::size_t kHitClues = 2;
/// The same of a drum stroke: log-odds of its sound within 40 ms, and of any stroke there.
std::array<double, kHitClues> hit_clues(const Evidence& evidence, const Written& hit);

/// The probability that each of a part's notes or strokes is wrong: not played there in the recording, or at another pitch. By logistic regression over the
/// clues and over how clear the part is as a whole, fitted on errors planted into true notes (training/check.py); how much of the part is wrong is estimated
/// from the part itself by expectation maximisation, so that a right part is not suspected for what a wrong one would deserve. Strokes are judged sound by
/// sound; nothing where a sound's strokes are mostly not heard in this recording and it cannot be judged. Linear in the notes. Pure, thread-safe.
std::vector<std::optional<double>> probably_wrong(const Evidence& evidence, std::span<const Written> notes, bool drums);

/// How much more of a part is heard where it is written than would be elsewhere in the song: 0 chance, 1 nearly all. Low where it is masked or where it is of
/// another song. Pure, thread-safe.
double heard_above_chance(const Evidence& evidence, std::span<const Written> notes, bool drums);

/// By how many semitones a part is written off as a whole, by which pitches are heard instead of its own; nothing where it is not.
std::optional<int> transposed_by(const Evidence& evidence, std::span<const Written> notes);
/// By how many seconds it is written late (early: negative) as a whole, to the hundredth, up to 0.75 either way; nothing where it stands where it is heard.
std::optional<double> shifted_by(const Evidence& evidence, std::span<const Written> notes, bool drums);

}  // namespace fw
