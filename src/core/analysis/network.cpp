// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/network.hpp"

#include "analysis/weights.hpp"
#include "dsp/constant_q.hpp"
#include "dsp/mel.hpp"

#include <immintrin.h>
#include <algorithm>
#include <array>
#include <cassert>
#include <cstring>
#include <limits>
#include <type_traits>

namespace fw {

namespace {

constexpr int kPitches = 88;
constexpr int kFarDilation = 6;
constexpr std::size_t kFrontLayers = 4;
// Training weighs positives up (training/train.py, loss_of), which shifts logits by the logarithm of the weight; taking that
// off again gives probabilities that mean what they say.
const std::array<float, kPulseColumns> kPulseWeight{4, 4, 8, 8, 4, 8, 6, 8, 6, 6, 4, 3, 6};
const std::array<float, kPitchPlanes> kPitchWeight{2, 6, 3, 8, 3, 8};

// Thirds of a semitone to half, 1, 2, 3, 4, 5, 6 and 7 times a frequency; the same list as in training/networks.py.
constexpr std::array<int, 8> kHarmonicShifts{-36, 0, 36, 57, 72, 84, 93, 101};

/// Centres of mel bands lie evenly between these (see MelSpectra); the band nearest below a frequency, -1 above the last.
int mel_band_of(double hz) {
    const auto mel = [](double f) { return 2595.0 * std::log10(1.0 + f / 700.0); };
    const int band = static_cast<int>(std::floor((mel(hz) - mel(30.0)) / (mel(11000.0) - mel(30.0)) * (MelSpectra::kBands + 1) - 0.5));
    return band < MelSpectra::kBands ? std::max(band, 0) : -1;
}

std::uint32_t read_u32(const unsigned char*& at) {
    std::uint32_t v = 0;
    std::memcpy(&v, at, 4);
    at += 4;
    return v;
}

float read_half(const unsigned char*& at) {
    std::uint16_t bits = 0;
    std::memcpy(&bits, at, 2);
    at += 2;
    return static_cast<float>(Eigen::numext::bit_cast<Eigen::half>(bits));
}

// Sums of six outputs over sixteen frames stay in registers while all weights pass by: twelve of the sixteen registers hold sums. Weights and
// input lie in memory in the order they are read.
constexpr int kLanes = 8, kVectors = 2, kTile = kLanes * kVectors;

struct Window {
    Eigen::Index row_stride;  // floats from one input row to the next
    int depth, width, dilation;
};

template <int kOutputs>
void tile(const Convolution& layer, int first_output, const Window& window, const float* rows, float* out, Eigen::Index out_stride, int count, bool rectify) {
    // Unrolled by hand of the compiler, or the sums would live in memory.
    __m256 sum[kOutputs][kVectors];
#pragma GCC unroll 6
    for (int o = 0; o < kOutputs; ++o) sum[o][0] = sum[o][1] = _mm256_set1_ps(layer.bias[static_cast<std::size_t>(first_output + o)]);
    const float* weights = layer.weights.data() + layer.weight_at(first_output, 0, 0, 0);
    for (int w = 0; w < window.width; ++w) {
        const float* row = rows + Eigen::Index{w} * window.dilation;
        for (int k = 0; k < window.depth; ++k, row += window.row_stride, weights += kOutputs) {
            const __m256 early = _mm256_loadu_ps(row), late = _mm256_loadu_ps(row + kLanes);
#pragma GCC unroll 6
            for (int o = 0; o < kOutputs; ++o) {
                const __m256 weight = _mm256_broadcast_ss(weights + o);
                sum[o][0] = _mm256_fmadd_ps(weight, early, sum[o][0]);
                sum[o][1] = _mm256_fmadd_ps(weight, late, sum[o][1]);
            }
        }
    }
    const __m256 floor = _mm256_set1_ps(rectify ? 0.0F : -std::numeric_limits<float>::infinity());
#pragma GCC unroll 6
    for (int o = 0; o < kOutputs; ++o) {
        const __m256 early = _mm256_max_ps(sum[o][0], floor), late = _mm256_max_ps(sum[o][1], floor);
        float* const target = out + o * out_stride;
        if (count == kTile) {
            _mm256_storeu_ps(target, early);
            _mm256_storeu_ps(target + kLanes, late);
        } else {
            alignas(32) float result[kTile];
            _mm256_store_ps(result, early);
            _mm256_store_ps(result + kLanes, late);
            std::memcpy(target, result, static_cast<std::size_t>(count) * sizeof(float));
        }
    }
}

}  // namespace

std::vector<Convolution> load_network(std::span<const unsigned char> bytes) {
    const unsigned char* at = bytes.data();
    assert(bytes.size() > 12 && std::memcmp(at, "FWNN", 4) == 0);
    at += 8;
    std::vector<Convolution> layers(read_u32(at));
    for (auto& layer : layers) {
        layer.outputs = static_cast<int>(read_u32(at));
        layer.inputs = static_cast<int>(read_u32(at));
        layer.height = static_cast<int>(read_u32(at));
        layer.width = static_cast<int>(read_u32(at));
        layer.weights.resize(static_cast<std::size_t>(layer.outputs) * static_cast<std::size_t>(layer.inputs * layer.height * layer.width));
        for (int o = 0; o < layer.outputs; ++o)
            for (int i = 0; i < layer.inputs; ++i)
                for (int h = 0; h < layer.height; ++h)
                    for (int w = 0; w < layer.width; ++w) layer.weights[layer.weight_at(o, i, h, w)] = read_half(at);
        layer.bias.resize(static_cast<std::size_t>(layer.outputs));
        for (float& b : layer.bias) b = read_half(at);
    }
    assert(at <= bytes.data() + bytes.size());
    return layers;
}

const std::vector<Convolution>& pulse_network() {
    static const auto network = load_network(pulse_weights());
    return network;
}

const std::vector<Convolution>& pitch_network() {
    static const auto network = load_network(pitch_weights());
    return network;
}

Tensor convolve(const Convolution& layer, const Tensor& in, const ConvolveOptions& options) {
    assert(in.channels == layer.inputs);
    const Eigen::Index frames = in.frames(), reach = Eigen::Index{layer.width / 2} * options.dilation;
    Tensor out = Tensor::unset(layer.outputs, (in.heights + 2 * options.pad - layer.height) / options.stride + 1, frames);
    // Panel by panel, each copied with silence around it, so that no step in time or frequency meets an edge. Where many rows are passed over
    // a panel is as narrow as a tile, so that its rows follow each other in the cache; a single row of frequencies is one panel.
    const Eigen::Index panel = in.heights > 1 ? 3 * kTile : frames;
    Frames copy = Frames::Zero(Eigen::Index{in.channels} * (in.heights + 2 * options.pad), (panel + kTile - 1) / kTile * kTile + 2 * reach);
    auto inside = copy.middleRows(Eigen::Index{options.pad} * in.channels, in.rows.rows());
    const Window window{copy.cols(), layer.height * layer.inputs, layer.width, options.dilation};
    for (Eigen::Index begin = 0; begin < frames; begin += panel) {
        const Eigen::Index end = std::min(frames, begin + panel);
        const Eigen::Index first = std::max<Eigen::Index>(0, begin - reach), last = std::min(frames, end + reach), at = first - begin + reach;
        inside.leftCols(at).setZero();
        inside.middleCols(at, last - first) = in.rows.middleCols(first, last - first);
        inside.rightCols(copy.cols() - at - (last - first)).setZero();
        for (int h = 0; h < out.heights; ++h) {
            const float* const rows = copy.data() + Eigen::Index{h} * options.stride * in.channels * copy.cols();
            float* const target = out.rows.data() + Eigen::Index{h} * layer.outputs * frames;
            for (Eigen::Index f = begin; f < end; f += kTile) {
                const auto count = static_cast<int>(std::min<Eigen::Index>(kTile, end - f));
                const auto block = [&](auto outputs, int o) {
                    tile<outputs>(layer, o, window, rows + f - begin, target + o * frames + f, frames, count, options.rectify);
                };
                int o = 0;
                for (; o + Convolution::kTogether <= layer.outputs; o += Convolution::kTogether)
                    block(std::integral_constant<int, Convolution::kTogether>(), o);
                switch (layer.outputs - o) {
                    case 5: block(std::integral_constant<int, 5>(), o); break;
                    case 4: block(std::integral_constant<int, 4>(), o); break;
                    case 3: block(std::integral_constant<int, 3>(), o); break;
                    case 2: block(std::integral_constant<int, 2>(), o); break;
                    case 1: block(std::integral_constant<int, 1>(), o); break;
                }
            }
        }
    }
    return out;
}

int pulse_feature_count() { return pulse_network()[kFrontLayers].outputs; }

Tensor pulse_front(const Frames& mel) {
    const auto& net = pulse_network();
    const Eigen::Index frames = mel.rows();
    Tensor squeezed = Tensor::unset(pulse_feature_count(), 1, frames);
    // Over short stretches, which stay in the cache.
    constexpr Eigen::Index kStretch = 256;
    for (Eigen::Index begin = 0; begin < frames; begin += kStretch) {
        const Eigen::Index a = std::max<Eigen::Index>(0, begin - kPulseFrontSight), b = std::min(frames, begin + kStretch + kPulseFrontSight),
                           count = std::min(kStretch, frames - begin);
        Tensor x = Tensor::unset(2, MelSpectra::kBands, b - a);
        for (int band = 0; band < MelSpectra::kBands; ++band)
            for (int c = 0; c < 2; ++c) x.rows.row(band * 2 + c) = mel.col(c * MelSpectra::kBands + band).segment(a, b - a).transpose() / 4.0F;
        for (std::size_t l = 0; l < kFrontLayers; ++l) x = convolve(net[l], x, {l == 0 ? 1 : 2, 1});
        // The squeeze sees channel-major features, as PyTorch flattens them; here frequencies come first, so reorder once.
        Tensor flat = Tensor::unset(x.channels * x.heights, 1, count);
        for (int h = 0; h < x.heights; ++h)
            for (int c = 0; c < x.channels; ++c) flat.rows.row(c * x.heights + h) = x.rows.row(h * x.channels + c).segment(begin - a, count);
        squeezed.rows.middleCols(begin, count) = convolve(net[kFrontLayers], flat, {}).rows;
    }
    return squeezed;
}

Frames pulse_of(const Tensor& squeezed, const Progress& progress) {
    const auto& net = pulse_network();
    std::size_t l = kFrontLayers + 1;
    Tensor hits = squeezed;
    for (int i = 0; i < 2; ++i) hits.rows += convolve(net[l++], hits, {}).rows;
    const Tensor hit_out = convolve(net[l++], hits, {1, 0, 1, false});
    Tensor pulse = squeezed;
    for (int dilation = 1; l + 1 < net.size(); dilation *= 2) {
        progress.checkpoint();
        pulse.rows += convolve(net[l++], pulse, {1, 0, dilation}).rows;
    }
    const Tensor beat_out = convolve(net[l], pulse, {1, 0, 1, false});
    Frames out(squeezed.frames(), kPulseColumns);
    for (Eigen::Index f = 0; f < out.rows(); ++f) {
        for (int c = 0; c < kPulseColumns; ++c)
            out(f, c) = sigmoid((c < kBeat ? hit_out.rows(c, f) : beat_out.rows(c - kBeat, f)) - std::log(kPulseWeight[static_cast<std::size_t>(c)]));
    }
    return out;
}

Frames run_pitch_network(const Frames& constant_q, const Frames& mel, const Progress& progress) {
    assert(mel.rows() == 2 * constant_q.rows());
    const auto& net = pitch_network();
    const Eigen::Index frames = constant_q.rows();
    const int bins = kPitches * ConstantQ::kBinsPerSemitone, channels = static_cast<int>(kHarmonicShifts.size());
    Tensor x(channels, bins, frames);
    for (int b = 0; b < bins; ++b)
        for (int c = 0; c < channels; ++c) {
            const int source = b + kHarmonicShifts[static_cast<std::size_t>(c)];
            if (source >= 0 && source < ConstantQ::kBins) x.rows.row(b * channels + c) = constant_q.col(source).transpose() / 2.5F;
        }
    // The mel spectra twice: whole, and at 1, 2 and 4 times the frequency of each pitch; the two halves of a frame side by side.
    Tensor whole(4 * MelSpectra::kBands, 1, frames), partials(12, kPitches, frames);
    for (int half = 0; half < 2; ++half)
        for (int band = 0; band < 2 * MelSpectra::kBands; ++band)
            for (Eigen::Index f = 0; f < frames; ++f) whole.rows(half * 2 * MelSpectra::kBands + band, f) = mel(2 * f + half, band) / 4.0F;
    for (int p = 0; p < kPitches; ++p)
        for (int k = 0; k < 3; ++k) {
            const int band = mel_band_of(440.0 * std::exp2((p + 21 - 69) / 12.0) * (1 << k));
            for (int view = 0; band >= 0 && view < 4; ++view) partials.rows.row(p * 12 + k * 4 + view) = whole.rows.row(view * MelSpectra::kBands + band);
        }
    std::size_t l = 0;
    x = convolve(net[l++], x, {1, 2});
    x = convolve(net[l++], x, {1, 1});
    progress.checkpoint();
    x = convolve(net[l++], x, {3, 0, 1, false});
    const Tensor everywhere = convolve(net[l++], whole, {1, 0, 1, false});
    x.rows += convolve(net[l++], partials, {1, 0, 1, false}).rows;
    for (int p = 0; p < kPitches; ++p) x.rows.middleRows(Eigen::Index{p} * x.channels, x.channels) += everywhere.rows;
    x.rows = x.rows.cwiseMax(0.0F);
    for (; l + 2 < net.size(); ++l) {
        progress.checkpoint();
        x.rows += convolve(net[l], x, {1, net[l].height / 2}).rows;
    }
    x.rows += convolve(net[l++], x, {1, 0, kFarDilation}).rows;
    const Tensor out = convolve(net[l], x, {1, 0, 1, false});
    Frames planes(Eigen::Index{kPitchPlanes} * kPitches, out.frames());
    for (int p = 0; p < kPitches; ++p)
        for (int plane = 0; plane < kPitchPlanes; ++plane)
            planes.row(plane * kPitches + p) = out.rows.row(p * kPitchPlanes + plane).array() - std::log(kPitchWeight[static_cast<std::size_t>(plane)]);
    return planes;
}

}  // namespace fw
