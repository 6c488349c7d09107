// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/pitch.hpp"

#include <array>
#include <cassert>
#include <cctype>
#include <cmath>

namespace fw {

double hertz_of(double pitch, double a4_hz) { return a4_hz * std::exp2((pitch - 69.0) / 12.0); }

double pitch_of(double hz, double a4_hz) {
    assert(hz > 0);
    return 69.0 + 12.0 * std::log2(hz / a4_hz);
}

std::string_view pitch_class_name(int pc, bool flats) {
    static constexpr std::array<std::string_view, 12> kSharps{"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"};
    static constexpr std::array<std::string_view, 12> kFlats{"C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"};
    return flats ? kFlats[pitch_class(pc)] : kSharps[pitch_class(pc)];
}

std::string note_name(int pitch, bool flats) {
    const int octave = (pitch - pitch_class(pitch)) / 12 - 1;
    return std::string(pitch_class_name(pitch, flats)) + std::to_string(octave);
}

std::optional<int> parse_pitch_class(std::string_view text) {
    if (text.empty()) return std::nullopt;
    static constexpr std::array<int, 7> kNaturals{9, 11, 0, 2, 4, 5, 7};  // A B C D E F G
    const int letter = std::toupper(static_cast<unsigned char>(text[0])) - 'A';
    if (letter < 0 || letter > 6) return std::nullopt;
    int pc = kNaturals[letter];
    for (const char c : text.substr(1)) {
        if (c == '#') ++pc;
        else if (c == 'b') --pc;
        else return std::nullopt;
    }
    return pitch_class(pc);
}

}  // namespace fw
