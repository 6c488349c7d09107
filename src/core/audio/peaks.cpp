// SPDX-License-Identifier: GPL-3.0-or-later
#include "audio/peaks.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

Peaks::Peaks(const Audio& audio) : duration_s_(audio.duration_s()) {
    if (audio.frames() == 0) return;
    cell_s_ = static_cast<double>(kFrames) / audio.sample_rate_hz;
    const std::size_t step = kFrames * static_cast<std::size_t>(audio.channels);
    for (std::size_t at = 0; at < audio.samples.size(); at += step) {
        const auto begin = audio.samples.begin() + static_cast<std::ptrdiff_t>(at),
                   end = audio.samples.begin() + static_cast<std::ptrdiff_t>(std::min(at + step, audio.samples.size()));
        const auto [low, high] = std::minmax_element(begin, end);
        const auto byte = [](float v) { return static_cast<std::int8_t>(std::lround(std::clamp(v, -1.0F, 1.0F) * 127.0F)); };
        cells_.emplace_back(byte(*low), byte(*high));
    }
}

std::pair<float, float> Peaks::between(double start_s, double end_s) const {
    if (cells_.empty() || end_s < 0.0 || start_s >= duration_s_) return {0.0F, 0.0F};
    const auto last = cells_.size() - 1;
    const auto a = std::min(last, static_cast<std::size_t>(std::max(0.0, start_s / cell_s_)));
    const auto b = std::clamp<std::size_t>(static_cast<std::size_t>(std::max(0.0, end_s / cell_s_)), a, last);
    int low = 127, high = -127;
    for (std::size_t i = a; i <= b; ++i) low = std::min<int>(low, cells_[i].first), high = std::max<int>(high, cells_[i].second);
    return {static_cast<float>(low) / 127.0F, static_cast<float>(high) / 127.0F};
}

}  // namespace fw
