// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <Eigen/Core>
#include <cstdint>
#include <vector>

namespace fw {

/// A series of feature vectors: one row per frame, one column per bin.
using Frames = Eigen::Matrix<float, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;

/// A large grid of probabilities 0..1 kept in a byte each, frames × columns, so that two hours fit in memory.
/// Resolution 1/255. Reading is thread-safe; writing to different frames from different threads is too.
class ByteGrid {
public:
    ByteGrid() = default;
    ByteGrid(std::size_t frames, std::size_t columns) : columns_(columns), cells_(frames * columns) {}

    std::size_t frames() const noexcept { return columns_ == 0 ? 0 : cells_.size() / columns_; }
    std::size_t columns() const noexcept { return columns_; }
    float at(std::size_t frame, std::size_t column) const noexcept { return static_cast<float>(cells_[frame * columns_ + column]) * (1.0F / 255.0F); }
    void set(std::size_t frame, std::size_t column, float value) noexcept {
        const float clipped = value < 0.0F ? 0.0F : value > 1.0F ? 1.0F : value;
        cells_[frame * columns_ + column] = static_cast<std::uint8_t>(clipped * 255.0F + 0.5F);
    }

    /// All cells, frame by frame, for keeping them elsewhere.
    const std::vector<std::uint8_t>& cells() const noexcept { return cells_; }
    std::vector<std::uint8_t>& cells() noexcept { return cells_; }

private:
    std::size_t columns_ = 0;
    std::vector<std::uint8_t> cells_;
};

}  // namespace fw
