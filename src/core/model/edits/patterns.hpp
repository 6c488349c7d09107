// SPDX-License-Identifier: GPL-3.0-or-later
// How a part's notes are kept: cut into patterns along the sections, or folded into what repeats.
#pragma once

#include "model/remake.hpp"

#include <string>
#include <vector>

namespace fw {

/// Cuts song-time notes, ascending by start, into patterns, one a section; a section that repeats another to the note shares its pattern, one
/// that nearly does becomes a variant (A, A′). What was heard repeats "to the note" within a thirty-second, what came from outside only where it is the
/// same in everything. Notes outside all sections get patterns of their own. Linear but for the number of sections.
void place_notes(Part& part, const std::vector<Note>& song_notes, const std::vector<Section>& sections, const MeterMap& meter);

/// How repeats are told.
struct Folding {
    int bars = 0;                       ///< how long a pattern is; 0: of 1, 2, 4, 8 and 16 what needs the fewest notes, section by section
    Ticks near = kTicksPerQuarter / 8;  ///< within it two notes of a pitch are the same one
    double alike = 0.55;                ///< share of notes in common from which a stretch is a variant and no pattern of its own
    double sure = 0.8;                  ///< a note that was heard less surely makes no change: left out where most repeats lack it, written where most have it
    bool keep_timing = false;           ///< each repeat keeps its own timing, lengths and velocities; else it has those in the middle of all repeats
};

/// Folds what a part plays into patterns that repeat: the first of each kind becomes the pattern, with the notes that most repeats have; the others are
/// placements of it, or variants where notes differ. What was heard doubtfully is decided by the repeats; what the user drew, played, imported or
/// accepted stays as it is wherever it is. Greedy clustering of stretches by the notes they share, the length of a pattern chosen by how few notes and
/// placements are needed to say all, section by section with what came before (minimum description length, as in Meredith et al., "Algorithms for discovering
/// repeated patterns in multidimensional representations of polyphonic music", JNMR 2002). Everything sounds where it sounded; quadratic in the kinds of
/// stretches, linear in notes.
Remake find_patterns(const Remake& remake, PartId part, const Folding& how = {});

/// Where a stretch plays again, and in what it differs there.
struct Repeat {
    Ticks at = 0;
    std::vector<NoteRef> left_out;  ///< of the stretch's own notes
    std::vector<Note> added;        ///< in song time
};
/// Writes what a part plays in a stretch once more at each of some places, in place of what it played there: the stretch becomes a pattern, each place a
/// placement of it, or of a variant where notes are left out or added. All else sounds as before. Places that overlap the stretch or one another are left
/// out. The rest of the part is folded like find_patterns with each repeat's own timing.
Remake spread_stretch(const Remake& remake, PartId part, Ticks from, Ticks length, std::vector<Repeat> places);

/// A place where a repeat plays something else than its pattern.
struct Variation {
    PlacementId placement;
    Ticks start = 0, length = 0;
    int added = 0, left_out = 0, changed = 0;  ///< notes: more, fewer, of another pitch or muted
    std::vector<Ticks> places;                 ///< where they are, in song time, ascending
};
/// All of a part, ascending; what differs in timing, length or loudness only is none.
std::vector<Variation> variations(const PartVersion& part);

/// Puts a pattern once more at a place, where nothing of the part may begin within its length.
Remake place_pattern(const Remake& remake, PartId part, PatternId pattern, Ticks at);

}  // namespace fw
