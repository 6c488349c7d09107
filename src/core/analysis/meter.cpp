// SPDX-License-Identifier: GPL-3.0-or-later
// Bars by Viterbi over (beats in the bar, place in the bar), seen through the downbeat evidence at each beat
// and through what falls on bar lines more often than not: changes of harmony, new bass notes (after Papadopoulos & Peeters, "Joint
// estimation of chords and downbeats from an audio signal", IEEE TASLP 2011) and changes of what plays, as where sections begin.
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
constexpr double kMeterChange = 14.0;
constexpr double kRepetition = 20.0;  // cost of a meter in whose bars the music comes again less exactly, against the best one
// The network reads bars from drums; where the drums play across them the harmony knows better, and it has the louder voice.
constexpr double kDownbeatWeight = 0.5, kHarmonyWeight = 0.9, kBassWeight = 0.3, kSceneWeight = 2.0;

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
    for (Eigen::Index i = std::max<Eigen::Index>(0, f - reach); i <= std::min<Eigen::Index>(pulse.rows() - 1, f + reach); ++i)
        best = std::max(best, pulse(i, column));
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

/// How exactly drums and onsets come again one and two bars later, 0..1 for each meter of kMeters (after Foote & Uchihashi, "The beat
/// spectrum", ICME 2001, counted in beats so that a tempo may drift).
std::array<double, kMeters.size()> repetition(const std::vector<double>& beats, const Frames& pulse) {
    constexpr std::array<int, 5> kSounds{kKick, kSnare, kHatClosed, kHatOpen, kPitchedOnset};
    constexpr int kParts = 6;  // of a beat: halves, thirds and their halves
    std::array<double, kMeters.size()> found{};
    if (beats.size() < 16) return found;
    Frames seen(static_cast<Eigen::Index>(beats.size()) - 1, static_cast<Eigen::Index>(kSounds.size()) * kParts);
    for (std::size_t b = 0; b + 1 < beats.size(); ++b) {
        const double part = (beats[b + 1] - beats[b]) / kParts;
        const int reach = std::max(1, static_cast<int>(std::lround(Evidence::pulse_frame(0.5 * part))));
        for (std::size_t s = 0; s < kSounds.size(); ++s)
            for (int k = 0; k < kParts; ++k)
                seen(static_cast<Eigen::Index>(b), static_cast<Eigen::Index>(s) * kParts + k) =
                    static_cast<float>(around(pulse, beats[b] + k * part, kSounds[s], reach));
    }
    for (Eigen::Index s = 0; s < static_cast<Eigen::Index>(kSounds.size()); ++s) {
        auto sound = seen.middleCols(s * kParts, kParts);
        sound.array() -= sound.mean();
    }
    const auto alike = [&](Eigen::Index lag) {
        const Eigen::Index n = seen.rows() - lag;
        const auto first = seen.topRows(n), second = seen.bottomRows(n);
        const double scale = 0.5 * static_cast<double>(first.squaredNorm() + second.squaredNorm());
        return scale > 1e-6 ? static_cast<double>(first.cwiseProduct(second).sum()) / scale : 0.0;
    };
    for (std::size_t m = 0; m < kMeters.size(); ++m)
        found[m] = 0.5 * (alike(kMeters[m].beats) + (2 * kMeters[m].beats < static_cast<int>(seen.rows()) ? alike(2 * kMeters[m].beats) : 0.0));
    return found;
}

/// Where what plays changes for good: the eight beats from here on against the eight before, 0 where a beat beside changes more,
/// else by how much it changes less, in units of the usual.
std::vector<double> scene_changes(const Evidence& evidence, const std::vector<double>& beats) {
    constexpr int kWindow = 8;
    constexpr std::array<int, 9> kSounds{kKick, kSnare, kHatClosed, kHatOpen, kTom, kCrash, kRide, kPercussion, kPitchedOnset};
    constexpr std::size_t kFeatures = 12 + kSounds.size() + 3;
    const auto n = static_cast<std::ptrdiff_t>(beats.size());
    std::vector<std::array<double, kFeatures>> sums(beats.size() + 1, std::array<double, kFeatures>{});
    for (std::size_t b = 0; b < beats.size(); ++b) {
        std::array<double, kFeatures> seen{};
        if (b + 1 < beats.size()) {
            const auto chroma = chroma_of(evidence, beats[b], beats[b + 1] - 0.01);
            const Eigen::Index last = evidence.pulse.rows() - 1;
            const auto from = std::clamp<Eigen::Index>(std::lround(Evidence::pulse_frame(beats[b])), 0, last),
                       to = std::clamp<Eigen::Index>(std::lround(Evidence::pulse_frame(beats[b + 1])), from + 1, last + 1);
            std::size_t at = 0;
            for (const float c : chroma) seen[at++] = 0.5 * c;
            for (const int sound : kSounds) seen[at++] = evidence.pulse.col(sound).segment(from, to - from).maxCoeff();
            for (Eigen::Index band = 0; band < 3; ++band) seen[at++] = 2.0 * evidence.bands.col(band).segment(from, to - from).mean();
        }
        for (std::size_t k = 0; k < kFeatures; ++k) sums[b + 1][k] = sums[b][k] + seen[k];
    }
    std::vector<double> step(beats.size(), 0.0), found(beats.size(), 0.0);
    for (std::ptrdiff_t b = kWindow; b + kWindow < n; ++b) {
        const auto at = static_cast<std::size_t>(b);
        for (std::size_t k = 0; k < kFeatures; ++k) {
            const double difference = (sums[at + kWindow][k] - 2.0 * sums[at][k] + sums[at - kWindow][k]) / kWindow;
            step[at] += difference * difference;
        }
        step[at] = std::sqrt(step[at]);
    }
    double squares = 1e-9, count = 1.0;
    for (std::size_t b = 2; b + 2 < beats.size(); ++b) {
        found[b] = std::max(0.0, step[b] - std::max({step[b - 2], step[b - 1], step[b + 1], step[b + 2]}));
        if (found[b] > 0.0) squares += found[b] * found[b], count += 1.0;
    }
    const double usual = std::sqrt(squares / count);
    for (double& f : found) f = std::min(3.0, f / usual);
    return found;
}

}  // namespace

