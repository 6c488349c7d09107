// SPDX-License-Identifier: GPL-3.0-or-later
// How the drums are played: where each stroke of the bar falls against the straight grid, and how hard, as in a groove template
// (after Bilmes, "Timing is of the essence", MIT 1993).
#include "analysis/decoders.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace fw {

Feel measure_feel(const std::vector<Beat>& beats, const std::vector<MeterChange>& meter, const std::vector<Hit>& hits) {
    Feel feel;
    if (beats.size() < 2 || meter.empty()) return feel;
    const bool compound = meter.front().denominator == 8 && meter.front().numerator % 3 == 0;
    const int beats_per_bar = compound ? meter.front().numerator / 3 : meter.front().numerator, steps = compound ? 3 : 4;
    feel.steps_per_bar = beats_per_bar * steps;
    feel.steps_per_beat = steps;
    struct Strokes {
        std::vector<double> offsets_ms;
        double velocity = 0.0;
    };
    std::map<DrumKind, std::vector<Strokes>> seen;
    std::size_t b = 0;
    for (const Hit& hit : hits) {
        while (b + 2 < beats.size() && hit.time_s >= beats[b + 1].time_s) ++b;
        const double beat_s = beats[b + 1].time_s - beats[b].time_s, inside = (hit.time_s - beats[b].time_s) / beat_s;
        if (inside < -0.2 || inside > 1.2 || beats[b].beat > beats_per_bar) continue;
        const auto step = static_cast<int>(std::lround(inside * steps));
        auto& of_kind = seen.try_emplace(hit.kind, static_cast<std::size_t>(feel.steps_per_bar)).first->second;
        auto& strokes = of_kind[static_cast<std::size_t>(((beats[b].beat - 1) * steps + step + feel.steps_per_bar) % feel.steps_per_bar)];
        strokes.offsets_ms.push_back(1000.0 * (inside - static_cast<double>(step) / steps) * beat_s);
        strokes.velocity += hit.velocity;
    }
    for (auto& [kind, of_kind] : seen) {
        DrumFeel drum{kind, {}};
        for (std::size_t s = 0; s < of_kind.size(); ++s) {
            auto& offsets = of_kind[s].offsets_ms;
            if (offsets.size() < 3) continue;  // too seldom to be a habit
            const double count = static_cast<double>(offsets.size());
            const auto middle = offsets.begin() + static_cast<std::ptrdiff_t>(offsets.size() / 2);
            std::nth_element(offsets.begin(), middle, offsets.end());
            StepFeel step{static_cast<int>(s), static_cast<int>(offsets.size()), *middle, 0.0, of_kind[s].velocity / count};
            for (double& o : offsets) o = std::abs(o - step.offset_ms);
            std::nth_element(offsets.begin(), middle, offsets.end());
            step.spread_ms = 1.48 * *middle;
            drum.steps.push_back(step);
        }
        if (!drum.steps.empty()) feel.drums.push_back(std::move(drum));
    }
    return feel;
}

}  // namespace fw
