// SPDX-License-Identifier: GPL-3.0-or-later
// What a short sound is like, in few enough numbers to compare ten thousand at once.
#pragma once

#include "audio/audio_file.hpp"

#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fw {

/// The print of a sound from its stroke on. Value type, written to an index as it is.
struct SoundPrint {
    static constexpr std::size_t kSlices = 4;   ///< 0–60, 60–200, 200–500 and 500–1200 ms
    static constexpr std::size_t kBands = 96;   ///< a semitone each, from 41 Hz
    static constexpr std::size_t kCoarse = 24;  ///< third octaves from 41 Hz
    static constexpr std::size_t kSteps = 10;   ///< of the level: 10, 20, 40, 70, 110, 170, 270, 430, 700 and 1200 ms after the stroke

    /// Per slice the spectrum's decibels against its own mean over two octaves, halves of a decibel: what a filter or a room adds smoothly is not in it.
    std::array<std::int8_t, kSlices * kBands> fine{};
    std::array<std::int8_t, kSlices> present{};  ///< level of each slice, dB below the loudest, −128 for silence
    std::array<std::int8_t, kCoarse> coarse{};   ///< the whole sound's decibels below its loudest band
    std::array<std::int8_t, kSteps> level{};     ///< decibels below the loudest
    float pitch_hz = 0.0F;                       ///< 0: none is clear
    float noise = 0.0F;                          ///< 0 a tone … 1 noise
    float bright_hz = 0.0F;                      ///< centre of gravity of the spectrum
    float attack_ms = 0.0F;                      ///< until half of the loudest
    float length_s = 0.0F;                       ///< until 40 dB below the loudest
    float width = 0.0F;                          ///< share of the sides
    bool operator==(const SoundPrint&) const = default;
};

/// Of at most the first two seconds from the stroke on, found as where the level first comes within 40 dB of the loudest. A silent sound has an empty print.
SoundPrint print_of(const Audio& sound);
bool is_empty(const SoundPrint& print);

/// How alike two sounds are, with what that is made of; each 0..1.
struct Likeness {
    double tone = 0.0, envelope = 0.0, pitch = 0.0, noise = 0.0, colour = 0.0;  ///< colour: what a filter changes
    double all = 0.0;
};
/// tone compares partials at their place above each one's own pitch where both have one, at the same place else. Cosine of the fine spectra, mean differences
/// of the others; weights were found on made sounds (bench/finding, whose figures stand in docs/accuracy.md). any_pitch: it can be played at every pitch, which
/// then is no difference. Pure; some microseconds.
Likeness likeness(const SoundPrint& a, const SoundPrint& b, bool any_pitch = false);

/// Words a print can be asked for by ear: "soft", "dark", …
std::span<const std::string_view> ear_words();
/// How far a word is true of a sound, 0..1, 0.5 where it is as usual. Unknown words: 0.5.
double fits_word(const SoundPrint& print, std::string_view word);

}  // namespace fw
