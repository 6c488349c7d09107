// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of what the user says: of elements, of places, of the record.
#pragma once

#include "model/remake.hpp"

namespace fw {

Remake set_element(const Remake& remake, ElementId element, const ElementState& state);
/// Adds a row of the user's own to the ledger.
Remake add_row(const Remake& remake, const std::string& name);
Remake remove_row(const Remake& remake, RowId row);
/// Words about a place; those of the same kind, element and place give way.
Remake add_remark(const Remake& remake, Remark remark);
/// Takes away those of a kind about an element that begin at a place; nothing where there are none.
Remake remove_remark(const Remake& remake, RemarkKind kind, ElementId element, Ticks start);
/// Remembers a place, a loop and a lens under a name; one of that name gives way.
Remake add_spot(const Remake& remake, Spot spot);
Remake remove_spot(const Remake& remake, const std::string& name);
/// What was found out about the record.
Remake set_research(const Remake& remake, const std::string& words);
/// A picture beside those words.
Remake add_picture(const Remake& remake, Picture picture);
/// Without the picture at a place in the list, from 0, which must be there.
Remake remove_picture(const Remake& remake, std::size_t index);

}  // namespace fw
