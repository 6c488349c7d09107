// SPDX-License-Identifier: GPL-3.0-or-later
// Least squares over n beats places a tempo about n^1.5 times better than one interval does, which is what gives hundredths of a BPM.
#include "analysis/stretches.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace fw {

namespace {

constexpr double kBeatNoise = 0.012;    // seconds; spread of a beat's measured time about the player's own beat
constexpr double kNewStretch = 28.0;    // cost of one more stretch, in squared spreads
constexpr std::size_t kLongest = 4000;  // beats in one stretch, so that hours stay linear

struct Sums {
    std::vector<double> t, tt, nt;  // cumulative, times counted from the first beat
    explicit Sums(const std::vector<double>& beats) : t(1, 0.0), tt(1, 0.0), nt(1, 0.0) {
        for (std::size_t i = 0; i < beats.size(); ++i) {
            const double x = beats[i] - beats[0];
            t.push_back(t.back() + x);
            tt.push_back(tt.back() + x * x);
            nt.push_back(nt.back() + static_cast<double>(i) * x);
        }
    }
    /// Residual sum of squares of a straight line through beats a .. b-1.
    double residual(std::size_t a, std::size_t b) const {
        const double n = static_cast<double>(b - a);
        if (n < 3) return 0.0;
        const double sx = (static_cast<double>(a) + static_cast<double>(b) - 1.0) * n / 2.0;
        const double da = static_cast<double>(a), db = static_cast<double>(b);
        const auto squares = [](double m) { return (m - 1.0) * m * (2.0 * m - 1.0) / 6.0; };
        const double sxx = squares(db) - squares(da);
        const double sy = t[b] - t[a], syy = tt[b] - tt[a], sxy = nt[b] - nt[a];
        const double vx = sxx - sx * sx / n, vy = syy - sy * sy / n, cxy = sxy - sx * sy / n;
        return std::max(0.0, vy - cxy * cxy / vx);
    }
};

}  // namespace

BeatLine fit_line(const std::vector<double>& beats, std::size_t a, std::size_t b, const std::vector<double>& weights) {
    const auto weight = [&](std::size_t i) { return weights.empty() ? 1.0 : weights[i]; };
    std::vector<char> keep(b - a, 1);
    BeatLine line;
    for (int round = 0; round < 6; ++round) {
        double n = 0, sx = 0, sy = 0;
        for (std::size_t i = a; i < b; ++i)
            if (keep[i - a]) n += weight(i), sx += weight(i) * static_cast<double>(i - a), sy += weight(i) * beats[i];
        double cxx = 0, cxy = 0;
        for (std::size_t i = a; i < b; ++i)
            if (keep[i - a]) {
                const double dx = static_cast<double>(i - a) - sx / n;
                cxx += weight(i) * dx * dx;
                cxy += weight(i) * dx * (beats[i] - sy / n);
            }
        if (cxx <= 0) return line;
        line.interval = cxy / cxx;
        line.start = sy / n - line.interval * sx / n;
        double squares = 0;
        std::vector<double> off;
        for (std::size_t i = a; i < b; ++i) {
            const double r = beats[i] - line.start - line.interval * static_cast<double>(i - a);
            off.push_back(std::abs(r));
            if (keep[i - a]) squares += weight(i) * r * r;
        }
        line.spread = std::sqrt(squares / std::max(1.0, n - 2));
        line.error = line.spread / std::sqrt(cxx);
        const double limit = std::max(0.006, 3.0 * 1.48 * median(off));
        bool changed = false;
        for (std::size_t i = 0; i < off.size(); ++i) {
            const char k = off[i] <= limit;
            changed |= k != keep[i];
            keep[i] = k;
        }
        if (!changed) break;
    }
    return line;
}

std::vector<Stretch> partition(const std::vector<double>& beats) {
    const std::size_t n = beats.size();
    const Sums sums(beats);
    std::vector<double> cost(n + 1, std::numeric_limits<double>::infinity());
    std::vector<std::size_t> cut(n + 1, 0);
    cost[0] = 0.0;
    for (std::size_t b = 1; b <= n; ++b)
        for (std::size_t a = b > kLongest ? b - kLongest : 0; a + 1 <= b; ++a) {
            if (b - a < 4 && !(a == 0 && b == n)) continue;
            const double c = cost[a] + sums.residual(a, b) / (kBeatNoise * kBeatNoise) + kNewStretch;
            if (c < cost[b]) {
                cost[b] = c;
                cut[b] = a;
            }
        }
    std::vector<Stretch> stretches;
    for (std::size_t b = n; b > 0; b = cut[b]) stretches.emplace_back(cut[b], b);
    std::reverse(stretches.begin(), stretches.end());
    return stretches;
}

}  // namespace fw
