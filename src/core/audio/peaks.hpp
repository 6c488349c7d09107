// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

#include <cstdint>
#include <utility>
#include <vector>

namespace fw {

/// Lowest and highest sample of every stretch of kFrames frames, all channels together: what a waveform is painted from.
class Peaks {
public:
    static constexpr std::size_t kFrames = 256;

    Peaks() = default;
    explicit Peaks(const Audio& audio);
    bool empty() const noexcept { return cells_.empty(); }
    double duration_s() const noexcept { return duration_s_; }
    /// Lowest and highest between two times, -1..1; zeros outside the sound.
    std::pair<float, float> between(double start_s, double end_s) const;

private:
    std::vector<std::pair<std::int8_t, std::int8_t>> cells_;
    double cell_s_ = 0.0, duration_s_ = 0.0;
};

}  // namespace fw
