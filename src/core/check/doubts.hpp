// SPDX-License-Identifier: GPL-3.0-or-later
// The notes of a part that are worth a second listening, each with what might stand there instead.
#pragma once

#include "check/check.hpp"
#include "check/clues.hpp"

#include <optional>
#include <string>
#include <vector>

namespace fw {

/// What might be played at a place instead of what is written, or is missing.
struct Alternative {
    int pitch = 0;         ///< of drums the key of a sound
    double heard = 0.0;    ///< how clearly it is heard there by the evidence, 0..1
    bool written = false;  ///< it is what is written now
    std::string also;      ///< another part that plays it there; empty for none
};

/// Why something may have been overheard.
enum class Masked { Not, ByItsOctave, ByItsTwelfth, UnderAChord };

struct Doubt {
    PartId part;
    std::optional<NoteRef> note;  ///< none: something that may be missing
    Note shown;                   ///< in song time; of what may be missing as it would be added
    double start_s = 0.0, end_s = 0.0;
    double right = 0.0;  ///< the probability that it is right as it is; of what may be missing that nothing is
    Masked masked = Masked::Not;
    std::vector<Alternative> alternatives;  ///< most likely first, semitone and octave neighbours before others that are as clear
};

/// What is less likely right is doubted.
inline constexpr double kDoubted = 0.6;

/// Whether a note is worth a second listening: heard or imported, neither muted nor accepted, and less likely right than that. right: nothing where it was not
/// checked; then what was heard counts by its own confidence.
bool is_doubted(const PlacedNote& note, std::optional<double> right, double less_than = kDoubted);

/// Looks at one place: fills in what might stand there instead — the five pitches within two octaves that are heard most clearly, with a semitone, a whole
/// tone, an octave and a fifth ahead of what is as clear, and what is written; of drums other sounds — and what it may be masked by. Pitches that the same part
/// plays there are none. Pure, thread-safe, about a millisecond.
void look_closer(const Remake& remake, const Evidence& evidence, Doubt& doubt);

/// What of a part is right with less than a probability, and what may be missing from it, in order of time. What the user accepted, drew or played, what was
/// marked as meant there and what is muted is not doubted; each still without its alternatives. The report must be of this remake; pure, thread-safe,
/// milliseconds for a song.
std::vector<Doubt> doubts(const Remake& remake, const CheckReport& report, PartId part, double less_than = kDoubted);
/// The same for whoever has the part's placed_notes already.
std::vector<Doubt> doubts(const Remake& remake, const CheckReport& report, const Part& part, const std::vector<PlacedNote>& notes, double less_than = kDoubted);

}  // namespace fw
