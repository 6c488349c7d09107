// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/network.hpp"

#include "analysis/weights.hpp"
#include "dsp/constant_q.hpp"
#include "dsp/mel.hpp"

#include <array>
#include <cassert>
#include <cstring>

namespace fw {

namespace {

constexpr int kPitches = 88;
// Training weighs positives up (training/train.py, loss_of), which shifts logits by the logarithm of the weight; taking that
// off again gives probabilities that mean what they say.
const std::array<float, kPulseColumns> kPulseWeight{4, 4, 4, 4, 4, 4, 4, 4, 4, 3, 6};
const std::array<float, kPitchPlanes> kPitchWeight{2, 6, 3, 8, 3, 8};

// Thirds of a semitone to half, 1, 2, 3, 4, 5, 6 and 7 times a frequency; the same list as in training/networks.py.
constexpr std::array<int, 8> kHarmonicShifts{-36, 0, 36, 57, 72, 84, 93, 101};

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
        layer.taps.assign(static_cast<std::size_t>(layer.width), Frames(layer.outputs, layer.height * layer.inputs));
        for (int o = 0; o < layer.outputs; ++o)
            for (int i = 0; i < layer.inputs; ++i)
                for (int h = 0; h < layer.height; ++h)
                    for (int w = 0; w < layer.width; ++w) layer.taps[static_cast<std::size_t>(w)](o, h * layer.inputs + i) = read_half(at);
        layer.bias.resize(layer.outputs);
        for (int o = 0; o < layer.outputs; ++o) layer.bias[o] = read_half(at);
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
    // One copy with silence around it lets every tap be a plain block of a matrix.
    Frames padded = Frames::Zero(Eigen::Index{in.channels} * (in.heights + 2 * options.pad), frames + 2 * reach);
    padded.block(Eigen::Index{options.pad} * in.channels, reach, in.rows.rows(), frames) = in.rows;
    Tensor out(layer.outputs, (in.heights + 2 * options.pad - layer.height) / options.stride + 1, frames);
    for (int h = 0; h < out.heights; ++h) {
        auto target = out.rows.middleRows(Eigen::Index{h} * layer.outputs, layer.outputs);
        target.colwise() = layer.bias;
        for (int w = 0; w < layer.width; ++w)
            target.noalias() += layer.taps[static_cast<std::size_t>(w)] *
                                padded.block(Eigen::Index{h} * options.stride * in.channels, Eigen::Index{w} * options.dilation, Eigen::Index{layer.height} * in.channels, frames);
        if (options.rectify) target = target.cwiseMax(0.0F);
    }
    return out;
}

Frames run_pulse_network(const Frames& mel) {
    const auto& net = pulse_network();
    Tensor x(2, MelSpectra::kBands, mel.rows());
    for (int b = 0; b < MelSpectra::kBands; ++b)
        for (int c = 0; c < 2; ++c) x.rows.row(b * 2 + c) = mel.col(c * MelSpectra::kBands + b).transpose() / 4.0F;
    std::size_t l = 0;
    x = convolve(net[l++], x, {1, 1});
    for (int i = 0; i < 3; ++i) x = convolve(net[l++], x, {2, 1});
    // The squeeze sees channel-major features, as PyTorch flattens them; here frequencies come first, so reorder once.
    Tensor flat(x.channels * x.heights, 1, x.frames());
    for (int h = 0; h < x.heights; ++h)
        for (int c = 0; c < x.channels; ++c) flat.rows.row(c * x.heights + h) = x.rows.row(h * x.channels + c);
    const Tensor squeezed = convolve(net[l++], flat, {});
    Tensor hits = squeezed;
    for (int i = 0; i < 2; ++i) hits.rows += convolve(net[l++], hits, {}).rows;
    const Tensor hit_out = convolve(net[l++], hits, {1, 0, 1, false});
    Tensor pulse = squeezed;
    for (int dilation = 1; l + 1 < net.size(); dilation *= 2) pulse.rows += convolve(net[l++], pulse, {1, 0, dilation}).rows;
    const Tensor beat_out = convolve(net[l], pulse, {1, 0, 1, false});
    Frames out(mel.rows(), kPulseColumns);
    for (Eigen::Index f = 0; f < out.rows(); ++f) {
        for (int c = 0; c < kPulseColumns; ++c) out(f, c) = sigmoid((c < kBeat ? hit_out.rows(c, f) : beat_out.rows(c - kBeat, f)) - std::log(kPulseWeight[static_cast<std::size_t>(c)]));
    }
    return out;
}

Frames run_pitch_network(const Frames& constant_q) {
    const auto& net = pitch_network();
    const int bins = kPitches * ConstantQ::kBinsPerSemitone, channels = static_cast<int>(kHarmonicShifts.size());
    Tensor x(channels, bins, constant_q.rows());
    for (int b = 0; b < bins; ++b)
        for (int c = 0; c < channels; ++c) {
            const int source = b + kHarmonicShifts[static_cast<std::size_t>(c)];
            if (source >= 0 && source < ConstantQ::kBins) x.rows.row(b * channels + c) = constant_q.col(source).transpose() / 2.5F;
        }
    std::size_t l = 0;
    x = convolve(net[l++], x, {1, 2});
    x = convolve(net[l++], x, {1, 1});
    x = convolve(net[l++], x, {3, 0});
    x.rows += convolve(net[l], x, {1, net[l].height / 2}).rows;
    for (++l; l + 1 < net.size(); ++l) x.rows += convolve(net[l], x, {1, net[l].height / 2}).rows;
    const Tensor out = convolve(net[l], x, {1, 0, 1, false});
    Frames planes(Eigen::Index{kPitchPlanes} * kPitches, out.frames());
    for (int p = 0; p < kPitches; ++p)
        for (int plane = 0; plane < kPitchPlanes; ++plane)
            planes.row(plane * kPitches + p) = out.rows.row(p * kPitchPlanes + plane).array() - std::log(kPitchWeight[static_cast<std::size_t>(plane)]);
    return planes;
}

}  // namespace fw
