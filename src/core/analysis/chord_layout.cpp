// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/chord_layout.hpp"

#include "base/pitch.hpp"

#include <algorithm>
#include <array>

namespace fw {

std::vector<int> heard_layout(const Evidence& e, const Chord& chord, double start_s, double end_s) {
    constexpr float kSounds = 0.35F, kOvertone = 0.75F;
    constexpr int kLowest = 28, kHighest = 88;
    const auto tones = chord.tones();
    std::array<float, 128> heard{};
    for (int p = kLowest; p <= kHighest; ++p)
        if (std::find(tones.begin(), tones.end(), pitch_class(p)) != tones.end())
            heard[static_cast<std::size_t>(p)] = std::max(e.mean(e.sounding, start_s, end_s, p), e.mean(e.bass_sounding, start_s, end_s, p));
    std::vector<int> out;
    for (int p = kLowest; p <= kHighest; ++p) {
        const float here = heard[static_cast<std::size_t>(p)];
        if (here < kSounds) continue;
        const auto under = [&](int semitones) { return p - semitones >= 0 && here < kOvertone * heard[static_cast<std::size_t>(p - semitones)]; };
        if (!under(12) && !under(19)) out.push_back(p);
    }
    return out.size() < 2 ? std::vector<int>() : out;
}

}  // namespace fw
