// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fw {

/// A kind of chord: its name in Harte's syntax ("min7"), the way musicians write it ("m7"), and its intervals in semitones.
struct ChordKind {
    std::string_view harte;
    std::string_view sign;
    std::string_view words;
    std::array<int, 5> intervals;
    int size;
    std::span<const int> tones() const { return std::span(intervals).first(static_cast<std::size_t>(size)); }
};

/// All kinds known, plain ones first. The index into this list is what Chord::kind holds.
std::span<const ChordKind> chord_kinds();

/// A chord, or none (root < 0). Value type.
struct Chord {
    int root = -1;  ///< pitch class
    int kind = 0;   ///< index into chord_kinds()
    int bass = -1;  ///< pitch class of the lowest note; the root when not inverted

    bool none() const noexcept { return root < 0; }
    /// Pitch classes, root first.
    std::vector<int> tones() const;
    /// Harte syntax: "D:min7/b3", "N" (Harte et al., "Symbolic representation of musical chords", ISMIR 2005).
    std::string label() const;
    /// As on a chart: "Dm7/F", "N.C.".
    std::string name(bool flats) const;
    bool operator==(const Chord&) const = default;
};

/// Reads Harte syntax or a chart name ("F#m7b5", "Bbmaj7/D", "N.C."); nothing where it is neither.
std::optional<Chord> parse_chord(std::string_view text);

enum class Mode { Major, Minor, Dorian, Phrygian, Lydian, Mixolydian, Locrian };
std::string_view mode_name(Mode mode);
std::optional<Mode> parse_mode(std::string_view name);

/// A key with its mode.
struct Key {
    int tonic = 0;  ///< pitch class
    Mode mode = Mode::Major;

    std::array<int, 7> scale() const;
    /// Whether notes of this key are spelled with flats: follows the key signature (more flats than sharps).
    bool flats() const;
    std::string name() const;  ///< "D dorian", "Bb major"
    bool operator==(const Key&) const = default;
};

}  // namespace fw
