// SPDX-License-Identifier: GPL-3.0-or-later
// How far two sounds lie apart.
#pragma once

#include "fit/fit_equaliser.hpp"

#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace fw {

/// What makes up the distance of two sounds, each about in decibels.
struct SoundDistance {
    double tone = 0.0;      ///< mean difference of bands of a sixth of an octave, over three spectral resolutions
    double envelope = 0.0;  ///< mean difference of the level, 10 ms by 10 ms
    double pitch = 0.0;     ///< of the sounding pitch: a semitone counts 4, never more than 12; 0 where neither has one
    double total() const { return tone + 0.5 * envelope + pitch; }
};

/// A sound to be compared with many others, looked at once. Level is no difference: both are taken at their own loudest. Spectra with windows of 512, 2048 and
/// 8192 samples (multi-resolution, as in Yamamoto, Song & Kim, "Parallel WaveGAN", ICASSP 2020), bands and levels by their decibels above a floor 60 dB below
/// the loudest, weighed by how loud either sound is there; so that silence and what hides far below weigh little. Comparing is thread-safe; each takes some
/// milliseconds a second of sound.
class SoundTarget {
public:
    /// Mono, at 44.1 kHz. From the sound's first sample on: it has to begin where the other ones begin.
    explicit SoundTarget(std::span<const float> mono);
    ~SoundTarget();
    SoundTarget(SoundTarget&&) noexcept;
    SoundTarget& operator=(SoundTarget&&) noexcept;

    static constexpr double kRate = 44100.0;
    std::size_t frames() const noexcept;
    /// Of a sound as long; what is missing is silence, what is over is left out.
    SoundDistance distance_to(std::span<const float> mono) const;
    /// What it sounds at; nothing where no pitch is clear.
    std::optional<double> pitch_hz() const noexcept;

private:
    struct Look;
    static Look look_at(std::span<const float> mono, std::size_t frames, double near_hz);
    std::unique_ptr<const Look> look_;
};

/// By how much each third octave in which the target has energy (40 dB below its loudest) would have to become louder, of spectra over all of both, levels
/// matched.
std::vector<WantedGain> tone_asked(std::span<const float> sound, std::span<const float> target, double sample_rate_hz);
/// The mean of these, without their signs, dB.
double third_octave_difference_db(std::span<const float> sound, std::span<const float> target, double sample_rate_hz);

}  // namespace fw
