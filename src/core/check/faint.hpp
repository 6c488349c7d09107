// SPDX-License-Identifier: GPL-3.0-or-later
// What sounds below all else in the original and is found last: layers, soft hats, the noise of the recording. Needs no rebuild.
#pragma once

#include "analysis/analysis.hpp"
#include "check/sound_summary.hpp"
#include "model/remake.hpp"

#include <string>
#include <vector>

namespace fw {

enum class FaintKind {
    Layer,  ///< a band that is there all through a section, softly
    Drum,   ///< strokes too soft to be sure of, that come again and again
    Hum,    ///< of the mains, 50 or 60 Hz and its multiples: no music
    Hiss,   ///< noise that rises with frequency, as of tape: no music
    Room    ///< other steady noise, of a room, a crowd, the weather: no music
};

struct FaintFind {
    FaintKind kind = FaintKind::Layer;
    double from_s = 0.0, to_s = 0.0;
    int bar = 1, bars = 1;
    double low_hz = 0.0, high_hz = 0.0;  ///< through which band it is heard best
    double below_db = 0.0;               ///< below the whole; of noise its level, dB relative to full scale
    int pitch = -1;                      ///< of a layer whose one pitch stands out; else −1
    DrumKind drum{};
    bool music() const { return kind == FaintKind::Layer || kind == FaintKind::Drum; }
};

/// Noise of the recording first, then by section what is soft and goes on, loudest first within each; at most 24. The noise is told from the quietest twentieth
/// of the sound that is not digital silence, and only where that is steady and like noise: a song that never rests has none that can be told. Pure,
/// thread-safe.
std::vector<FaintFind> scan_faint(const Analysis& analysis, const Remake& remake, const SoundSummary& original);

/// "bars 5 to 12, 3.5 kHz to 7.0 kHz, 31 dB below the whole, around E7".
std::string faint_words(const FaintFind& find, bool flats);

}  // namespace fw
