// SPDX-License-Identifier: GPL-3.0-or-later
// A field is a control of something that sounds. Its one row says everything there is to say of it: how it is written in files, shown, dragged, typed,
// printed and limited. The rows stand beside what they control; no range is written down a second time.
#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace fw {

enum class Unit {
    None,
    Decibels,
    Hertz,
    Milliseconds,
    Seconds,
    Share,  ///< 0.25 is shown and typed as 25 %
    Semitones,
    Octaves,
    Cents,
    Beats,  ///< quarters; shown and typed as note values where they are one
    Ratio,
    Metres,
    Pitch  ///< a MIDI key, shown and typed as a note
};

/// How a field goes from its lowest to its highest value.
enum class Scale {
    Linear,
    Logarithmic,  ///< equal ratios are equal ways: frequencies and times; low > 0
    Whole,        ///< whole numbers
    Switch,       ///< 0 off, 1 on
    Choice        ///< an index into choices
};

struct Parameter {
    const char* id;     ///< in files and commands: "release_ms"
    const char* label;  ///< for people: "Release"
    Unit unit = Unit::None;
    double low = 0.0, high = 1.0;
    double neutral = 0.0;  ///< where it starts, and goes back to
    Scale scale = Scale::Linear;
    double step = 0.01;  ///< of the arrow keys and a drag's smallest move; Logarithmic: a share of the value
    bool moves = true;   ///< whether a curve or a section setting may move it
    const char* help = "";
    std::span<const char* const> choices = {};
    const char* group = "";  ///< what it is part of, where a table is long: "Filter"
};

/// The nearest value a field can have; not-a-number becomes the neutral one.
double clamped(const Parameter& field, double value);
/// The value as it is shown: "−9.0 dB", "1.20 kHz", "1/8", "on", "C4".
std::string value_text(const Parameter& field, double value);
/// Reads what value_text writes, and what people type: "-9", "-9dB", "1.2k", "1/8", "on", "C4". Nothing where it is no value of this field or lies outside.
std::optional<double> parse_value(const Parameter& field, std::string_view text);
/// "−60 to 12 dB": for sentences and tooltips.
std::string range_text(const Parameter& field);
/// Where a value stands on the field's scale, 0..1, and the value at a place.
double position_of(const Parameter& field, double value);
double value_at(const Parameter& field, double position);
/// The index of the field with an id in a table; nothing where there is none.
std::optional<std::size_t> index_of_field(std::span<const Parameter> table, std::string_view id);

}  // namespace fw
