// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "dsp/fft.hpp"

#include <array>
#include <cstddef>
#include <memory>
#include <span>
#include <vector>

namespace fw {

/// What is in the original and not in the rebuild, to be listened to: short spectra of both, from which the original keeps in every bin the share of its power
/// that the rebuild has not (spectral subtraction, Boll 1979, with one gain for both sides so that places stay). A stroke that the rebuild has a few hundredths
/// late is taken for there.
///
/// It lags kLatency frames behind. Real time: process() and reset() neither allocate, lock nor throw. Threads: one at a time.
class Remainder {
public:
    static constexpr std::size_t kLatency = 2048;

    Remainder();
    /// Forgets what was fed.
    void reset() noexcept;
    /// Takes as many frames of both, at matched loudness, as it gives; out may be the original.
    void process(std::span<const float> original_left, std::span<const float> original_right, std::span<const float> rebuild_left,
                 std::span<const float> rebuild_right, std::span<float> out_left, std::span<float> out_right) noexcept;

private:
    static constexpr std::size_t kSize = kLatency, kHop = kSize / 4;
    void take_spectra() noexcept;

    RealFft forward_;
    InverseRealFft back_;
    std::unique_ptr<float[]> window_;
    std::array<std::vector<float>, 4> heard_;                  ///< rings: original left and right, rebuild left and right
    std::array<std::vector<std::complex<float>>, 2> spectra_;  ///< of the original
    std::vector<float> rebuilt_, before_, whole_;              ///< power per bin: of the rebuild now and a hop ago, of the original
    std::array<std::vector<float>, 2> sum_;                    ///< rings of what is given out
    std::size_t at_ = 0;
};

}  // namespace fw
