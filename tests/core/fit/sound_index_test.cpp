// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/sound_index.hpp"

#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <fstream>
#include <numbers>

namespace fw {

namespace {

/// A made sound: partials falling by a slope, a decay, some noise.
Audio made(double hz, double slope, double decay, double noise, unsigned seed = 1) {
    Audio a{44100, 1, {}, {}};
    std::uint32_t dice = seed;
    for (int i = 0; i < 44100; ++i) {
        const double t = i / 44100.0;
        double s = 0.0;
        for (int k = 1; k * hz < 15000.0 && k < 40; ++k) s += std::pow(k, -slope) * std::sin(2.0 * std::numbers::pi * hz * k * t + k);
        dice = dice * 1664525u + 1013904223u;
        s += noise * (static_cast<double>(dice >> 8) / 8388608.0 - 1.0);
        a.samples.push_back(static_cast<float>(0.2 * std::exp(-decay * t) * std::min(1.0, t / 0.002) * s));
    }
    return a;
}

}  // namespace

TEST(SoundPrint, IsTheSameWhateverTheLevelAndSilenceHasNone) {
    Audio quiet = made(220, 1.0, 4.0, 0.0);
    const SoundPrint print = print_of(quiet);
    EXPECT_NEAR(print.pitch_hz, 220.0, 1.0);
    EXPECT_LT(print.noise, 0.2);
    for (float& s : quiet.samples) s *= 0.05F;
    EXPECT_GT(likeness(print, print_of(quiet)).all, 0.99);
    EXPECT_GT(print_of(made(220, 1.0, 4.0, 3.0)).noise, print.noise);
    Audio silent{44100, 1, std::vector<float>(44100, 0.0F), {}};
    EXPECT_TRUE(is_empty(print_of(silent)));
    EXPECT_EQ(likeness(print, print_of(silent)).all, 0.0);
    EXPECT_GT(print_of(made(220, 1.0, 30.0, 0.0)).level[9], -71);
    EXPECT_LT(print_of(made(220, 1.0, 30.0, 0.0)).length_s, print.length_s);
}

TEST(SoundPrint, AnotherPitchOfASoundIsLikerThanAnotherSound) {
    const SoundPrint sound = print_of(made(220, 0.6, 4.0, 0.0)), higher = print_of(made(330, 0.6, 4.0, 0.0)), other = print_of(made(330, 2.5, 20.0, 1.5));
    EXPECT_GT(likeness(sound, higher).tone, 0.8);
    EXPECT_GT(likeness(sound, higher).all, likeness(sound, other).all);
}

TEST(SoundPrint, WordsSayWhatTheyMean) {
    const SoundPrint dark = print_of(made(110, 2.5, 2.0, 0.0)), bright = print_of(made(440, 0.3, 2.0, 0.0)), hiss = print_of(made(3000, 1.0, 2.0, 4.0)),
                     click = print_of(made(800, 0.5, 80.0, 0.5));
    EXPECT_GT(fits_word(dark, "dark"), fits_word(bright, "dark") + 0.2);
    EXPECT_GT(fits_word(bright, "bright"), fits_word(dark, "bright") + 0.2);
    EXPECT_GT(fits_word(hiss, "airy"), fits_word(dark, "airy"));
    EXPECT_GT(fits_word(click, "clicky"), fits_word(dark, "clicky") + 0.2);
    EXPECT_GT(fits_word(dark, "long"), fits_word(click, "long") + 0.2);
    EXPECT_EQ(fits_word(dark, "purple"), 0.5);
}

TEST(SoundIndex, AFolderIsReadOnceAndWhatChangedAgain) {
    const test::TemporaryFolder folder;
    std::filesystem::create_directories(folder / "sounds/deep");
    for (int i = 0; i < 6; ++i)
        ASSERT_TRUE(write_audio((folder / (i % 2 ? "sounds/deep" : "sounds")) / ("tone " + std::to_string(i) + ".wav"),
                                made(110.0 * (i + 1), 0.5 + 0.4 * i, 3.0 + i, 0.1 * i)));
    std::ofstream(folder / "sounds/broken.wav") << "no sound at all";
    std::ofstream(folder / "sounds/notes.txt") << "not meant";
    {
        const auto index = SoundIndex::open(folder / "index.sqlite");
        ASSERT_TRUE(index) << index.error().message();
        const auto first = (*index)->add_folder(folder / "sounds");
        ASSERT_TRUE(first) << first.error().message();
        EXPECT_EQ(first->sounds, 7u);
        EXPECT_EQ(first->looked_at, 7u);
        ASSERT_EQ(first->unreadable.size(), 1u);
        EXPECT_NE(first->unreadable.front().find("broken.wav"), std::string::npos);
        EXPECT_EQ((*index)->size(), 6u);
        EXPECT_EQ((*index)->add_folder(folder / "sounds")->looked_at, 0u) << "nothing has changed";
    }
    const auto index = SoundIndex::open(folder / "index.sqlite");
    ASSERT_TRUE(index);
    EXPECT_EQ((*index)->size(), 6u) << "what was read is there another day";
    ASSERT_TRUE(write_audio(folder / "sounds/tone 0.wav", made(500, 1.0, 9.0, 0.2, 3)));
    std::filesystem::last_write_time(folder / "sounds/tone 0.wav", std::filesystem::file_time_type::clock::now() + std::chrono::seconds(5));
    std::filesystem::remove(folder / "sounds/deep/tone 1.wav");
    const auto again = (*index)->add_folder(folder / "sounds");
    ASSERT_TRUE(again);
    EXPECT_EQ(again->looked_at, 1u);
    EXPECT_EQ(again->gone, 1u);
    ASSERT_EQ((*index)->folders().size(), 1u);
    (*index)->forget_folder((*index)->folders().front());
    EXPECT_EQ((*index)->size(), 0u);
    EXPECT_EQ((*index)->add_folder(folder / "nowhere").error().code, ErrorCode::FileMissing);
    Progress stop;
    stop.cancel();
    EXPECT_EQ((*index)->add_folder(folder / "sounds", stop).error().code, ErrorCode::Cancelled);
}

TEST(SoundIndex, TheSoundItselfIsFoundFirstAndWordsChooseAmongTheOthers) {
    const test::TemporaryFolder folder;
    std::filesystem::create_directories(folder / "sounds");
    for (int i = 0; i < 12; ++i)
        ASSERT_TRUE(write_audio(folder / ("sounds/s" + std::to_string(i) + ".wav"),
                                made(90.0 * (1 + i % 4), 0.3 + 0.2 * i, 2.0 + 3.0 * (i % 3), 0.15 * (i % 5), static_cast<unsigned>(i + 1))));
    const auto index = SoundIndex::open(folder / "index.sqlite");
    ASSERT_TRUE(index && (*index)->add_folder(folder / "sounds"));
    for (int i = 0; i < 12; ++i) {
        Audio worn = made(90.0 * (1 + i % 4), 0.3 + 0.2 * i, 2.0 + 3.0 * (i % 3), 0.15 * (i % 5), static_cast<unsigned>(i + 1));
        float before = 0.0F;
        for (float& s : worn.samples) before = 0.5F * before + 0.5F * s, s = 0.3F * before;
        FindWish wish;
        wish.like = print_of(worn);
        const auto found = (*index)->find(wish);
        ASSERT_FALSE(found.empty());
        EXPECT_EQ(found.front().sound.name(), "s" + std::to_string(i) + ".wav") << found.front().like.all;
    }
    FindWish dark;
    dark.words = {"dark"};
    const auto by_word = (*index)->find(dark);
    EXPECT_GT(fits_word(by_word.front().sound.print, "dark"), fits_word(by_word.back().sound.print, "dark"));
    FindWish by_name;
    by_name.words = {"S7"};
    EXPECT_EQ((*index)->find(by_name).front().sound.name(), "s7.wav");
}

TEST(SoundIndex, WhatIsShippedCanBeFoundAndAFileThatIsNoneOfOursIsToldOf) {
    const test::TemporaryFolder folder;
    const auto index = SoundIndex::open(folder / "index.sqlite");
    ASSERT_TRUE(index);
    const auto shipped = (*index)->add_shipped();
    ASSERT_TRUE(shipped) << shipped.error().message();
    EXPECT_GE((*index)->size(), 200u);
    EXPECT_EQ((*index)->add_shipped()->looked_at, 0u);
    FindWish wish;
    wish.words = {"bell"};
    EXPECT_NE((*index)->find(wish).front().sound.name().find("ell"), std::string::npos);
    std::ofstream(folder / "other.sqlite") << "this is a letter and no database, however long it may be, and it is long enough to be read as a header";
    const auto other = SoundIndex::open(folder / "other.sqlite");
    ASSERT_FALSE(other);
    EXPECT_EQ(other.error().code, ErrorCode::IndexUnusable);
}

TEST(SoundIndex, CanBeAskedWhileAFolderIsBeingAdded) {
    const test::TemporaryFolder folder;
    std::filesystem::create_directories(folder / "sounds");
    for (int i = 0; i < 150; ++i) ASSERT_TRUE(write_audio(folder / ("sounds/s" + std::to_string(i) + ".wav"), made(100.0 + i, 1.0, 5.0, 0.0)));
    const auto index = SoundIndex::open(folder / "index.sqlite");
    ASSERT_TRUE(index);
    std::size_t asked = 0, most = 0;
    const Progress progress([&](double, std::string_view) {
        // From within the adding: what is in by then is told, nothing waits.
        FindWish wish;
        wish.words = {"s1"};
        most = std::max(most, (*index)->find(wish).size());
        ++asked;
    });
    ASSERT_TRUE((*index)->add_folder(folder / "sounds", progress));
    EXPECT_GE(asked, 3u);
    EXPECT_GT(most, 0u);
    EXPECT_EQ((*index)->size(), 150u);
}

}  // namespace fw
