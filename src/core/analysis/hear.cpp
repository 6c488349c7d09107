// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/evidence.hpp"

#include "analysis/network.hpp"
#include "base/parallel.hpp"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>

namespace fw {

namespace {

// Pieces are long enough for the networks' reach at their edges to cost little, short enough to cancel within 0.2 s.
constexpr std::size_t kPulseStretch = 1 << 16, kPulsePiece = 8192, kFrontPiece = 512;
constexpr std::size_t kPitchPiece = 256, kPitchReach = 28;

std::vector<float> piece_of(const MonoSignal& signal, std::ptrdiff_t first_sample, std::size_t count) {
    std::vector<float> out(count);
    signal.copy(first_sample, out);
    return out;
}

Frames mel_frames(const MonoSignal& signal, std::ptrdiff_t first, std::size_t count) {
    constexpr std::ptrdiff_t margin = 8;
    const auto samples = piece_of(signal, (first - margin) * MelSpectra::kHop, (count + 2 * margin) * MelSpectra::kHop);
    return MelSpectra::analyse(samples, margin, count);
}

void hear_pulse(const MonoSignal& signal, Evidence& evidence, const Progress& progress, double from, double to) {
    const std::size_t frames = signal.samples.size() / MelSpectra::kHop + 1;
    evidence.pulse = Frames::Zero(static_cast<Eigen::Index>(frames), kPulseColumns);
    evidence.bands = Frames::Zero(static_cast<Eigen::Index>(frames), 3);
    evidence.spectra = ByteGrid(frames, MelSpectra::kBands);
    std::atomic<std::size_t> done{0};
    // Stretch by stretch, so that the features of a whole evening need not lie in memory; within a stretch piece by piece on all cores,
    // first the features of every frame, those within reach of its ends included, then what follows from them.
    for (std::size_t begin = 0; begin < frames; begin += kPulseStretch) {
        const std::size_t end = std::min(frames, begin + kPulseStretch);
        const std::size_t first = begin - std::min<std::size_t>(begin, kPulseSight), last = std::min(frames, end + kPulseSight);
        Tensor features(pulse_feature_count(), 1, static_cast<Eigen::Index>(last - first));
        parallel_for((last - first + kFrontPiece - 1) / kFrontPiece, [&](std::size_t i) {
            progress.checkpoint();
            const std::size_t a = first + i * kFrontPiece, count = std::min(kFrontPiece, last - a);
            const std::size_t before = std::min<std::size_t>(a, kPulseFrontSight), after = std::min<std::size_t>(frames - a - count, kPulseFrontSight);
            const Frames mel = mel_frames(signal, static_cast<std::ptrdiff_t>(a - before), before + count + after);
            const auto skip = static_cast<Eigen::Index>(before), n = static_cast<Eigen::Index>(count), row = static_cast<Eigen::Index>(a);
            features.rows.middleCols(row - static_cast<Eigen::Index>(first), n) = pulse_front(mel).rows.middleCols(skip, n);
            const auto shorts = mel.middleRows(skip, n);
            const auto longs = shorts.rightCols(MelSpectra::kBands);
            for (std::size_t f = 0; f < count; ++f)
                for (std::size_t b = 0; b < MelSpectra::kBands; ++b)
                    evidence.spectra.set(a + f, b, longs(static_cast<Eigen::Index>(f), static_cast<Eigen::Index>(b)) / 4.0F);
            evidence.bands.block(row, 0, n, 1) = shorts.middleCols(MelSpectra::kBands, 8).rowwise().mean() / 4.0F;
            evidence.bands.block(row, 1, n, 1) = shorts.middleCols(12, 26).rowwise().mean() / 4.0F;
            evidence.bands.block(row, 2, n, 1) = shorts.middleCols(44, 20).rowwise().mean() / 4.0F;
        });
        parallel_for((end - begin + kPulsePiece - 1) / kPulsePiece, [&](std::size_t i) {
            progress.checkpoint();
            const std::size_t a = begin + i * kPulsePiece, count = std::min(kPulsePiece, end - a);
            const std::size_t before = std::min<std::size_t>(a, kPulseSight), after = std::min<std::size_t>(frames - a - count, kPulseSight);
            Tensor seen(features.channels, 1, 0);
            seen.rows = features.rows.middleCols(static_cast<Eigen::Index>(a - before - first), static_cast<Eigen::Index>(before + count + after));
            evidence.pulse.middleRows(static_cast<Eigen::Index>(a), static_cast<Eigen::Index>(count)) =
                pulse_of(seen, progress).middleRows(static_cast<Eigen::Index>(before), static_cast<Eigen::Index>(count));
            progress.report(from + (to - from) * static_cast<double>(done += count) / static_cast<double>(frames), "listening for beats and drums");
        });
    }
}

void hear_pitch(const MonoSignal& signal, Evidence& evidence, const Progress& progress, double from, double to) {
    const std::size_t frames = signal.samples.size() / ConstantQ::kHop + 1;
    for (ByteGrid* grid :
         {&evidence.sounding, &evidence.onset, &evidence.bass_sounding, &evidence.bass_onset, &evidence.lead_sounding, &evidence.lead_onset, &evidence.level})
        *grid = ByteGrid(frames, Evidence::kPitches);
    const ConstantQ transform(evidence.tuning.cents);
    const std::size_t pieces = (frames + kPitchPiece - 1) / kPitchPiece;
    std::atomic<std::size_t> done{0};
    parallel_for(pieces, [&](std::size_t i) {
        progress.checkpoint();
        const std::size_t begin = i * kPitchPiece, count = std::min(kPitchPiece, frames - begin);
        const std::size_t before = std::min(begin, kPitchReach), after = std::min(frames - begin - count, kPitchReach);
        constexpr std::ptrdiff_t margin = ConstantQ::kFftSize / ConstantQ::kHop / 2;
        const auto first = static_cast<std::ptrdiff_t>(begin - before);
        const std::size_t wide = before + count + after;
        const auto samples = piece_of(signal, (first - margin) * ConstantQ::kHop, (wide + 2 * margin) * ConstantQ::kHop);
        const Frames cq = transform.analyse(samples, margin, wide);
        const Frames mel = mel_frames(signal, 2 * first, 2 * wide);
        static_assert(ConstantQ::kHop == 2 * MelSpectra::kHop);
        const Frames logits = run_pitch_network(cq, mel, progress);
        const std::array<ByteGrid*, kPitchPlanes> planes{&evidence.sounding,   &evidence.onset,         &evidence.bass_sounding,
                                                         &evidence.bass_onset, &evidence.lead_sounding, &evidence.lead_onset};
        for (std::size_t f = 0; f < count; ++f) {
            const auto column = static_cast<Eigen::Index>(f + before);
            for (int p = 0; p < Evidence::kPitches; ++p) {
                const auto pitch = static_cast<std::size_t>(p);
                for (std::size_t plane = 0; plane < planes.size(); ++plane)
                    planes[plane]->set(begin + f, pitch, sigmoid(logits(static_cast<Eigen::Index>(plane) * Evidence::kPitches + p, column)));
                const auto bins = cq.row(column).segment(Eigen::Index{p} * 3, 3);
                evidence.level.set(begin + f, pitch, bins.maxCoeff() / 2.5F);
            }
        }
        progress.report(from + (to - from) * static_cast<double>(++done) / static_cast<double>(pieces), "listening for notes");
    });
}

}  // namespace

std::optional<double> Evidence::onset_near(int pitch, double time_s, double within_s) const {
    constexpr float kHeard = 0.3F;
    const int column = pitch - kLowestPitch;
    if (column < 0 || column >= kPitches || onset.frames() == 0) return std::nullopt;
    const auto last = static_cast<double>(onset.frames() - 1);
    const auto a = static_cast<std::size_t>(std::clamp(std::round(pitch_frame(time_s - within_s)), 0.0, last));
    const auto b = static_cast<std::size_t>(std::clamp(std::round(pitch_frame(time_s + within_s)), static_cast<double>(a), last));
    std::size_t best = a;
    for (std::size_t f = a; f <= b; ++f)
        if (onset.at(f, static_cast<std::size_t>(column)) > onset.at(best, static_cast<std::size_t>(column))) best = f;
    if (onset.at(best, static_cast<std::size_t>(column)) < kHeard) return std::nullopt;
    return pitch_time(static_cast<double>(best));
}

float Evidence::mean(const ByteGrid& grid, double start_s, double end_s, int pitch) const {
    const int column = pitch - kLowestPitch;
    if (column < 0 || column >= kPitches || grid.frames() == 0) return 0.0F;
    const auto last = static_cast<double>(grid.frames() - 1);
    const auto a = static_cast<std::size_t>(std::clamp(std::round(pitch_frame(start_s)), 0.0, last));
    const auto b = static_cast<std::size_t>(std::clamp(std::round(pitch_frame(end_s)), static_cast<double>(a), last));
    float sum = 0.0F;
    for (std::size_t f = a; f <= b; ++f) sum += grid.at(f, static_cast<std::size_t>(column));
    return sum / static_cast<float>(b - a + 1);
}

Evidence hear(const MonoSignal& signal, const Progress& progress, const std::function<void(const Evidence&)>& pulse_heard) {
    Evidence evidence;
    evidence.duration_s = signal.duration_s();
    progress.report(0.0, "measuring the tuning");
    evidence.tuning = measure_tuning(signal, progress);
    hear_pulse(signal, evidence, progress, 0.05, 0.35);
    if (pulse_heard) pulse_heard(evidence);
    hear_pitch(signal, evidence, progress, 0.35, 1.0);
    return evidence;
}

}  // namespace fw
