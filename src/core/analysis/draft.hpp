// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "base/result.hpp"
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
Remake draft_remake(const Analysis& analysis);

/// The same with nothing but parts from outside, see with_given_parts.
Result<Remake> draft_remake(const Analysis& analysis, const std::vector<GivenPart>& given, double offset_s, const std::string& name);

/// A remake with parts from outside added behind its own, as drafts of origin Imported. Every note comes in as it is: its onset offset_s later in the
/// recording, to the nearest tick (a third of a millisecond at most), its velocity, pitch and bends. name stands for where they come from in messages.
/// MidiElsewhere where one would lie far outside the recording, MidiUnusable where the whole would be more than a remake may hold.
Result<Remake> with_given_parts(const Remake& remake, const std::vector<GivenPart>& given, double offset_s, const std::string& name);

}  // namespace fw
