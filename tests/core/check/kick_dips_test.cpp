// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/kick_dips.hpp"

#include "support/ducked_song.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

namespace {

constexpr double kRate = test::kDuckedRate;

std::vector<double> beats() {
    std::vector<double> out;
    for (int k = 0; k < 32; ++k) out.push_back(0.5 * k);
    return out;
}

}  // namespace

TEST(KickDips, DepthAndReleaseOfADuckAreFoundAgain) {
    for (const double depth : {3.0, 6.0, 12.0})
        for (const double release_s : {0.15, 0.3}) {
            const auto dip = kick_dip(test::ducked_song(depth, release_s), kRate, beats());
            ASSERT_TRUE(dip) << depth << " dB, " << release_s;
            EXPECT_NEAR(dip->depth_db, depth, 0.15 * depth + 0.3);
            EXPECT_NEAR(dip->release_s, release_s, 0.3 * release_s);
            EXPECT_GE(dip->strokes, 28);
        }
}

TEST(KickDips, NoneIsToldWhereThereIsNone) {
    EXPECT_FALSE(kick_dip(test::ducked_song(0.0, 0.2), kRate, beats())) << "a kick over what is held";
    EXPECT_FALSE(kick_dip(test::ducked_song(0.0, 0.2, false, 40.0), kRate, beats())) << "what is struck with each kick and dies away";
    EXPECT_FALSE(kick_dip(std::vector<float>(44100 * 16, 0.0F), kRate, beats())) << "silence";
    EXPECT_FALSE(kick_dip(test::ducked_song(6.0, 0.2), kRate, {1.0, 2.0, 3.0})) << "too few strokes to say";
    EXPECT_FALSE(kick_dip(test::ducked_song(6.0, 0.2), kRate, {}));
    EXPECT_FALSE(kick_dip({}, kRate, beats()));
}

TEST(KickDips, AreMeasuredSectionBySectionAtTheKicksThatAreWritten) {
    // The small remake's kicks are on the first and third beat, a second apart, from half a second on; ducked with them is only the second half.
    Remake r = test::small_remake();
    const std::vector<float> plain = test::ducked_song(0.0, 0.2), ducked = test::ducked_song(6.0, 0.2);
    Audio original{44100, 1, std::vector<float>(44100 * 17, 0.0F), {}};
    const auto half = static_cast<std::size_t>(44100 * 8.5);
    for (std::size_t i = 0; i < plain.size(); ++i) original.samples[i + 22050] = i + 22050 < half ? plain[i] : ducked[i];
    const auto dips = kick_dips(r, original);
    ASSERT_EQ(dips.size(), 1u);
    EXPECT_EQ(dips[0].first, r.song->sections[1].id);
    EXPECT_NEAR(dips[0].second.depth_db, 6.0, 1.2);
    // Without drums there is no kick to go by.
    Remake none = r;
    std::erase_if(none.parts, [](const auto& p) { return p->role == PartRole::Drums; });
    EXPECT_TRUE(kick_dips(none, original).empty());
    EXPECT_TRUE(kick_dips(r, Audio{}).empty());
}

}  // namespace fw
