// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/midi_file.hpp"

#include "base/files.hpp"
#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <fstream>
#include <limits>
#include <random>
#include <tuple>

namespace fw {

using test::kBass;
using test::small_remake;
using test::TemporaryFolder;

namespace {

/// Everything of a note that a musician would miss: tick, length, key, velocity and bend.
using Told = std::tuple<Ticks, Ticks, int, int, std::vector<std::pair<Ticks, long>>>;
std::vector<Told> told(const Part& part) {
    std::vector<Told> out;
    for (const PlacedNote& n : placed_notes(part)) {
        std::vector<std::pair<Ticks, long>> bend;
        for (const BendPoint& b : *n.note.bend) bend.emplace_back(b.tick, std::lround(b.cents));
        out.emplace_back(n.note.start, n.note.length, n.note.pitch, n.note.velocity, bend);
    }
    std::sort(out.begin(), out.end());
    return out;
}

/// The remake's song without its parts, and the parts of a MIDI file in their place.
Remake with_parts_of(const Remake& song, const std::filesystem::path& midi) {
    Remake bare = song;
    bare.parts.clear();
    std::erase_if(bare.notebook.edit().elements, [](const auto& e) { return static_cast<bool>(e.first.part()); });
    const auto read = read_midi(midi);
    EXPECT_TRUE(read);
    auto with = with_given_parts(bare, read->parts, read->start_s.value_or(0.0), midi.string());
    EXPECT_TRUE(with) << (with ? "" : with.error().message());
    return *with;
}

}  // namespace

TEST(MidiFile, WhatComesInStaysExactlyAndGoesOutTheSame) {
    // Performed timing over a drifting tempo, like sections that differ in little, every velocity, overlaps, bends, notes ahead of bar 1.
    std::mt19937 random(3);
    const auto pick = [&](int low, int high) { return low + static_cast<int>(random() % static_cast<unsigned>(high - low + 1)); };
    Remake r = small_remake();
    std::vector<TempoMap::Anchor> anchors;
    for (int b = 0; b <= 32; ++b) anchors.push_back({b * kTicksPerQuarter, 0.5 + 0.5 * b + 0.02 * std::sin(b)});
    r.song.edit().tempo = TempoMap(anchors);
    Part lead;
    lead.id = PartId(r.next_id++);
    lead.name = "Line";
    lead.role = PartRole::Lead;
    std::vector<Note> notes;
    for (int i = 0; i < 64; ++i) {
        Note n;
        n.start = i * 480 - 700 + pick(-60, 60);
        n.length = pick(1, 350);
        n.pitch = 60 + i % 12;
        n.velocity = 1 + (i * 2) % 127;
        if (i % 5 == 0) n.bend.edit() = {{0, -100.0 * (1 + i % 6)}, {n.length / 2 + 1, 45.0}};
        notes.push_back(n);
    }
    std::sort(notes.begin(), notes.end(), [](const Note& a, const Note& b) { return a.start < b.start; });
    lead.patterns = {test::pattern(1, "A", 8 * 3840, notes)};
    lead.placements = {{PatternId(1), 0}};
    lead.number_all();
    r.parts.emplace_back(lead);
    r = with_part(r, kBass, [](Part& p) {
        for (Note& n : p.patterns[0].edit().notes) n.pitch = 40, n.length = 1100;  // each still sounds when the next of its key is struck
    });
    const TemporaryFolder folder;
    ASSERT_TRUE(write_midi(folder / "a.mid", r));
    const Remake once = with_parts_of(r, folder / "a.mid");
    ASSERT_EQ(once.parts.size(), 3u);
    for (std::size_t p = 0; p < 3; ++p) EXPECT_EQ(told(*once.parts[p]), told(*r.parts[p])) << r.parts[p]->name;
    ASSERT_TRUE(write_midi(folder / "b.mid", once));
    const Remake twice = with_parts_of(r, folder / "b.mid");
    for (std::size_t p = 0; p < 3; ++p) EXPECT_EQ(told(*twice.parts[p]), told(*r.parts[p])) << r.parts[p]->name;
}

TEST(MidiFile, LikeSectionsOfWhatComesInAreNotMerged) {
    Remake r = small_remake();
    r.parts.clear();
    std::erase_if(r.notebook.edit().elements, [](const auto& e) { return static_cast<bool>(e.first.part()); });
    GivenPart part{"Bass", false, -1, {}};
    for (int b = 0; b < 32; ++b) part.notes.push_back({0.5 + 0.5 * b + (b >= 16 ? 0.012 : 0.0), 0.3, 40, b >= 16 ? 70 : 90, 1.0, {}});
    const auto with = with_given_parts(r, {part}, 0.0, "a.mid");
    ASSERT_TRUE(with);
    const auto notes = placed_notes(*with->parts[0]);
    ASSERT_EQ(notes.size(), 32u);
    for (std::size_t b = 0; b < 32; ++b) {
        EXPECT_NEAR(with->song->tempo.seconds(notes[b].note.start), part.notes[b].onset_s, 0.0003) << b;
        EXPECT_EQ(notes[b].note.velocity, part.notes[b].velocity) << b;
    }
    for (int b = 16; b < 32; ++b)
        part.notes[static_cast<std::size_t>(b)] = part.notes[static_cast<std::size_t>(b - 16)], part.notes[static_cast<std::size_t>(b)].onset_s += 8.0;
    EXPECT_EQ(with_given_parts(r, {part}, 0.0, "a.mid")->parts[0]->patterns.size(), 1u) << "what is the same in everything is one pattern";
}

TEST(MidiFile, ALongFileStaysWithTheRecordingToTheMicrosecond) {
    Remake r = small_remake();
    std::vector<TempoMap::Anchor> anchors;
    for (int b = 0; b <= 2000; ++b) anchors.push_back({b * kTicksPerQuarter, 0.5 + 0.6166499 * b});
    r.song.edit().tempo = TempoMap(anchors);
    r.reference.duration_s = 1300;
    r = add_note(r, kBass, {1999 * 960, 100, 40, 90, 1.0, Origin::Drawn, {}});
    const TemporaryFolder folder;
    ASSERT_TRUE(write_midi(folder / "a.mid", r));
    const auto song = read_midi(folder / "a.mid");
    ASSERT_TRUE(song);
    EXPECT_NEAR(*song->start_s + song->parts[0].notes.back().onset_s, r.song->tempo.seconds(Ticks{1999 * 960}), 5e-6);
}

TEST(MidiFile, AFileWithANoteAheadOfBarOneBeginsWholeBarsEarlierAndSaysWhere) {
    const TemporaryFolder folder;
    const Remake r = add_note(small_remake(), kBass, {-100, 50, 33, 77, 1.0, Origin::Drawn, {}});
    ASSERT_TRUE(write_midi(folder / "a.mid", r));
    const auto song = read_midi(folder / "a.mid");
    ASSERT_TRUE(song);
    EXPECT_NEAR(song->start_s.value_or(99), 0.5 - 2.0, 1e-6) << "a bar of 4/4 at 120 BPM before bar 1";
    EXPECT_NEAR(song->parts[0].notes[0].onset_s, 2.0 - 100 * 0.5 / 960, 1e-4);
}

TEST(MidiFile, HoldsTempoMeterMarkersKeysAndBends) {
    const TemporaryFolder folder;
    Remake r = small_remake();
    r.song.edit().meter = MeterMap({{1, 3, 4}});
    r = with_part(r, kBass, [](Part& p) { p.patterns[0].edit().notes[0].bend.edit() = {{0, -100.0}}; });
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
    ASSERT_TRUE(write_midi(folder / "a.mid", mute_cell(small_remake(), kBass, SectionId(4), true)));
    EXPECT_EQ(read_midi(folder / "a.mid")->parts[0].notes.size(), 16u);
}

TEST(MidiFile, ScrambledFilesAreToldAndNeverCrash) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_midi(folder / "a.mid", small_remake()));
    const auto whole = *read_file(folder / "a.mid", 1 << 20);
    std::mt19937 random(11);
    for (int i = 0; i < 3000; ++i) {
        auto bad = whole;
        for (int k = 0; k < 4; ++k) bad[random() % bad.size()] = static_cast<unsigned char>(random());
        const auto r = parse_midi(bad, "bad.mid");
        EXPECT_TRUE(r || r.error().code == ErrorCode::MidiDamaged || r.error().code == ErrorCode::MidiUnusable || r.error().code == ErrorCode::MidiEmpty);
    }
    EXPECT_EQ(read_midi(folder / "none.mid").error().code, ErrorCode::FileMissing);
    EXPECT_EQ(read_midi("/dev/zero").error().code, ErrorCode::NotAFile);
}

TEST(MidiFile, AnOffsetThatLeadsNowhereIsToldAndNothingIsAdded) {
    const Remake r = small_remake();
    const GivenPart part{"Bass", false, -1, {{1.0, 0.5, 40, 90, 1.0, {}}}};
    for (const double offset_s : {1e10, -1e10, 1e300, std::numeric_limits<double>::infinity(), std::numeric_limits<double>::quiet_NaN(), 17.0 + 1801, -1803.0})
        EXPECT_EQ(with_given_parts(r, {part}, offset_s, "a.mid").error().code, ErrorCode::MidiElsewhere) << offset_s;
    EXPECT_TRUE(with_given_parts(r, {part}, 100.0, "a.mid"));
}

TEST(MidiFile, PartsBeyondWhatARemakeMayHoldAreRefusedWithAReason) {
    const std::vector<GivenPart> many(200, GivenPart{"P", false, -1, {{1.0, 0.5, 40, 90, 1.0, {}}}});
    const auto refused = with_given_parts(small_remake(), many, 0.0, "a.mid");
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().message(),
              "a.mid cannot be used, because in the remake the remake holds 202 parts, and there can be 128: check that it is the right file.");
}

}  // namespace fw
