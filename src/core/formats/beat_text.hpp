// SPDX-License-Identifier: GPL-3.0-or-later
// Beat maps as plain label text: a line a beat, "seconds TAB seconds TAB bar.beat", as audio editors and beat annotations have them; and from MIDI.
#pragma once

#include "base/result.hpp"
#include "commands/command.hpp"
#include "model/song.hpp"

#include <filesystem>
#include <string>
#include <string_view>

namespace fw {

struct BeatMap {
    TempoMap tempo;
    MeterMap meter;
};

/// Every beat from the first to the end, in order of time.
std::string beat_text(const Song& song, double end_s);
Status write_beat_text(const std::filesystem::path& path, const Song& song, double end_s);

/// Reads a time at the beginning of each line and what label follows it: "5.1" (bar and beat), "1" (beat of the bar) or nothing. Lines that begin with # and
/// empty ones are left out. Bars begin where beats say 1; without any, four beats are a bar. Of a Standard MIDI File its tempo and meter events, from the place
/// it says it begins. Errors: those of read_file; BeatsUnusable with what is wrong with which line.
Result<BeatMap> read_beat_map(const std::filesystem::path& path);
Result<BeatMap> parse_beat_text(std::string_view text, const std::string& name);

/// The command that takes a map.
Line beat_map_line(const BeatMap& map);

}  // namespace fw
