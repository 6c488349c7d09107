// SPDX-License-Identifier: GPL-3.0-or-later
// Beats by a bar-pointer model over the beat evidence (Krebs, Böck & Widmer, "An efficient state-space model for joint tempo
// and meter tracking", ISMIR 2015), reduced to the beat: between beats the model runs deterministically, so only beats are
// compared, which makes the cost linear in length and quadratic only in the number of tempos.
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace fw {

namespace {

constexpr double kFrameRate = kAnalysisRate / MelSpectra::kHop;
constexpr double kBeatShare = 1.0 / 16.0;  // of a beat's frames are expected to show the beat
constexpr double kTempoStiffness = 90.0;   // cost of a relative change of interval from one beat to the next

/// Evidence peaks of a beat, to a fraction of a frame.
double refine(const Frames& pulse, double frame) {
    const auto last = pulse.rows() - 1;
    const auto centre = static_cast<Eigen::Index>(std::clamp(std::lround(frame), 0L, static_cast<long>(last)));
    Eigen::Index best = centre;
    for (Eigen::Index f = std::max<Eigen::Index>(0, centre - 4); f <= std::min(last, centre + 4); ++f)
        if (pulse(f, kBeat) > pulse(best, kBeat)) best = f;
    if (pulse(best, kBeat) < 0.1F || best == 0 || best == last) return frame;
    double sum = 0.0, weight = 0.0;
    for (Eigen::Index f = best - 1; f <= best + 1; ++f) {
        sum += static_cast<double>(f) * pulse(f, kBeat);
        weight += pulse(f, kBeat);
    }
    return sum / weight;
}

}  // namespace

std::vector<double> track_beats(const Frames& pulse, const Progress& progress, const BeatOptions& options) {
    const auto frames = static_cast<std::size_t>(pulse.rows());
    if (frames < 64 || pulse.col(kBeat).maxCoeff() < 0.05F) return {};
    std::vector<std::size_t> intervals;
    const auto shortest = static_cast<std::size_t>(60.0 * kFrameRate / options.highest_bpm),
               longest = static_cast<std::size_t>(60.0 * kFrameRate / options.lowest_bpm);
    for (double i = static_cast<double>(shortest); i <= static_cast<double>(longest); i = std::max(i + 1.0, i * 1.02))
        intervals.push_back(static_cast<std::size_t>(std::lround(i)));
    const std::size_t tempos = intervals.size();

    std::vector<double> beat_sum(frames + 1, 0.0), rest_sum(frames + 1, 0.0);
    for (std::size_t f = 0; f < frames; ++f) {
        const double p = std::clamp(static_cast<double>(pulse(static_cast<Eigen::Index>(f), kBeat)), 0.005, 0.995);
        beat_sum[f + 1] = beat_sum[f] + std::log(p);
        rest_sum[f + 1] = rest_sum[f] + std::log((1.0 - p) * options.neutral / (1.0 - options.neutral));
    }
    const auto span = [&](std::size_t begin, std::size_t interval, std::size_t end) {
        const std::size_t shown =
            std::min(end, begin + std::max<std::size_t>(1, static_cast<std::size_t>(std::lround(static_cast<double>(interval) * kBeatShare))));
        return beat_sum[shown] - beat_sum[begin] + rest_sum[end] - rest_sum[shown];
    };
    // Column k: what it costs to go from tempo k to each other.
    const auto all = static_cast<Eigen::Index>(tempos);
    Eigen::ArrayXXf change(all, all);
    for (Eigen::Index a = 0; a < all; ++a)
        for (Eigen::Index b = 0; b < all; ++b)
            change(b, a) = static_cast<float>(
                -kTempoStiffness *
                std::abs(static_cast<double>(intervals[static_cast<std::size_t>(b)]) / static_cast<double>(intervals[static_cast<std::size_t>(a)]) - 1.0));
    // A leaning towards walking pace, as listeners have (van Noorden & Moelants 1999).
    std::vector<double> prior(tempos);
    for (std::size_t i = 0; i < tempos; ++i) {
        const double octaves = std::log2(60.0 * kFrameRate / static_cast<double>(intervals[i]) / 115.0);
        prior[i] = -options.leaning * octaves * octaves;
    }

    constexpr double kNever = -std::numeric_limits<double>::infinity();
    // Scores are looked back at for one beat at most, so a ring of that many frames holds them: memory stays small for hours.
    const std::size_t ring = intervals.back() + 1;
    std::vector<double> score(ring * tempos, kNever);
    const auto at = [&](std::size_t f, std::size_t k) -> double& { return score[f % ring * tempos + k]; };
    std::vector<std::uint8_t> from(frames * tempos, 255);
    std::vector<double> ended(tempos);
    Eigen::ArrayXf best_of(all);
    Eigen::ArrayXi came_from(all);
    for (std::size_t f = 0; f < frames; ++f) {
        if (f % 2048 == 0) progress.checkpoint();
        // Sums over hours need doubles; what is compared at a frame lies close together, and floats are compared eight at a time.
        double likeliest = f < intervals.back() ? rest_sum[f] : kNever;
        for (std::size_t k = 0; k < tempos; ++k) {
            ended[k] = f >= intervals[k] ? at(f - intervals[k], k) + span(f - intervals[k], intervals[k], f) : kNever;
            likeliest = std::max(likeliest, ended[k]);
        }
        for (std::size_t i = 0; i < tempos; ++i)
            best_of[static_cast<Eigen::Index>(i)] = static_cast<float>(f < intervals[i] ? rest_sum[f] - likeliest : kNever);
        came_from = 255;
        for (Eigen::Index k = 0; k < all; ++k) {
            if (f < intervals[static_cast<std::size_t>(k)]) break;  // intervals ascend
            const auto so_far = static_cast<float>(ended[static_cast<std::size_t>(k)] - likeliest);
            const float* const cost = change.data() + k * all;
            for (Eigen::Index i = 0; i < all; ++i) {
                const bool better = so_far + cost[i] > best_of[i];
                best_of[i] = better ? so_far + cost[i] : best_of[i];
                came_from[i] = better ? static_cast<int>(k) : came_from[i];
            }
        }
        for (std::size_t i = 0; i < tempos; ++i) {
            at(f, i) = likeliest + static_cast<double>(best_of[static_cast<Eigen::Index>(i)]) + prior[i];
            from[f * tempos + i] = static_cast<std::uint8_t>(came_from[static_cast<Eigen::Index>(i)]);
        }
    }
    double best = kNever;
    std::size_t frame = 0, tempo = 0;
    for (std::size_t i = 0; i < tempos; ++i)
        for (std::size_t f = frames - std::min(frames, intervals[i]); f < frames; ++f) {
            const double s = at(f, i) + span(f, intervals[i], frames);
            if (s > best) {
                best = s;
                frame = f;
                tempo = i;
            }
        }
    std::vector<double> beats;
    for (;;) {
        beats.push_back(static_cast<double>(frame));
        const std::uint8_t source = from[frame * tempos + tempo];
        if (source == 255) break;
        frame -= intervals[source];
        tempo = source;
    }
    std::reverse(beats.begin(), beats.end());
    for (double& b : beats) b = Evidence::pulse_time(refine(pulse, b));
    return beats;
}

}  // namespace fw
