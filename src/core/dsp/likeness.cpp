// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/likeness.hpp"

#include "dsp/fft.hpp"
#include "dsp/log_bands.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace fw {

namespace {

constexpr std::size_t kBands = 20;
using Frame = std::array<float, kBands>;

/// Levels in bands from 60 Hz to 8 kHz, dB above a floor, every `hop` samples.
std::vector<Frame> spectra(std::span<const float> mono, double rate, std::size_t hop) {
    constexpr std::size_t kSize = 2048;
    RealFft fft(kSize);
    const auto window = hann_window(kSize);
    const LogBands bands(kBands, 60.0, 8'000.0, kSize, rate);
    std::vector<Frame> all;
    for (std::size_t at = 0; at < mono.size(); at += hop) {
        for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = at + i < mono.size() ? mono[at + i] * window[i] : 0.0F;
        const auto bins = fft.transform();
        Frame& f = all.emplace_back();
        for (std::size_t b = 0; b < kBands; ++b) f[b] = static_cast<float>(10.0 * std::log10(bands.power(bins, b) + 1e-3));
    }
    return all;
}

/// Correlation of two stretches of a waveform, -1 … 1.
double correlation(std::span<const float> a, std::span<const float> b) {
    double ab = 0.0, aa = 1e-12, bb = 1e-12;
    for (std::size_t i = 0; i < a.size(); ++i)
        ab += static_cast<double>(a[i]) * b[i], aa += static_cast<double>(a[i]) * a[i], bb += static_cast<double>(b[i]) * b[i];
    return ab / std::sqrt(aa * bb);
}

}  // namespace

std::optional<Repetition> find_repeat(std::span<const float> mono, double rate) {
    constexpr double kHop_s = 0.01, kShortest_s = 0.2, kAlike = 0.6, kNearly = 0.93, kMoves_db = 3.0;
    const auto hop = static_cast<std::size_t>(kHop_s * rate);
    if (hop == 0 || static_cast<double>(mono.size()) < 1.5 * kShortest_s * rate) return std::nullopt;
    // A minute tells what repeats; the work goes with its square.
    constexpr double kLongest_s = 60.0;
    mono = mono.first(std::min(mono.size(), static_cast<std::size_t>(kLongest_s * rate)));
    auto frames = spectra(mono, rate, hop);
    // Against each band's own mean, so that a steady colour counts for nothing.
    double moves = 0.0;
    for (std::size_t b = 0; b < kBands; ++b) {
        double mean = 0.0;
        for (const Frame& f : frames) mean += static_cast<double>(f[b]) / static_cast<double>(frames.size());
        for (Frame& f : frames) f[b] -= static_cast<float>(mean), moves += static_cast<double>(f[b] * f[b]);
    }
    if (std::sqrt(moves / static_cast<double>(frames.size() * kBands)) < kMoves_db) return std::nullopt;  // a held tone is like itself at any time
    const std::size_t shortest = static_cast<std::size_t>(kShortest_s / kHop_s), longest = frames.size() * 2 / 3;
    std::vector<double> alike(longest + 1, 0.0);
    for (std::size_t lag = shortest; lag <= longest; ++lag) {
        double ab = 0.0, aa = 1e-9, bb = 1e-9;
        for (std::size_t t = 0; t + lag < frames.size(); ++t)
            for (std::size_t b = 0; b < kBands; ++b) {
                const double x = static_cast<double>(frames[t][b]), y = static_cast<double>(frames[t + lag][b]);
                ab += x * y, aa += x * x, bb += y * y;
            }
        alike[lag] = ab / std::sqrt(aa * bb);
    }
    double best = 0.0;
    const auto is_peak = [&](std::size_t lag) { return lag > shortest && lag < longest && alike[lag] >= alike[lag - 1] && alike[lag] >= alike[lag + 1]; };
    for (std::size_t lag = shortest; lag <= longest; ++lag)
        if (is_peak(lag)) best = std::max(best, alike[lag]);
    if (best < kAlike) return std::nullopt;
    std::size_t lag = shortest;
    while (!is_peak(lag) || alike[lag] < kNearly * best) ++lag;
    // To the sample: where the waveform later is most like the one at its beginning.
    const auto around = static_cast<std::ptrdiff_t>(1.5 * static_cast<double>(hop)), coarse = static_cast<std::ptrdiff_t>(lag * hop);
    const std::size_t most = std::min(static_cast<std::size_t>(1.0 * rate), mono.size() - std::min(mono.size(), static_cast<std::size_t>(coarse + around)));
    std::ptrdiff_t exact = coarse;
    double nearest = -2.0;
    for (std::ptrdiff_t at = coarse - around; at <= coarse + around && most > hop; ++at)
        if (const double c = correlation(mono.first(most), mono.subspan(static_cast<std::size_t>(at), most)); c > nearest) nearest = c, exact = at;
    // Where waveforms do not agree (another take of the same bar) the spectra say it.
    return Repetition{static_cast<double>(nearest > 0.3 ? exact : coarse) / rate, alike[lag]};
}

std::optional<Round> find_round(std::span<const float> mono, double rate) {
    constexpr double kLeast_s = 0.4, kApart_s = 0.15, kFarthest_s = 4.0, kWindow_s = 0.025, kAlike = 0.8, kLevel_db = 3.0;
    if (static_cast<double>(mono.size()) < kLeast_s * rate) return std::nullopt;
    const auto window = static_cast<std::size_t>(kWindow_s * rate), apart = static_cast<std::size_t>(kApart_s * rate);
    double loudest = 0.0;
    const auto power = [&](std::size_t end) {
        double sum = 0.0;
        for (std::size_t i = end - window; i < end; ++i) sum += static_cast<double>(mono[i]) * static_cast<double>(mono[i]);
        return sum / static_cast<double>(window);
    };
    for (std::size_t at = window; at < mono.size(); at += window) loudest = std::max(loudest, power(at));
    // What is left of it at its end is silence or a fade: it goes round before.
    std::size_t end = mono.size();
    while (end > window && power(end) < 0.05 * loudest) end -= std::min(end - window, window / 2);
    const std::size_t first = std::max(window, end / 4);
    if (end < first + apart + window) return std::nullopt;
    Round round;
    constexpr int kEnds = 6;
    for (int k = 0; k < kEnds; ++k) {
        const std::size_t to = end - static_cast<std::size_t>(k) * (end - first - apart) / (2 * kEnds);
        const double there = power(to);
        const auto farthest = static_cast<std::size_t>(kFarthest_s * rate);
        for (std::size_t from = std::max(first, to > farthest ? to - farthest : 0); from + apart <= to; from += 1) {
            // Coarsely first: a window that does not begin alike will not be alike.
            if ((mono[from - 1] < 0.0F) != (mono[to - 1] < 0.0F)) continue;
            if (std::abs(mono[from - 1] - mono[to - 1]) > 0.3F * static_cast<float>(std::sqrt(there))) continue;
            const double c = correlation(mono.subspan(from - window, window), mono.subspan(to - window, window));
            if (c > round.likeness && std::abs(10.0 * std::log10((power(from) + 1e-12) / (there + 1e-12))) < kLevel_db)
                round = {static_cast<double>(from) / rate, static_cast<double>(to) / rate, c};
        }
    }
    if (round.likeness < kAlike) return std::nullopt;
    return round;
}

}  // namespace fw
