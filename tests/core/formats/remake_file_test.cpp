// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/remake_file.hpp"

#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <zip.h>
#include <fstream>
#include <random>
#include <tuple>

namespace fw {

using test::small_remake;
using test::TemporaryFolder;

namespace {
void expect_same(const Remake& a, const Remake& b) {
    EXPECT_EQ(a.reference, b.reference);
    EXPECT_EQ(a.tempo, b.tempo);
    EXPECT_EQ(a.meter, b.meter);
    EXPECT_EQ(a.keys, b.keys);
    EXPECT_EQ(a.sections, b.sections);
    EXPECT_EQ(a.chords, b.chords);
    EXPECT_EQ(a.elements, b.elements);
    EXPECT_EQ(a.tempo_candidates, b.tempo_candidates);
    ASSERT_EQ(a.parts.size(), b.parts.size());
    for (std::size_t i = 0; i < a.parts.size(); ++i) EXPECT_EQ(*a.parts[i], *b.parts[i]);
}
}  // namespace

TEST(RemakeFile, EverythingSurvivesSavingAndOpening) {
    const TemporaryFolder folder;
    Remake r = small_remake();
    r.elements["part:1"] = {State::Confirmed, "is bar 3 right? — “maybe”", "an octave up on purpose"};
    r = with_part(r, 1, [](Part& p) {
        p.patterns[0].notes[0].bend = {{0, 0.0}, {240, -35.5}};
        p.patterns.push_back({2, "A′", 1, 3840, {}});
        p.layers.push_back({InstrumentKind::SoundFont, "", 32, "/x.sf2", -6, -1});
        p.mute = true;
        p.pan = -0.25;
    });
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", r));
    const auto back = load_remake(folder / "a.fakturwerk");
    ASSERT_TRUE(back);
    expect_same(r, *back);
}

TEST(RemakeFile, DamagedFilesAreToldAndNeverCrash) {
    const TemporaryFolder folder;
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", small_remake()));
    std::ifstream in(folder / "a.fakturwerk", std::ios::binary);
    const std::string whole((std::istreambuf_iterator<char>(in)), {});
    std::mt19937 random(5);
    int refused = 0;
    for (int i = 0; i < 60; ++i) {
        std::string bad = whole;
        if (i % 2) bad.resize(random() % whole.size());
        else
            for (int k = 0; k < 20; ++k) bad[random() % bad.size()] = static_cast<char>(random());
        std::ofstream(folder / "bad.fakturwerk", std::ios::binary) << bad;
        const auto r = load_remake(folder / "bad.fakturwerk");
        if (!r) {
            ++refused;
            EXPECT_EQ(r.error().code, ErrorCode::RemakeDamaged);
        }
    }
    EXPECT_GT(refused, 50);
    EXPECT_EQ(load_remake(folder / "none.fakturwerk").error().code, ErrorCode::FileMissing);
}

TEST(RemakeFile, HostileJsonGivesAnErrorOrAValidDocument) {
    const std::string good = remake_to_json(small_remake());
    const auto with = [&](const std::string& from, const std::string& to) {
        std::string text = good;
        const auto at = text.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        return remake_from_json(text.replace(at, from.size(), to), "x");
    };
    EXPECT_EQ(with("fakturwerk-remake/1", "fakturwerk-remake/2").error().code, ErrorCode::RemakeFromFuture);
    EXPECT_EQ(with("fakturwerk-remake/1", "something-else/1").error().code, ErrorCode::RemakeDamaged);
    EXPECT_EQ(with("\"dorian\"", "\"sideways\"").error().code, ErrorCode::RemakeDamaged);
    EXPECT_EQ(with("\"D:min7\"", "\"??\"").error().code, ErrorCode::RemakeDamaged);
    // What is wrong is told, with what the file says; nothing is clamped into something it did not say.
    for (const auto& [from, to, words] : {std::tuple{"\"pattern\": 1", "\"pattern\": 99", "places a pattern that is not there"},
                                          {"\"pitch\": 38", "\"pitch\": 99999", "a note of pitch 99999"},
                                          {"\"pitch\": 38", "\"pitch\": 4294967334", "a note of pitch 2147483647"},
                                          {"\"id\": 2,", "\"id\": 1,", "two of its parts have the number 1"},
                                          {"\"id\": 1,", "\"id\": 0,", "has the number 0"},
                                          {"\"gain_db\": 0.0", "\"gain_db\": 99.0", "is 99, not between -96 and 24"},
                                          {"\"duration_s\": 17.0", "\"duration_s\": 1e300", "the length of the recording is 1e+300"},
                                          {"\"numerator\": 4", "\"numerator\": 0", "meters"},
                                          {"    0,\n    0.5", "    960,\n    0.5", "tempo map does not ascend"}}) {
        const auto refused = with(from, to);
        ASSERT_FALSE(refused) << to;
        EXPECT_EQ(refused.error().code, ErrorCode::RemakeUnusable) << to;
        EXPECT_NE(refused.error().message().find(words), std::string::npos) << refused.error().message();
    }
    for (const auto& [from, to] : {std::pair{"\"pitch\": 38", "\"pitch\": 38.5"},
                                   {"\"pitch\": 38", "\"pitch\": null"},
                                   {"\"pitch\": 38", "\"pitch\": 1e999"},
                                   {"\"name\": \"Bass\"", "\"name\": 7"},
                                   {"fakturwerk-remake/1", "fakturwerk-remake/0"}})
        EXPECT_EQ(with(from, to).error().code, ErrorCode::RemakeDamaged) << to;
    EXPECT_EQ(remake_from_json("[]", "x").error().code, ErrorCode::RemakeDamaged);
    EXPECT_EQ(remake_from_json("", "x").error().code, ErrorCode::RemakeDamaged);
}

TEST(RemakeFile, WhatUnpacksToMoreThanARemakeCanHoldIsRefusedInLittleMemory) {
    const TemporaryFolder folder;
    // A hundred kilobytes that become more than the limit: blanks, and brackets within brackets.
    for (const std::string& text : {std::string(110'000'000, ' '), std::string(30'000'000, '['), "[" + [] {
                                        std::string many;
                                        for (int i = 0; i < 9'000'000; ++i) many += "1,";
                                        return many;
                                    }() + "1]"}) {
        int error = 0;
        zip_t* zip = zip_open((folder / "a.fakturwerk").c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
        zip_file_add(zip, "remake.json", zip_source_buffer(zip, text.data(), text.size(), 0), ZIP_FL_OVERWRITE);
        ASSERT_EQ(zip_close(zip), 0);
        const auto refused = load_remake(folder / "a.fakturwerk");
        ASSERT_FALSE(refused);
        EXPECT_EQ(refused.error().code, ErrorCode::RemakeUnusable);
    }
}

TEST(RemakeFile, ThePathOfTheRecordingSurvivesWhateverBytesItHas) {
    const TemporaryFolder folder;
    for (const char* path : {"/music/caf\xE9.wav", "/music/http:song.wav", "/music/Grüße.wav", "/music/100 %s.wav"}) {
        Remake r = small_remake();
        r.reference.path = path;
        ASSERT_TRUE(save_remake(folder / "a.fakturwerk", r));
        const auto back = load_remake(folder / "a.fakturwerk");
        ASSERT_TRUE(back);
        EXPECT_EQ(back->reference.path, path);
    }
}

TEST(RemakeFile, DeniedPermissionIsNotCalledDamage) {
    const TemporaryFolder folder;
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", small_remake()));
    std::filesystem::permissions(folder / "a.fakturwerk", static_cast<std::filesystem::perms>(0));
    std::filesystem::permissions(folder.path(), static_cast<std::filesystem::perms>(0755));
    EXPECT_TRUE(test::as_nobody([&] { return load_remake(folder / "a.fakturwerk").error().code == ErrorCode::FileUnreadable; }));
    EXPECT_EQ(load_remake("/dev/zero").error().code, ErrorCode::NotAFile);
}

TEST(RemakeFile, SavingWhereNothingCanBeWrittenIsTold) {
    const auto r = save_remake("/proc/nowhere/a.fakturwerk", small_remake());
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::FolderUnwritable);
}

TEST(FindReference, LooksAtTheStoredPlaceThenBesideTheRemake) {
    const TemporaryFolder folder;
    Remake r = small_remake();
    EXPECT_EQ(find_reference(r, folder / "a.fakturwerk").error().code, ErrorCode::ReferenceGone);
    ASSERT_TRUE(write_audio(folder / "song.wav", test::sine(440, 1)));
    ASSERT_TRUE(find_reference(r, folder / "a.fakturwerk"));
    EXPECT_EQ(*find_reference(r, folder / "a.fakturwerk"), folder / "song.wav");
}

}  // namespace fw
