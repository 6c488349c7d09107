// SPDX-License-Identifier: GPL-3.0-or-later
// Swing as the median place of the offbeat note within its pair (Friberg & Sundström, "Swing ratios and ensemble timing", 2002).
#include "analysis/decoders.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

Swing measure_swing(const std::vector<Beat>& beats, const std::vector<double>& onsets_s) {
    Swing best;
    for (const int subdivision : {16, 8}) {
        const int pairs = subdivision / 8;  // pairs of notes in a beat
        std::vector<double> places;
        std::size_t at = 0;
        for (std::size_t b = 0; b + 1 < beats.size(); ++b) {
            const double step = (beats[b + 1].time_s - beats[b].time_s) / pairs;
            for (int h = 0; h < pairs; ++h) {
                const double begin = beats[b].time_s + h * step;
                while (at < onsets_s.size() && onsets_s[at] < begin) ++at;
                for (std::size_t i = at; i < onsets_s.size() && onsets_s[i] < begin + step; ++i) {
                    const double place = (onsets_s[i] - begin) / step;
                    if (place > 0.42 && place < 0.74) places.push_back(place);
                }
            }
        }
        if (places.size() < 12) continue;
        const double middle = median(places);
        std::vector<double> off;
        for (const double p : places) off.push_back(std::abs(p - middle));
        const double spread = median(off);
        const double confidence = std::clamp(1.0 - spread / 0.07, 0.0, 1.0) * std::min(1.0, static_cast<double>(places.size()) / 60.0);
        // The finer grid is asked first: swung sixteenths leave the eighths straight, while swung eighths leave no sixteenths to measure.
        if (best.confidence == 0.0 || (std::abs(middle - 0.5) > 0.03 && std::abs(best.ratio - 0.5) <= 0.03 && confidence > best.confidence))
            best = {middle, subdivision, confidence};
    }
    return best;
}

}  // namespace fw
