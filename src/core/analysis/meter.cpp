// SPDX-License-Identifier: GPL-3.0-or-later
// Bars by Viterbi over (beats in the bar, place in the bar), seen through the downbeat evidence at each beat
// and through changes of harmony and new bass notes, which fall on bar lines more often than not (after Papadopoulos & Peeters,
// "Joint estimation of chords and downbeats from an audio signal", IEEE TASLP 2011).
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

struct MeterPrior {
    int beats;
    double cost;
};
constexpr std::array<MeterPrior, 6> kMeters{{{4, 0.0}, {3, 1.0}, {2, 6.0}, {6, 4.0}, {5, 4.0}, {7, 5.0}}};
constexpr double kMeterChange = 9.0;
// The network reads bars from drums; where the drums play across them the harmony knows better, and it has the louder voice.
constexpr double kDownbeatWeight = 0.6, kHarmonyWeight = 0.9, kBassWeight = 0.4;

/// In standard deviations from the mean, outliers held.
void standardise(std::vector<double>& values) {
    double mean = 0, squares = 1e-9;
    const auto n = static_cast<double>(values.size());
    for (const double v : values) mean += v / n;
    for (const double v : values) squares += (v - mean) * (v - mean) / n;
    for (double& v : values) v = std::clamp((v - mean) / std::sqrt(squares), -1.5, 2.5);
}

double around(const Frames& pulse, double time_s, int column, int reach) {
    const auto f = static_cast<Eigen::Index>(std::lround(Evidence::pulse_frame(time_s)));
    float best = 0.0F;
    for (Eigen::Index i = std::max<Eigen::Index>(0, f - reach); i <= std::min<Eigen::Index>(pulse.rows() - 1, f + reach); ++i) best = std::max(best, pulse(i, column));
    return best;
}

/// Whether beats split in three: onsets at thirds, and not at halves.
bool splits_in_three(const std::vector<double>& beats, const Frames& pulse) {
    double first_third = 0, second_third = 0, half = 0;
    const auto onset = [&](double t) {
        double best = around(pulse, t, kPitchedOnset, 1);
        for (const int c : {kKick, kSnare, kHatClosed, kHatOpen, kRide}) best = std::max(best, around(pulse, t, c, 1));
        return best;
    };
    for (std::size_t i = 0; i + 1 < beats.size(); ++i) {
        const double step = beats[i + 1] - beats[i];
        first_third += onset(beats[i] + step / 3);
        second_third += onset(beats[i] + step * 2 / 3);
        half += onset(beats[i] + step / 2);
    }
    // Swung pairs show only the second third; a ternary beat shows both.
    return first_third > 0.55 * second_third && first_third + second_third > 2.2 * half && first_third > 0.08 * static_cast<double>(beats.size());
}

}  // namespace

std::vector<double> bar_line_clues(const Evidence& evidence, const std::vector<double>& beats) {
    std::vector<double> change(beats.size(), 0.0), bass(beats.size(), 0.0);
    for (std::size_t b = 0; b < beats.size(); ++b) {
        const auto centre = static_cast<std::ptrdiff_t>(std::lround(Evidence::pitch_frame(beats[b])));
        for (std::ptrdiff_t f = std::max<std::ptrdiff_t>(0, centre - 2); f <= std::min<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(evidence.pitch_frames()) - 1, centre + 2); ++f)
            for (std::size_t p = 0; p < Evidence::kPitches; ++p) bass[b] = std::max<double>(bass[b], evidence.bass_onset.at(static_cast<std::size_t>(f), p));
        if (b < 2 || b + 2 >= beats.size()) continue;
        const auto before = chroma_of(evidence, beats[b - 2], beats[b] - 0.03), after = chroma_of(evidence, beats[b] + 0.03, beats[b + 2]);
        double dot = 0, aa = 1e-9, bb = 1e-9;
        for (std::size_t c = 0; c < 12; ++c) dot += before[c] * after[c], aa += before[c] * before[c], bb += after[c] * after[c];
        change[b] = 1.0 - dot / std::sqrt(aa * bb);
    }
    standardise(change);
    standardise(bass);
    for (std::size_t b = 0; b < beats.size(); ++b) change[b] = kHarmonyWeight * change[b] + kBassWeight * bass[b];
    return change;
}

