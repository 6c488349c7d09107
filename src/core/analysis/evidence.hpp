// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"
#include "base/progress.hpp"
#include "dsp/constant_q.hpp"
#include "dsp/constants.hpp"
#include "dsp/frames.hpp"
#include "dsp/mel.hpp"

#include <cstdint>
#include <functional>
#include <optional>
#include <vector>

namespace fw {

/// How far a recording lies above A4 = 440 Hz.
struct Tuning {
    double cents = 0.0;
    double confidence = 0.0;
    double drift_cents = 0.0;  ///< how far the last third lies above the first
    double a4_hz() const;
};

/// What was heard in the reference, before anyone decided anything: probabilities on grids of time.
///
/// Pulse frames are MelSpectra::kHop samples apart, pitch frames ConstantQ::kHop; see pulse_time and pitch_time.
/// Grids over pitch have 88 columns, MIDI pitch 21 first. Immutable once made; shared between threads.
struct Evidence {
    static constexpr int kLowestPitch = 21;
    static constexpr int kPitches = 88;

    Tuning tuning;
    double duration_s = 0.0;
    Frames pulse;      ///< frames × kPulseColumns
    Frames bands;      ///< pulse frames × 3: level of lows, mids and highs, log scale 0..1
    ByteGrid spectra;  ///< pulse frames × MelSpectra::kBands: the long window's bands, log10(1 + 10⁴·power) / 4
    ByteGrid sounding, onset, bass_sounding, bass_onset, lead_sounding, lead_onset;
    ByteGrid level;  ///< pitch frames × 88: spectrum level at each pitch, log scale 0..1

    std::size_t pulse_frames() const { return static_cast<std::size_t>(pulse.rows()); }
    std::size_t pitch_frames() const { return level.frames(); }
    static double pulse_time(double frame) { return frame * MelSpectra::kHop / kAnalysisRate; }
    static double pitch_time(double frame) { return frame * ConstantQ::kHop / kAnalysisRate; }
    static double pulse_frame(double time_s) { return time_s * kAnalysisRate / MelSpectra::kHop; }
    static double pitch_frame(double time_s) { return time_s * kAnalysisRate / ConstantQ::kHop; }
    /// When a stroke of a pitch is heard most clearly within a time of another; nothing where none is heard at three in ten or more.
    std::optional<double> onset_near(int pitch, double time_s, double within_s) const;
    /// A grid's mean over start_s..end_s at one pitch column (nearest frames, at least one).
    float mean(const ByteGrid& grid, double start_s, double end_s, int pitch) const;
};

/// Measures the tuning from the peaks of long spectra, each peak voting with its distance from the nearest semitone
/// (circular mean, as in Dressler & Streich, "Tuning frequency estimation using circular statistics", ISMIR 2007).
/// At most 400 spectra spread over the signal are looked at, so the cost does not grow with length.
Tuning measure_tuning(const MonoSignal& signal, const Progress& progress = {});

/// Runs both networks over a recording, piece by piece on all cores. Throws Cancelled. pulse_heard is called once the evidence of
/// beats and drums is there, in about a fifth of the time the whole takes; pitch evidence is still empty then.
Evidence hear(const MonoSignal& signal, const Progress& progress, const std::function<void(const Evidence&)>& pulse_heard = {});

}  // namespace fw
