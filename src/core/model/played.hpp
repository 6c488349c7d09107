// SPDX-License-Identifier: GPL-3.0-or-later
// What was played on keys, in seconds of the recording, as notes.
#pragma once

#include "model/pattern.hpp"
#include "model/time_maps.hpp"

#include <span>
#include <vector>

namespace fw {

/// A key that goes down or up, or a wheel that moves.
struct KeyEvent {
    enum class Kind { Down, Up, Bend } kind = Kind::Down;
    double time_s = 0.0;  ///< of the recording, where it was heard
    int pitch = 0;        ///< MIDI key; of no meaning for a bend
    int velocity = 0;     ///< 1 to 127 as it goes down
    double cents = 0.0;   ///< of a bend: how far all that sounds is bent now
};

/// The notes, in song time, ascending by start; each with origin Played. A key struck again before it was let go ends the note before; one that is still held
/// at end_s ends there. Bends go to the notes that sound, or begin while the wheel is away from its middle. Events must be in order of time. Pure.
std::vector<Note> notes_played(std::span<const KeyEvent> events, const TempoMap& tempo, double end_s);

}  // namespace fw
