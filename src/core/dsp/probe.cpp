// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/probe.hpp"

#include "base/ranks.hpp"

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace fw {

namespace {

struct Window {
    double hz = 0.0, clear = 0.0, power = 0.0;
};

/// YIN on one window: the cumulative mean normalised difference, its first dip below a threshold, refined by a parabola.
Window pitch_of_window(std::span<const float> x, std::size_t length, double rate, double low_hz, double high_hz) {
    constexpr double kDip = 0.15, kNearly = 0.1;
    const auto longest = static_cast<std::size_t>(rate / low_hz) + 2, shortest = std::max<std::size_t>(2, static_cast<std::size_t>(rate / high_hz));
    Window w;
    for (std::size_t i = 0; i < length; ++i) w.power += static_cast<double>(x[i]) * x[i] / static_cast<double>(length);
    if (w.power < 1e-10) return w;
    const auto stretch = [&](std::size_t from) { return Eigen::Map<const Eigen::ArrayXf>(x.data() + from, static_cast<Eigen::Index>(length)); };
    std::vector<double> d(longest + 1, 1.0);
    double sum = 0.0;
    for (std::size_t lag = 1; lag <= longest; ++lag) {
        const double difference = (stretch(0) - stretch(lag)).square().sum();
        sum += difference;
        d[lag] = sum > 0.0 ? difference * static_cast<double>(lag) / sum : 1.0;
    }
    const auto least = std::min_element(d.begin() + static_cast<std::ptrdiff_t>(shortest), d.begin() + static_cast<std::ptrdiff_t>(longest));
    // The first dip that is as good as any, or nearly: where other things sound, too, none is deep, and twice the period must not win by a little.
    const double dip = std::max(kDip, *least + kNearly);
    std::size_t best = 0;
    for (std::size_t lag = shortest; lag < longest && best == 0; ++lag)
        if (d[lag] < dip) {
            best = lag;
            while (best + 1 < longest && d[best + 1] < d[best]) ++best;
        }
    if (best == 0) best = static_cast<std::size_t>(least - d.begin());
    double lag = static_cast<double>(best);
    if (best > 1 && best < longest) {
        const double a = d[best - 1], b = d[best], c = d[best + 1], bend = a - 2.0 * b + c;
        if (bend > 1e-12) lag += std::clamp(0.5 * (a - c) / bend, -0.5, 0.5);
    }
    w.hz = rate / lag;
    w.clear = std::clamp(1.0 - d[best], 0.0, 1.0);
    return w;
}

/// Power of a sound at a frequency (Goertzel, 1958), with a window against what lies beside it.
double power_at(std::span<const float> x, double rate, double hz) {
    const double turn = 2.0 * std::numbers::pi * hz / rate, twice = 2.0 * std::cos(turn);
    double a = 0.0, b = 0.0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double window = 0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(x.size()));
        const double now = window * static_cast<double>(x[i]) + twice * a - b;
        b = a, a = now;
    }
    return a * a + b * b - twice * a * b;
}

/// Whether a pitch is one and not just the common divisor of a higher one's partials: it has partials of its own.
bool has_its_own_partials(std::span<const float> x, double rate, double hz, double higher_hz) {
    const auto times = static_cast<int>(std::lround(higher_hz / hz));
    double own = 0.0, shared = 0.0;
    for (int k = 1; k <= 2 * times + 1 && k * hz < 0.45 * rate; ++k) (k % times == 0 ? shared : own) += power_at(x, rate, k * hz);
    return own > 0.002 * shared;
}

}  // namespace

