// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/evidence.hpp"
#include "base/parallel.hpp"
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
    constexpr std::size_t kSize = 16384, kTogether = 25;
    const auto window = hann_window(kSize);
    const auto length = static_cast<double>(signal.samples.size());
    const auto count = static_cast<std::size_t>(std::clamp(length / (kSize / 2.0), 1.0, 400.0));
    const double bin_hz = kAnalysisRate / kSize;
    const auto low = static_cast<std::size_t>(100.0 / bin_hz), high = static_cast<std::size_t>(1800.0 / bin_hz);
    std::vector<std::array<Votes, 3>> votes((count + kTogether - 1) / kTogether);  // for each third of the recording
    parallel_for(votes.size(), [&](std::size_t group) {
        RealFft fft(kSize);
        std::vector<float> block(kSize), level(fft.bins());
        for (std::size_t i = group * kTogether; i < std::min(count, (group + 1) * kTogether); ++i) {
            progress.checkpoint();
            const double centre = length * (static_cast<double>(i) + 0.5) / static_cast<double>(count);
            signal.copy(static_cast<std::ptrdiff_t>(centre) - static_cast<std::ptrdiff_t>(kSize / 2), block);
            std::transform(block.begin(), block.end(), window.get(), fft.input().begin(), std::multiplies<>());
            const auto spectrum = fft.transform();
            for (std::size_t k = low - 1; k <= high; ++k) level[k] = std::log(std::norm(spectrum[k]) + 1e-9F);
            const float top = *std::max_element(level.begin() + static_cast<std::ptrdiff_t>(low), level.begin() + static_cast<std::ptrdiff_t>(high));
            if (top < -4.0F) continue;  // near silence
            for (std::size_t k = low; k < high; ++k) {
                const float l = level[k - 1], c = level[k], r = level[k + 1];
                if (c <= l || c < r || c < top - 6.9F) continue;  // peaks within 30 dB of the strongest
                // A parabola through the logarithms of a Hann peak is exact to a few hundredths of a bin.
                const double peak = static_cast<double>(k) + 0.5 * (l - r) / (l - 2.0 * c + r);
                const double pitch = pitch_of(peak * bin_hz);
                const double cents = 100.0 * (pitch - std::floor(pitch));
                votes[group][3 * i / count][static_cast<std::size_t>(cents) % kCells] += std::exp(0.25 * static_cast<double>(c - top));
            }
        }
    });
    std::array<Votes, 3> thirds{};
    Votes all{};
    for (const auto& group : votes)
        for (std::size_t third = 0; third < thirds.size(); ++third)
            for (std::size_t c = 0; c < kCells; ++c) {
                thirds[third][c] += group[third][c];
                all[c] += group[third][c];
            }
    Tuning tuning = centre_of(all);
    const Tuning first = centre_of(thirds.front()), last = centre_of(thirds.back());
    if (std::min(first.confidence, last.confidence) > 0.3) tuning.drift_cents = std::remainder(last.cents - first.cents, 100.0);
    return tuning;
}

}  // namespace fw
