// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/pitch.hpp"
#include "dsp/constant_q.hpp"
#include "dsp/constants.hpp"
#include "dsp/fft.hpp"
#include "dsp/mel.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>

namespace fw {

namespace {
std::vector<float> sine_at(double hz, double seconds, float level = 0.5F) { return test::sine(hz, seconds, static_cast<int>(kAnalysisRate), 1, level).samples; }
}  // namespace

TEST(RealFftTest, ASineStandsInItsBinAtHalfTheSize) {
    RealFft fft(1024);
    for (std::size_t i = 0; i < 1024; ++i) fft.input()[i] = static_cast<float>(std::sin(2.0 * std::numbers::pi * 32.0 * static_cast<double>(i) / 1024.0));
    const auto out = fft.transform();
    EXPECT_NEAR(std::abs(out[32]), 512.0F, 0.01F);
    EXPECT_NEAR(std::abs(out[40]), 0.0F, 0.01F);
}

TEST(ConstantQTest, EveryPitchPeaksInItsOwnColumnAtItsAmplitude) {
    const ConstantQ transform(0.0);
    for (int pitch = 40; pitch < 108; pitch += 7) {
        const Frames f = transform.analyse(sine_at(hertz_of(pitch), 1.5), 32, 1);
        Eigen::Index column = 0;
        const float top = f.row(0).maxCoeff(&column);
        EXPECT_EQ(column, 3 * (pitch - ConstantQ::kLowestPitch) + 1) << pitch;
        EXPECT_NEAR(top, std::log10(1.0F + 300.0F * 0.5F), 0.05F) << pitch;
    }
}

TEST(ConstantQTest, FollowsTheTuningItIsGiven) {
    const ConstantQ tuned(31.0);
    const Frames f = tuned.analyse(sine_at(hertz_of(69) * std::exp2(31.0 / 1200), 1.5), 32, 1);
    EXPECT_GT(f(0, 3 * 48 + 1), f(0, 3 * 48 + 2) + 0.1F);
    EXPECT_NEAR(f(0, 3 * 48), f(0, 3 * 48 + 2), 0.05F) << "its neighbours are alike: it stands in the middle";
}

TEST(ConstantQTest, OutsideTheSignalThereIsSilence) {
    const ConstantQ transform(0.0);
    const auto signal = sine_at(440, 1.0);
    const Frames f = transform.analyse(signal, 200, 3);
    EXPECT_EQ(f.maxCoeff(), 0.0F);
    EXPECT_EQ(transform.analyse(std::span<const float>(), 0, 2).maxCoeff(), 0.0F);
}

TEST(MelSpectraTest, PlacesAClickOnItsFrame) {
    std::vector<float> signal(44100, 0.0F);
    signal[100 * MelSpectra::kHop] = 1.0F;
    const Frames f = MelSpectra::analyse(signal, 90, 20);
    Eigen::Index row = 0;
    f.leftCols(MelSpectra::kBands).rowwise().sum().maxCoeff(&row);
    EXPECT_EQ(row, 10);
    EXPECT_TRUE(f.allFinite());
}

}  // namespace fw
