// SPDX-License-Identifier: GPL-3.0-or-later
// The demo's truth and the field's usual measures against it, small enough to read.
#pragma once

#include "analysis/analysis.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace fw::test {

struct Truth {
    double cents = 0.0;
    std::vector<double> beats, sections;
    std::vector<HeardNote> bass, lead;
    std::vector<ChordSpan> chords;
    std::map<std::string, std::vector<double>> hits;
    std::vector<Hit> drums;
};

inline Truth read_truth(const std::filesystem::path& path) {
    const auto j = nlohmann::json::parse(std::ifstream(path));
    Truth t;
    t.cents = j["tuning"]["cents"];
    for (const auto& b : j["beats"]) t.beats.push_back(b["time_s"]);
    for (const auto& s : j["sections"]) t.sections.push_back(s["start_s"]);
    for (const auto& p : j["parts"])
        for (const auto& n : p["notes"])
            if (p["role"] == "bass" || p["role"] == "lead")
                (p["role"] == "bass" ? t.bass : t.lead).push_back({n["onset_s"], n["duration_s"], n["pitch"], n["velocity"], 1.0});
    for (const auto& c : j["chords"]) t.chords.push_back({c["start_s"], c["end_s"], *parse_chord(c["label"].get<std::string>()), 1.0, {}});
    for (const auto& h : j["drums"]) {
        t.hits[h["kind"]].push_back(h["time_s"]);
        if (const auto kind = parse_drum_kind(h["kind"])) t.drums.push_back({h["time_s"], *kind, h["velocity"], 1.0});
    }
    return t;
}

/// F-measure of events, each matched once, within a tolerance.
inline double onset_f(std::vector<double> truth, std::vector<double> found, double tolerance) {
    std::sort(truth.begin(), truth.end());
    std::sort(found.begin(), found.end());
    std::size_t hits = 0, at = 0;
    for (const double t : truth) {
        while (at < found.size() && found[at] < t - tolerance) ++at;
        if (at < found.size() && found[at] <= t + tolerance) ++hits, ++at;
    }
    return truth.empty() && found.empty() ? 1.0 : 2.0 * static_cast<double>(hits) / static_cast<double>(truth.size() + found.size());
}

/// Of the notes found within 50 ms, the share that end within a fifth of their length or 50 ms.
inline double ends_right(const std::vector<HeardNote>& truth, const std::vector<HeardNote>& found) {
    double right = 0.0, matched = 0.0;
    for (const HeardNote& t : truth) {
        const auto f =
            std::find_if(found.begin(), found.end(), [&](const HeardNote& n) { return n.pitch == t.pitch && std::abs(n.onset_s - t.onset_s) <= 0.05; });
        if (f == found.end()) continue;
        matched += 1.0;
        right += std::abs(f->onset_s + f->duration_s - t.onset_s - t.duration_s) <= std::max(0.05, 0.2 * t.duration_s);
    }
    return matched > 0.0 ? right / matched : 0.0;
}

/// Mean difference of the velocities of the strokes of one sound found within 50 ms, once both have the same median.
inline double velocity_error(const std::vector<Hit>& truth, const std::vector<Hit>& found, DrumKind kind) {
    std::vector<double> want, got;
    for (const Hit& t : truth) {
        const auto f = std::find_if(found.begin(), found.end(), [&](const Hit& h) { return h.kind == kind && std::abs(h.time_s - t.time_s) <= 0.05; });
        if (t.kind != kind || f == found.end()) continue;
        want.push_back(t.velocity);
        got.push_back(f->velocity);
    }
    if (want.empty()) return 127.0;
    const double scale = median(want) / median(got);
    double sum = 0.0;
    for (std::size_t i = 0; i < want.size(); ++i) sum += std::abs(scale * got[i] - want[i]);
    return sum / static_cast<double>(want.size());
}

inline double note_f(const std::vector<HeardNote>& truth, const std::vector<HeardNote>& found) {
    std::vector<char> taken(found.size(), 0);
    std::size_t hits = 0;
    for (const HeardNote& t : truth)
        for (std::size_t i = 0; i < found.size(); ++i)
            if (!taken[i] && found[i].pitch == t.pitch && std::abs(found[i].onset_s - t.onset_s) <= 0.05) {
                taken[i] = 1;
                ++hits;
                break;
            }
    return 2.0 * static_cast<double>(hits) / static_cast<double>(std::max<std::size_t>(1, truth.size() + found.size()));
}

/// Share of chord time with the right root and third.
inline double major_minor_share(const std::vector<ChordSpan>& truth, const std::vector<ChordSpan>& found) {
    const auto minor = [](const Chord& c) {
        const auto tones = c.tones();
        return std::find(tones.begin(), tones.end(), (c.root + 3) % 12) != tones.end();
    };
    double right = 0, all = 0;
    for (const ChordSpan& t : truth)
        for (double s = t.start_s + 0.05; s < t.end_s - 0.02; s += 0.05) {
            all += 1;
            for (const ChordSpan& f : found)
                if (s >= f.start_s && s < f.end_s && !f.chord.none()) right += f.chord.root == t.chord.root && minor(f.chord) == minor(t.chord);
        }
    return right / std::max(1.0, all);
}

}  // namespace fw::test
