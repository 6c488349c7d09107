// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace fw {

/// Pitch class of a note number, 0 = C … 11 = B; right for negative numbers too.
constexpr int pitch_class(int pitch) noexcept { return ((pitch % 12) + 12) % 12; }

/// Frequency in Hz of a MIDI note number (fractions allowed) for a given A4.
double hertz_of(double pitch, double a4_hz = 440.0);

/// The inverse of hertz_of; hz must be positive.
double pitch_of(double hz, double a4_hz = 440.0);

/// "C", "C#", … or with flats "Db", for a pitch class 0..11.
std::string_view pitch_class_name(int pitch_class, bool flats);

/// "F#3" or "Gb3": scientific pitch notation, C4 = 60.
std::string note_name(int pitch, bool flats);

/// Reads "C", "F#", "Bb", "c"; nothing else.
std::optional<int> parse_pitch_class(std::string_view text);

}  // namespace fw