std::optional<ProbedPitch> probe_pitch(std::span<const float> given, double rate, double low_hz, double high_hz) {
    constexpr double kClear = 0.7;
    // A wide band is looked at in two: the lower one on fewer samples, the upper one with short periods only; together a twentieth of the work.
    constexpr double kLower_hz = 1900.0, kUpper_hz = 500.0;
    if (low_hz > 0.0 && low_hz < kUpper_hz && high_hz >= 2000.0) {
        if (static_cast<double>(given.size()) < 2.0 * rate / low_hz) return std::nullopt;
        const auto lower = probe_pitch(given, rate, low_hz, kLower_hz), upper = probe_pitch(given, rate, kUpper_hz, high_hz);
        if (!lower || !upper) return lower ? lower : upper;
        const double times = upper->hz / lower->hz;
        if (times < 1.5) return times > 0.97 && times < 1.03 ? upper : lower;  // where both say the same the upper one is the more exact
        return has_its_own_partials(given, rate, lower->hz, upper->hz) ? lower : upper;
    }
    if (!(low_hz > 0.0) || !(high_hz > low_hz)) return std::nullopt;
    std::vector<float> smooth;
    std::span<const float> mono = given;
    if (high_hz < 2000.0) {
        // What lies above the band is smoothed away (three running means, a B-spline), and then as few samples are looked at as the band needs: the cost goes
        // with their square.
        smooth.assign(given.begin(), given.end());
        const auto width = static_cast<std::size_t>(std::max(1.0, rate / (2.2 * high_hz)));
        for (int round = 0; round < 3; ++round) {
            double sum = 0.0;
            std::vector<float> mean;
            for (std::size_t i = 0; i < smooth.size(); ++i) {
                sum += smooth[i];
                if (i >= width) sum -= smooth[i - width];
                if (i + 1 >= width) mean.push_back(static_cast<float>(sum / static_cast<double>(width)));
            }
            smooth = std::move(mean);
        }
        if (const auto step = static_cast<std::size_t>(rate / std::max(11025.0, 8.0 * high_hz)); step > 1) {
            for (std::size_t i = 0; i * step < smooth.size(); ++i) smooth[i] = smooth[i * step];
            smooth.resize(smooth.size() / step);
            rate /= static_cast<double>(step);
        }
        mono = smooth;
    }
    const auto period = static_cast<std::size_t>(rate / low_hz) + 3;
    // A short stretch is looked at in one window, as long as it holds two periods.
    const std::size_t length = std::min(3 * period, mono.size() > 2 * period ? mono.size() - period - 1 : 0);
    if (length < period) return std::nullopt;
    std::vector<Window> windows;
    const std::size_t room = mono.size() - length - period,
                      hop = std::max<std::size_t>(1, std::min(length / 3, room > 0 ? std::max<std::size_t>(room / 40, length / 4) : 1));
    for (std::size_t at = 0; at <= room; at += hop) windows.push_back(pitch_of_window(mono.subspan(at, length + period), length, rate, low_hz, high_hz));
    double loudest = 0.0;
    for (const Window& w : windows) loudest = std::max(loudest, w.power);
    std::erase_if(windows, [&](const Window& w) { return w.clear < kClear || w.power < 0.003 * loudest; });
    if (windows.empty() || loudest <= 0.0) return std::nullopt;
    std::vector<double> pitches;
    for (const Window& w : windows) pitches.push_back(std::log2(w.hz));
    const double middle = median(pitches);
    // What jumps by octaves is a mistake of single windows.
    std::erase_if(windows, [&](const Window& w) { return std::abs(std::log2(w.hz) - middle) > 0.6; });
    pitches.clear();
    double clear = 0.0;
    for (const Window& w : windows) pitches.push_back(std::log2(w.hz)), clear += w.clear / static_cast<double>(windows.size());
    const std::size_t few = std::max<std::size_t>(1, std::min<std::size_t>(3, windows.size() / 4));
    const std::vector<double> first(pitches.begin(), pitches.begin() + static_cast<std::ptrdiff_t>(few)),
        last(pitches.end() - static_cast<std::ptrdiff_t>(few), pitches.end());
    return ProbedPitch{std::exp2(median(pitches)), clear, std::exp2(median(first)), std::exp2(median(last))};
}

}  // namespace fw
