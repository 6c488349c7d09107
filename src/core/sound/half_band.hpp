// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstddef>
#include <utility>

namespace fw {

/// A half-band filter of two chains of all-passes: twice the rate and back with some 100 dB between what passes and what does not, and no latency to speak
/// of (R. A. Valenzuela & A. G. Constantinides, "Digital signal processing schemes for efficient interpolation and decimation", IEE Proc. 130, 1983).
/// One object interpolates or decimates, not both. Real-time safe; value type; its fresh state is silence.
class HalfBand {
public:
    /// Two samples at twice the rate for one.
    std::pair<double, double> interpolate(double x) noexcept { return {even_.next(x), odd_.next(x)}; }
    /// One sample for two at twice the rate.
    double decimate(double first, double second) noexcept { return 0.5 * (odd_.next(first) + even_.next(second)); }

private:
    struct Chain {
        std::array<double, 6> factors;
        std::array<double, 6> in{}, out{};
        double next(double x) noexcept {
            for (std::size_t i = 0; i < factors.size(); ++i) {
                const double y = in[i] + factors[i] * (x - out[i]);
                in[i] = x;
                out[i] = y;
                x = y;
            }
            return x;
        }
    };
    Chain even_{{0.036681502163648017, 0.2746317593794541, 0.56109896978791948, 0.769741833862266, 0.8922608180038789, 0.962094548378084}};
    Chain odd_{{0.13654762463195771, 0.42313861743656667, 0.6775400499741616, 0.839889624849638, 0.9315419599631839, 0.9878163707328971}};
};

}  // namespace fw
