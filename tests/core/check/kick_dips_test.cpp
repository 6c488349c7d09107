// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/kick_dips.hpp"

#include "model/edits.hpp"
#include "support/ducked_song.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <algorithm>

namespace fw {

namespace {

constexpr double kRate = test::kDuckedRate;

std::vector<double> beats() {
    std::vector<double> out;
    for (int k = 0; k < 32; ++k) out.push_back(0.5 * k);
    return out;
}

std::optional<KickDip> kick_dip(std::span<const float> mono, const std::vector<double>& strokes_s) {
    const auto after = after_strokes(mono, kRate, strokes_s);
    return after ? after->dip : std::nullopt;
}

}  // namespace

TEST(KickDips, DepthAndReleaseOfADuckAreFoundAgain) {
    for (const double depth : {3.0, 6.0, 12.0})
        for (const double release_s : {0.15, 0.3}) {
            const auto dip = kick_dip(test::ducked_song(depth, release_s), beats());
            ASSERT_TRUE(dip) << depth << " dB, " << release_s;
            EXPECT_NEAR(dip->depth_db, depth, 0.15 * depth + 0.3);
            EXPECT_NEAR(dip->release_s, release_s, 0.3 * release_s);
            EXPECT_GE(dip->strokes, 28);
        }
}

TEST(KickDips, NoneIsToldWhereThereIsNone) {
    EXPECT_FALSE(kick_dip(test::ducked_song(0.0, 0.2), beats())) << "a kick over what is held";
    EXPECT_FALSE(kick_dip(test::ducked_song(0.0, 0.2, false, 40.0), beats())) << "what is struck with each kick and dies away";
    EXPECT_FALSE(kick_dip(std::vector<float>(44100 * 16, 0.0F), beats())) << "silence";
    EXPECT_FALSE(kick_dip(test::ducked_song(6.0, 0.2), {1.0, 2.0, 3.0})) << "too few strokes to say";
    EXPECT_FALSE(kick_dip(test::ducked_song(6.0, 0.2), {}));
    EXPECT_FALSE(kick_dip({}, beats()));
}

TEST(KickDips, AreMeasuredSectionBySectionAtTheKicksThatAreWritten) {
    // The small remake's kicks are on the first and third beat, a second apart, from half a second on; ducked with them is only the second half.
    Remake r = test::small_remake();
    const std::vector<float> plain = test::ducked_song(0.0, 0.2), ducked = test::ducked_song(6.0, 0.2);
    Audio original{44100, 1, std::vector<float>(44100 * 17, 0.0F), {}};
    const auto half = static_cast<std::size_t>(44100 * 8.5);
    for (std::size_t i = 0; i < plain.size(); ++i) original.samples[i + 22050] = i + 22050 < half ? plain[i] : ducked[i];
    // Its first kick has silence before it: seven are too few to say anything of the first section.
    const auto told = after_strokes(r, original, kicks_of(r));
    ASSERT_EQ(told.size(), 1u);
    EXPECT_EQ(told[0].first, r.song->sections[1].id);
    EXPECT_NEAR(told[0].second.dip->depth_db, 6.0, 1.2);
    // Without drums there is no kick to go by.
    Remake none = r;
    std::erase_if(none.parts, [](const auto& p) { return p->role == PartRole::Drums; });
    EXPECT_TRUE(after_strokes(none, original, kicks_of(none)).empty());
    EXPECT_TRUE(after_strokes(r, Audio{}, kicks_of(r)).empty());
}

TEST(KickDips, ADuckLiesOverTheDipItWasMadeLikeAndElsewhereNot) {
    // At 120 BPM half a beat is a quarter of a second.
    Remake r = test::small_remake();
    r = add_step(r, test::kBass, test::step(kDuck));
    const StepId duck = r.part(test::kBass)->steps[0].id;
    r = set_field(set_field(r, {duck, "depth"}, 9.0), {duck, "release"}, 0.5);
    const auto measured = after_strokes(test::ducked_song(9.0, 0.25), kRate, beats());
    ASSERT_TRUE(measured);
    const auto ours = ducked_db(r, duck, 0, 0.45);
    ASSERT_EQ(ours.size(), 90u);
    // The kick's own click covers the beginning, its skin a little of what comes behind.
    for (std::size_t i = 9; i < 84; ++i) EXPECT_NEAR(measured->db[i], ours[i], 1.5) << 5 * i << " ms";
    EXPECT_NEAR(*std::min_element(ours.begin(), ours.end()), -9.0, 0.01);
    EXPECT_NEAR(ours.back(), 0.0, 1e-3);
    // Its value in a section, switched off in one, and none at all.
    r = set_in_section(set_in_section(r, {duck, "depth"}, SectionId(4), 3.0), {duck, "on"}, SectionId(3), 0.0);
    EXPECT_EQ(ducked_db(r, duck, 0, 0.1), std::vector<double>(20, 0.0));
    const auto second = ducked_db(r, duck, 5 * 3840, 0.1);
    EXPECT_NEAR(*std::min_element(second.begin(), second.end()), -3.0, 0.01);
    EXPECT_TRUE(ducked_db(r, StepId(999), 0, 0.1).empty());
    // The lows alone.
    Remake lows = set_field(add_step(test::small_remake(), test::kBass, test::step(kDuck)), {duck, "below"}, 120.0);
    const auto low = ducked_db(lows, duck, 0, 0.1);
    EXPECT_NEAR(*std::min_element(low.begin(), low.end()), -6.0, 0.1);
}

TEST(KickDips, AStepsOwnStrokesAreThoseThatSetItOff) {
    const Remake r = test::small_remake();
    const Part& drums = *r.parts[1];
    EXPECT_EQ(strokes_for(r, {drums.id, drum_sound(DrumKind::Kick).key}), kicks_of(r));
    EXPECT_GT(strokes_for(r, {drums.id, -1}).size(), kicks_of(r).size());
    EXPECT_TRUE(strokes_for(r, {}).empty());
}

}  // namespace fw
