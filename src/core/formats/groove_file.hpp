// SPDX-License-Identifier: GPL-3.0-or-later
// Grooves as open text, a command a line, and from MIDI.
#pragma once

#include "base/result.hpp"
#include "commands/command.hpp"
#include "model/song.hpp"

#include <filesystem>
#include <string>
#include <vector>

namespace fw {

/// One `groove.add` a line: a script that another remake can run.
std::string groove_text(const std::vector<Groove>& grooves);
Status write_grooves(const std::filesystem::path& path, const std::vector<Groove>& grooves);

/// The commands that add a file's grooves: of a text those it holds, of a Standard MIDI File the feel of each part's notes over sixteenths, bar by bar.
/// Errors: those of read_file; GrooveUnusable with what is wrong with which line, or where there is none; those of read_midi.
Result<std::vector<Line>> read_grooves(const std::filesystem::path& path);

}  // namespace fw