std::vector<double> bar_line_clues(const Evidence& evidence, const std::vector<double>& beats) {
    std::vector<double> change(beats.size(), 0.0), bass(beats.size(), 0.0);
    for (std::size_t b = 0; b < beats.size(); ++b) {
        const auto centre = static_cast<std::ptrdiff_t>(std::lround(Evidence::pitch_frame(beats[b])));
        for (std::ptrdiff_t f = std::max<std::ptrdiff_t>(0, centre - 2);
             f <= std::min<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(evidence.pitch_frames()) - 1, centre + 2); ++f)
            for (std::size_t p = 0; p < Evidence::kPitches; ++p) bass[b] = std::max<double>(bass[b], evidence.bass_onset.at(static_cast<std::size_t>(f), p));
    }
    // Of the beats that have two beats to either side.
    std::vector<double> inner;
    for (std::size_t b = 2; b + 2 < beats.size(); ++b) {
        const auto before = chroma_of(evidence, beats[b - 2], beats[b] - 0.03), after = chroma_of(evidence, beats[b] + 0.03, beats[b + 2]);
        double dot = 1e-9, aa = 1e-9, bb = 1e-9;
        for (std::size_t c = 0; c < 12; ++c) dot += before[c] * after[c], aa += before[c] * before[c], bb += after[c] * after[c];
        inner.push_back(1.0 - dot / std::sqrt(aa * bb));
    }
    standardise(inner);
    std::copy(inner.begin(), inner.end(), change.begin() + std::min<std::ptrdiff_t>(2, static_cast<std::ptrdiff_t>(change.size())));
    standardise(bass);
    const auto scene = scene_changes(evidence, beats);
    for (std::size_t b = 0; b < beats.size(); ++b) change[b] = kHarmonyWeight * change[b] + kBassWeight * bass[b] + kSceneWeight * scene[b];
    return change;
}

Bars find_bars(const std::vector<double>& beats, const Frames& pulse, const std::vector<double>& clues) {
    Bars bars;
    if (beats.empty()) return bars;
    struct Count {
        int meter, place;
    };
    std::vector<Count> states;
    for (int m = 0; m < static_cast<int>(kMeters.size()); ++m)
        for (int p = 0; p < kMeters[static_cast<std::size_t>(m)].beats; ++p) states.push_back({m, p});
    const std::size_t n = beats.size(), count = states.size();
    const auto index_of = [&](int meter, int place) {
        int at = 0;
        for (int m = 0; m < meter; ++m) at += kMeters[static_cast<std::size_t>(m)].beats;
        return static_cast<std::size_t>(at + place);
    };
    std::array<double, kMeters.size()> cost{};
    const auto repeats = repetition(beats, pulse);
    for (std::size_t m = 0; m < kMeters.size(); ++m) cost[m] = kMeters[m].cost + kRepetition * (*std::max_element(repeats.begin(), repeats.end()) - repeats[m]);
    std::vector<double> score(count), next(count);
    std::vector<std::uint8_t> from(n * count, 0);
    // Evidence counts against its own mean over the song: where all downbeats are faint, the less faint ones still tell.
    std::vector<double> down(n);
    double mean = 0.0;
    for (std::size_t b = 0; b < n; ++b) mean += (down[b] = std::clamp(around(pulse, beats[b], kDownbeat, 3), 0.02, 0.9)) / static_cast<double>(n);
    const double trust = clues.size() == n ? kDownbeatWeight : 1.0;
    const auto seen = [&](std::size_t beat, const Count& s) {
        if (s.place != 0) return trust * std::log((1.0 - down[beat]) / (1.0 - mean));
        // Where evidence is as good for two as for four in a bar, four is the reading musicians write.
        const double two = kMeters[static_cast<std::size_t>(s.meter)].beats == 2 ? 0.25 : 0.0;
        return trust * std::log(down[beat] / mean) + (clues.size() == n ? clues[beat] : 0.0) - two;
    };
    for (std::size_t s = 0; s < count; ++s) score[s] = -cost[static_cast<std::size_t>(states[s].meter)] * 2.0 + seen(0, states[s]);
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
                const double changed = best_score - kMeterChange - cost[static_cast<std::size_t>(m)];
                from[b * count + s] = static_cast<std::uint8_t>(score[same] >= changed ? same : best_end);
                value = std::max(score[same], changed);
            }
            next[s] = value + seen(b, states[s]);
        }
        score.swap(next);
    }
    std::size_t state = static_cast<std::size_t>(std::max_element(score.begin(), score.end()) - score.begin());
    std::vector<Count> path(n);
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
