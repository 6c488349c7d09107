// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "model/remake.hpp"

namespace fw {

/// A part given from outside, in recording time.
struct GivenPart {
    std::string name;
    bool drums = false;
    int program = -1;              ///< General MIDI program, -1 where not stated
    std::vector<HeardNote> notes;  ///< drums: pitch is the General MIDI key
};

/// Turns an analysis into a draft remake: every element a draft, nothing confirmed. Notes keep their performed timing.
/// given: parts that take the place of the heard ones; empty to draft from what was heard.
Remake draft_remake(const Analysis& analysis, const std::vector<GivenPart>& given = {});

/// A remake with parts from outside added behind its own, as drafts of origin Imported, with their performed timing.
Remake with_given_parts(const Remake& remake, const std::vector<GivenPart>& given);

/// Cuts song-time notes into patterns, one a section; a section that repeats another to the note shares its pattern, one
/// that nearly does becomes a variant (A, A′). Notes outside all sections get patterns of their own.
void place_notes(Part& part, const std::vector<Note>& song_notes, const std::vector<Section>& sections, const MeterMap& meter);

}  // namespace fw
