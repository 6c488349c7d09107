// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstddef>
#include <span>

namespace fw {

/// Both sides of a sample, or both at twice the rate: left and right at the first instant, left and right at the second.
using Lanes4 = float __attribute__((vector_size(16)));

/// A half-band filter of two chains of all-passes for both sides at once: twice the rate and back with some 100 dB between what passes and what does not,
/// and no latency to speak of (R. A. Valenzuela & A. G. Constantinides, "Digital signal processing schemes for efficient interpolation and decimation",
/// IEE Proc. 130, 1983). One object interpolates or decimates, not both. Real-time safe; value type; its fresh state is silence.
class HalfBand {
public:
    /// Two instants at twice the rate for each one. All spans of one length.
    void interpolate(std::span<const float> left, std::span<const float> right, std::span<Lanes4> both) noexcept {
        run(
            both.size(),
            [&](std::size_t i) {
                return Lanes4{left[i], right[i], left[i], right[i]};
            },
            [&](std::size_t i, Lanes4 y) { both[i] = y; });
    }
    /// One instant for each two at twice the rate.
    void decimate(std::span<const Lanes4> both, std::span<float> left, std::span<float> right) noexcept {
        // The second chain hears the first instant, the first chain the second.
        run(
            both.size(),
            [&](std::size_t i) {
                return __builtin_shuffle(both[i], Order{2, 3, 0, 1});
            },
            [&](std::size_t i, Lanes4 y) { left[i] = 0.5F * (y[0] + y[2]), right[i] = 0.5F * (y[1] + y[3]); });
    }

private:
    using Order = int __attribute__((vector_size(16)));
    static constexpr std::size_t kStages = 6;
    static constexpr std::array<float, kStages> kEven{0.036681502163648017F, 0.2746317593794541F, 0.56109896978791948F,
                                                      0.769741833862266F,    0.8922608180038789F, 0.962094548378084F};
    static constexpr std::array<float, kStages> kOdd{0.13654762463195771F, 0.42313861743656667F, 0.6775400499741616F,
                                                     0.839889624849638F,   0.9315419599631839F,  0.9878163707328971F};
    /// The chains over a stretch with their states in registers, which is what makes them fast.
    template <class Take, class Give>
    void run(std::size_t count, Take&& take, Give&& give) noexcept {
        std::array<Lanes4, kStages + 1> last = last_;
        for (std::size_t i = 0; i < count; ++i) {
            Lanes4 x = take(i);
            for (std::size_t s = 0; s < kStages; ++s) {
                const Lanes4 factor{kEven[s], kEven[s], kOdd[s], kOdd[s]};
                const Lanes4 y = (last[s] + factor * x) - factor * last[s + 1];
                last[s] = x;
                x = y;
            }
            last[kStages] = x;
            give(i, x);
        }
        last_ = last;
    }
    std::array<Lanes4, kStages + 1> last_{};  ///< what went into each stage one instant ago, and what came out of the last
};

}  // namespace fw
