// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <optional>

namespace fw {

/// How a bass follows another part.
struct FollowLine {
    Ticks from = 0, to = 0;    ///< what is followed; nothing else of the bass changes. to = 0: the whole song
    int low = 28;              ///< the octave it is brought into begins here: E1, the lowest string
    bool roots = false;        ///< the rhythm of the line with the chords' lowest tones, instead of its own pitches
    std::optional<int> sound;  ///< of drums: which sound's hits
};

/// Lets a part play what another one plays, one note at a time and low: its line in the octave from `low` on (of a lead the top note, of others the lowest), or
/// the chords' lowest tones whenever it strikes. A note lasts as long as it does there, of drums until the next one, a bar at most, and never into the next.
/// Where no chord is, roots have no note. The part's own notes there give way; it is linked to chords no longer.
Remake follow_line(const Remake& remake, PartId bass, PartId line, const FollowLine& how);

}  // namespace fw