Bars find_bars(const std::vector<double>& beats, const Frames& pulse, const std::vector<double>& clues) {
    Bars bars;
    if (beats.empty()) return bars;
    struct State {
        int meter, place;
    };
    std::vector<State> states;
    for (int m = 0; m < static_cast<int>(kMeters.size()); ++m)
        for (int p = 0; p < kMeters[static_cast<std::size_t>(m)].beats; ++p) states.push_back({m, p});
    const std::size_t n = beats.size(), count = states.size();
    const auto index_of = [&](int meter, int place) {
        int at = 0;
        for (int m = 0; m < meter; ++m) at += kMeters[static_cast<std::size_t>(m)].beats;
        return static_cast<std::size_t>(at + place);
    };
    std::vector<double> score(count), next(count);
    std::vector<std::uint8_t> from(n * count, 0);
    // Evidence counts against its own mean over the song: where all downbeats are faint, the less faint ones still tell.
    std::vector<double> down(n);
    double mean = 0.0;
    for (std::size_t b = 0; b < n; ++b) mean += (down[b] = std::clamp(around(pulse, beats[b], kDownbeat, 3), 0.02, 0.9)) / static_cast<double>(n);
    const double trust = clues.size() == n ? kDownbeatWeight : 1.0;
    const auto seen = [&](std::size_t beat, const State& s) {
        if (s.place != 0) return trust * std::log((1.0 - down[beat]) / (1.0 - mean));
        // Where evidence is as good for two as for four in a bar, four is the reading musicians write.
        const double two = kMeters[static_cast<std::size_t>(s.meter)].beats == 2 ? 0.25 : 0.0;
        return trust * std::log(down[beat] / mean) + (clues.size() == n ? clues[beat] : 0.0) - two;
    };
    for (std::size_t s = 0; s < count; ++s) score[s] = -kMeters[static_cast<std::size_t>(states[s].meter)].cost * 2.0 + seen(0, states[s]);
    for (std::size_t b = 1; b < n; ++b) {
        std::size_t best_end = 0;
        double best_score = -1e300;
        for (std::size_t s = 0; s < count; ++s)
            if (states[s].place + 1 == kMeters[static_cast<std::size_t>(states[s].meter)].beats && score[s] > best_score) best_score = score[s], best_end = s;
        for (std::size_t s = 0; s < count; ++s) {
            const auto [m, p] = states[s];
            double value;
            if (p > 0) {
                from[b * count + s] = static_cast<std::uint8_t>(index_of(m, p - 1));
                value = score[index_of(m, p - 1)];
            } else {
                const std::size_t same = index_of(m, kMeters[static_cast<std::size_t>(m)].beats - 1);
                const double changed = best_score - kMeterChange - kMeters[static_cast<std::size_t>(m)].cost;
                from[b * count + s] = static_cast<std::uint8_t>(score[same] >= changed ? same : best_end);
                value = std::max(score[same], changed);
            }
            next[s] = value + seen(b, states[s]);
        }
        score.swap(next);
    }
    std::size_t state = static_cast<std::size_t>(std::max_element(score.begin(), score.end()) - score.begin());
    std::vector<State> path(n);
    for (std::size_t b = n; b-- > 0;) {
        path[b] = states[state];
        state = from[b * count + state];
    }
    const bool ternary = splits_in_three(beats, pulse);
    int bar = 1, last_meter = -1;
    for (std::size_t b = 0; b < n; ++b) {
        if (b > 0 && path[b].place == 0) ++bar;
        bars.beats.push_back({beats[b], bar, path[b].place + 1});
        if ((b == 0 || path[b].place == 0) && path[b].meter != last_meter) {
            last_meter = path[b].meter;
            const int per_bar = kMeters[static_cast<std::size_t>(last_meter)].beats;
            bars.meter.push_back(ternary && per_bar <= 4 ? MeterChange{bar, per_bar * 3, 8} : MeterChange{bar, per_bar, 4});
        }
    }
    return bars;
}

}  // namespace fw
