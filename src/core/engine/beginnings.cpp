// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/beginnings.hpp"

#include "audio/mono.hpp"
#include "dsp/hits.hpp"
#include "engine/voice_mending.hpp"

#include <algorithm>

namespace fw {

std::vector<double> find_beginnings(const Audio& sound) {
    constexpr double kVoice = 0.4, kApart_s = 0.06, kFirst_s = 0.08;  // a voice is in its first note by then
    std::vector<double> found = find_hits(mono_of(sound), sound.sample_rate_hz);
    const auto notes = sung_notes(sound);
    double sung_s = 0.0;
    for (const SungNote& n : notes) sung_s += n.end_s - n.start_s;
    if (sung_s < kVoice * sound.duration_s()) return found;
    for (const SungNote& n : notes)
        if (n.start_s >= kFirst_s && std::none_of(found.begin(), found.end(), [&](double at) { return std::abs(at - n.start_s) < 2.0 * kApart_s; }))
            found.push_back(n.start_s);
    std::sort(found.begin(), found.end());
    return found;
}

}  // namespace fw
