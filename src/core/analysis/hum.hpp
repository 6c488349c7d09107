// SPDX-License-Identifier: GPL-3.0-or-later
// One voice — hummed, whistled, sung — as notes.
#pragma once

#include "analysis/analysis.hpp"
#include "model/harmony.hpp"

#include <optional>
#include <span>
#include <vector>

namespace fw {

struct Hummed {
    std::vector<HeardNote> notes;
    double sharp_cents = 0.0;  ///< how far the voice lies above its nearest semitones all along: taken off before notes are told
};

/// The notes of one voice, mono, at 8 kHz or more. The pitch is followed every ten milliseconds (YIN, see probe_pitch) between 70 and 1400 Hz; how far the
/// whole voice is out of tune is taken off; then the likeliest row of semitones and silences is found (Viterbi over a random walk that seldom leaves a tone, as
/// in Ryynänen & Klapuri, "Modelling of note events for singing transcription", 2004), so that vibrato and glides make no notes. A dip of the level strikes a
/// tone anew. key: only its tones are notes. Nothing in silence, noise or chords. Pure, thread-safe; a tenth of real time.
Hummed notes_of_voice(std::span<const float> mono, double sample_rate_hz, const std::optional<Key>& key = {});

}  // namespace fw
