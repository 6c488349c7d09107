// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/song.hpp"

#include <cstdint>
#include <span>
#include <vector>

namespace fw {

/// Where clicks fall in a recording.
struct ClickTrack {
    enum class Kind : std::uint8_t { One, Beat, Between };
    struct Click {
        double time_s = 0.0;
        Kind kind = Kind::Beat;
    };
    std::vector<Click> clicks;  ///< ascending
};

/// Clicks on the beats of a song from 0 to end_s, `between` of them besides inside every beat (1: eighths in 4/4); none in free time.
ClickTrack clicks_of(const Song& song, double end_s, int between = 0);

/// Sounds clicks: short sines, higher on a bar's first beat, softer between beats. Real time; value type.
class ClickVoice {
public:
    void strike(ClickTrack::Kind kind, double sample_rate_hz) noexcept;
    /// Adds to what is there.
    void add(std::span<float> left, std::span<float> right, float gain) noexcept;

private:
    double phase_ = 0.0, step_ = 0.0;
    float level_ = 0.0F, decay_ = 0.0F;
};

}  // namespace fw
