// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "dsp/fft.hpp"
#include "engine/share.hpp"

#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace fw {

/// What a mask on short spectra lets through.
enum class Mask { Tonal, Percussive, Centre, Sides, Share };

/// Short spectra of a stereo sound, each bin weighed by a mask of 0 to 1, the same on both sides, and put together again.
///
/// Tonal and percussive: what lasts against what is spread over frequency, by medians along time and frequency (Fitzgerald, "Harmonic/percussive separation
/// using median filtering", DAFx 2010), with little to look ahead. Centre and sides: how alike both channels are in a bin (Avendano & Jot, "A frequency-domain
/// approach to multichannel upmix", JAES 2004). Share: the part of the power that an element's notes have in a model of all notes.
///
/// Real time: set(), reset() and process() neither allocate, lock nor throw. Threads: one at a time.
class SpectralLens {
public:
    SpectralLens(std::size_t size, double sample_rate_hz);
    void set(Mask mask, const Share* share) noexcept;
    void reset() noexcept;
    /// In place; frame: where the first sample lies in the recording.
    void process(std::span<float> left, std::span<float> right, std::int64_t frame) noexcept;
    /// By how many frames what comes out lags.
    std::size_t latency_frames() const noexcept;

private:
    static constexpr std::size_t kLong = 17, kAhead = 4;  ///< spectra along time, and how many of them lie ahead
    using Spectrum = std::vector<std::complex<float>>;
    void take_spectrum(std::int64_t centre) noexcept;
    void make_mask(std::size_t slot, std::int64_t centre) noexcept;
    void mask_of_share(std::int64_t centre) noexcept;
    bool looks_ahead() const noexcept { return mask_ == Mask::Tonal || mask_ == Mask::Percussive; }

    std::size_t size_, hop_;
    double rate_;
    RealFft forward_;
    InverseRealFft back_;
    std::unique_ptr<float[]> window_;
    Mask mask_ = Mask::Centre;
    const Share* share_ = nullptr;
    std::array<std::vector<float>, 2> heard_, sum_;  ///< rings
    std::array<std::vector<Spectrum>, 2> spectra_;   ///< per side the last kLong
    std::vector<std::vector<float>> magnitude_;      ///< the last kLong, both sides together
    std::vector<float> weights_, mine_, others_;
    std::size_t at_ = 0, spectrum_ = 0;
};

}  // namespace fw
