// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <vector>

namespace fw {

/// Holds a field at a value in one section; a value for a field that does not move is not taken.
Remake set_in_section(const Remake& remake, const FieldRef& field, SectionId section, double value);
Remake clear_in_section(const Remake& remake, const FieldRef& field, SectionId section);
/// Moves a field along points (brought into order and range) in a section, or in the whole song for none; without points the curve is taken away.
Remake set_curve(const Remake& remake, const FieldRef& field, SectionId section, std::vector<CurvePoint> points);
/// The curve of a field in a section or the song; null for none.
const Curve* find_curve(const Remake& remake, const FieldRef& field, SectionId section);

}  // namespace fw
