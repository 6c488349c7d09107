// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

#include <cstdint>
#include <span>
#include <utility>
#include <vector>

namespace fw {

/// Lowest and highest sample of every stretch of kFrames frames, all channels together: what a waveform is painted from.
class Peaks {
public:
    static constexpr std::size_t kFrames = 256;
    using Cell = std::pair<std::int8_t, std::int8_t>;

    Peaks() = default;
    explicit Peaks(const Audio& audio);
    /// Of sound that is yet to come, see add().
    Peaks(int sample_rate_hz, int channels) : rate_(sample_rate_hz), channels_(static_cast<std::size_t>(channels)) {}
    /// As they were before: what cells() and frames() gave.
    Peaks(int sample_rate_hz, std::size_t frames, std::vector<Cell> cells) : cells_(std::move(cells)), rate_(sample_rate_hz), frames_(frames) {}
    /// Adds interleaved samples behind what was added before.
    void add(std::span<const float> interleaved);
    bool empty() const noexcept { return cells_.empty(); }
    const std::vector<Cell>& cells() const noexcept { return cells_; }
    int sample_rate_hz() const noexcept { return rate_; }
    std::size_t frames() const noexcept { return frames_; }
    double duration_s() const noexcept { return rate_ > 0 ? static_cast<double>(frames_) / rate_ : 0.0; }
    /// Lowest and highest between two times, -1..1; zeros outside the sound.
    std::pair<float, float> between(double start_s, double end_s) const;

private:
    std::vector<Cell> cells_;
    int rate_ = 0;
    std::size_t channels_ = 1, frames_ = 0;
    float low_ = 0.0F, high_ = 0.0F;  // of the cell that is not full yet
};

}  // namespace fw
