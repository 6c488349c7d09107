// SPDX-License-Identifier: GPL-3.0-or-later
// Steady tempos by least squares: beats are cut into the fewest straight stretches that explain them (optimal partitioning,
// Jackson et al. 2005), then each stretch is fitted again with the outliers left out. Least squares over n beats places a
// tempo about n^1.5 times better than one interval does, which is what gives hundredths of a BPM.
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace fw {

namespace {

constexpr double kBeatNoise = 0.012;     // seconds; spread of a beat's measured time about the player's own beat
constexpr double kNewStretch = 28.0;     // cost of one more stretch, in squared spreads
constexpr std::size_t kLongest = 4000;   // beats in one stretch, so that hours stay linear

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

struct Line {
    double start = 0.0, interval = 0.5, spread = 1.0, error = 1.0;
};

/// Line through beats, leaving out what lies far off; spread is that of what was kept.
Line fit_line(const std::vector<double>& beats, std::size_t a, std::size_t b) {
    std::vector<char> keep(b - a, 1);
    Line line;
    for (int round = 0; round < 6; ++round) {
        double n = 0, sx = 0, sy = 0;
        for (std::size_t i = a; i < b; ++i)
            if (keep[i - a]) n += 1, sx += static_cast<double>(i - a), sy += beats[i];
        double cxx = 0, cxy = 0;
        for (std::size_t i = a; i < b; ++i)
            if (keep[i - a]) {
                const double dx = static_cast<double>(i - a) - sx / n;
                cxx += dx * dx;
                cxy += dx * (beats[i] - sy / n);
            }
        if (cxx <= 0) return line;
        line.interval = cxy / cxx;
        line.start = sy / n - line.interval * sx / n;
        double squares = 0;
        std::vector<double> off;
        for (std::size_t i = a; i < b; ++i) {
            const double r = beats[i] - line.start - line.interval * static_cast<double>(i - a);
            off.push_back(std::abs(r));
            if (keep[i - a]) squares += r * r;
        }
        line.spread = std::sqrt(squares / std::max(1.0, n - 2));
        line.error = line.spread / std::sqrt(cxx);
        std::vector<double> sorted = off;
        std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2), sorted.end());
        const double limit = std::max(0.006, 3.0 * 1.48 * sorted[sorted.size() / 2]);
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

/// How well beats at start + i·interval between two times are borne out, by any evidence of something beginning there.
double support(const Frames& pulse, double start, double interval, double from, double to) {
    double sum = 0.0;
    int count = 0;
    for (double t = start + std::ceil((from - start) / interval) * interval; t < to; t += interval, ++count) {
        const auto f = static_cast<Eigen::Index>(std::clamp(std::lround(Evidence::pulse_frame(t)), 2L, static_cast<long>(pulse.rows() - 3)));
        const auto around = pulse.middleRows(f - 2, 5);
        sum += std::max({around.col(kBeat).maxCoeff(), 0.7F * around.col(kPitchedOnset).maxCoeff(), 0.7F * around.col(kKick).maxCoeff(), 0.7F * around.col(kSnare).maxCoeff()});
    }
    return count ? sum / count : 0.0;
}

using Stretch = std::pair<std::size_t, std::size_t>;

/// Where the pulse is thin (an intro of off-beats, a break) the tracker may count half a beat aside. A player who keeps the
/// tempo keeps the place: a short stretch beside a long one of nearly the same tempo is counted on from the long one, where
/// the evidence does not clearly speak against it. Returns whether beats were changed.
bool keep_phase(std::vector<double>& beats, const std::vector<Stretch>& stretches, const Frames& pulse) {
    for (std::size_t s = 0; s < stretches.size(); ++s) {
        const auto [a, b] = stretches[s];
        if (b - a < 16) continue;
        const Line line = fit_line(beats, a, b);
        if (line.spread > 0.02) continue;
        for (const bool before : {true, false}) {
            // The run of short neighbours on one side, as long as they keep roughly the same tempo.
            std::size_t edge = before ? a : b;
            for (std::size_t k = s; before ? k > 0 : k + 1 < stretches.size();) {
                k = before ? k - 1 : k + 1;
                const auto [c, d] = stretches[k];
                if (d - c > (b - a) / 3) break;
                const double interval = d - c > 2 ? (beats[d - 1] - beats[c]) / static_cast<double>(d - c - 1) : line.interval;
                // A glitch of a few beats is where the tracker changed its mind, whatever tempo it shows.
                if (std::abs(interval / line.interval - 1.0) > (d - c <= 6 ? 0.4 : 0.06)) break;
                edge = before ? c : d;
            }
            if (edge == (before ? a : b)) continue;
            const double from = before ? beats[edge] - 0.6 * line.interval : beats[b - 1] + 0.5 * line.interval, to = before ? beats[a] - 0.5 * line.interval : beats[edge - 1] + 0.6 * line.interval;
            const double own = support(pulse, before ? beats[edge] : beats[b], (before ? beats[a - 1] - beats[edge] : beats[edge - 1] - beats[b]) / std::max<double>(1.0, static_cast<double>(before ? a - 1 - edge : edge - 1 - b)), from, to);
            if (support(pulse, line.start, line.interval, from, to) < 0.55 * own) continue;
            std::vector<double> counted;
            for (double t = line.start + std::ceil((from - line.start) / line.interval) * line.interval; t < to; t += line.interval) counted.push_back(t);
            if (before) {
                beats.erase(beats.begin() + static_cast<std::ptrdiff_t>(edge), beats.begin() + static_cast<std::ptrdiff_t>(a));
                beats.insert(beats.begin() + static_cast<std::ptrdiff_t>(edge), counted.begin(), counted.end());
            } else {
                beats.erase(beats.begin() + static_cast<std::ptrdiff_t>(b), beats.begin() + static_cast<std::ptrdiff_t>(edge));
                beats.insert(beats.begin() + static_cast<std::ptrdiff_t>(b), counted.begin(), counted.end());
            }
            return true;
        }
    }
    return false;
}

/// Cuts beats into the fewest straight stretches that explain them.
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

/// Stretches of at least four beats and three seconds in which hardly a beat is borne out, though the song has a pulse elsewhere.
std::vector<std::pair<double, double>> find_free_time(const std::vector<double>& beats, const Frames& pulse) {
    constexpr std::size_t kFewest = 4;
    constexpr double kShortest = 3.0, kFaint = 0.15, kOfUsual = 0.35;
    std::vector<double> strength;
    for (const double t : beats) {
        const auto f = static_cast<Eigen::Index>(std::clamp(std::lround(Evidence::pulse_frame(t)), 3L, static_cast<long>(pulse.rows() - 4)));
        strength.push_back(pulse.col(kBeat).segment(f - 3, 7).maxCoeff());
    }
    std::vector<double> sorted = strength;
    std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2), sorted.end());
    const double faint = std::min(kFaint, kOfUsual * sorted[sorted.size() / 2]);
    std::vector<std::pair<double, double>> found;
    for (std::size_t a = 0; a < beats.size();) {
        std::size_t b = a;
        // One beat that happens to meet an onset does not end a stretch of free time.
        while (b < beats.size() && (strength[b] < faint || (b > a && b + 1 < beats.size() && strength[b - 1] < faint && strength[b + 1] < faint))) ++b;
        if (b - a >= kFewest) {
            const double from = a == 0 ? beats.front() : beats[a - 1], to = b == beats.size() ? beats.back() : beats[b];
            if (to - from >= kShortest) found.emplace_back(from, to);
        }
        a = b + 1;
    }
    return found;
}

}  // namespace

