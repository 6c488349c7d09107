// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/hits.hpp"

#include "dsp/fft.hpp"
#include "dsp/log_bands.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

std::vector<double> find_hits(std::span<const float> mono, double rate) {
    constexpr double kHop_s = 0.005, kApart_s = 0.06, kFirst_s = 0.02, kLeast = 1.0, kOut = 4.0, kOfStrongest = 0.065, kRipple = 0.4;
    constexpr std::size_t kBands = 12, kSize = 1024;
    const auto hop = static_cast<std::size_t>(kHop_s * rate);
    if (hop == 0 || mono.size() < kSize) return {};
    RealFft fft(kSize);
    const auto window = hann_window(kSize);
    const LogBands bands(kBands, 50.0, 10'000.0, kSize, rate);
    double loudest = 0.0;
    for (const float s : mono) loudest = std::max(loudest, static_cast<double>(std::abs(s)));
    if (loudest < 1e-4) return {};
    // A thousandth of what a full tone would have in a band is silence.
    const double floor_power = std::pow(1e-3 * loudest * kSize / 4.0, 2.0);
    // By so much the level of noise goes up and down by itself, decades: the fewer bins a band has, the more.
    std::array<double, kBands> ripple{};
    for (std::size_t b = 0; b < kBands; ++b) ripple[b] = kRipple / std::sqrt(static_cast<double>(bands.bins(b)));
    std::vector<double> flux;
    std::array<double, kBands> before{};
    before.fill(std::log10(floor_power));
    // Windows end at the moment they are counted for: what is struck shows as soon as it is in.
    for (std::size_t end = hop; end <= mono.size(); end += hop) {
        for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = end + i >= kSize ? mono[end + i - kSize] * window[i] : 0.0F;
        const auto bins = fft.transform();
        double rise = 0.0;
        for (std::size_t b = 0; b < kBands; ++b) {
            const double level = std::log10(floor_power + bands.power(bins, b));
            rise += std::max(0.0, level - before[b] - ripple[b]);
            // It falls behind slowly, so that a ripple is no stroke.
            before[b] = std::max(level, before[b] - 0.04);
        }
        flux.push_back(rise);
    }
    std::vector<double> sorted = flux;
    std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2), sorted.end());
    const double usual = sorted[sorted.size() / 2], strongest = *std::max_element(flux.begin(), flux.end());
    const double threshold = std::max({kLeast, kOut * usual, kOfStrongest * strongest});
    const auto apart = static_cast<std::size_t>(kApart_s / kHop_s);
    std::vector<double> hits;
    for (std::size_t i = 1; i + 1 < flux.size(); ++i) {
        // A stroke rises over some moments: their sum, where it is highest.
        const double here = flux[i - 1] + flux[i] + flux[i + 1];
        if (here < threshold) continue;
        bool top = true;
        for (std::size_t k = i > apart / 2 ? i - apart / 2 : 1; k < std::min(flux.size() - 1, i + apart / 2); ++k)
            if (const double there = flux[k - 1] + flux[k] + flux[k + 1]; there > here || (there == here && k < i)) top = false;
        if (!top) continue;
        // Back to where it was softest within the last thirty milliseconds: there the rise begins.
        const std::size_t until = std::min(mono.size(), (i + 2) * hop),
                          from = until > static_cast<std::size_t>(0.035 * rate) ? until - static_cast<std::size_t>(0.035 * rate) : 0;
        const auto piece = static_cast<std::size_t>(0.001 * rate);
        std::vector<double> level;
        for (std::size_t at = from; at + piece <= until; at += piece) {
            double sum = 1e-12;
            for (std::size_t k = at; k < at + piece; ++k) sum += static_cast<double>(mono[k]) * static_cast<double>(mono[k]);
            level.push_back(sum);
        }
        if (level.empty()) continue;
        const double most = *std::max_element(level.begin(), level.end());
        std::size_t begin = static_cast<std::size_t>(std::max_element(level.begin(), level.end()) - level.begin());
        while (begin > 0 && level[begin - 1] > 0.05 * most) --begin;
        const double at_s = static_cast<double>(from + begin * piece) / rate;
        if (at_s >= kFirst_s && (hits.empty() || at_s - hits.back() >= kApart_s)) hits.push_back(at_s);
    }
    return hits;
}

}  // namespace fw
