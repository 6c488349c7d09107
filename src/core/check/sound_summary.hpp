// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace fw {

/// What is compared of a sound as a whole.
struct SoundSummary {
    /// Points in each mean spectrum; the bins are sample_rate_hz / kSize apart.
    static constexpr std::size_t kSize = 8192;

    int sample_rate_hz = 0;
    double duration_s = 0.0;
    double lufs = -70.0;            ///< integrated loudness (ITU-R BS.1770-4), -70 for silence
    std::vector<double> mid, side;  ///< mean power per bin, a full-scale sine reading about 1

    /// Power between two frequencies; a bin counts by the share of it that lies in the band.
    static double between(const std::vector<double>& power, double sample_rate_hz, double low_hz, double high_hz);
};

/// Makes a SoundSummary of sound that comes block by block, one or two channels interleaved. Memory does not grow with length.
/// At most about 600 spectra are taken, spread over the frames that were announced: the mean of more tells nothing new. Not thread-safe.
class SoundMeter {
public:
    /// frames: how many will come, at least about; they only set how far the spectra lie apart.
    SoundMeter(int sample_rate_hz, int channels, std::int64_t frames);
    ~SoundMeter();
    SoundMeter(SoundMeter&&) noexcept;
    SoundMeter& operator=(SoundMeter&&) noexcept;
    void add(std::span<const float> interleaved);
    /// Of all that was added; to be asked once.
    SoundSummary summary();

private:
    struct State;
    std::unique_ptr<State> state_;
};

SoundSummary summarise(const Audio& audio);

/// Mean spectrum in third octaves from 25 Hz to 16 kHz (IEC 61260 centres), dB relative to full scale.
std::vector<double> third_octaves_db(const SoundSummary& summary);
const std::vector<double>& third_octave_centers_hz();

}  // namespace fw
