// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/parameter.hpp"
#include "model/automation.hpp"

#include <array>

namespace fw {

/// The rows of what a note move is told besides where it goes, in the order of kNoteMoveMembers.
inline constexpr std::array kNoteMoveFields{
    Parameter{"attack", "Attack", Unit::Milliseconds, 0.1, 10'000.0, 5.0, Scale::Logarithmic, 0.02, false, "How long it takes to get there"},
    Parameter{"decay", "Decay", Unit::Milliseconds, 1.0, 20'000.0, 300.0, Scale::Logarithmic, 0.02, false,
              "How long it falls from there while the note is held"},
    Parameter{"sustain", "Sustain", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, false, "What share of the way it stays at while the note is held"},
    Parameter{"release", "Release", Unit::Milliseconds, 1.0, 20'000.0, 100.0, Scale::Logarithmic, 0.02, false,
              "How long it takes to come back behind the note"},
    Parameter{"bend", "Curve", Unit::None, -1.0, 1.0, -0.5, Scale::Linear, 0.05, false, "How it falls: early below 0, straight at 0, late above"},
    Parameter{"velocity", "Velocity", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, false, "How much less far softer notes move it"},
};

/// The values the rows speak of.
inline constexpr std::array kNoteMoveMembers{&NoteMove::attack_ms,  &NoteMove::decay_ms, &NoteMove::sustain,
                                             &NoteMove::release_ms, &NoteMove::bend,     &NoteMove::velocity};
static_assert(kNoteMoveMembers.size() == kNoteMoveFields.size());

/// How far on its way a note of velocity 127 has moved a field, 0 … 1: so long after it began, when it is held so long. Seconds. from: how far it was as the
/// note began.
double note_way(const NoteMove& move, double since_s, double held_s, double from = 0.0);

}  // namespace fw
