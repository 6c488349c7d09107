// SPDX-License-Identifier: GPL-3.0-or-later
// Evidence made in code: what the networks would say of music with known truth.
#pragma once

#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace fw::test {

inline void spike(Frames& pulse, double time_s, int column, float strength = 0.9F) {
    const double f = Evidence::pulse_frame(time_s);
    for (Eigen::Index i = std::max<Eigen::Index>(0, static_cast<Eigen::Index>(f) - 2);
         i <= std::min<Eigen::Index>(pulse.rows() - 1, static_cast<Eigen::Index>(f) + 3); ++i)
        pulse(i, column) = std::max(pulse(i, column), strength * static_cast<float>(std::exp(-std::pow(static_cast<double>(i) - f, 2))));
}

/// Pulse evidence with beats at given times, every n-th a downbeat starting with the given one.
inline Frames pulse_of(const std::vector<double>& beats, int per_bar, int first_downbeat = 0) {
    Frames pulse = Frames::Constant(static_cast<Eigen::Index>(Evidence::pulse_frame(beats.back() + 2.0)), kPulseColumns, 0.01F);
    for (std::size_t i = 0; i < beats.size(); ++i) {
        spike(pulse, beats[i], kBeat);
        if ((static_cast<int>(i) - first_downbeat) % per_bar == 0) spike(pulse, beats[i], kDownbeat);
    }
    return pulse;
}

inline std::vector<double> steady_beats(double bpm, int count, double start = 0.6) {
    std::vector<double> out;
    for (int i = 0; i < count; ++i) out.push_back(start + i * 60.0 / bpm);
    return out;
}

/// Over the time the truth covers: the tracker goes on counting into the silence, and the analysis trims that.
inline double f_measure(const std::vector<double>& truth, std::vector<double> found, double tolerance) {
    std::erase_if(found, [&](double f) { return f > truth.back() + 0.1 || f < truth.front() - 0.1; });
    std::size_t hits = 0;
    for (const double t : truth)
        for (const double f : found)
            if (std::abs(t - f) <= tolerance) {
                ++hits;
                break;
            }
    return 2.0 * static_cast<double>(hits) / static_cast<double>(truth.size() + found.size());
}

inline Evidence silent_evidence(double seconds) {
    Evidence e;
    e.duration_s = seconds;
    const auto frames = static_cast<std::size_t>(Evidence::pitch_frame(seconds)) + 1;
    for (ByteGrid* g : {&e.sounding, &e.onset, &e.bass_sounding, &e.bass_onset, &e.lead_sounding, &e.lead_onset, &e.level})
        *g = ByteGrid(frames, Evidence::kPitches);
    e.pulse = Frames::Constant(static_cast<Eigen::Index>(Evidence::pulse_frame(seconds)) + 1, kPulseColumns, 0.01F);
    e.bands = Frames::Constant(e.pulse.rows(), 3, 0.2F);
    return e;
}

inline void sound(ByteGrid& sounding, ByteGrid& onset, double start_s, double end_s, int pitch, float strength = 0.9F) {
    const auto column = static_cast<std::size_t>(pitch - Evidence::kLowestPitch);
    const auto a = static_cast<std::size_t>(std::lround(Evidence::pitch_frame(start_s))), b = static_cast<std::size_t>(Evidence::pitch_frame(end_s));
    for (std::size_t f = a; f < b && f < sounding.frames(); ++f) sounding.set(f, column, strength);
    onset.set(a, column, strength);
    if (a > 0) onset.set(a - 1, column, 0.3F);
    onset.set(a + 1, column, 0.3F);
}

inline void play(Evidence& e, double start_s, double end_s, int pitch, float strength = 0.9F) {
    sound(e.sounding, e.onset, start_s, end_s, pitch, strength);
    const auto end = std::min(e.level.frames(), static_cast<std::size_t>(Evidence::pitch_frame(end_s)));
    for (auto f = static_cast<std::size_t>(Evidence::pitch_frame(start_s)); f < end; ++f)
        e.level.set(f, static_cast<std::size_t>(pitch - Evidence::kLowestPitch), 0.7F);
    spike(e.pulse, start_s, kPitchedOnset, strength);
}

inline std::vector<Beat> four_four(double bpm, int bars, double start = 0.5) {
    std::vector<Beat> out;
    for (int i = 0; i < bars * 4; ++i) out.push_back({start + i * 60.0 / bpm, i / 4 + 1, i % 4 + 1});
    return out;
}

}  // namespace fw::test
