// SPDX-License-Identifier: GPL-3.0-or-later
// What is done to a rough take of a voice or an instrument.
#pragma once

#include "audio/audio_file.hpp"

#include <vector>

namespace fw {

/// Turns down what sounds also where nothing else does, by at most so many dB: spectral subtraction (Boll, "Suppression of acoustic noise in speech using
/// spectral subtraction", IEEE Trans. ASSP 1979) with gains smoothed over time and frequency. The noise is what the quietest tenth of the frames has; where
/// these are not at least 10 dB below the sound's level there is no telling noise from music, and nothing is changed. Stereo; pure.
void lower_noise(Audio& sound, double by_db);

/// A stretch of a voice that stays about one pitch.
struct SungNote {
    double start_s = 0.0, end_s = 0.0;
    double pitch = 60.0;  ///< its middle, as a MIDI key with fractions
};
/// The notes of one voice, by its pitch in windows of a sixteenth of a second. Ascending, apart. Pure.
std::vector<SungNote> sung_notes(const Audio& sound);

/// Brings the middle of each note to the middle of its semitone, or a share of the way there, with vibrato and glides kept around it and the colour of the
/// voice where it was (Rubber Band with moving pitch, formants kept). Semitones lie tuning_cents above those of A4 = 440 Hz. As long as before. Stereo; pure.
void centre_notes(Audio& sound, double strength, double tuning_cents);

}  // namespace fw
