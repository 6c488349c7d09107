// SPDX-License-Identifier: GPL-3.0-or-later
// What plays where: parts against sections.
#pragma once

#include "model/remake.hpp"

namespace fw {

/// What of a part begins last in a section; null where it plays nothing there.
const Placement* placement_in(const PartVersion& part, const Section& section);
/// A part plays in one section what it plays in another, in the place of what it played there: once more from the beginning where the section is longer, cut
/// where it is shorter. The patterns are shared: a change everywhere reaches both.
Remake play_as(const Remake& remake, PartId part, SectionId section, SectionId like);
/// A part plays nothing in a section any more; what goes on into it from before ends at its beginning.
Remake leave_out(const Remake& remake, PartId part, SectionId section);
/// From a tick to another a part is silent, because its notes are gone there: a stop, a drop-out, the end of a phrase before the next begins.
Remake fall_out(const Remake& remake, PartId part, Ticks from, Ticks to);
/// Two parts take turns bar by bar in a section: the one plays in its first, third, … bars, the other in those between, each what it plays there now.
Remake take_turns(const Remake& remake, PartId one, PartId other, SectionId section);
/// The original itself stands from a tick to another, at its own time and level, marked as such; with alone, what parts play there is muted.
Remake fill_with_original(const Remake& remake, Ticks from, Ticks to, bool alone);

}  // namespace fw
