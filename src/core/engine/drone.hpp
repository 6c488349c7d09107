// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstddef>
#include <span>

namespace fw {

/// Held tones over what is heard: a reference tone, a key's drone, a chord. Empty: none.
struct Drone {
    static constexpr std::size_t kMost = 8;
    std::array<double, kMost> hz{};
    std::size_t count = 0;
    float gain = 0.08F;  ///< of each tone, with two softer partials
};

/// Sounds a drone, going from one to another by fades of 30 ms. Real time; value type.
class DroneVoice {
public:
    void add(const Drone& wanted, std::span<float> left, std::span<float> right, double sample_rate_hz) noexcept;

private:
    Drone now_;
    std::array<double, Drone::kMost> phase_{};
    float level_ = 0.0F;
};

}  // namespace fw
