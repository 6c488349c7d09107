// SPDX-License-Identifier: GPL-3.0-or-later
// A player who keeps the tempo keeps the count. The tracker judges each beat by its surroundings; here its mistakes that only show
// over the whole song are put right: a break counted half a beat aside, a verse counted in half time.
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"
#include "analysis/stretches.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

/// How well beats at start + i·interval between two times are borne out, by any evidence of something beginning there.
double support(const Frames& pulse, double start, double interval, double from, double to) {
    double sum = 0.0;
    int count = 0;
    for (double t = start + std::ceil((from - start) / interval) * interval; t < to; t += interval, ++count) {
        const auto f = static_cast<Eigen::Index>(std::clamp(std::lround(Evidence::pulse_frame(t)), 2L, static_cast<long>(pulse.rows() - 3)));
        const auto around = pulse.middleRows(f - 2, 5);
        sum += std::max({around.col(kBeat).maxCoeff(), 0.7F * around.col(kPitchedOnset).maxCoeff(), 0.7F * around.col(kKick).maxCoeff(),
                         0.7F * around.col(kSnare).maxCoeff()});
    }
    return count ? sum / count : 0.0;
}

/// Whether the ratio of two intervals is what counting groups of three in a song that goes by twos and fours makes of it.
bool by_threes(double ratio) {
    for (const double r : {0.75, 4.0 / 3.0, 2.0 / 3.0, 1.5})
        if (std::abs(ratio / r - 1.0) < 0.01) return true;
    return false;
}

