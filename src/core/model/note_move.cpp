// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/note_move.hpp"

#include <algorithm>

namespace fw {

double note_way(const NoteMove& m, double since_s, double held_s, double from) {
    const auto fallen = [&](double since, double over_ms) { return share_of_way(Shape::Curved, m.bend, std::clamp(since / (over_ms / 1000.0), 0.0, 1.0)); };
    const auto held = [&](double t) {
        const double attack_s = m.attack_ms / 1000.0;
        if (t < attack_s) return from + (1.0 - from) * t / attack_s;
        return 1.0 + (m.sustain - 1.0) * fallen(t - attack_s, m.decay_ms);
    };
    if (since_s < held_s) return held(since_s);
    return held(held_s) * (1.0 - fallen(since_s - held_s, m.release_ms));
}

}  // namespace fw
