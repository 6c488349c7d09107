// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of the song's form. Sections begin and end at bar lines; where their edges move, what is played is cut there, too, so that each section still has
// patterns of its own.
#pragma once

#include "model/remake.hpp"

namespace fw {

Remake rename_section(const Remake& remake, SectionId section, const std::string& name);
/// What is played in a section, with its clips, its curves and its section settings, is played once more from a tick on, in the place of what begins there.
/// Where no section begins there one is made, as long as the copied one, if there is room; else the copy belongs to the section there.
Remake copy_section(const Remake& remake, SectionId section, Ticks to);
/// Cuts a section in two at the bar line nearest to a tick; the second is called as the first and gets a letter of its own. Where no section is, one is made
/// from that bar line to the next section, or to the end. Nothing where a section begins there already.
Remake split_section(const Remake& remake, Ticks at);
/// Makes one of a section and the one behind it.
Remake merge_section(const Remake& remake, SectionId section);
/// Moves where a section begins to the bar line nearest to a tick: what is gained or lost there belongs to the section before. At least one bar is left of
/// both.
Remake move_section_start(const Remake& remake, SectionId section, Ticks to);
/// Says that a section repeats an earlier one and gives it that one's letter; none: it is something of its own, with a letter that is not used yet.
Remake set_repeat(const Remake& remake, SectionId section, SectionId of);
/// Cuts what parts play at a tick: a pattern that goes on beyond it becomes two.
Remake cut_patterns(const Remake& remake, Ticks at);
/// The same for one part, in place.
void cut_patterns(PartVersion& part, Ticks at);

}  // namespace fw
