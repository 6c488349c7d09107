// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "dsp/frames.hpp"

#include <memory>
#include <span>

namespace fw {

/// Constant-Q magnitudes on a scale of a third of a semitone, by spectral kernels
/// (Brown & Puckette, "An efficient algorithm for the calculation of a constant Q transform", JASA 1992).
///
/// Column 3·(p−21)+1 is centred on MIDI pitch p at the given tuning; columns below and above it lie 33 cents off.
/// Windows shrink with frequency and are capped at kLongestWindow, so that the lowest notes stay placed in time; there
/// the resolution is that of the window, not a third of a semitone. Values are log10(1 + 300·amplitude).
/// Frame f is centred on sample f·hop of a signal at 22 050 Hz. Pure after construction; thread-safe.
class ConstantQ {
public:
    static constexpr int kHop = 512;
    static constexpr int kLowestPitch = 21;
    static constexpr int kPitches = 100;
    static constexpr int kBinsPerSemitone = 3;
    static constexpr int kBins = kPitches * kBinsPerSemitone;
    static constexpr int kFftSize = 8192;
    static constexpr int kLongestWindow = 8192;

    /// tuning_cents: how far the recording lies above A4 = 440 Hz.
    explicit ConstantQ(double tuning_cents);
    ~ConstantQ();

    /// Frames first .. first+count-1 of a signal; outside the signal there is silence.
    Frames analyse(std::span<const float> signal, std::ptrdiff_t first, std::size_t count) const;

private:
    struct Kernel;
    std::unique_ptr<Kernel> kernel_;
};

}  // namespace fw
