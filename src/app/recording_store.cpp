// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/recording_store.hpp"

#include "analysis/analyst.hpp"
#include "engine/offline.hpp"

#include <future>

namespace fw::app {

void make_playable(Audio sound, double rate_hz, RecordingStore& into) {
    into.summary = summarise(sound);
    into.sound = std::make_shared<const Audio>(at_rate(std::move(sound), rate_hz));
    into.peaks = Peaks(*into.sound);
}

Status open_recording(const std::filesystem::path& file, double rate_hz, const EvidenceStore& store, const Progress& progress,
                      const std::function<void(RecordingStep)>& tell) {
    auto known = store.recall(file);
    if (known) tell({{known->analysis, std::move(known->peaks), nullptr, {}}, false, {}});
    auto recording = read_recording(file, progress);
    if (!recording) return recording.error();
    const MonoSignal& mono = recording->mono;
    if (known && known->analysis->content_hash != mono.content_hash) {
        store.forget(file);  // opened again, it is listened to anew
        return Error{ErrorCode::ReferenceChanged, file.string(), {}};
    }
    // What is played and drawn is made while the analysis listens, so that the first look need not wait for it.
    RecordingStore made;
    auto making = std::async(std::launch::async, [&] { make_playable(std::move(recording->sound), rate_hz, made); }).share();
    const auto whole = [&](const std::shared_ptr<const Analysis>& analysis) {
        making.get();
        RecordingStore r = made;
        r.analysis = analysis;
        return r;
    };
    if (known) {
        tell({whole(known->analysis), false, mono.remarks});
        return Done{};
    }
    auto analysis = analyse(
        mono, file.string(), progress,
        [&](const std::shared_ptr<const Analysis>& a) {
            tell({whole(a), true, {}});
        },
        store);
    if (!analysis) return analysis.error();
    RecordingStore r = whole(*analysis);
    store.remember(file, **analysis, r.peaks);
    tell({std::move(r), false, mono.remarks});
    return Done{};
}

}  // namespace fw::app
