// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/network.hpp"

#include "analysis/evidence.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <cstring>
#include <random>

namespace fw {

namespace {

/// A layer of random weights, with the plain list of them beside it.
struct Made {
    Convolution layer;
    std::vector<float> weights;  // out, in, height, width
};
Made random_layer(int out, int in, int height, int width, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<float> normal(0.0F, 0.5F);
    Made m;
    m.layer.outputs = out, m.layer.inputs = in, m.layer.height = height, m.layer.width = width;
    m.layer.weights.resize(static_cast<std::size_t>(out * in * height * width));
    for (int o = 0; o < out; ++o) {
        for (int i = 0; i < in; ++i)
            for (int h = 0; h < height; ++h)
                for (int w = 0; w < width; ++w) {
                    m.weights.push_back(normal(random));
                    m.layer.weights[m.layer.weight_at(o, i, h, w)] = m.weights.back();
                }
        m.layer.bias.push_back(normal(random));
    }
    return m;
}

/// The definition of a convolution, one multiplication at a time.
float by_hand(const Made& m, const Tensor& in, const ConvolveOptions& options, int o, int row, int frame) {
    float sum = m.layer.bias[static_cast<std::size_t>(o)];
    std::size_t at = static_cast<std::size_t>(o) * static_cast<std::size_t>(m.layer.inputs * m.layer.height * m.layer.width);
    for (int i = 0; i < m.layer.inputs; ++i)
        for (int h = 0; h < m.layer.height; ++h)
            for (int w = 0; w < m.layer.width; ++w, ++at) {
                const int y = row * options.stride + h - options.pad, x = frame + (w - m.layer.width / 2) * options.dilation;
                if (y >= 0 && y < in.heights && x >= 0 && x < in.frames()) sum += m.weights[at] * in.rows(y * in.channels + i, x);
            }
    return options.rectify ? std::max(0.0F, sum) : sum;
}

}  // namespace

struct Shape {
    int out, in, height, width, heights, frames;
    ConvolveOptions options;
};
class Convolutions : public testing::TestWithParam<Shape> {};
TEST_P(Convolutions, EqualTheDefinition) {
    const Shape s = GetParam();
    const Made m = random_layer(s.out, s.in, s.height, s.width, 3);
    Tensor in(s.in, s.heights, s.frames);
    std::mt19937 random(9);
    std::normal_distribution<float> normal;
    for (Eigen::Index i = 0; i < in.rows.size(); ++i) in.rows.data()[i] = normal(random);
    const Tensor out = convolve(m.layer, in, s.options);
    ASSERT_EQ(out.frames(), s.frames);
    ASSERT_EQ(out.heights, (s.heights + 2 * s.options.pad - s.height) / s.options.stride + 1);
    for (int row = 0; row < out.heights; ++row)
        for (int o = 0; o < s.out; ++o)
            for (int f = 0; f < s.frames; ++f) ASSERT_NEAR(out.rows(row * s.out + o, f), by_hand(m, in, s.options, o, row, f), 1e-4F);
}
INSTANTIATE_TEST_SUITE_P(All, Convolutions,
                         testing::Values(Shape{3, 2, 3, 3, 7, 11, {1, 1, 1, true}}, Shape{4, 3, 3, 3, 8, 9, {2, 1, 1, true}},
                                         Shape{2, 5, 1, 5, 1, 40, {1, 0, 4, false}}, Shape{3, 2, 3, 1, 9, 6, {3, 0, 1, true}},
                                         Shape{2, 2, 5, 3, 6, 1, {1, 2, 1, false}}, Shape{1, 1, 1, 1, 1, 1, {}}, Shape{7, 3, 3, 5, 6, 53, {2, 1, 2, true}},
                                         Shape{12, 2, 1, 3, 4, 24, {1, 0, 1, false}}));

TEST(NetworkFile, ReadsWhatTheTrainingWrites) {
    // Two outputs, one input, kernel 1×3, in the layout of training/networks.py.
    std::vector<unsigned char> bytes{'F', 'W', 'N', 'N', 1, 0, 0, 0, 1, 0, 0, 0, 2, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 3, 0, 0, 0};
    const auto put = [&](float v) {
        const auto half = Eigen::numext::bit_cast<std::uint16_t>(Eigen::half(v));
        bytes.push_back(static_cast<unsigned char>(half & 255));
        bytes.push_back(static_cast<unsigned char>(half >> 8));
    };
    for (const float v : {1.0F, 2.0F, 3.0F, -1.0F, -2.0F, -3.0F, 0.5F, -0.25F}) put(v);
    const auto layers = load_network(bytes);
    ASSERT_EQ(layers.size(), 1u);
    EXPECT_EQ(layers[0].width, 3);
    EXPECT_EQ(layers[0].weights, (std::vector<float>{1.0F, -1.0F, 2.0F, -2.0F, 3.0F, -3.0F}));
    EXPECT_EQ(layers[0].bias[1], -0.25F);
}

TEST(Networks, HaveTheShapesTheirCallersRelyOn) {
    EXPECT_EQ(pulse_network().front().inputs, 2);
    EXPECT_EQ(pulse_network().back().outputs, 2);
    EXPECT_EQ(pitch_network().front().inputs, 8);
    EXPECT_EQ(pitch_network().back().outputs, static_cast<int>(kPitchPlanes));
}

TEST(Networks, GiveProbabilitiesWhateverComesIn) {
    for (const float level : {0.0F, 1.0F, 4.0F, 100.0F}) {
        const Frames pulse = pulse_of(pulse_front(Frames::Constant(50, 128, level)));
        EXPECT_GE(pulse.minCoeff(), 0.0F);
        EXPECT_LE(pulse.maxCoeff(), 1.0F);
        EXPECT_TRUE(pulse.allFinite());
        EXPECT_TRUE(run_pitch_network(Frames::Constant(20, 300, level), Frames::Constant(40, 128, level)).allFinite());
    }
}

TEST(Hear, WorkingInPiecesChangesNothing) {
    // Long enough for several pieces of both networks; the same passage is heard again on its own, with the pieces elsewhere.
    std::vector<test::Tone> list;
    for (int i = 0; i < 260; ++i) list.push_back({0.3 + i * 0.25, 0.22, 48 + i * 5 % 29});
    const Audio sound = test::tones(list, 66);
    const auto whole = make_mono(sound, "tones");
    ASSERT_TRUE(whole);
    const Evidence all = hear(*whole, {});
    MonoSignal late = *whole;
    const std::ptrdiff_t shift = 20 * 512 * 16;  // whole frames of both kinds
    late.samples.erase(late.samples.begin(), late.samples.begin() + shift);
    Evidence part = hear(late, {});
    const auto pitch_shift = static_cast<std::size_t>(shift / 512);
    float worst = 0;
    for (std::size_t f = 100; f + 100 < part.pitch_frames() && f < 1500; f += 7)
        for (std::size_t p = 0; p < Evidence::kPitches; ++p) worst = std::max(worst, std::abs(part.sounding.at(f, p) - all.sounding.at(f + pitch_shift, p)));
    // The tuning is measured over other passages and may differ by a hair.
    EXPECT_NEAR(part.tuning.cents, all.tuning.cents, 1.0);
    EXPECT_LT(worst, 0.12F);
}

TEST(Hear, NearSilenceHoldsNoNotes) {
    Audio hiss{44100, 1, {}, {}};
    unsigned n = 1;
    for (int i = 0; i < 44100 * 6; ++i) n = n * 1664525u + 1013904223u, hiss.samples.push_back(0.002F * (static_cast<float>(n >> 8) / 8388608.0F - 1.0F));
    const auto mono = make_mono(hiss, "hiss");
    ASSERT_TRUE(mono);
    const Evidence e = hear(*mono, {});
    double sum = 0;
    for (std::size_t f = 0; f < e.pitch_frames(); ++f)
        for (std::size_t p = 0; p < Evidence::kPitches; ++p) sum += e.sounding.at(f, p);
    EXPECT_LT(sum / static_cast<double>(e.pitch_frames()), 1.5) << "notes sounding at once, in the mean";
}

TEST(EvidenceTest, AMeanOutsideTheGridIsZeroAndNeverReadsBeyondIt) {
    Evidence e;
    e.sounding = ByteGrid(10, Evidence::kPitches);
    e.sounding.set(9, 0, 1.0F);
    EXPECT_EQ(e.mean(e.sounding, -5, -4, 21), 0.0F);
    EXPECT_EQ(e.mean(e.sounding, 100, 200, 21), 1.0F) << "the last frame is the nearest";
    EXPECT_EQ(e.mean(e.sounding, 0, 1, 20), 0.0F);
    EXPECT_EQ(e.mean(e.sounding, 0, 1, 109), 0.0F);
    EXPECT_EQ(Evidence().mean(Evidence().sounding, 0, 1, 60), 0.0F);
}

}  // namespace fw
