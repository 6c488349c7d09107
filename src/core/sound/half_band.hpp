// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstddef>
#include <utility>

namespace fw {

/// Both sides of a sample, or both at twice the rate: left and right at the first instant, left and right at the second.
using Lanes4 = double __attribute__((vector_size(32)));

/// A half-band filter of two chains of all-passes for both sides at once: twice the rate and back with some 100 dB between what passes and what does not,
/// and no latency to speak of (R. A. Valenzuela & A. G. Constantinides, "Digital signal processing schemes for efficient interpolation and decimation",
/// IEE Proc. 130, 1983). One object interpolates or decimates, not both. Real-time safe; value type; its fresh state is silence.
class HalfBand {
public:
    /// Two instants at twice the rate for one.
    Lanes4 interpolate(double left, double right) noexcept { return next(Lanes4{left, right, left, right}); }
    /// One instant for two at twice the rate: left and right.
    std::pair<double, double> decimate(Lanes4 both) noexcept {
        // The second chain hears the first instant, the first chain the second.
        const Lanes4 y = next(Lanes4{both[2], both[3], both[0], both[1]});
        return {0.5 * (y[0] + y[2]), 0.5 * (y[1] + y[3])};
    }

private:
    static constexpr std::size_t kStages = 6;
    static constexpr std::array<double, kStages> kEven{0.036681502163648017, 0.2746317593794541, 0.56109896978791948,
                                                       0.769741833862266,    0.8922608180038789, 0.962094548378084};
    static constexpr std::array<double, kStages> kOdd{0.13654762463195771, 0.42313861743656667, 0.6775400499741616,
                                                      0.839889624849638,   0.9315419599631839,  0.9878163707328971};
    Lanes4 next(Lanes4 x) noexcept {
        for (std::size_t i = 0; i < kStages; ++i) {
            const Lanes4 factor{kEven[i], kEven[i], kOdd[i], kOdd[i]};
            const Lanes4 y = in_[i] + factor * (x - out_[i]);
            in_[i] = x;
            out_[i] = y;
            x = y;
        }
        return x;
    }
    std::array<Lanes4, kStages> in_{}, out_{};
};

}  // namespace fw
