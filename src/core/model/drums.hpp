// SPDX-License-Identifier: GPL-3.0-or-later
// The drum sounds the whole product knows: one table for what is heard, written, shown and exported.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace fw {

/// In the order of the pulse network's columns.
enum class DrumKind { Kick, Snare, Clap, Rim, HatClosed, HatOpen, Tom, Crash, Ride, Percussion };
inline constexpr int kDrumKinds = 10;

struct DrumSound {
    DrumKind kind;
    const char* id;    ///< name in the JSON formats: "hat_closed"
    const char* name;  ///< for people
    int key;           ///< General MIDI
};
/// All of them in the order rows are shown in, bottom first.
const std::vector<DrumSound>& drum_sounds();
const DrumSound& drum_sound(DrumKind kind);
/// General MIDI keys of the same kind share a row; null where a key is no drum.
const DrumSound* drum_sound_of_key(int key);
std::optional<DrumKind> parse_drum_kind(const std::string& id);

}  // namespace fw
