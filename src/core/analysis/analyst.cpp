// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/analyst.hpp"

#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

/// Beats where something sounds: silence before the first note and after the last has no pulse.
void trim(std::vector<double>& beats, const std::vector<HeardNote>& notes, const std::vector<Hit>& hits) {
    double first = 1e9, last = 0.0;
    for (const HeardNote& n : notes)
        if (n.confidence > 0.4) first = std::min(first, n.onset_s), last = std::max(last, n.onset_s + n.duration_s);
    for (const Hit& h : hits) first = std::min(first, h.time_s), last = std::max(last, h.time_s + 0.1);
    std::erase_if(beats, [&](double b) { return b < first - 0.08 || b > last + 0.05; });
}

/// All that may be a note, those among them that only the decoder of a line could tell.
std::vector<HeardNote> faint_notes(const Evidence& e, const std::vector<HeardPart>& parts) {
    constexpr double kSame_s = 0.06;
    const auto earlier = [](const HeardNote& x, const HeardNote& y) { return x.onset_s != y.onset_s ? x.onset_s < y.onset_s : x.pitch < y.pitch; };
    std::vector<HeardNote> all = decode_notes(e, {.note = 0.12F}), of_lines;
    for (const HeardPart& part : parts)
        for (const HeardNote& n : part.notes) {
            auto at = std::lower_bound(all.begin(), all.end(), n.onset_s - kSame_s, [](const HeardNote& x, double t) { return x.onset_s < t; });
            while (at != all.end() && at->onset_s < n.onset_s + kSame_s && at->pitch != n.pitch) ++at;
            if (at == all.end() || at->onset_s >= n.onset_s + kSame_s) of_lines.push_back(n);
            else at->confidence = std::max(at->confidence, n.confidence);
        }
    all.insert(all.end(), of_lines.begin(), of_lines.end());
    std::sort(all.begin(), all.end(), earlier);
    return all;
}

}  // namespace

Result<std::shared_ptr<const Analysis>> analyse(const MonoSignal& signal, const std::string& name, const Progress& progress, const FirstLook& first_look,
                                                const EvidenceStore& store) {
    const auto begun = [&] {
        auto a = std::make_shared<Analysis>();
        a->path = name;
        a->duration_s = signal.source_duration_s;
        a->sample_rate_hz = signal.source_rate_hz;
        a->channels = signal.source_channels;
        a->integrated_lufs = signal.integrated_lufs;
        a->content_hash = signal.content_hash;
        a->remarks = signal.remarks;
        return a;
    };
    const auto find_pulse = [&](Analysis& a, const Evidence& e) {
        a.tuning = e.tuning;
        a.drums = decode_drums(e);
        a.notes = decode_notes(e);
        std::vector<double> beats = track_beats(e.pulse, progress);
        trim(beats, a.notes, a.drums);
        a.tempo = fit_tempo(beats, e.pulse);
        Bars bars = find_bars(beats, e.pulse, e.pitch_frames() ? bar_line_clues(e, beats) : std::vector<double>{});
        a.beats = std::move(bars.beats);
        a.meter = std::move(bars.meter);
    };
    try {
        auto a = begun();
        const auto look = [&](const Evidence& e) {
            auto early = begun();
            find_pulse(*early, e);
            early->evidence = std::make_shared<const Evidence>(e);
            first_look(std::move(early));
        };
        auto evidence = store.find(signal.content_hash);
        if (!evidence) {
            evidence =
                std::make_shared<const Evidence>(hear(signal, progress.stretch(0.0, 0.85), first_look ? std::function<void(const Evidence&)>(look) : nullptr));
            store.keep(signal.content_hash, *evidence);
        }
        const Evidence& e = *evidence;
        a->evidence = evidence;
        progress.report(0.86, "finding beats and tempo");
        find_pulse(*a, e);
        a->drums = decode_drums(e, a->beats);  // once more, now that the bars around a stroke can speak for it
        progress.report(0.93, "writing down notes");
        a->parts = deal_parts(e, a->notes);
        a->faint_notes = faint_notes(e, a->parts);
        a->faint_drums = decode_drums(e, a->beats, {.slack = 2.5F});
        for (HeardPart& part : a->parts)
            if (part.role == PartRole::Bass || part.role == PartRole::Lead) hear_bends(signal, e.tuning.cents, part.notes, progress);
        std::vector<double> onsets;
        for (const Hit& h : a->drums) onsets.push_back(h.time_s);
        for (const HeardNote& n : a->notes) onsets.push_back(n.onset_s);
        std::sort(onsets.begin(), onsets.end());
        a->swing = measure_swing(a->beats, onsets);
        a->feel = measure_feel(a->beats, a->meter, a->drums);
        progress.report(0.95, "naming chords");
        a->chords = decode_chords(e, a->beats);
        progress.report(0.97, "finding sections and keys");
        a->sections = find_sections(e, a->beats, a->drums, a->duration_s);
        find_differences(a->sections, e, a->parts, a->drums, a->chords, a->beats, a->duration_s);
        a->presence = find_presence(a->parts, a->drums, a->beats, a->duration_s);
        a->keys = decode_keys(a->notes, a->parts, a->chords, a->sections, a->beats, a->duration_s);
        progress.report(1.0, "done");
        return std::shared_ptr<const Analysis>(std::move(a));
    } catch (const Cancelled&) {
        return Error{ErrorCode::Cancelled, "the analysis of " + name, {}};
    }
}

Result<std::shared_ptr<const Analysis>> analyse(const std::filesystem::path& path, const Progress& progress, const EvidenceStore& store) {
    auto mono = [&] {
        const Progress reading = progress.stretch(0.0, 0.1);
        return read_mono(path, reading);
    }();
    if (!mono) return mono.error();
    const Progress rest = progress.stretch(0.1, 1.0);
    return analyse(*mono, path.string(), rest, {}, store);
}

}  // namespace fw
