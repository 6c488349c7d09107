// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstddef>
#include <span>
#include <utility>

namespace fw {

/// Held tones over what is heard: a reference tone, a key's drone, a chord; or a note where it would be played. Empty: none.
struct Drone {
    static constexpr std::size_t kMost = 8;
    std::array<double, kMost> hz{};
    std::size_t count = 0;
    std::pair<double, double> within_s{-1e9, 1e9};  ///< sounds only while this is played, seconds of the recording
    bool always() const { return within_s.first <= -1e9; }
    float gain = 0.08F;  ///< of each tone, with two softer partials
};

/// Sounds a drone, going from one to another by fades of 30 ms (5 ms where it begins and ends within what is played). Real time; value type.
class DroneVoice {
public:
    /// at_s: the place that is heard at the first sample; speed: how fast it goes on from there, 0 while nothing is played.
    void add(const Drone& wanted, std::span<float> left, std::span<float> right, double sample_rate_hz, double at_s = 0.0, double speed = 0.0) noexcept;

private:
    Drone now_;
    std::array<double, Drone::kMost> phase_{};
    float level_ = 0.0F;
};

}  // namespace fw
