// SPDX-License-Identifier: GPL-3.0-or-later
// A second look at where notes may begin. The pitch network hears each stroke by its own surroundings; what the strokes an octave or a twelfth
// below show at the same time, how clear strokes are in the whole song and what sounded before tells partials and swells from notes.
#pragma once

#include "analysis/evidence.hpp"

#include <array>
#include <span>

namespace fw {

/// A peak of the onset evidence with something sounding after it: where a note may begin.
struct NoteEntry {
    std::size_t frame;  ///< pitch frame
    std::size_t pitch;  ///< column, Evidence::kLowestPitch first
};
/// All entries of a recording, pitch by pitch in order of time. Pure, thread-safe.
std::vector<NoteEntry> note_entries(const Evidence& evidence);

/// What the likely entries of the whole song show; clues are told against it.
struct SongClarity {
    float onset = 0.0F;  ///< log-odds that the clearer quarter reaches
    float level = 0.0F;  ///< and its level
    /// How much each pitch is played: natural logarithms of its share of all entries, of its pitch class's share of all, and of its share
    /// among itself and its neighbours up to a whole tone away.
    std::array<float, Evidence::kPitches> pitch{}, pitch_class{}, among_neighbours{};
};
SongClarity song_clarity(const Evidence& evidence, std::span<const NoteEntry> entries);

inline constexpr int kNoteClues = 38;
/// What is looked at: kNoteClues × entries, log-odds and tenfold levels (training/judge.py weighs them in this order). Pure, thread-safe.
Frames note_clues(const Evidence& evidence, std::span<const NoteEntry> entries, const SongClarity& song);

/// The probability that a note begins at each entry, by logistic regression over the clues (training/weights/judge.fwnn). Pure, thread-safe.
std::vector<float> judge_entries(const Evidence& evidence, std::span<const NoteEntry> entries);

}  // namespace fw
