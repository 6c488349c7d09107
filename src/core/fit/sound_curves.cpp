// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/sound_curves.hpp"

#include "dsp/probe.hpp"
#include "fit/planned_fft.hpp"
#include "fit/sound_print.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace fw {

namespace {

float decibels(double power) { return static_cast<float>(10.0 * std::log10(std::max(power, 1e-12))); }

void against_loudest(std::vector<float>& db) {
    const float top = *std::max_element(db.begin(), db.end());
    for (float& v : db) v -= top;
}

}  // namespace

SoundCurves curves_of(std::span<const float> mono, double rate, double hz) {
    SoundCurves c;
    if (mono.empty() || std::none_of(mono.begin(), mono.end(), [](float s) { return std::abs(s) > 1e-6F; })) return c;
    constexpr std::size_t kSize = 8192;
    PlannedFft& planned = PlannedFft::of(kSize);
    auto& fft = planned.fft;
    const auto& window = planned.window;
    std::vector<double> bins(fft.bins(), 0.0);
    for (std::size_t at = 0; at == 0 || at + kSize / 2 < mono.size(); at += kSize / 2) {
        for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = at + i < mono.size() ? mono[at + i] * window[i] : 0.0F;
        const auto out = fft.transform();
        for (std::size_t k = 0; k < bins.size(); ++k) bins[k] += static_cast<double>(std::norm(out[k]));
    }
    const double bin_hz = rate / kSize;
    for (double middle = SoundCurves::kLowest_hz; middle < std::min(18000.0, 0.45 * rate); middle *= std::exp2(1.0 / SoundCurves::kPerOctave)) {
        const double half = std::exp2(0.5 / SoundCurves::kPerOctave);
        const auto from = static_cast<std::size_t>(std::floor(middle / half / bin_hz)),
                   to = std::max(from + 1, static_cast<std::size_t>(middle * half / bin_hz));
        double sum = 0.0;
        for (std::size_t k = from; k < std::min(to, bins.size()); ++k) sum += bins[k];
        c.spectrum_db.push_back(decibels(sum));
    }
    against_loudest(c.spectrum_db);
    const auto step = static_cast<std::size_t>(SoundCurves::kStep_s * rate);
    for (std::size_t at = 0; at + step <= mono.size(); at += step) {
        double sum = 0.0;
        for (std::size_t i = at; i < at + step; ++i) sum += static_cast<double>(mono[i] * mono[i]);
        c.level_db.push_back(decibels(sum));
    }
    if (c.level_db.empty()) c.level_db.push_back(0.0F);
    against_loudest(c.level_db);
    if (hz > 0.0) {
        const auto piece = static_cast<std::size_t>(std::max(0.06, 9.0 / hz) * rate), hop = static_cast<std::size_t>(0.05 * rate);
        for (std::size_t at = 0; at + piece < mono.size(); at += hop) {
            const auto p = probe_pitch(mono.subspan(at, piece), rate, std::max(25.0, hz / 1.6), std::min(4200.0, hz * 1.6));
            c.cents.push_back(p ? static_cast<float>(1200.0 * std::log2(p->hz / hz)) : std::numeric_limits<float>::quiet_NaN());
        }
    }
    c.noise = static_cast<double>(print_of({static_cast<int>(rate), 1, std::vector<float>(mono.begin(), mono.end()), {}}).noise);
    return c;
}

}  // namespace fw
