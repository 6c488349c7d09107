// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/partials.hpp"

#include "dsp/fft.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>

namespace fw {

std::vector<Partial> standing_partials(std::span<const float> mono, double rate, double fundamental_hz) {
    constexpr std::size_t kMost = 32;
    constexpr double kAbove_db = 12.0, kFloor_db = -70.0;
    if (!(fundamental_hz > 0.0) || static_cast<double>(mono.size()) < 0.1 * rate) return {};
    // The middle of it, at most two thirds of a second, where it has settled.
    const std::size_t used = std::min(mono.size(), static_cast<std::size_t>(0.66 * rate)), from = (mono.size() - used) / 2;
    const std::size_t size = std::bit_ceil(2 * used);
    RealFft fft(size);
    std::fill(fft.input().begin(), fft.input().end(), 0.0F);
    for (std::size_t i = 0; i < used; ++i) {
        const double t = 2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(used - 1);
        const double window = 0.35875 - 0.48829 * std::cos(t) + 0.14128 * std::cos(2.0 * t) - 0.01168 * std::cos(3.0 * t);
        fft.input()[i] = static_cast<float>(window) * mono[from + i];
    }
    std::vector<double> db;
    for (const auto& bin : fft.transform()) db.push_back(20.0 * std::log10(std::max(1e-12, static_cast<double>(std::abs(bin)))));
    const double bin_hz = rate / static_cast<double>(size);
    std::vector<Partial> found;
    double loudest = -240.0;
    const double top_of_all = *std::max_element(db.begin(), db.end());
    for (std::size_t k = 1; k <= kMost; ++k) {
        const double middle = fundamental_hz * static_cast<double>(k), semitones = k <= 6 ? 0.34 : 1.0;
        // Never as far as half the way to the next one.
        const double reach_hz = std::min(middle * (std::exp2(semitones / 12.0) - 1.0), 0.45 * fundamental_hz);
        if (middle + fundamental_hz > 0.49 * rate) break;
        const auto low = static_cast<std::size_t>(std::floor((middle - reach_hz) / bin_hz)), high = static_cast<std::size_t>((middle + reach_hz) / bin_hz) + 1;
        std::size_t at = low;
        for (std::size_t i = low; i <= high; ++i)
            if (db[i] > db[at]) at = i;
        if (at == low || at == high || at == 0) continue;
        std::vector<double> around;
        for (auto i = static_cast<std::size_t>((middle - 0.5 * fundamental_hz) / bin_hz);
             i < static_cast<std::size_t>((middle + 0.5 * fundamental_hz) / bin_hz); ++i)
            around.push_back(db[i]);
        std::nth_element(around.begin(), around.begin() + static_cast<std::ptrdiff_t>(around.size() / 2), around.end());
        if (db[at] < around[around.size() / 2] + kAbove_db || db[at] < std::max(-160.0, top_of_all + kFloor_db)) continue;
        const double a = db[at - 1], b = db[at], c = db[at + 1], bend = a - 2.0 * b + c;
        const double off = bend < 0.0 ? 0.5 * (a - c) / bend : 0.0;
        const double hz = (static_cast<double>(at) + off) * bin_hz, top = b - 0.25 * (a - c) * off;
        found.push_back({static_cast<int>(k), hz, 1200.0 * std::log2(hz / middle), top});
        loudest = std::max(loudest, top);
    }
    for (Partial& p : found) p.db -= loudest;
    return found;
}

}  // namespace fw