TempoEstimate fit_tempo(std::vector<double>& beats, const Frames& pulse) {
    TempoEstimate tempo;
    if (beats.size() < 4) {
        if (beats.size() >= 2) tempo.bpm = 60.0 * static_cast<double>(beats.size() - 1) / (beats.back() - beats.front());
        return tempo;
    }
    auto stretches = partition(beats);
    for (int round = 0; round < 8 && keep_phase(beats, stretches, pulse); ++round) stretches = partition(beats);
    const std::size_t n = beats.size();
    std::vector<double> snapped = beats;
    std::size_t longest = 0, in_steady = 0;
    Line longest_line;
    double longest_beats = 0.0;
    for (std::size_t s = 0; s < stretches.size(); ++s) {
        const auto [a, b] = stretches[s];
        const Line line = fit_line(beats, a, b);
        const double end = s + 1 < stretches.size() ? beats[b] : beats[b - 1] + line.interval;
        tempo.segments.push_back({beats[a], end, 60.0 / line.interval});
        const bool steady = b - a >= 8 && line.spread < 0.014;
        if (steady) {
            in_steady += b - a;
            for (std::size_t i = a; i < b; ++i) snapped[i] = line.start + line.interval * static_cast<double>(i - a);
        }
        const double weight = static_cast<double>(b - a);
        if (weight > longest_beats) {
            longest_beats = weight;
            longest = s;
            longest_line = line;
        }
    }
    // Where a stretch begins, the beat before and the beat after agree to within their spread, or the gap is real: keep order.
    for (std::size_t i = 1; i < n; ++i)
        if (snapped[i] <= snapped[i - 1] + 0.05) snapped[i] = std::max(beats[i], snapped[i - 1] + 0.05);
    beats = snapped;
    tempo.segments.front().start_s = beats.front();
    tempo.free_time = find_free_time(beats, pulse);
    tempo.bpm = tempo.segments[longest].bpm;
    tempo.error_bpm = tempo.bpm * longest_line.error / longest_line.interval;
    tempo.steady = longest_beats >= 0.95 * static_cast<double>(n) && longest_line.spread < 0.014;

    double strength = 0.0;
    for (const double t : beats) {
        const auto f = static_cast<Eigen::Index>(std::clamp(std::lround(Evidence::pulse_frame(t)), 0L, static_cast<long>(pulse.rows() - 1)));
        strength += pulse.col(kBeat).segment(std::max<Eigen::Index>(0, f - 1), std::min<Eigen::Index>(3, pulse.rows() - std::max<Eigen::Index>(0, f - 1))).maxCoeff();
    }
    strength /= static_cast<double>(n);
    tempo.confidence = std::clamp(strength * (0.6 + 0.4 * static_cast<double>(in_steady) / static_cast<double>(n)), 0.0, 1.0);
    // Other readings of the same pulse, likelier the nearer they lie to walking pace.
    for (const double factor : {0.5, 2.0, 2.0 / 3.0, 1.5}) {
        const double bpm = tempo.bpm * factor, octaves = std::log2(bpm / 115.0);
        if (bpm < 35.0 || bpm > 280.0) continue;
        const double base = factor == 0.5 || factor == 2.0 ? 0.6 : 0.2;
        tempo.alternatives.push_back({bpm, base * (1.0 - 0.5 * tempo.confidence) * std::exp(-octaves * octaves)});
    }
    std::sort(tempo.alternatives.begin(), tempo.alternatives.end(), [](auto& x, auto& y) { return x.confidence > y.confidence; });
    return tempo;
}

}  // namespace fw