/// Where the pulse is thin (an intro of off-beats, a break) the tracker may count half a beat aside. A player who keeps the
/// tempo keeps the place: a short stretch beside a long one of nearly the same tempo is counted on from the long one, where
/// the evidence does not clearly speak against it; and one counted in groups of three beside it, where the evidence does not speak
/// against it. Returns whether beats were changed.
bool keep_phase(std::vector<double>& beats, const std::vector<Stretch>& stretches, const Frames& pulse) {
    for (std::size_t s = 0; s < stretches.size(); ++s) {
        const auto [a, b] = stretches[s];
        if (b - a < 16) continue;
        const BeatLine line = fit_line(beats, a, b);
        if (line.spread > 0.02) continue;
        for (const bool before : {true, false}) {
            // The run of short neighbours on one side, as long as they keep roughly the same tempo.
            std::size_t edge = before ? a : b;
            double wanted = 0.55;  // share of the support its own count has that the long stretch's must have
            for (std::size_t k = s; before ? k > 0 : k + 1 < stretches.size();) {
                k = before ? k - 1 : k + 1;
                const auto [c, d] = stretches[k];
                if (d - c > (b - a) / 3) break;
                const double interval = d - c > 2 ? (beats[d - 1] - beats[c]) / static_cast<double>(d - c - 1) : line.interval;
                // A glitch of a few beats is where the tracker changed its mind, whatever tempo it shows.
                const double ratio = interval / line.interval;
                const bool alike = std::abs(ratio - 1.0) <= (d - c <= 8 ? 0.4 : 0.06);
                if (!alike && !by_threes(ratio)) break;
                if (!alike) wanted = 0.9;
                edge = before ? c : d;
            }
            if (edge == (before ? a : b)) continue;
            const double from = before ? beats[edge] - 0.6 * line.interval : beats[b - 1] + 0.5 * line.interval,
                         to = before ? beats[a] - 0.5 * line.interval : beats[edge - 1] + 0.6 * line.interval;
            const double own = support(pulse, before ? beats[edge] : beats[b],
                                       (before ? beats[a - 1] - beats[edge] : beats[edge - 1] - beats[b]) /
                                           std::max<double>(1.0, static_cast<double>(before ? a - 1 - edge : edge - 1 - b)),
                                       from, to);
            if (support(pulse, line.start, line.interval, from, to) < wanted * own) continue;
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

/// Drums that play half as many strokes do not halve the tempo: where neighbouring stretches are counted at twice or half each other's
/// tempo, all are counted as most of the time is. Returns whether beats were changed.
bool keep_level(std::vector<double>& beats, const std::vector<Stretch>& stretches) {
    constexpr double kNearTwo = 0.06;
    struct Counted {
        std::size_t a, b;
        int level;  ///< how often its interval was doubled against the first's
    };
    std::vector<Counted> counted;
    double previous = 0.0;
    for (const auto& [a, b] : stretches) {
        int level = counted.empty() ? 0 : counted.back().level;
        // What a few beats show is noise: they go with what is before them.
        if (b - a >= 8) {
            const double interval = fit_line(beats, a, b).interval;
            if (previous > 0.0 && std::abs(interval / previous / 2.0 - 1.0) < kNearTwo) ++level;
            if (previous > 0.0 && std::abs(previous / interval / 2.0 - 1.0) < kNearTwo) --level;
            previous = interval;
        }
        counted.push_back({a, b, level});
    }
    const auto until = [&](const Counted& c) { return c.b < beats.size() ? beats[c.b] : beats[c.b - 1]; };
    int kept = 0;
    double longest = -1.0;
    for (const Counted& candidate : counted) {
        double time = 0.0;
        for (const Counted& c : counted)
            if (c.level == candidate.level) time += until(c) - beats[c.a];
        if (time > longest) longest = time, kept = candidate.level;
    }
    std::vector<double> out;
    bool changed = false;
    for (const Counted& c : counted) {
        if (c.level == kept) {
            out.insert(out.end(), beats.begin() + static_cast<std::ptrdiff_t>(c.a), beats.begin() + static_cast<std::ptrdiff_t>(c.b));
        } else if (c.level > kept) {
            const int parts = 1 << std::min(c.level - kept, 2);
            for (std::size_t i = c.a; i < c.b; ++i) {
                const double next = i + 1 < beats.size() ? beats[i + 1] : beats[i];
                // The step into the next stretch may already be a short one.
                const double whole = i + 1 < c.b ? next - beats[i] : i > c.a ? beats[i] - beats[i - 1] : 0.0;
                for (int k = 0; k < parts; ++k)
                    if (const double t = beats[i] + whole * k / parts; k == 0 || t < next - 0.5 * whole / parts) out.push_back(t);
            }
        } else {
            const std::size_t step = std::size_t{1} << std::min(kept - c.level, 2);
            // The first kept is the one a whole interval after the last of the stretch before, or before the first of the next.
            std::size_t first = c.a;
            const double short_step = fit_line(beats, c.a, c.b).interval;
            if (!out.empty()) {
                while (first + 1 < c.b && beats[first] - out.back() < (static_cast<double>(step) - 0.5) * short_step) ++first;
            } else if (c.b < beats.size()) {
                first = c.a + (c.b - c.a) % step;
            }
            for (std::size_t i = first; i < c.b; i += step) out.push_back(beats[i]);
        }
        changed |= c.level != kept;
    }
    if (!changed) return false;
    // The step from a stretch counted right into one that was not may have been a long one.
    beats.clear();
    for (std::size_t i = 0; i < out.size(); ++i) {
        if (i >= 2 && i + 1 < out.size()) {
            const double step = 0.5 * (out[i - 1] - out[i - 2] + out[i + 1] - out[i]);
            if (std::abs((out[i] - out[i - 1]) / step / 2.0 - 1.0) < kNearTwo) beats.push_back(0.5 * (out[i - 1] + out[i]));
        }
        beats.push_back(out[i]);
    }
    return true;
}

double shown(const Frames& pulse, double time_s) {
    const auto f = static_cast<Eigen::Index>(std::clamp(std::lround(Evidence::pulse_frame(time_s)), 2L, static_cast<long>(pulse.rows() - 3)));
    return pulse.col(kBeat).segment(f - 2, 5).maxCoeff();
}

/// Where the evidence near a time has its peak, to a frame; the time itself where there is none.
double nearest_peak(const Frames& pulse, double time_s, bool& found) {
    const auto f = static_cast<Eigen::Index>(std::clamp(std::lround(Evidence::pulse_frame(time_s)), 4L, static_cast<long>(pulse.rows() - 5)));
    Eigen::Index at = 0;
    found = pulse.col(kBeat).segment(f - 4, 9).maxCoeff(&at) > 0.15F;
    return found ? Evidence::pulse_time(static_cast<double>(f - 4 + at)) : time_s;
}

/// Beats counted on from a stretch over the whole of from .. to at its own tempo, which the evidence on the way makes more precise.
std::vector<double> count_through(const BeatLine& stretch, double stretch_from, double stretch_to, double from, double to, const Frames& pulse) {
    double start = stretch.start, interval = stretch.interval;
    double reach = stretch_to - stretch_from;
    while (true) {
        const double left = std::max(from, stretch_from - reach), right = std::min(to, stretch_to + reach);
        double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
        for (double i = std::ceil((left - start) / interval); start + i * interval <= right; ++i) {
            bool found = false;
            const double t = nearest_peak(pulse, start + i * interval, found);
            if (found) n += 1, sx += i, sy += t, sxx += i * i, sxy += i * t;
        }
        if (const double v = n * sxx - sx * sx; n >= 8 && v > 0) {
            interval = (n * sxy - sx * sy) / v;
            start = (sy - interval * sx) / n;
        }
        if (left <= from && right >= to) break;
        reach *= 2.0;
    }
    std::vector<double> beats;
    for (double i = std::ceil((from - start) / interval - 0.3); start + i * interval < to + 0.3 * interval; ++i) beats.push_back(start + i * interval);
    return beats;
}

/// A song that keeps one tempo to the end, as to a click, keeps one count: where stretches of the same tempo lie aside of each other by
/// a part of a beat, all are counted on from the one whose count the whole song bears out best. Unless it bears that out much less than
/// the stretches by themselves: then beats were left out in truth. Returns whether beats were changed.
bool keep_grid(std::vector<double>& beats, const std::vector<Stretch>& stretches, const Frames& pulse) {
    constexpr double kSameTempo = 0.006, kAside = 0.2, kBorneOut = 0.7;
    constexpr std::size_t kFewest = 16;
    const auto longest =
        std::max_element(stretches.begin(), stretches.end(), [](const Stretch& x, const Stretch& y) { return x.second - x.first < y.second - y.first; });
    const BeatLine line = fit_line(beats, longest->first, longest->second);
    if (longest->second - longest->first < 2 * kFewest || line.spread > 0.014) return false;
    std::size_t agreeing = 0;
    bool aside = false;
    for (const auto& [a, b] : stretches) {
        if (b - a < kFewest) continue;
        const BeatLine other = fit_line(beats, a, b);
        if (std::abs(other.interval / line.interval - 1.0) > kSameTempo) return false;
        agreeing += b - a;
        const double place = (other.start - line.start) / line.interval;
        aside |= std::abs(place - std::round(place)) > kAside;
    }
    if (!aside || static_cast<double>(agreeing) < 0.85 * static_cast<double>(beats.size())) return false;
    double own = 0.0, most = 0.0;
    for (const double t : beats) own += shown(pulse, t);
    std::vector<double> best;
    for (const auto& [a, b] : stretches) {
        if (b - a < kFewest) continue;
        auto counted = count_through(fit_line(beats, a, b), beats[a], beats[b - 1], beats.front(), beats.back(), pulse);
        double sum = 0.0;
        for (const double t : counted) sum += shown(pulse, t);
        if (sum > most) most = sum, best = std::move(counted);
    }
    if (most < kBorneOut * own) return false;
    beats = std::move(best);
    return true;
}

}  // namespace

std::vector<double> count_on(std::pair<double, double> stretch_s, double interval_s, double from_s, double to_s, const Frames& pulse) {
    const BeatLine line{stretch_s.first, interval_s, 0.0, 0.0};
    auto beats = count_through(line, stretch_s.first, stretch_s.second, from_s, to_s, pulse);
    std::erase_if(beats, [&](double t) { return t < from_s || t > to_s; });
    return beats;
}

void keep_count(std::vector<double>& beats, const Frames& pulse) {
    auto stretches = partition(beats);
    for (int round = 0; round < 8 && keep_phase(beats, stretches, pulse); ++round) stretches = partition(beats);
    if (keep_level(beats, stretches)) stretches = partition(beats);
    // After free time the count begins anew.
    if (find_free_time(beats, pulse).empty()) keep_grid(beats, stretches, pulse);
}

std::vector<std::pair<double, double>> find_free_time(const std::vector<double>& beats, const Frames& pulse) {
    constexpr std::size_t kFewest = 4;
    constexpr double kShortest = 3.0, kFaint = 0.15, kOfUsual = 0.35;
    std::vector<double> strength;
    // Seen from half-way to the beat before until half-way to the next: where the tracker lost its place there is a pulse all the same.
    for (std::size_t i = 0; i < beats.size(); ++i) {
        const double before = i > 0 ? 0.5 * (beats[i] - beats[i - 1]) : 0.05, after = i + 1 < beats.size() ? 0.5 * (beats[i + 1] - beats[i]) : 0.05;
        const auto last = static_cast<long>(pulse.rows() - 1);
        const long a = std::clamp(std::lround(Evidence::pulse_frame(beats[i] - before)), 0L, last),
                   b = std::clamp(std::lround(Evidence::pulse_frame(beats[i] + after)), a, last);
        strength.push_back(pulse.col(kBeat).segment(a, b - a + 1).maxCoeff());
    }
    const double faint = strength.empty() ? kFaint : std::min(kFaint, kOfUsual * median(strength));
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

}  // namespace fw
