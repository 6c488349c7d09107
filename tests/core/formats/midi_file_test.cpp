// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/midi_file.hpp"

#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <fstream>
#include <random>

namespace fw {

using test::small_remake;
using test::TemporaryFolder;

TEST(MidiFile, WhatIsWrittenReadsBackNoteForNote) {
    const TemporaryFolder folder;
    const Remake r = small_remake();
    ASSERT_TRUE(write_midi(folder / "a.mid", r));
    const auto parts = read_midi(folder / "a.mid", 0.5);  // tick 0 stands at 0.5 s in this remake
    ASSERT_TRUE(parts);
    ASSERT_EQ(parts->size(), 2u);
    EXPECT_EQ((*parts)[0].name, "Bass");
    EXPECT_TRUE((*parts)[1].drums);
    const auto wanted = test::sounding(r, 1);
    ASSERT_EQ((*parts)[0].notes.size(), wanted.size());
    for (std::size_t i = 0; i < wanted.size(); ++i) {
        EXPECT_NEAR((*parts)[0].notes[i].onset_s, wanted[i].first, 0.002);
        EXPECT_EQ((*parts)[0].notes[i].pitch, wanted[i].second);
    }
}

TEST(MidiFile, HoldsTempoMeterMarkersKeysAndBends) {
    const TemporaryFolder folder;
    Remake r = small_remake();
    r.meter = MeterMap({{1, 3, 4}});
    r = with_part(r, 1, [](Part& p) { p.patterns[0].notes[0].bend = {{0, -100.0}}; });
    ASSERT_TRUE(write_midi(folder / "a.mid", r));
    std::ifstream in(folder / "a.mid", std::ios::binary);
    const std::string bytes((std::istreambuf_iterator<char>(in)), {});
    EXPECT_NE(bytes.find(std::string("\xFF\x51\x03\x07\xA1\x20", 6)), std::string::npos) << "500 000 µs a quarter";
    EXPECT_NE(bytes.find(std::string("\xFF\x58\x04\x03\x02", 5)), std::string::npos) << "3/4";
    EXPECT_NE(bytes.find(std::string("\xFF\x06\x05verse", 8)), std::string::npos);
    EXPECT_NE(bytes.find(std::string("\xFF\x59\x02\x00\x01", 5)), std::string::npos) << "no sharps or flats, minor third";
    const int bend = 7509;  // 8192 − 8192/12, rounded: a semitone down of a range of twelve
    EXPECT_NE(bytes.find(std::string{static_cast<char>(0xE0), static_cast<char>(bend & 127), static_cast<char>(bend >> 7)}), std::string::npos);
}

TEST(MidiFile, MutedCellsAreLeftOut) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_midi(folder / "a.mid", mute_cell(small_remake(), 1, 1, true)));
    EXPECT_EQ((*read_midi(folder / "a.mid"))[0].notes.size(), 16u);
}

TEST(MidiFile, AFileWithoutNotesIsToldAndNotTaken) {
    const TemporaryFolder folder;
    // A header for one track, and a track that holds its own end and nothing else.
    const unsigned char bytes[] = {'M', 'T', 'h', 'd', 0, 0, 0, 6, 0, 0, 0, 1, 0, 96, 'M', 'T', 'r', 'k', 0, 0, 0, 4, 0, 0xFF, 0x2F, 0};
    std::ofstream(folder / "empty.mid", std::ios::binary).write(reinterpret_cast<const char*>(bytes), sizeof bytes);
    const auto r = read_midi(folder / "empty.mid");
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::MidiEmpty);
}

TEST(MidiFile, CutOrScrambledFilesAreToldAndNeverCrash) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_midi(folder / "a.mid", small_remake()));
    std::ifstream in(folder / "a.mid", std::ios::binary);
    const std::string whole((std::istreambuf_iterator<char>(in)), {});
    for (std::size_t cut = 0; cut + 1 < whole.size(); cut += 37) {
        std::ofstream(folder / "cut.mid", std::ios::binary) << whole.substr(0, cut);
        const auto r = read_midi(folder / "cut.mid");
        ASSERT_FALSE(r) << cut;
        EXPECT_EQ(r.error().code, ErrorCode::MidiDamaged);
    }
    std::mt19937 random(11);
    for (int i = 0; i < 3000; ++i) {
        std::string bad = whole;
        for (int k = 0; k < 4; ++k) bad[random() % bad.size()] = static_cast<char>(random());
        std::ofstream(folder / "bad.mid", std::ios::binary) << bad;
        const auto r = read_midi(folder / "bad.mid");
        EXPECT_TRUE(r || r.error().code == ErrorCode::MidiDamaged);
    }
    EXPECT_EQ(read_midi(folder / "none.mid").error().code, ErrorCode::FileMissing);
}

}  // namespace fw
