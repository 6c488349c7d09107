// SPDX-License-Identifier: GPL-3.0-or-later
// One control for many fields. What it moves is set and drawn with it by set_field, set_in_section and set_curve.
#pragma once

#include "model/remake.hpp"

#include <string>

namespace fw {

/// A macro that moves nothing yet.
Remake add_macro(const Remake& remake, const std::string& name);
/// Takes a macro and its curves away; the fields it moved stay where they are, with the curves they have.
Remake remove_macro(const Remake& remake, MacroId macro);
/// Lets a macro move a field from one value to another, or between other ones; the field goes to where the macro stands. A field that does not move, or is a
/// macro's own, is not taken.
Remake set_target(const Remake& remake, MacroId macro, const FieldRef& field, double from, double to);
Remake remove_target(const Remake& remake, MacroId macro, const FieldRef& field);
/// Sets a macro's amount and with it the fields it moves.
Remake set_macro(const Remake& remake, MacroId macro, double amount);

/// The macro a field is the amount of; null for other fields.
const Macro* macro_of(const Remake& remake, const FieldRef& field);
/// The value of a target at an amount, along its field's scale; 0 where the field is gone.
double moved_by(const Remake& remake, const MacroTarget& target, double amount);

}  // namespace fw
