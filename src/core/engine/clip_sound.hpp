// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"
#include "base/result.hpp"
#include "model/clips.hpp"
#include "model/song.hpp"

#include <functional>
#include <memory>

namespace fw {

/// Gives the sound an asset means, at any rate and with one or two channels. May read files; what is a transition is made. Errors: those of reading,
/// ReferenceGone.
using AssetLoader = std::function<Result<Audio>(const Asset&)>;

/// Loads assets from where they say they are; those from the original from its file, of which only the span is read.
AssetLoader assets_from_files(std::filesystem::path original);
/// The same, with the original at hand in memory.
AssetLoader assets_beside(std::shared_ptr<const Audio> original);

/// How long a beat and a bar are where a clip stands, seconds.
struct ClipTime {
    double beat_s = 0.5, bar_s = 2.0;
};
ClipTime clip_time(const Song& song, Ticks at);

/// What a recipe makes of a sound: stereo, at a rate. The original sound is not touched. Stretching and pitching by Rubber Band, offline.
Audio follow_recipe(Audio sound, const std::vector<RecipeEntry>& recipe, double sample_rate_hz, const ClipTime& time = {});

}  // namespace fw
