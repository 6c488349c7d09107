// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <functional>
#include <vector>

namespace fw {

/// Holds a field at a value in one section; a value for a field that does not move is not taken.
Remake set_in_section(const Remake& remake, const FieldRef& field, SectionId section, double value);
Remake clear_in_section(const Remake& remake, const FieldRef& field, SectionId section);
/// Moves a field along points (brought into order and range) in a section, or in the whole song for none; without points the curve is taken away.
Remake set_curve(const Remake& remake, const FieldRef& field, SectionId section, std::vector<CurvePoint> points);
/// What a field is at a tick of the song: by its section's curve or setting there, by the song's curve, or as it is set. 0 where there is no such field.
double value_moved(const Remake& remake, const FieldRef& field, Ticks at);
/// A field as it does now, but each of its values another (brought into range): as it is set, in sections, along curves. For fields that macros move too, only
/// the field itself.
Remake changed_everywhere(const Remake& remake, const FieldRef& field, const std::function<double(double)>& change);
/// Lays points (in song time, from `from` on and before `to`) over what moves a field; outside it goes on as before, from one tick to the next. It becomes a
/// curve of each section it touches, so that it goes with it, and of the song where no section is.
Remake lay_over(const Remake& remake, const FieldRef& field, Ticks from, Ticks to, const std::vector<CurvePoint>& points);
/// What a field does along a curve in one section it does in every other section that repeats it, or is repeated by it, or has its letter; cut where one is
/// shorter. The same where it has no curve there.
Remake reuse_curve(const Remake& remake, const FieldRef& field, SectionId section);
/// Opens a send to a level for as long as each of some notes sounds, and leaves it closed elsewhere in their sections; a part that is not sent there yet is,
/// closed. What was thrown before stays.
Remake throw_notes(const Remake& remake, PartId part, BusId bus, const std::vector<NoteRef>& notes, double level_db);
/// Lets each note of a part move a field anew (NoteMove), in the place of what moved it so before; what has no such field or part, or is a macro's, is not
/// taken.
Remake move_by_notes(const Remake& remake, NoteMove move);
Remake move_by_no_notes(const Remake& remake, const FieldRef& field);
/// The curve of a field in a section or the song; null for none.
const Curve* find_curve(const Remake& remake, const FieldRef& field, SectionId section);

}  // namespace fw
