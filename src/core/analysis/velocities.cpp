// SPDX-License-Identifier: GPL-3.0-or-later
// How hard the notes of a part are struck, against what its notes of about the same pitch usually show: the middle of what the
// fundamental and three partials stand above or below that, because other parts cover some of them.
#include "analysis/decoders.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <span>

namespace fw {

namespace {

/// How high the spectrum stands at a pitch at the beginning of a note; negative beyond the highest pitch.
float level_at(const Evidence& e, const HeardNote& n, int pitch) {
    if (pitch >= Evidence::kLowestPitch + Evidence::kPitches) return -1.0F;
    const auto begin = static_cast<std::size_t>(std::max(0L, std::lround(Evidence::pitch_frame(n.onset_s))));
    float top = 0.0F;
    for (std::size_t f = begin; f < std::min(begin + 5, e.pitch_frames()); ++f)
        top = std::max(top, e.level.at(f, static_cast<std::size_t>(pitch - Evidence::kLowestPitch)));
    return top;
}

/// The middle of values that lie at pitches, seen from one pitch: neighbours within some semitones count most.
float middle_near(const std::vector<std::pair<float, int>>& sorted, int pitch) {
    constexpr float kReach = 3.0F;  // semitones
    std::array<float, 2 * Evidence::kPitches> weight{};
    for (std::size_t d = 0; d < weight.size(); ++d) weight[d] = std::exp(-0.5F * static_cast<float>(d * d) / (kReach * kReach));
    float all = 0.0F, sum = 0.0F;
    for (const auto& v : sorted) all += weight[static_cast<std::size_t>(std::abs(v.second - pitch))];
    for (const auto& v : sorted)
        if ((sum += weight[static_cast<std::size_t>(std::abs(v.second - pitch))]) >= 0.5F * all) return v.first;
    return sorted.back().first;
}

constexpr std::array<int, 4> kPartials{0, 12, 19, 24};
constexpr double kMiddle = 90.0;
constexpr float kKept = 0.35F, kDecades = 2.5F, kAmplitudeOfVelocity = 2.0F;  // the scale of Evidence::level; amplitudes go with the square of velocity

void tell_stretch(const Evidence& e, std::span<HeardNote> notes) {
    std::array<std::vector<std::pair<float, int>>, kPartials.size()> sorted;  // what each partial shows in all notes
    for (std::size_t k = 0; k < kPartials.size(); ++k) {
        for (const HeardNote& n : notes)
            if (const float level = level_at(e, n, n.pitch + kPartials[k]); level >= 0.0F) sorted[k].emplace_back(level, n.pitch);
        std::sort(sorted[k].begin(), sorted[k].end());
    }
    std::map<int, std::array<float, kPartials.size()>> usual;
    for (HeardNote& n : notes) {
        const auto [at, is_new] = usual.try_emplace(n.pitch);
        std::vector<float> above;
        for (std::size_t k = 0; k < kPartials.size(); ++k) {
            const float level = level_at(e, n, n.pitch + kPartials[k]);
            if (level < 0.0F) continue;
            if (is_new) at->second[k] = middle_near(sorted[k], n.pitch);
            above.push_back(level - at->second[k]);
        }
        std::sort(above.begin(), above.end());
        const float middle = 0.5F * (above[(above.size() - 1) / 2] + above[above.size() / 2]);
        const double velocity = kMiddle * std::pow(10.0, kKept * middle * kDecades / kAmplitudeOfVelocity);
        n.velocity = std::clamp(static_cast<int>(std::lround(velocity)), 1, 127);
    }
}

}  // namespace

void tell_velocities(const Evidence& e, std::vector<HeardNote>& part) {
    constexpr double kStretch = 240.0;
    constexpr std::size_t kEnoughToTell = 8;
    for (std::size_t begin = 0, end = 0; begin < part.size(); begin = end) {
        while (end < part.size() && part[end].onset_s < part[begin].onset_s + kStretch) ++end;
        const std::span<HeardNote> notes(part.data() + begin, end - begin);
        if (notes.size() >= kEnoughToTell) {
            tell_stretch(e, notes);
        } else {
            for (HeardNote& n : notes) n.velocity = static_cast<int>(kMiddle);
        }
    }
}

}  // namespace fw
