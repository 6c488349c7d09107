// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/limiter.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

Limiter::Limiter(double sample_rate_hz, float ceiling)
    : ahead_(std::max<std::size_t>(8, static_cast<std::size_t>(sample_rate_hz * 0.0015))),
      ceiling_(ceiling),
      release_(static_cast<float>(1.0 - std::exp(-1.0 / (0.08 * sample_rate_hz)))),
      left_(ahead_, 0.0F),
      right_(ahead_, 0.0F),
      wanted_(ahead_, 1.0F),
      shares_(ahead_) {
    for (std::size_t k = 0; k < ahead_; ++k) shares_[k] = 1.0F / static_cast<float>(k + 1);
}

void Limiter::reset() noexcept {
    std::fill(left_.begin(), left_.end(), 0.0F);
    std::fill(right_.begin(), right_.end(), 0.0F);
    std::fill(wanted_.begin(), wanted_.end(), 1.0F);
    at_ = pressing_ = 0;
    gain_ = 1.0F;
}

/// The least of what the peaks kept from `begin` to `end` ask for, the first of them `first` frames ahead. Eight at a time.
float Limiter::least(std::size_t begin, std::size_t end, std::size_t first) const noexcept {
    const auto asked = [&](std::size_t i) {
        const float w = wanted_[i];
        return std::max(w, gain_ - (gain_ - w) * shares_[first + i - begin]);
    };
    constexpr std::size_t kLanes = 8;
    std::array<float, kLanes> least;
    least.fill(1.0F);
    std::size_t i = begin;
    for (; i + kLanes <= end; i += kLanes)
        for (std::size_t k = 0; k < kLanes; ++k) least[k] = std::min(least[k], asked(i + k));
    for (; i < end; ++i) least[0] = std::min(least[0], asked(i));
    return *std::min_element(least.begin(), least.end());
}

void Limiter::process(std::span<float> left, std::span<float> right) noexcept {
    for (std::size_t i = 0; i < left.size(); ++i) {
        const float peak = std::max(std::abs(left[i]), std::abs(right[i]));
        const float need = peak > ceiling_ ? ceiling_ / peak : 1.0F;
        const float out_left = left_[at_], out_right = right_[at_];
        left_[at_] = left[i];
        right_[at_] = right[i];
        wanted_[at_] = need;
        at_ = at_ + 1 == ahead_ ? 0 : at_ + 1;
        // Each peak ahead asks for a slope that just reaches its gain in time; the steepest wins.
        float target = gain_ + (1.0F - gain_) * release_;
        if (need < 1.0F || pressing_ > 0) {
            target = std::min({target, least(at_, ahead_, 0), least(0, at_, ahead_ - at_)});
            pressing_ = need < 1.0F ? ahead_ : pressing_ - 1;
        }
        gain_ = target;
        // The frame leaving now was measured when it came in; this keeps the promise whatever the slopes did.
        const float out_peak = std::max(std::abs(out_left), std::abs(out_right));
        if (out_peak * gain_ > ceiling_) gain_ = ceiling_ / out_peak;
        left[i] = out_left * gain_;
        right[i] = out_right * gain_;
    }
}

}  // namespace fw
