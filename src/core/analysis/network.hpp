// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/progress.hpp"
#include "dsp/frames.hpp"
#include "model/drums.hpp"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <span>
#include <vector>

namespace fw {

/// One convolution of a trained network.
struct Convolution {
    int outputs = 0, inputs = 0, height = 0, width = 0;
    std::vector<float> weights;  ///< see weight_at
    std::vector<float> bias;     ///< one an output

    static constexpr int kTogether = 6;  ///< outputs whose weights lie side by side, because they are summed up together
    /// Where the weight of an output for an input at a step of the kernel's height and width lies.
    std::size_t weight_at(int output, int input, int height_step, int width_step) const {
        const int first = output / kTogether * kTogether, together = outputs - first < kTogether ? outputs - first : kTogether;
        return static_cast<std::size_t>(first * inputs * height * width + ((width_step * height + height_step) * inputs + input) * together + output - first);
    }
};

/// The convolutions of a network in the order training/networks.py exports them. Immutable and thread-safe once loaded.
/// The weights are part of the program, so loading cannot fail but by a programmer's mistake.
std::vector<Convolution> load_network(std::span<const unsigned char> bytes);
const std::vector<Convolution>& pulse_network();
const std::vector<Convolution>& pitch_network();

/// Values on a grid of channels × frequencies × time. Row f·channels+c holds channel c at frequency f.
struct Tensor {
    int channels = 0, heights = 0;
    Frames rows;  ///< (heights·channels) × frames

    Tensor() = default;
    Tensor(int channels_, int heights_, Eigen::Index frames)
        : channels(channels_), heights(heights_), rows(Frames::Zero(Eigen::Index{channels_} * heights_, frames)) {}
    Eigen::Index frames() const { return rows.cols(); }

    /// One whose cells are all about to be written.
    static Tensor unset(int channels, int heights, Eigen::Index frames) {
        Tensor t;
        t.channels = channels;
        t.heights = heights;
        t.rows.resize(Eigen::Index{channels} * heights, frames);
        return t;
    }
};

struct ConvolveOptions {
    int stride = 1;    ///< in frequency
    int pad = 0;       ///< zero rows below and above
    int dilation = 1;  ///< in time; time is always padded so that the length stays
    bool rectify = true;
};

/// Applies one convolution. Cost: outputs·inputs·height·width multiplications per cell.
Tensor convolve(const Convolution& layer, const Tensor& in, const ConvolveOptions& options);

/// Columns of the pulse network's result: the drums first, in the order of DrumKind.
enum PulseColumn {
    kKick = static_cast<int>(DrumKind::Kick),
    kSnare = static_cast<int>(DrumKind::Snare),
    kClap = static_cast<int>(DrumKind::Clap),
    kRim = static_cast<int>(DrumKind::Rim),
    kHatClosed = static_cast<int>(DrumKind::HatClosed),
    kHatOpen = static_cast<int>(DrumKind::HatOpen),
    kTom = static_cast<int>(DrumKind::Tom),
    kCrash = static_cast<int>(DrumKind::Crash),
    kRide = static_cast<int>(DrumKind::Ride),
    kPercussion = static_cast<int>(DrumKind::Percussion),
    kPitchedOnset = kDrumKinds,
    kBeat,
    kDownbeat,
    kPulseColumns
};
/// Planes of the pitch network's result.
enum PitchPlane { kSounding, kOnset, kBassSounding, kBassOnset, kLeadSounding, kLeadOnset, kPitchPlanes };

/// The pulse network in two parts, because the second looks far in time and the first, which costs most, does not.
/// The first: features (channels × frames) from mel spectra (frames × 128); a frame sees kPulseFrontSight frames to each side.
Tensor pulse_front(const Frames& mel);
int pulse_feature_count();
inline constexpr int kPulseFrontSight = 4;
/// Both networks look between layers whether they were cancelled (progress) and then throw Cancelled.
/// The second: probabilities (frames × kPulseColumns) from features; a frame sees kPulseSight frames to each side.
Frames pulse_of(const Tensor& features, const Progress& progress = {});
inline constexpr int kPulseSight = 1022;
/// Logits per constant-Q frame from constant-Q (frames × 300) and mel spectra (2·frames × 128) of the same stretch; result rows are
/// plane·88+pitch−21, columns frames.
Frames run_pitch_network(const Frames& constant_q, const Frames& mel, const Progress& progress = {});

inline float sigmoid(float x) noexcept { return 1.0F / (1.0F + std::exp(-x)); }
/// The inverse of sigmoid, held within ±5.5 so that no single piece of evidence settles a sum.
inline float log_odds(float p) noexcept {
    p = std::clamp(p, 0.004F, 0.996F);
    return std::log(p / (1.0F - p));
}

}  // namespace fw
