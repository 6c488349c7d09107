// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/progress.hpp"
#include "base/result.hpp"
#include "engine/renderer.hpp"

#include <filesystem>

namespace fw {

/// What is rendered, and from which frame to which; an end of 0 is the plan's.
struct RenderRange {
    RenderWhat what;
    std::int64_t from = 0, to = 0;
    std::int64_t end(const Plan& plan) const { return to > 0 ? to : std::max<std::int64_t>(1, plan.end_frame); }
};

/// The one way to render without listening, through the same renderer as real time, block by block into a sink: memory does not grow with length. A range
/// begins as if the player had gone there. False where the sink took no more. Throws Cancelled, and Failed where a plug-in
/// has failed: what lacks it is not the mix.
bool render_offline(const Plan& plan, const RenderRange& range, const SoundSink& sink, const Progress& progress = {});

/// The same into memory, 8 bytes a frame. Returns Cancelled when told to stop.
Result<Audio> render_offline(const Plan& plan, const RenderRange& range = {}, const Progress& progress = {});

/// The same into a file, as write_audio writes.
Status render_to_file(const Plan& plan, const RenderRange& range, const std::filesystem::path& path, const Progress& progress = {});

/// The recording at another rate, mixed to stereo; for playing beside a rebuild. What is so already is handed through, so give it away: a long recording
/// need not lie in memory twice.
Audio at_rate(Audio audio, double sample_rate_hz);

/// So many times as fast, its pitch with it, as a tape or a turntable plays it (resampled). Stereo.
Audio at_speed(Audio stereo, double times);

}  // namespace fw
