// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/harmony.hpp"

#include "base/pitch.hpp"

#include <algorithm>

namespace fw {

namespace {

constexpr std::array kKinds{
    ChordKind{"maj", "", "major", {0, 4, 7}, 3},
    ChordKind{"min", "m", "minor", {0, 3, 7}, 3},
    ChordKind{"7", "7", "dominant seventh", {0, 4, 7, 10}, 4},
    ChordKind{"maj7", "maj7", "major seventh", {0, 4, 7, 11}, 4},
    ChordKind{"min7", "m7", "minor seventh", {0, 3, 7, 10}, 4},
    ChordKind{"sus2", "sus2", "suspended second", {0, 2, 7}, 3},
    ChordKind{"sus4", "sus4", "suspended fourth", {0, 5, 7}, 3},
    ChordKind{"dim", "dim", "diminished", {0, 3, 6}, 3},
    ChordKind{"aug", "aug", "augmented", {0, 4, 8}, 3},
    ChordKind{"hdim7", "m7b5", "half-diminished", {0, 3, 6, 10}, 4},
    ChordKind{"maj6", "6", "major sixth", {0, 4, 7, 9}, 4},
    ChordKind{"min6", "m6", "minor sixth", {0, 3, 7, 9}, 4},
    ChordKind{"dim7", "dim7", "diminished seventh", {0, 3, 6, 9}, 4},
    ChordKind{"minmaj7", "m(maj7)", "minor with major seventh", {0, 3, 7, 11}, 4},
    ChordKind{"9", "9", "dominant ninth", {0, 4, 7, 10, 2}, 5},
    ChordKind{"maj9", "maj9", "major ninth", {0, 4, 7, 11, 2}, 5},
    ChordKind{"min9", "m9", "minor ninth", {0, 3, 7, 10, 2}, 5},
    // From here on typed, not heard; where there would be six tones and more, what is usually left out is.
    ChordKind{"maj(9)", "add9", "major with added ninth", {0, 4, 7, 2}, 4},
    ChordKind{"min(9)", "m(add9)", "minor with added ninth", {0, 3, 7, 2}, 4},
    ChordKind{"sus4(b7)", "7sus4", "suspended seventh", {0, 5, 7, 10}, 4},
    ChordKind{"maj6(9)", "69", "major sixth with ninth", {0, 4, 7, 9, 2}, 5},
    ChordKind{"11", "11", "eleventh, without third", {0, 7, 10, 2, 5}, 5},
    ChordKind{"min11", "m11", "minor eleventh, without fifth", {0, 3, 10, 2, 5}, 5},
    ChordKind{"13", "13", "thirteenth, without fifth", {0, 4, 10, 2, 9}, 5},
    ChordKind{"7(b9)", "7b9", "dominant with flat ninth", {0, 4, 7, 10, 1}, 5},
    ChordKind{"7(#9)", "7#9", "dominant with sharp ninth", {0, 4, 7, 10, 3}, 5},
    ChordKind{"(5)", "5", "root and fifth", {0, 7}, 2},
};

constexpr std::array<std::string_view, 12> kDegrees{"1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7"};

std::size_t root_length(std::string_view text) {
    std::size_t n = text.empty() ? 0 : 1;
    while (n < text.size() && (text[n] == '#' || text[n] == 'b')) ++n;
    return n;
}

std::optional<int> find_kind(std::string_view name) {
    for (std::size_t i = 0; i < kKinds.size(); ++i)
        if (kKinds[i].harte == name || kKinds[i].sign == name) return static_cast<int>(i);
    if (name == "min" || name == "mi" || name == "-") return 1;
    if (name == "-7" || name == "mi7") return 4;
    if (name == "M7" || name == "ma7") return 3;
    if (name == "sus") return 6;
    if (name == "+") return 8;
    return std::nullopt;
}

}  // namespace

std::span<const ChordKind> chord_kinds() { return kKinds; }

std::vector<int> Chord::tones() const {
    std::vector<int> out;
    if (none()) return out;
    for (const int i : kKinds[static_cast<std::size_t>(kind)].tones()) out.push_back(pitch_class(root + i));
    return out;
}

std::string Chord::label() const {
    if (none()) return "N";
    std::string text = std::string(pitch_class_name(root, false)) + ":" + std::string(kKinds[static_cast<std::size_t>(kind)].harte);
    if (bass >= 0 && bass != root) text += "/" + std::string(kDegrees[static_cast<std::size_t>(pitch_class(bass - root))]);
    return text;
}

std::string Chord::name(bool flats) const {
    if (none()) return "N.C.";
    std::string text = std::string(pitch_class_name(root, flats)) + std::string(kKinds[static_cast<std::size_t>(kind)].sign);
    if (bass >= 0 && bass != root) text += "/" + std::string(pitch_class_name(bass, flats));
    return text;
}

std::optional<Chord> parse_chord(std::string_view text) {
    if (text == "N" || text == "N.C." || text == "NC" || text == "-") return Chord{};
    std::string_view bass_text;
    if (const auto slash = text.find('/'); slash != std::string_view::npos) {
        bass_text = text.substr(slash + 1);
        text = text.substr(0, slash);
        if (bass_text.empty()) return std::nullopt;
    }
    const std::size_t n = root_length(text);
    const auto root = parse_pitch_class(text.substr(0, n));
    if (!root) return std::nullopt;
    std::string_view rest = text.substr(n);
    if (!rest.empty() && rest[0] == ':') rest = rest.substr(1);
    const auto kind = find_kind(rest);
    if (!kind) return std::nullopt;
    Chord chord{*root, *kind, *root};
    if (!bass_text.empty()) {
        if (const auto degree = std::find(kDegrees.begin(), kDegrees.end(), bass_text); degree != kDegrees.end())
            chord.bass = pitch_class(*root + static_cast<int>(degree - kDegrees.begin()));
        else if (const auto pc = parse_pitch_class(bass_text)) chord.bass = *pc;
        else return std::nullopt;
    }
    return chord;
}

namespace {
constexpr std::array<std::string_view, 7> kModeNames{"major", "minor", "dorian", "phrygian", "lydian", "mixolydian", "locrian"};
// Semitones from the tonic of the mode up to the tonic of the major key with the same signature.
constexpr std::array<int, 7> kToRelativeMajor{0, 3, 10, 8, 7, 5, 1};
}  // namespace

std::string_view mode_name(Mode mode) { return kModeNames[static_cast<std::size_t>(mode)]; }

std::optional<Mode> parse_mode(std::string_view name) {
    if (name == "aeolian") return Mode::Minor;
    if (name == "ionian") return Mode::Major;
    for (std::size_t i = 0; i < kModeNames.size(); ++i)
        if (kModeNames[i] == name) return static_cast<Mode>(i);
    return std::nullopt;
}

std::array<int, 7> Key::scale() const {
    constexpr std::array<int, 7> kMajor{0, 2, 4, 5, 7, 9, 11};
    const int relative = tonic + kToRelativeMajor[static_cast<std::size_t>(mode)];
    std::array<int, 7> out{};
    // Start the relative major's scale on the mode's own tonic.
    std::size_t start = 0;
    while (pitch_class(relative + kMajor[start]) != pitch_class(tonic)) ++start;
    for (std::size_t i = 0; i < 7; ++i) out[i] = pitch_class(relative + kMajor[(start + i) % 7]);
    return out;
}

bool Key::flats() const {
    const int major = pitch_class(tonic + kToRelativeMajor[static_cast<std::size_t>(mode)]);
    return major == 5 || major == 10 || major == 3 || major == 8 || major == 1;  // F, Bb, Eb, Ab, Db
}

std::string Key::name() const { return std::string(pitch_class_name(tonic, flats())) + " " + std::string(mode_name(mode)); }

}  // namespace fw
