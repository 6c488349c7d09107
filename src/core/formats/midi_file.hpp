// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/draft.hpp"
#include "base/result.hpp"
#include "model/remake.hpp"

#include <filesystem>
#include <optional>
#include <vector>

namespace fw {

/// Writes a remake as a Standard MIDI File, format 1, 960 ticks a quarter: a first track with tempo map, meters, keys and
/// section markers, then a named track a part (drums on channel 10) with pitch bends (range ±12 semitones or what the widest needs, set by RPN 0).
/// Note timing is the performed one. What is played before bar 1 is kept: the file then begins whole bars earlier, and a text at its start says where in
/// the recording that is. A MIDI tempo holds whole microseconds a quarter; each is chosen so that the file stays within a few microseconds of the
/// recording at every anchor. Muted placements are left out. MIDI bends a channel, so notes of one part that overlap are bent together. Errors: those of
/// write_atomically.
Status write_midi(const std::filesystem::path& path, const Remake& remake);

/// The parts of a Standard MIDI File in seconds of its own tempo map.
struct MidiSong {
    std::vector<GivenPart> parts;   ///< one a track and channel that plays, in the file's order
    std::optional<double> start_s;  ///< where in the recording the file says it begins, as write_midi tells it
};

/// Reads the notes of a Standard MIDI File as they are: of two notes of one key the first struck is the first let go, a note without an end lasts to the
/// end of its track, pitch bends become the notes' own, names that are not UTF-8 are taken for Latin-1. Controllers such as a pedal are not kept.
/// Errors: those of open_file and parse_smf, FileTooLarge beyond 16 MB, MidiEmpty, MidiUnusable for more notes than a remake may hold.
Result<MidiSong> read_midi(const std::filesystem::path& path);
/// The same for bytes in memory; name stands for the file in messages.
Result<MidiSong> parse_midi(std::span<const unsigned char> bytes, const std::string& name);

}  // namespace fw
