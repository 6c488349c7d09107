// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <cmath>
#include <complex>
#include <cstddef>
#include <span>
#include <vector>

namespace fw {

/// Bands of equal ratios between two frequencies, over the bins of a transform of some size: at least one bin each. Immutable value; thread-safe.
class LogBands {
public:
    LogBands(std::size_t bands, double low_hz, double high_hz, std::size_t fft_size, double sample_rate_hz) {
        for (std::size_t b = 0; b <= bands; ++b) {
            const double hz = low_hz * std::pow(high_hz / low_hz, static_cast<double>(b) / static_cast<double>(bands));
            edges_.push_back(std::clamp<std::size_t>(static_cast<std::size_t>(hz * static_cast<double>(fft_size) / sample_rate_hz), 1, fft_size / 2));
        }
    }
    std::size_t size() const noexcept { return edges_.size() - 1; }
    std::size_t bins(std::size_t band) const noexcept { return std::max<std::size_t>(1, edges_[band + 1] - edges_[band]); }
    double power(std::span<const std::complex<float>> bins, std::size_t band) const noexcept {
        double sum = 0.0;
        for (std::size_t k = edges_[band]; k < std::max(edges_[band] + 1, edges_[band + 1]); ++k) sum += static_cast<double>(std::norm(bins[k]));
        return sum;
    }

private:
    std::vector<std::size_t> edges_;
};

}  // namespace fw
