// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"
#include "sound/instrument.hpp"

#include <string>

namespace fw {

/// The sound set used where a layer names no file: the first of the usual places where one is installed.
std::string default_soundfont();

/// General MIDI program names, for menus.
const std::vector<std::string>& general_midi_names();

/// One program of a SoundFont, played by FluidSynth (dry, 48 voices). Loading takes some tens of milliseconds and memory for
/// the file's samples. drums selects the percussion bank. FluidSynth renders in its own blocks of 64 frames, so a note's
/// start is placed on the next of them at most 1.5 ms late.
Result<std::unique_ptr<Instrument>> make_soundfont(const std::string& file, int program, bool drums, double sample_rate_hz, double tuning_cents = 0.0);

}  // namespace fw
