// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/lengths.hpp"

#include "base/ranks.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

constexpr double kLongest_s = 4.0;

/// When a pitch is let go after a time, seconds, or `until_s` where it sounds on; nothing where it is not clearly heard to begin with.
std::optional<double> heard_end_s(const Evidence& e, int pitch, double onset_s, double until_s) {
    constexpr float kClear = 0.5F, kShare = 0.5F;
    constexpr std::size_t kForGood = 3;
    constexpr double kBefore_s = 0.03, kSettles_s = 0.12;
    const int column = pitch - Evidence::kLowestPitch;
    if (column < 0 || column >= Evidence::kPitches) return std::nullopt;
    const auto p = static_cast<std::size_t>(column);
    const auto frame = [&](double s) {
        return static_cast<std::size_t>(std::clamp(std::lround(Evidence::pitch_frame(std::max(0.0, s))), 0L, static_cast<long>(e.pitch_frames())));
    };
    const std::size_t from = frame(onset_s - kBefore_s), settled = frame(onset_s + kSettles_s), end = frame(until_s);
    float height = 0.0F;
    std::size_t below = 0;
    for (std::size_t f = from; f < std::min(end, settled); ++f) height = std::max(height, e.sounding.at(f, p));
    if (height < kClear) return std::nullopt;
    bool begun = false;
    for (std::size_t f = from; f < end; ++f) {
        const float v = e.sounding.at(f, p);
        begun = begun || v >= kShare * height;
        below = begun && v < kShare * height ? below + 1 : 0;
        if (below == kForGood) return Evidence::pitch_time(static_cast<double>(f + 1 - kForGood));
    }
    return until_s;
}

}  // namespace

std::optional<HeardLengths> heard_lengths(const Hearing& hearing, const Score& score, std::size_t part) {
    constexpr int kFewest = 12;
    const WrittenPart& mine = score.parts()[part];
    if (mine.drums) return std::nullopt;
    std::vector<double> times;
    for (const Written& n : mine.notes) {
        const double until_s = std::min(n.onset_s + kLongest_s, score.begun_next_s(n.pitch, n.onset_s + 0.03) - 0.02), written_s = n.end_s - n.onset_s;
        if (until_s < n.onset_s + 0.1 || written_s < 0.02) continue;
        const auto end_s = heard_end_s(hearing.evidence, n.pitch, n.onset_s, until_s);
        // One that sounds until it is begun anew and is written as long says nothing.
        if (!end_s || (*end_s >= until_s && n.end_s >= until_s - 0.03)) continue;
        times.push_back((*end_s - n.onset_s) / written_s);
    }
    if (static_cast<int>(times.size()) < kFewest) return std::nullopt;
    return HeardLengths{median(times), static_cast<int>(times.size())};
}

}  // namespace fw
