// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/evidence.hpp"
#include "base/pitch.hpp"
#include "dsp/fft.hpp"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace fw {

namespace {

constexpr std::size_t kCells = 100;  // cents of a semitone
using Votes = std::array<double, kCells>;

Tuning centre_of(const Votes& votes) {
    std::complex<double> sum = 0.0;
    double total = 0.0;
    for (std::size_t c = 0; c < kCells; ++c) {
        const double v = votes[c];
        sum += std::polar(v, 2.0 * std::numbers::pi * (static_cast<double>(c) + 0.5) / kCells);
        total += v;
    }
    if (total <= 0.0) return {};
    double cents = std::arg(sum) / (2.0 * std::numbers::pi) * kCells;
    // The mean is pulled by outliers that are spread evenly; a second mean within ±25 cents of the first is not.
    double near_sum = 0.0, near_weight = 0.0;
    for (std::size_t c = 0; c < kCells; ++c) {
        const double distance = std::remainder(static_cast<double>(c) + 0.5 - cents, 100.0);
        const double w = votes[c] * std::max(0.0, 1.0 - std::pow(distance / 25.0, 2));
        near_sum += w * distance;
        near_weight += w;
    }
    if (near_weight > 0.0) cents += near_sum / near_weight;
    return {std::remainder(cents, 100.0), std::abs(sum) / total, 0.0};
}

}  // namespace

double Tuning::a4_hz() const { return 440.0 * std::exp2(cents / 1200.0); }

Tuning measure_tuning(const MonoSignal& signal, const Progress& progress) {
    constexpr std::size_t kSize = 16384;
    const auto window = hann_window(kSize);
    RealFft fft(kSize);
    const auto length = static_cast<double>(signal.samples.size());
    const int count = static_cast<int>(std::clamp(length / (kSize / 2.0), 1.0, 400.0));
    std::array<Votes, 3> votes{};  // for each third of the recording
    std::vector<float> block(kSize), level(fft.bins());
    const double bin_hz = kAnalysisRate / kSize;
    for (int i = 0; i < count; ++i) {
        progress.checkpoint();
        const double centre = length * (i + 0.5) / count;
        signal.copy(static_cast<std::ptrdiff_t>(centre) - static_cast<std::ptrdiff_t>(kSize / 2), block);
        std::transform(block.begin(), block.end(), window.get(), fft.input().begin(), std::multiplies<>());
        const auto spectrum = fft.transform();
        for (std::size_t k = 0; k < level.size(); ++k) level[k] = std::log(std::norm(spectrum[k]) + 1e-9F);
        const auto low = static_cast<std::size_t>(100.0 / bin_hz), high = static_cast<std::size_t>(1800.0 / bin_hz);
        const float top = *std::max_element(level.begin() + static_cast<std::ptrdiff_t>(low), level.begin() + static_cast<std::ptrdiff_t>(high));
        if (top < -4.0F) continue;  // near silence
        for (std::size_t k = low; k < high; ++k) {
            const float l = level[k - 1], c = level[k], r = level[k + 1];
            if (c <= l || c < r || c < top - 6.9F) continue;  // peaks within 30 dB of the strongest
            // A parabola through the logarithms of a Hann peak is exact to a few hundredths of a bin.
            const double peak = static_cast<double>(k) + 0.5 * (l - r) / (l - 2.0 * c + r);
            const double pitch = pitch_of(peak * bin_hz);
            const double cents = 100.0 * (pitch - std::floor(pitch));
            votes[static_cast<std::size_t>(3 * i / count)][static_cast<std::size_t>(cents) % kCells] += std::exp(0.25 * static_cast<double>(c - top));
        }
    }
    Votes all{};
    for (const Votes& third : votes)
        for (std::size_t c = 0; c < kCells; ++c) all[c] += third[c];
    Tuning tuning = centre_of(all);
    const Tuning first = centre_of(votes.front()), last = centre_of(votes.back());
    if (std::min(first.confidence, last.confidence) > 0.3) tuning.drift_cents = std::remainder(last.cents - first.cents, 100.0);
    return tuning;
}

}  // namespace fw
