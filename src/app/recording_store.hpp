// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "analysis/evidence_store.hpp"
#include "audio/peaks.hpp"
#include "check/sound_summary.hpp"

#include <memory>

namespace fw::app {

/// What is known of the open recording: what was heard in it, and its sound once that is read. Immutable in its pieces, which go anywhere.
struct RecordingStore {
    std::shared_ptr<const Analysis> analysis;
    Peaks peaks;
    std::shared_ptr<const Audio> sound;  ///< stereo at the output's rate; null while a recording that is known already is still being read
    SoundSummary summary;                ///< empty as long as the sound is null
};

/// A recording as the player, the views and the check take it.
void make_playable(Audio sound, double rate_hz, RecordingStore& into);

/// Opens a recording for the window, in steps: what is known of it from before, or a first look; then all.
///
/// Runs in the calling thread. `tell` is called with each step, `first_look` saying that bars may still change and pitches are not heard. A recording that
/// is known is told first without its sound, found by its file's path, size and time; should its sound turn out to be other than that, the error is
/// ReferenceChanged. Cancelled when told to stop.
struct RecordingStep {
    RecordingStore recording;
    bool first_look = false;
    std::vector<ErrorCode> remarks;  ///< what the user should know of the file; told with the last step
};
Status open_recording(const std::filesystem::path& file, double rate_hz, const EvidenceStore& store, const Progress& progress,
                      const std::function<void(RecordingStep)>& tell);

}  // namespace fw::app
