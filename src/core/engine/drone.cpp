// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/drone.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fw {

void DroneVoice::add(const Drone& wanted, std::span<float> left, std::span<float> right, double rate, double at_s, double speed) noexcept {
    const auto ramp = static_cast<float>(1.0 / ((wanted.always() ? 0.03 : 0.005) * rate));
    const auto same = [&] { return now_.count == wanted.count && now_.hz == wanted.hz && now_.within_s == wanted.within_s; };
    bool is_same = same();
    if (is_same && now_.count == 0) return;
    for (std::size_t i = 0; i < left.size(); ++i) {
        // Another drone begins once the one before has died away.
        const double time_s = at_s + static_cast<double>(i) * speed / rate;
        const bool sounds = now_.always() || (speed > 0.0 && time_s >= now_.within_s.first && time_s < now_.within_s.second);
        level_ = std::clamp(level_ + (is_same && now_.count > 0 && sounds ? ramp : -ramp), 0.0F, 1.0F);
        if (level_ <= 0.0F && !is_same) now_ = wanted, is_same = true, phase_ = {};
        float sum = 0.0F;
        for (std::size_t k = 0; k < now_.count; ++k) {
            const double p = phase_[k];
            sum += static_cast<float>(std::sin(p) + 0.3 * std::sin(2.0 * p) + 0.15 * std::sin(3.0 * p));
            phase_[k] = p + 2.0 * std::numbers::pi * now_.hz[k] / rate;
            if (phase_[k] > 2.0 * std::numbers::pi) phase_[k] -= 2.0 * std::numbers::pi;
        }
        left[i] += now_.gain * level_ * sum;
        right[i] += now_.gain * level_ * sum;
    }
}

}  // namespace fw
