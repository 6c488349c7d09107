// SPDX-License-Identifier: GPL-3.0-or-later
// A moment of the original freed of what sounds beside it: what sounds every time its note is played is the note's, what sounds beside one and not the others
// is not.
#pragma once

#include "analysis/analysis.hpp"
#include "analysis/clearest.hpp"
#include "audio/audio_file.hpp"
#include "model/remake.hpp"

#include <vector>

namespace fw {

/// One time a sound is played, as it is in the mix.
struct Occurrence {
    Audio sound;         ///< stereo, from its stroke on
    double ratio = 1.0;  ///< how high it is played against the first
};

struct InCommon {
    double hz = 0.0;         ///< of the first one's pitch; 0: a stroke
    std::size_t spared = 0;  ///< how many of the others may lack what is kept: one may have been misheard
    bool cut_below = false;  ///< nothing below the pitch is its own
    bool partials = false;   ///< what lies between its partials is mostly others': kept at a tenth
};

/// The first, with each place of its spectrum no louder than it is in the others, all brought to one level and one pitch (by their first partials; of strokes,
/// by all that is loud). One frame and one bin aside counts, too. As long as the first; what is less than a frame may come out softer at its very ends. The
/// first itself where there is none beside it. Pure, thread-safe; frames by bins by others.
Audio in_common(const std::vector<Occurrence>& all, const InCommon& how);

/// A moment from its start up to end_s without what sounds beside it: what it has in common with up to 24 others of its part, of up to five semitones away (of
/// a drum: with strokes of its sound), those most surely heard that are about as long. Where a part plays several notes at once, which come and go together,
/// what lies between the partials is softened, too; where other notes lie below, what is below its pitch is taken out. With fewer than three others it is the
/// share of the spectrum that the evidence gives the element (cut_out). Pure, thread-safe, a tenth of a second.
Audio freed(const Audio& recording, const Analysis& analysis, const Remake& remake, PartId part, const ClearMoment& moment, double end_s);

}  // namespace fw
