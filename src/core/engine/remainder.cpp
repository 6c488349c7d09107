// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/remainder.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

namespace fw {

Remainder::Remainder() : forward_(kSize), back_(kSize), window_(hann_window(kSize)), rebuilt_(kSize / 2 + 1), before_(kSize / 2 + 1), whole_(kSize / 2 + 1) {
    // Once before and once behind: the two together are a Hann window, of which four overlap to 2.
    for (std::size_t k = 0; k < kSize; ++k) window_[k] = std::sqrt(window_[k]);
    for (auto& ring : heard_) ring.resize(kSize);
    for (auto& ring : sum_) ring.resize(kSize);
    for (auto& s : spectra_) s.resize(kSize / 2 + 1);
}

void Remainder::reset() noexcept {
    for (auto& ring : heard_) std::fill(ring.begin(), ring.end(), 0.0F);
    for (auto& ring : sum_) std::fill(ring.begin(), ring.end(), 0.0F);
    std::fill(before_.begin(), before_.end(), 0.0F);
    at_ = 0;
}

void Remainder::take_spectra() noexcept {
    std::fill(rebuilt_.begin(), rebuilt_.end(), 0.0F);
    std::fill(whole_.begin(), whole_.end(), 0.0F);
    for (std::size_t c = 0; c < 4; ++c) {
        auto in = forward_.input();
        for (std::size_t k = 0; k < kSize; ++k) in[k] = heard_[c][(at_ + k) % kSize] * window_[k];
        const auto out = forward_.transform();
        auto& power = c < 2 ? whole_ : rebuilt_;
        for (std::size_t k = 0; k < out.size(); ++k) power[k] += std::norm(out[k]);
        if (c < 2) std::copy(out.begin(), out.end(), spectra_[c].begin());
    }
    // Neighbours and the hop before: what is a little out of tune or of time is rebuilt all the same.
    constexpr float kBefore = 0.5F;
    const std::size_t bins = rebuilt_.size();
    for (std::size_t k = 0; k < bins; ++k) {
        const float beside = std::max(rebuilt_[k == 0 ? 0 : k - 1], rebuilt_[k + 1 < bins ? k + 1 : k]);
        const float there = std::max({rebuilt_[k], 0.7F * beside, kBefore * before_[k]});
        const float left = whole_[k] > 1e-12F ? std::sqrt(std::clamp(1.0F - there / whole_[k], 0.0F, 1.0F)) : 0.0F;
        for (auto& s : spectra_) s[k] *= left;
    }
    std::swap(before_, rebuilt_);
    constexpr float kScale = 0.5F / kSize;
    for (std::size_t c = 0; c < 2; ++c) {
        std::copy(spectra_[c].begin(), spectra_[c].end(), back_.input().begin());
        const auto out = back_.transform();
        for (std::size_t k = 0; k < kSize; ++k) sum_[c][(at_ + k) % kSize] += out[k] * window_[k] * kScale;
    }
}

void Remainder::process(std::span<const float> original_left, std::span<const float> original_right, std::span<const float> rebuild_left,
                        std::span<const float> rebuild_right, std::span<float> out_left, std::span<float> out_right) noexcept {
    for (std::size_t i = 0; i < out_left.size(); ++i) {
        const std::array<float, 4> in{original_left[i], original_right[i], rebuild_left[i], rebuild_right[i]};
        out_left[i] = std::exchange(sum_[0][at_], 0.0F);
        out_right[i] = std::exchange(sum_[1][at_], 0.0F);
        for (std::size_t c = 0; c < 4; ++c) heard_[c][at_] = in[c];
        at_ = (at_ + 1) % kSize;
        if (at_ % kHop == 0) take_spectra();
    }
}

}  // namespace fw
