// SPDX-License-Identifier: GPL-3.0-or-later
#include "audio/peaks.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {
Peaks::Cell cell_of(float low, float high) {
    const auto byte = [](float v) { return static_cast<std::int8_t>(std::lround(std::clamp(v, -1.0F, 1.0F) * 127.0F)); };
    return {byte(low), byte(high)};
}
}  // namespace

Peaks::Peaks(const Audio& audio) : Peaks(audio.sample_rate_hz, audio.channels) { add(audio.samples); }

void Peaks::add(std::span<const float> interleaved) {
    while (interleaved.size() >= channels_) {
        const std::size_t inside = frames_ % kFrames, step = std::min(kFrames - inside, interleaved.size() / channels_);
        const auto [low, high] = std::minmax_element(interleaved.begin(), interleaved.begin() + static_cast<std::ptrdiff_t>(step * channels_));
        if (inside == 0) {
            low_ = *low, high_ = *high;
            cells_.push_back(cell_of(low_, high_));
        } else {
            low_ = std::min(low_, *low), high_ = std::max(high_, *high);
            cells_.back() = cell_of(low_, high_);
        }
        frames_ += step;
        interleaved = interleaved.subspan(step * channels_);
    }
}

std::pair<float, float> Peaks::between(double start_s, double end_s) const {
    if (cells_.empty() || end_s < 0.0 || start_s >= duration_s()) return {0.0F, 0.0F};
    const double cell_s = static_cast<double>(kFrames) / rate_;
    const auto last = cells_.size() - 1;
    const auto a = std::min(last, static_cast<std::size_t>(std::max(0.0, start_s / cell_s)));
    const auto b = std::clamp<std::size_t>(static_cast<std::size_t>(std::max(0.0, end_s / cell_s)), a, last);
    int low = 127, high = -127;
    for (std::size_t i = a; i <= b; ++i) low = std::min<int>(low, cells_[i].first), high = std::max<int>(high, cells_[i].second);
    return {static_cast<float>(low) / 127.0F, static_cast<float>(high) / 127.0F};
}

}  // namespace fw
