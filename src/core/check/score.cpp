// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/score.hpp"

#include <algorithm>
#include <array>
#include <limits>

namespace fw {

int sound_key(int key) {
    const DrumSound* sound = drum_sound_of_key(key);
    return sound ? sound->key : key;
}

Onsets::Onsets(std::vector<std::pair<int, double>> all) : all_(std::move(all)) { std::sort(all_.begin(), all_.end()); }

int Onsets::count(int key, double from_s, double to_s) const {
    const auto first = std::lower_bound(all_.begin(), all_.end(), std::pair(key, from_s));
    return static_cast<int>(std::upper_bound(first, all_.end(), std::pair(key, to_s)) - first);
}

Score::Score(std::vector<WrittenPart> parts, std::vector<double> bars_s) : parts_(std::move(parts)), bars_s_(std::move(bars_s)) {
    std::vector<std::pair<int, double>> pitched, struck;
    for (const WrittenPart& part : parts_) {
        std::vector<std::pair<int, double>> own;
        for (const Written& n : part.notes) {
            own.emplace_back(n.pitch, n.onset_s);
            (part.drums ? struck : pitched).emplace_back(n.pitch, n.onset_s);
            (part.drums ? struck_at_ : pitched_at_).push_back(n.onset_s);
        }
        by_part_.emplace_back(std::move(own));
    }
    of_pitch_.resize(128);
    for (const WrittenPart& part : parts_)
        for (const Written& n : part.notes)
            if (!part.drums && n.pitch >= 0 && n.pitch < 128) of_pitch_[static_cast<std::size_t>(n.pitch)].push_back(n), ends_at_.push_back(n.end_s);
    for (auto& notes : of_pitch_) std::sort(notes.begin(), notes.end(), [](const Written& a, const Written& b) { return a.onset_s < b.onset_s; });
    std::sort(ends_at_.begin(), ends_at_.end());
    std::sort(pitched_at_.begin(), pitched_at_.end());
    std::sort(struck_at_.begin(), struck_at_.end());
    pitched_ = Onsets(std::move(pitched));
    struck_ = Onsets(std::move(struck));
}

Score Score::with(std::size_t part, std::vector<Written> notes) const {
    auto parts = parts_;
    parts[part].notes = std::move(notes);
    return {std::move(parts), bars_s_};
}

int Score::together(bool drums, double at_s, double within_s) const {
    const auto& all = drums ? struck_at_ : pitched_at_;
    const auto first = std::lower_bound(all.begin(), all.end(), at_s - within_s);
    return static_cast<int>(std::upper_bound(first, all.end(), at_s + within_s) - first);
}

int Score::sounding(double at_s) const {
    const auto begun = std::upper_bound(pitched_at_.begin(), pitched_at_.end(), at_s) - pitched_at_.begin();
    return static_cast<int>(begun - (std::upper_bound(ends_at_.begin(), ends_at_.end(), at_s) - ends_at_.begin()));
}

bool Score::held(int pitch, double at_s) const {
    constexpr double kBefore_s = 0.06, kBeyond_s = 0.03;
    constexpr int kVoices = 6;  // of one pitch at a time
    if (pitch < 0 || pitch >= 128) return false;
    const auto& notes = of_pitch_[static_cast<std::size_t>(pitch)];
    auto at = std::upper_bound(notes.begin(), notes.end(), at_s - kBefore_s, [](double t, const Written& n) { return t < n.onset_s; });
    for (int i = 0; i < kVoices && at != notes.begin(); ++i)
        if ((--at)->end_s > at_s + kBeyond_s) return true;
    return false;
}

double Score::begun_next_s(int pitch, double after_s) const {
    if (pitch < 0 || pitch >= 128) return std::numeric_limits<double>::infinity();
    const auto& notes = of_pitch_[static_cast<std::size_t>(pitch)];
    const auto next = std::upper_bound(notes.begin(), notes.end(), after_s, [](double t, const Written& n) { return t < n.onset_s; });
    return next == notes.end() ? std::numeric_limits<double>::infinity() : next->onset_s;
}

double Score::repeated(const Onsets& among, int key, double onset_s) const {
    constexpr double kSame_s = 0.065;
    const auto next = std::upper_bound(bars_s_.begin(), bars_s_.end(), onset_s + kSame_s);
    if (next == bars_s_.begin() || next == bars_s_.end()) return 0.0;
    const auto bar = next - bars_s_.begin() - 1, bars = static_cast<std::ptrdiff_t>(bars_s_.size()) - 1;
    const auto start = [&](std::ptrdiff_t b) { return bars_s_[static_cast<std::size_t>(b)]; };
    const double place = (onset_s - start(bar)) / (start(bar + 1) - start(bar));
    int there = 0, asked = 0;
    for (const std::ptrdiff_t by : {-16, -8, -4, -2, -1, 1, 2, 4, 8, 16}) {
        if (bar + by < 0 || bar + by >= bars) continue;
        const double at = start(bar + by) + place * (start(bar + by + 1) - start(bar + by));
        ++asked, there += among.count(key, at - kSame_s, at + kSame_s) > 0;
    }
    return asked ? static_cast<double>(there) / asked : 0.0;
}

Hearing::Hearing(const Analysis& a) : evidence(*a.evidence) {
    for (const HeardNote& n : a.faint_notes) notes.push_back({n.onset_s, n.onset_s + n.duration_s, n.pitch, 96, n.confidence});
    for (const Hit& h : a.faint_drums) strokes.push_back({h.time_s, h.time_s + 0.1, drum_sound(h.kind).key, h.velocity, h.confidence});
}

}  // namespace fw
