// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/draft.hpp"
#include "base/result.hpp"
#include "model/remake.hpp"

#include <filesystem>
#include <vector>

namespace fw {

/// Writes a remake as a Standard MIDI File, format 1, 960 ticks a quarter: a first track with tempo map, meters, keys and
/// section markers, then a named track a part (drums on channel 10) with pitch bends (range ±12 semitones, set by RPN 0).
/// Note timing is the performed one. Written to a temporary file first. A MIDI tempo holds whole microseconds a quarter, so
/// long files may drift by up to 0.3 ms a minute against the recording. Muted placements are left out.
Status write_midi(const std::filesystem::path& path, const Remake& remake);

/// Reads the parts of a Standard MIDI File, one a track and channel that plays, with onsets in seconds of the file's own
/// tempo map plus offset_s.
Result<std::vector<GivenPart>> read_midi(const std::filesystem::path& path, double offset_s = 0.0);

}  // namespace fw
