// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cmath>
#include <cstddef>

namespace fw {

/// Values of fields on their way to what was set: a one-pole of 8 ms, stepped once a slice, so that a drag or a curve is heard without zipper. The first
/// values after making or reset() hold at once.
template <std::size_t N>
class Smoothed {
public:
    explicit Smoothed(double sample_rate_hz) : frames_(0.008 * sample_rate_hz) {}

    void set(std::size_t field, double value) noexcept {
        if (field < N && std::isfinite(value)) targets_[field] = value;
    }
    void reset() noexcept { begun_ = false; }
    /// To be called before each stretch that is processed. True where anything has changed since the last.
    bool advance(std::size_t frames) noexcept {
        if (!begun_) {
            values_ = targets_;
            begun_ = true;
            return true;
        }
        if (values_ == targets_) return false;
        const double way = 1.0 - std::exp(-static_cast<double>(frames) / frames_);
        for (std::size_t i = 0; i < N; ++i) {
            values_[i] += way * (targets_[i] - values_[i]);
            if (std::abs(values_[i] - targets_[i]) <= 1e-7 * std::abs(targets_[i]) + 1e-12) values_[i] = targets_[i];
        }
        return true;
    }
    double operator[](std::size_t field) const noexcept { return values_[field]; }
    /// What was set, for fields that do not glide (choices).
    double target(std::size_t field) const noexcept { return targets_[field]; }

private:
    std::array<double, N> values_{}, targets_{};
    double frames_;
    bool begun_ = false;
};

}  // namespace fw
