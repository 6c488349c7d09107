// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace fw {

/// Stereo peak limiter with 1.5 ms of look-ahead: no sample leaves above the ceiling, and below it sound passes unchanged but
/// for the delay. Gain falls along a straight line over the look-ahead and recovers with a time constant of 80 ms.
///
/// Real time: process() and reset() neither allocate nor lock. Threads: one at a time. latency() frames of delay.
class Limiter {
public:
    explicit Limiter(double sample_rate_hz, float ceiling = 0.977F);  // -0.2 dBFS
    std::size_t latency() const noexcept { return ahead_; }
    void reset() noexcept;
    void process(std::span<float> left, std::span<float> right) noexcept;

private:
    float least(std::size_t begin, std::size_t end, std::size_t first) const noexcept;

    std::size_t ahead_;
    float ceiling_, release_;
    std::vector<float> left_, right_, wanted_;  // rings of ahead_ frames
    std::vector<float> shares_;                 // 1 / 1, 1 / 2, … of the way to go in the next frame
    std::size_t at_ = 0, pressing_ = 0;         // pressing_: frames until the last peak has left
    float gain_ = 1.0F;
};

}  // namespace fw
