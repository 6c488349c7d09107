// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/constant_q.hpp"

#include "base/pitch.hpp"
#include "dsp/constants.hpp"
#include "dsp/fft.hpp"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <vector>

namespace fw {

struct ConstantQ::Kernel {
    struct Row {
        std::size_t first = 0;
        std::vector<float> weights;  // real: windows are symmetric about the block's middle
    };
    std::vector<Row> rows;
};

ConstantQ::ConstantQ(double tuning_cents) : kernel_(std::make_unique<Kernel>()) {
    const double a4 = 440.0 * std::exp2(tuning_cents / 1200.0);
    const double q = 1.0 / (std::exp2(1.0 / 36.0) - 1.0);
    for (int b = 0; b < kBins; ++b) {
        const double hz = hertz_of(kLowestPitch + (b - 1) / 3.0, a4);
        const double length = std::min<double>(kLongestWindow, q * kAnalysisRate / hz);
        // The spectrum of a Hann-windowed complex sine is known in closed form; sampling it at the FFT's bins gives the
        // kernel without transforming anything. Four bins of the window's own width hold all but -60 dB of it.
        const double bin_hz = kAnalysisRate / kFftSize;
        const double half_width = 3.0 * kAnalysisRate / length;
        Kernel::Row row;
        const double low = std::max(0.0, std::ceil((hz - half_width) / bin_hz));
        const double high = std::min<double>(kFftSize / 2.0, std::floor((hz + half_width) / bin_hz));
        row.first = static_cast<std::size_t>(low);
        for (double k = low; k <= high; k += 1.0) {
            // x: distance from the centre in units of the window's own bins; W(x) is the Hann transform, centred in time.
            const double x = (k * bin_hz - hz) * length / kAnalysisRate;
            const auto sinc = [](double v) { return std::abs(v) < 1e-9 ? 1.0 : std::sin(std::numbers::pi * v) / (std::numbers::pi * v); };
            const double w = sinc(x) + 0.5 * (sinc(x - 1.0) + sinc(x + 1.0));
            // The frame is centred on the middle of the FFT's block, which turns into a sign that alternates with k.
            const double sign = static_cast<long>(k) % 2 == 0 ? 1.0 : -1.0;
            row.weights.push_back(static_cast<float>(2.0 * w * sign / kFftSize));
        }
        kernel_->rows.push_back(std::move(row));
    }
}

ConstantQ::~ConstantQ() = default;

Frames ConstantQ::analyse(std::span<const float> signal, std::ptrdiff_t first, std::size_t count) const {
    Frames out(static_cast<Eigen::Index>(count), kBins);
    RealFft fft(kFftSize);
    const auto size = static_cast<std::ptrdiff_t>(signal.size());
    for (Eigen::Index f = 0; f < out.rows(); ++f) {
        const std::ptrdiff_t begin = (first + f) * kHop - kFftSize / 2;
        auto in = fft.input();
        const std::ptrdiff_t from = std::clamp<std::ptrdiff_t>(-begin, 0, kFftSize), to = std::clamp<std::ptrdiff_t>(size - begin, from, kFftSize);
        std::fill(in.begin(), in.begin() + from, 0.0F);
        if (to > from) std::copy(signal.begin() + begin + from, signal.begin() + begin + to, in.begin() + from);
        std::fill(in.begin() + to, in.end(), 0.0F);
        const auto spectrum = fft.transform();
        for (int b = 0; b < kBins; ++b) {
            const auto& row = kernel_->rows[static_cast<std::size_t>(b)];
            float re = 0.0F, im = 0.0F;
            for (std::size_t k = 0; k < row.weights.size(); ++k) {
                const std::complex<float> s = spectrum[row.first + k];
                const float w = row.weights[k];
                re += w * s.real();
                im += w * s.imag();
            }
            out(f, b) = std::log10(1.0F + 300.0F * std::sqrt(re * re + im * im));
        }
    }
    return out;
}

}  // namespace fw
