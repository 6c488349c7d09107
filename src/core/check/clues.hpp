// SPDX-License-Identifier: GPL-3.0-or-later
// What there is to look at when something written is held against what was heard, as numbers a judge can weigh (judge.hpp). Log-odds of
// probabilities of the evidence, tenfold levels, hundredths of a second, shares and counts. Which they are is told where they are made.
#pragma once

#include "check/score.hpp"

#include <array>
#include <optional>
#include <vector>

namespace fw {

/// How one pitch is heard where a note is written.
struct PitchHeard {
    double onset = 0.0;     ///< log-odds of the clearest within 50 ms
    double sounding = 0.0;  ///< log-odds of the mean over its first 0.4 s
    double level = 0.0;     ///< tenfold, over the same
    /// The clearer of onset and sounding: above 0 more likely heard than not.
    double clarity() const { return onset > sounding ? onset : sounding; }
    /// Both together: what is heard instead of something else should show both.
    double both() const { return 0.5 * (onset + sounding); }
};
PitchHeard pitch_heard(const Evidence& evidence, const Written& note, int pitch);

/// The log-odds of a stroke of a sound within 40 ms, and of any.
struct StrokeHeard {
    double own = 0.0, any = 0.0;
};
StrokeHeard stroke_heard(const Evidence& evidence, const Written& stroke);

/// The log-odds of the clearest onset of a pitch, or stroke of a sound, between two times.
double clearest_between(const Evidence& evidence, bool drums, int key, double from_s, double to_s);

template <std::size_t N>
using Clues = std::array<double, N>;

inline constexpr std::size_t kNoteLooks = 32, kStrokeLooks = 9, kTimingLooks = 23, kUnwrittenNoteLooks = 28, kUnwrittenStrokeLooks = 9;

/// Of each note of a part: is it heard, is something else heard instead, what do the part's other notes look like.
std::vector<Clues<kNoteLooks>> note_looks(const Hearing& hearing, const Score& score, std::size_t part);
/// Of each stroke of a part; nothing where its sound is mostly not heard in this recording, so that it cannot be judged.
std::vector<std::optional<Clues<kStrokeLooks>>> stroke_looks(const Hearing& hearing, const Score& score, std::size_t part);

/// A written note, and when that which it stands for was heard.
struct Twin {
    std::size_t part = 0, note = 0;
    double off_s = 0.0;  ///< written later than heard
    double sure = 0.0;   ///< that the other was heard
    int candidates = 0;
};
/// Of all notes for which one was heard, in order of part and time.
std::vector<Twin> find_twins(const Hearing& hearing, const Score& score);
/// How far each part is usually written later than heard: the middle of its twins; 0 where there are fewer than four.
std::vector<double> usual_offsets(const Score& score, const std::vector<Twin>& twins);
/// Of each twin: how far it is off, and whether what is beside it is, too.
std::vector<Clues<kTimingLooks>> timing_looks(const Hearing& hearing, const Score& score, const std::vector<Twin>& twins);

/// What may have been heard and is not written within reach of it.
std::vector<Heard> unwritten(const Hearing& hearing, const Score& score, bool drums);
std::vector<Clues<kUnwrittenNoteLooks>> unwritten_note_looks(const Hearing& hearing, const Score& score, const std::vector<Heard>& notes);
std::vector<Clues<kUnwrittenStrokeLooks>> unwritten_stroke_looks(const Hearing& hearing, const Score& score, const std::vector<Heard>& strokes);

}  // namespace fw
