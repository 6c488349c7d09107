// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/mel.hpp"

#include "dsp/constants.hpp"
#include "dsp/fft.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace fw {

namespace {

struct Band {
    std::size_t first;
    std::vector<float> weights;
};

double mel_of(double hz) { return 2595.0 * std::log10(1.0 + hz / 700.0); }
double hz_of(double mel) { return 700.0 * (std::pow(10.0, mel / 2595.0) - 1.0); }

std::vector<Band> make_bands(std::size_t window) {
    const double low = mel_of(30.0), high = mel_of(11000.0);
    const double bin_hz = kAnalysisRate / static_cast<double>(window);
    std::vector<Band> bands;
    for (int b = 0; b < MelSpectra::kBands; ++b) {
        const auto edge = [&](int k) { return hz_of(low + (high - low) * k / (MelSpectra::kBands + 1)); };
        const double centre = edge(b + 1);
        // A band never gets narrower than a bin on each side: low bands of the short window would be empty otherwise.
        const double left = std::min(edge(b), centre - bin_hz), right = std::max(edge(b + 2), centre + bin_hz);
        Band band{static_cast<std::size_t>(std::max(0.0, std::ceil(left / bin_hz))), {}};
        double sum = 0.0;
        for (std::size_t k = band.first; static_cast<double>(k) * bin_hz < right && k <= window / 2; ++k) {
            const double f = static_cast<double>(k) * bin_hz;
            const double w = std::max(0.0, f <= centre ? (f - left) / (centre - left) : (right - f) / (right - centre));
            band.weights.push_back(static_cast<float>(w));
            sum += w;
        }
        for (float& w : band.weights) w = static_cast<float>(w / std::max(sum, 1e-9));
        bands.push_back(std::move(band));
    }
    return bands;
}

void fill(std::span<const float> signal, std::ptrdiff_t first, std::size_t window, Eigen::Index column, Frames& out) {
    const auto bands = make_bands(window);
    // A full-scale sine has amplitude 1 under a Hann window.
    const auto hann = hann_window(window);
    const Eigen::ArrayXf shape = Eigen::Map<const Eigen::ArrayXf>(hann.get(), static_cast<Eigen::Index>(window)) * (4.0F / static_cast<float>(window));
    RealFft fft(window);
    Eigen::ArrayXf power(static_cast<Eigen::Index>(fft.bins()));
    const auto size = static_cast<std::ptrdiff_t>(signal.size()), length = static_cast<std::ptrdiff_t>(window);
    for (Eigen::Index f = 0; f < out.rows(); ++f) {
        const std::ptrdiff_t begin = (first + f) * MelSpectra::kHop - length / 2;
        Eigen::Map<Eigen::ArrayXf> in(fft.input().data(), length);
        const std::ptrdiff_t from = std::clamp<std::ptrdiff_t>(-begin, 0, length), to = std::clamp<std::ptrdiff_t>(size - begin, from, length);
        in.head(from).setZero();
        if (to > from) in.segment(from, to - from) = Eigen::Map<const Eigen::ArrayXf>(signal.data() + begin + from, to - from) * shape.segment(from, to - from);
        in.tail(length - to).setZero();
        const auto spectrum = fft.transform();
        power = Eigen::Map<const Eigen::ArrayXcf>(spectrum.data(), power.size()).abs2();
        for (int b = 0; b < MelSpectra::kBands; ++b) {
            const Band& band = bands[static_cast<std::size_t>(b)];
            const auto n = static_cast<Eigen::Index>(band.weights.size());
            out(f, column + b) =
                Eigen::Map<const Eigen::VectorXf>(band.weights.data(), n).dot(power.segment(static_cast<Eigen::Index>(band.first), n).matrix());
        }
    }
    auto columns = out.middleCols(column, MelSpectra::kBands).array();
    columns = (1.0F + 1e4F * columns).log() * (1.0F / std::numbers::ln10_v<float>);
}

}  // namespace

Frames MelSpectra::analyse(std::span<const float> signal, std::ptrdiff_t first, std::size_t count) {
    Frames out(static_cast<Eigen::Index>(count), 2 * kBands);
    fill(signal, first, kShortWindow, 0, out);
    fill(signal, first, kLongWindow, kBands, out);
    return out;
}

}  // namespace fw
