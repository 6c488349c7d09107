// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of whole parts and their rivals.
#pragma once

#include "model/remake.hpp"

#include <functional>
#include <string>
#include <vector>

namespace fw {

Remake with_part(const Remake& remake, PartId part, const std::function<void(Part&)>& change);
/// Adds a part behind the others, with one layer of a source and nothing to play yet; a draft for the ledger.
Remake add_part(const Remake& remake, const std::string& name, PartRole role, Layer layer);
/// The remake with nothing but one part, and of that only some notes; all for none. What leaves the house as MIDI of a part or a selection.
Remake only_part(const Remake& remake, PartId part, const std::vector<NoteRef>& notes = {});
/// Takes a part out, with what moves it and what it sets off.
Remake remove_part(const Remake& remake, PartId part);
/// Mutes or unmutes what a part plays in a section.
Remake mute_cell(const Remake& remake, PartId part, SectionId section, bool muted);
Remake clear_mutes_and_solos(const Remake& remake);

/// Keeps the part as it is beside itself, under the name of the version that is chosen now; the part goes on under the new name.
Remake add_rival(const Remake& remake, PartId part, const std::string& name);
/// Changes places with a rival, by its place among them.
Remake choose_rival(const Remake& remake, PartId part, std::size_t rival);
Remake remove_rival(const Remake& remake, PartId part, std::size_t rival);

/// Takes away what speaks of things that are no longer there: curves and section settings, sends and outputs, triggers, notes in the notebook.
Remake without_loose_ends(Remake remake);

/// Patterns that are not played any more, and are no parent of what is, go.
void drop_unplayed(PartVersion& part);

}  // namespace fw
