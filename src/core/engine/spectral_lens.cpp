// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/spectral_lens.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

namespace fw {

SpectralLens::SpectralLens(std::size_t size, double rate)
    : size_(size),
      hop_(size / 4),
      rate_(rate),
      forward_(size),
      back_(size),
      window_(hann_window(size)),
      weights_(size / 2 + 1),
      mine_(size / 2 + 1),
      others_(size / 2 + 1) {
    // Once before and once behind: the two together are a Hann window, of which four overlap to 2.
    for (std::size_t k = 0; k < size_; ++k) window_[k] = std::sqrt(window_[k]);
    for (std::size_t c = 0; c < 2; ++c) {
        heard_[c].resize(size_);
        sum_[c].resize(size_);
        spectra_[c].assign(kLong, Spectrum(size_ / 2 + 1));
    }
    magnitude_.assign(kLong, std::vector<float>(size_ / 2 + 1));
}

void SpectralLens::set(Mask mask, const Share* share) noexcept {
    mask_ = mask;
    share_ = share;
}

std::size_t SpectralLens::latency_frames() const noexcept { return size_ + (looks_ahead() ? kAhead * hop_ : 0); }

void SpectralLens::reset() noexcept {
    for (std::size_t c = 0; c < 2; ++c) {
        std::fill(heard_[c].begin(), heard_[c].end(), 0.0F);
        std::fill(sum_[c].begin(), sum_[c].end(), 0.0F);
        for (Spectrum& s : spectra_[c]) std::fill(s.begin(), s.end(), std::complex<float>());
    }
    for (auto& m : magnitude_) std::fill(m.begin(), m.end(), 0.0F);
    at_ = spectrum_ = 0;
}

void SpectralLens::mask_of_share(std::int64_t centre) noexcept {
    constexpr float kLeast = 1e-3F;   // what no note explains is nobody's
    constexpr double kLead_s = 0.02;  // a stroke is let through from just before it is written
    constexpr int kPartials = 16, kLobe = 2;
    std::fill(mine_.begin(), mine_.end(), 0.0F);
    std::fill(others_.begin(), others_.end(), 0.0F);
    if (!share_) {
        std::fill(weights_.begin(), weights_.end(), 1.0F);
        return;
    }
    const double now_s = static_cast<double>(centre) / rate_, bin_hz = rate_ / static_cast<double>(size_);
    const auto bins = static_cast<long>(mine_.size());
    const auto& tones = share_->tones;
    auto t = std::lower_bound(tones.begin(), tones.end(), now_s - share_->longest_s - kLead_s, [](const Share::Tone& x, double s) { return x.start_s < s; });
    for (; t != tones.end() && t->start_s - kLead_s <= now_s; ++t) {
        if (now_s > t->end_s) continue;
        auto& power = t->mine ? mine_ : others_;
        if (t->hz <= 0.0F) {
            // A stroke dies away over its time.
            const auto left = static_cast<float>((t->end_s - now_s) / std::max(1e-3, t->end_s - t->start_s));
            const long a = std::clamp(std::lround(static_cast<double>(t->low_hz) / bin_hz), 0L, bins - 1),
                       b = std::clamp(std::lround(static_cast<double>(t->high_hz) / bin_hz), 0L, bins - 1);
            for (long k = a; k <= b; ++k) power[static_cast<std::size_t>(k)] += t->power * std::min(1.0F, left * left);
            continue;
        }
        for (int partial = 1; partial <= kPartials; ++partial) {
            const long middle = std::lround(static_cast<double>(t->hz) * partial / bin_hz);
            if (middle + kLobe >= bins) break;
            const float strength = t->power / static_cast<float>(partial);
            for (long k = std::max(0L, middle - kLobe); k <= middle + kLobe; ++k) power[static_cast<std::size_t>(k)] += strength;
        }
    }
    for (std::size_t k = 0; k < mine_.size(); ++k) weights_[k] = mine_[k] / (mine_[k] + others_[k] + kLeast);
}

void SpectralLens::make_mask(std::size_t slot, std::int64_t centre) noexcept {
    const std::size_t bins = weights_.size();
    if (mask_ == Mask::Share) return mask_of_share(centre);
    if (!looks_ahead()) {
        const Spectrum &l = spectra_[0][slot], &r = spectra_[1][slot];
        for (std::size_t k = 0; k < bins; ++k) {
            const float both = std::norm(l[k]) + std::norm(r[k]);
            const float alike = both > 1e-18F ? 2.0F * (l[k].real() * r[k].real() + l[k].imag() * r[k].imag()) / both : 1.0F;
            // 1 for the same in both; a source 6 dB to one side is at 0.8 already.
            const float centred = std::clamp((alike - 0.6F) / 0.35F, 0.0F, 1.0F);
            weights_[k] = mask_ == Mask::Centre ? centred : 1.0F - centred;
        }
        return;
    }
    std::array<float, kLong> around;
    const std::vector<float>& now = magnitude_[slot];
    for (std::size_t k = 0; k < bins; ++k) {
        for (std::size_t i = 0; i < kLong; ++i) around[i] = magnitude_[i][k];
        std::nth_element(around.begin(), around.begin() + kLong / 2, around.end());
        const float lasting = around[kLong / 2];
        for (std::size_t i = 0; i < kLong; ++i) {
            const auto j = static_cast<long>(k + i) - static_cast<long>(kLong / 2);
            around[i] = now[static_cast<std::size_t>(std::clamp(j, 0L, static_cast<long>(bins) - 1))];
        }
        std::nth_element(around.begin(), around.begin() + kLong / 2, around.end());
        const float spread = around[kLong / 2], whole = lasting * lasting + spread * spread;
        const float tonal = whole > 1e-18F ? lasting * lasting / whole : 0.5F;
        weights_[k] = mask_ == Mask::Tonal ? tonal : 1.0F - tonal;
    }
}

void SpectralLens::take_spectrum(std::int64_t centre) noexcept {
    auto& magnitude = magnitude_[spectrum_];
    std::fill(magnitude.begin(), magnitude.end(), 0.0F);
    for (std::size_t c = 0; c < 2; ++c) {
        auto in = forward_.input();
        for (std::size_t k = 0; k < size_; ++k) in[k] = heard_[c][(at_ + k) % size_] * window_[k];
        const auto out = forward_.transform();
        std::copy(out.begin(), out.end(), spectra_[c][spectrum_].begin());
        if (looks_ahead())
            for (std::size_t k = 0; k < out.size(); ++k) magnitude[k] += std::abs(out[k]);
    }
    const std::size_t slot = looks_ahead() ? (spectrum_ + kLong - kAhead) % kLong : spectrum_;
    make_mask(slot, centre);
    const float scale = 0.5F / static_cast<float>(size_);
    for (std::size_t c = 0; c < 2; ++c) {
        auto in = back_.input();
        const Spectrum& s = spectra_[c][slot];
        for (std::size_t k = 0; k < in.size(); ++k) in[k] = s[k] * weights_[k];
        const auto out = back_.transform();
        for (std::size_t k = 0; k < size_; ++k) sum_[c][(at_ + k) % size_] += out[k] * window_[k] * scale;
    }
    spectrum_ = (spectrum_ + 1) % kLong;
}

void SpectralLens::process(std::span<float> left, std::span<float> right, std::int64_t frame) noexcept {
    for (std::size_t i = 0; i < left.size(); ++i) {
        const float l = left[i], r = right[i];
        left[i] = std::exchange(sum_[0][at_], 0.0F);
        right[i] = std::exchange(sum_[1][at_], 0.0F);
        heard_[0][at_] = l;
        heard_[1][at_] = r;
        at_ = (at_ + 1) % size_;
        if (at_ % hop_ == 0) take_spectrum(frame + static_cast<std::int64_t>(i) - static_cast<std::int64_t>(size_ / 2));
    }
}

}  // namespace fw
