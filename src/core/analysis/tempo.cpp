// SPDX-License-Identifier: GPL-3.0-or-later
// Steady tempos: beats are cut into the fewest straight stretches that explain them, and each is fitted by least squares.
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"
#include "analysis/stretches.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

TempoEstimate fit_tempo(std::vector<double>& beats, const Frames& pulse) {
    TempoEstimate tempo;
    if (beats.size() < 4) {
        if (beats.size() >= 2) tempo.bpm = 60.0 * static_cast<double>(beats.size() - 1) / (beats.back() - beats.front());
        return tempo;
    }
    keep_count(beats, pulse);
    const auto stretches = partition(beats);
    const std::size_t n = beats.size();
    // A beat that nothing bears out was placed by counting, often into a tail where nothing is played: it says little about the tempo.
    std::vector<double> borne_out;
    for (const double t : beats) {
        const auto f = std::clamp<Eigen::Index>(std::lround(Evidence::pulse_frame(t)), 0, pulse.rows() - 1);
        const Eigen::Index first = std::max<Eigen::Index>(0, f - 1);
        borne_out.push_back(std::max(0.02, static_cast<double>(pulse.col(kBeat).segment(first, std::min<Eigen::Index>(3, pulse.rows() - first)).maxCoeff())));
    }
    std::vector<double> snapped = beats;
    std::size_t longest = 0, in_steady = 0;
    BeatLine longest_line;
    double longest_beats = 0.0;
    for (std::size_t s = 0; s < stretches.size(); ++s) {
        const auto [a, b] = stretches[s];
        const BeatLine line = fit_line(beats, a, b, borne_out);
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
    for (const double w : borne_out) strength += w;
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
