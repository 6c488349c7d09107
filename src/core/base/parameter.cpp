// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/parameter.hpp"

#include "base/pitch.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <cstring>

namespace fw {

namespace {

/// Note values a number of beats (quarters) can be: the shortest name that is it.
struct NoteValue {
    const char* name;
    double beats;
};
constexpr std::array kNoteValues{NoteValue{"1/64", 0.0625},    NoteValue{"1/32", 0.125},  NoteValue{"1/16T", 1.0 / 6.0}, NoteValue{"1/16", 0.25},
                                 NoteValue{"1/8T", 1.0 / 3.0}, NoteValue{"1/16.", 0.375}, NoteValue{"1/8", 0.5},         NoteValue{"1/4T", 2.0 / 3.0},
                                 NoteValue{"1/8.", 0.75},      NoteValue{"1/4", 1.0},     NoteValue{"1/2T", 4.0 / 3.0},  NoteValue{"1/4.", 1.5},
                                 NoteValue{"1/2", 2.0},        NoteValue{"1/2.", 3.0},    NoteValue{"1/1", 4.0},         NoteValue{"2/1", 8.0}};

std::string number_text(double value, int decimals) {
    char text[64];
    std::snprintf(text, sizeof text, "%.*f", decimals, value);
    std::string out(text);
    if (out[0] == '-') {
        if (out.find_first_of("123456789") == std::string::npos) return out.substr(1);  // no minus before nothing
        out = "−" + out.substr(1);
    }
    return out;
}

int decimals_of(const Parameter& field) {
    if (field.scale == Scale::Whole) return 0;
    return field.step >= 1.0 ? 0 : field.step >= 0.1 ? 1 : field.step >= 0.01 ? 2 : 3;
}

const char* suffix_of(Unit unit) {
    switch (unit) {
        case Unit::Decibels: return " dB";
        case Unit::Hertz: return " Hz";
        case Unit::Milliseconds: return " ms";
        case Unit::Seconds: return " s";
        case Unit::Share: return " %";
        case Unit::Semitones: return " semitones";
        case Unit::Octaves: return " octaves";
        case Unit::Cents: return " cents";
        case Unit::Beats: return " beats";
        case Unit::Ratio: return " : 1";
        case Unit::Metres: return " m";
        case Unit::Pitch:
        case Unit::None: break;
    }
    return "";
}

/// "C4", "f#3", "Bb-1" as a MIDI key.
std::optional<double> parse_pitch(std::string_view text) {
    std::size_t letters = 1;
    while (letters < text.size() && (text[letters] == '#' || text[letters] == 'b')) ++letters;
    const auto pc = parse_pitch_class(text.substr(0, letters));
    int octave = 0;
    const auto [end, bad] = std::from_chars(text.data() + letters, text.data() + text.size(), octave);
    if (!pc || bad != std::errc{} || end != text.data() + text.size()) return std::nullopt;
    return 12.0 * (octave + 1) + *pc;
}

}  // namespace

double clamped(const Parameter& field, double value) {
    if (std::isnan(value)) return field.neutral;
    const double inside = std::clamp(value, field.low, field.high);
    return field.scale == Scale::Linear || field.scale == Scale::Logarithmic ? inside : std::round(inside);
}

std::string value_text(const Parameter& field, double value) {
    if (field.scale == Scale::Switch) return value >= 0.5 ? "on" : "off";
    if (field.scale == Scale::Choice) {
        const auto i = static_cast<std::size_t>(std::max(0.0, std::round(value)));
        return i < field.choices.size() ? field.choices[i] : "?";
    }
    if (field.unit == Unit::Pitch) return note_name(static_cast<int>(std::lround(value)), false);
    if (field.unit == Unit::Beats)
        for (const NoteValue& n : kNoteValues)
            if (std::abs(n.beats - value) < 1e-4) return n.name;
    if (field.unit == Unit::Hertz) {
        if (value >= 1000.0) return number_text(value / 1000.0, value >= 10000.0 ? 1 : 2) + " kHz";
        return number_text(value, value >= 100.0 ? 0 : 1) + " Hz";
    }
    if (field.unit == Unit::Beats) return number_text(value, 3) + suffix_of(field.unit);
    if (field.unit == Unit::Share) return number_text(value * 100.0, field.step >= 0.01 ? 0 : 1) + " %";
    if (field.scale == Scale::Logarithmic) return number_text(value, value >= 100.0 ? 0 : value >= 10.0 ? 1 : 2) + suffix_of(field.unit);
    return number_text(value, decimals_of(field)) + suffix_of(field.unit);
}

std::optional<double> parse_value(const Parameter& field, std::string_view given) {
    std::string text;
    for (std::size_t i = 0; i < given.size(); ++i) {
        if (given.substr(i, 3) == "−") text += '-', i += 2;
        else if (given[i] == ',') text += '.';
        else if (!std::isspace(static_cast<unsigned char>(given[i]))) text += given[i];
    }
    const auto inside = [&](double v) -> std::optional<double> {
        if (!(v >= field.low - 1e-9) || !(v <= field.high + 1e-9)) return std::nullopt;
        return clamped(field, v);
    };
    if (field.scale == Scale::Switch) {
        if (text == "on" || text == "1" || text == "yes") return 1.0;
        if (text == "off" || text == "0" || text == "no") return 0.0;
        return std::nullopt;
    }
    if (field.scale == Scale::Choice) {
        for (std::size_t i = 0; i < field.choices.size(); ++i) {
            std::string name;
            for (const char* c = field.choices[i]; *c; ++c)
                if (*c != ' ') name += *c;
            if (name.size() == text.size() &&
                std::equal(name.begin(), name.end(), text.begin(), [](unsigned char a, unsigned char b) { return std::tolower(a) == std::tolower(b); }))
                return static_cast<double>(i);
        }
        return std::nullopt;
    }
    if (field.unit == Unit::Pitch)
        if (const auto pitch = parse_pitch(text)) return inside(*pitch);
    if (field.unit == Unit::Beats)
        for (const NoteValue& n : kNoteValues)
            if (text == n.name) return inside(n.beats);
    double number = 0.0;
    const char* begin = text.data() + (!text.empty() && text[0] == '+' ? 1 : 0);
    const auto [end, bad] = std::from_chars(begin, text.data() + text.size(), number);
    if (bad != std::errc{} || !std::isfinite(number)) return std::nullopt;
    const std::string rest(static_cast<const char*>(end), static_cast<const char*>(text.data() + text.size()));
    if (field.unit == Unit::Hertz && (rest == "k" || rest == "kHz")) return inside(number * 1000.0);
    if (field.unit == Unit::Milliseconds && rest == "s") return inside(number * 1000.0);
    if (field.unit == Unit::Seconds && rest == "ms") return inside(number / 1000.0);
    if (field.unit == Unit::Share && rest == "%") return inside(number / 100.0);
    std::string unit = suffix_of(field.unit);
    std::erase(unit, ' ');
    if (!rest.empty() && rest != unit) return std::nullopt;
    return inside(number);
}

std::string range_text(const Parameter& field) {
    if (field.scale == Scale::Switch) return "on or off";
    if (field.scale == Scale::Choice) {
        std::string all;
        for (std::size_t i = 0; i < field.choices.size(); ++i)
            all += (i == 0 ? "" : i + 1 == field.choices.size() ? " or " : ", ") + std::string(field.choices[i]);
        return all;
    }
    return value_text(field, field.low) + " to " + value_text(field, field.high);
}

double position_of(const Parameter& field, double value) {
    const double v = clamped(field, value);
    if (field.high <= field.low) return 0.0;
    if (field.scale == Scale::Logarithmic) return std::log(v / field.low) / std::log(field.high / field.low);
    return (v - field.low) / (field.high - field.low);
}

double value_at(const Parameter& field, double position) {
    const double p = std::clamp(position, 0.0, 1.0);
    if (field.scale == Scale::Logarithmic) return clamped(field, field.low * std::pow(field.high / field.low, p));
    return clamped(field, field.low + p * (field.high - field.low));
}

std::optional<std::size_t> index_of_field(std::span<const Parameter> table, std::string_view id) {
    for (std::size_t i = 0; i < table.size(); ++i)
        if (id == table[i].id) return i;
    return std::nullopt;
}

}  // namespace fw
