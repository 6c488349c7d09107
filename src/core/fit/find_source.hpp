// SPDX-License-Identifier: GPL-3.0-or-later
// Where a stretch of the original was itself taken from.
#pragma once

#include "audio/audio_file.hpp"
#include "base/progress.hpp"
#include "base/result.hpp"
#include "commands/command.hpp"
#include "model/clips.hpp"

#include <optional>
#include <vector>

namespace fw {

/// Where in another recording a stretch of the original comes from, and what was done to it.
struct SourcePlace {
    double from_s = 0.0;      ///< in the source: what sounds there is heard at the stretch's beginning
    double speed = 1.0;       ///< seconds of the source in one of the original: 1.05 was made faster
    double semitones = 0.0;   ///< how much higher it sounds than the source
    bool as_tape = false;     ///< its pitch went with its speed, as on a tape or a turntable
    double stands_out = 0.0;  ///< how far above everything else that was tried, in their robust deviations; found from kSourceFound on
};

/// Below this another place, speed or pitch could as well have been the one.
inline constexpr double kSourceFound = 8.5;

/// The place of a source that is most like a stretch of the original, whatever else sounds there: spectra that stand out of their surroundings, and their
/// rises, are laid over each other at all places, speeds from 0.5 to 2 and pitches ± 12 semitones (normalised cross-correlation), then closer and closer; the
/// end by the strokes of the source as it would have been treated. Of the stretch the first 16 s count; it has to be 2 s long. Nothing where the best does
/// not stand out of the others (kSourceFound), and for silence. Errors: Cancelled; a sound too short or silent. Thread-safe; some seconds for a song.
Result<std::optional<SourcePlace>> find_source(const Audio& original, double from_s, double to_s, const Audio& source, const Progress& progress = {});

/// What is done to the whole source so that it sounds, from its clip's place on, as that stretch does: cut out, as fast and as high.
std::vector<RecipeEntry> recipe_of(const SourcePlace& place, double seconds);

/// The command that puts a found source into a song as a clip. file_s: how long the file is; at: where the stretch begins, which is so many seconds long.
Line place_source(const Remake& remake, const std::string& file, double file_s, Ticks at, double seconds, const SourcePlace& place);
/// "from 12.34 s of it on, 4.0 % faster, 2 semitones lower".
std::string words_of(const SourcePlace& place);

}  // namespace fw
