// SPDX-License-Identifier: GPL-3.0-or-later
// Standard MIDI Files made byte by byte, whole and hostile: every note that is there, or one sentence.
#include "formats/smf.hpp"

#include "formats/midi_file.hpp"

#include <gtest/gtest.h>
#include <string>

namespace fw {

namespace {

using namespace std::string_literals;

std::string number(std::uint32_t value, int count) {
    std::string out;
    for (int i = count - 1; i >= 0; --i) out += static_cast<char>(value >> (8 * i) & 255U);
    return out;
}
std::string variable(std::uint32_t value) {
    std::string out(1, static_cast<char>(value & 127U));
    for (value >>= 7; value; value >>= 7) out.insert(out.begin(), static_cast<char>((value & 127U) | 128U));
    return out;
}
std::string chunk(const std::string& body, const std::string& kind = "MTrk") { return kind + number(static_cast<std::uint32_t>(body.size()), 4) + body; }
std::string file(const std::vector<std::string>& tracks, std::uint32_t division = 96, std::uint32_t format = 1) {
    std::string out = "MThd" + number(6, 4) + number(format, 2) + number(static_cast<std::uint32_t>(tracks.size()), 2) + number(division, 2);
    for (const auto& t : tracks) out += chunk(t);
    return out;
}
const std::string kEnd = "\x00\xFF\x2F\x00"s;
const std::string kNote = "\x00\x90\x3C\x64\x60\x80\x3C\x40"s;  // C4 for a quarter at 96 ticks
std::string text_event(std::size_t length, char kind = 1) {
    return "\x00\xFF"s + kind + variable(static_cast<std::uint32_t>(length)) + std::string(length, 'x');
}

Result<MidiSong> read(const std::string& bytes) { return parse_midi({reinterpret_cast<const unsigned char*>(bytes.data()), bytes.size()}, "a.mid"); }
std::size_t notes_in(const std::string& bytes) {
    const auto song = read(bytes);
    EXPECT_TRUE(song) << (song ? "" : song.error().message());
    std::size_t count = 0;
    if (song)
        for (const GivenPart& p : song->parts) count += p.notes.size();
    return count;
}

}  // namespace

TEST(SmfReader, TextsAndSystemExclusivesOfAnyLengthLoseNoNote) {
    for (const std::size_t length : {0, 1, 126, 127, 128, 129, 130, 255, 256, 300, 5000, 20000}) {
        EXPECT_EQ(notes_in(file({text_event(length) + kNote + text_event(length) + kNote + kEnd})), 2u) << length;
        EXPECT_EQ(notes_in(file({text_event(length, 3) + kNote + kEnd})), 1u) << length;
        const std::string sysex = "\x00\xF0"s + variable(static_cast<std::uint32_t>(length)) + std::string(length, '\x11');
        EXPECT_EQ(notes_in(file({kNote + sysex + kNote + kEnd})), 2u) << length;
        EXPECT_EQ(notes_in(file({kNote + sysex.substr(0, 1) + "\xF7" + sysex.substr(2) + kNote + kEnd})), 2u) << length;
    }
}

TEST(SmfReader, RunningStatusGoesOnAlsoAcrossMetaAndSystemEvents) {
    const std::string running = "\x00\x90\x3C\x64\x30\x3C\x00"s;
    EXPECT_EQ(notes_in(file({running + "\x00\x3E\x64\x30\x3E\x00"s + kEnd})), 2u);
    EXPECT_EQ(notes_in(file({running + text_event(3) + "\x00\x3E\x64\x30\x3E\x00"s + kEnd})), 2u);
    EXPECT_EQ(notes_in(file({running + "\x00\xF0\x01\xF7"s + "\x00\x3E\x64\x30\x3E\x00"s + kEnd})), 2u);
    EXPECT_EQ(notes_in(file({running + "\x00\xF8\x00\xFE"s + "\x00\x3E\x64\x30\x3E\x00"s + kEnd})), 2u) << "real-time messages";
    EXPECT_EQ(read(file({"\x00\x3C\x64"s + kEnd})).error().code, ErrorCode::MidiDamaged) << "no status before any had one";
}

TEST(SmfReader, GapsAndSumsFarBeyondAnyMusicAreReadOrRefusedAndNeverOverflow) {
    std::string far;
    for (int i = 0; i < 40; ++i) far += "\xFF\xFF\xFF\x7F\x90\x3C\x64"s + "\x10\x80\x3C\x40"s;  // 2^28 − 1 ticks before each note: 10^10 in all
    const auto song = read(file({far + kEnd}, 1));
    ASSERT_TRUE(song);
    ASSERT_EQ(song->parts[0].notes.size(), 40u);
    EXPECT_NEAR(song->parts[0].notes.back().onset_s, (40.0 * 268435455 + 39 * 16) * 0.5, 1.0);
    Analysis a;
    a.duration_s = 10.0;
    EXPECT_EQ(draft_remake(a, song->parts, 0.0, "a.mid").error().code, ErrorCode::MidiElsewhere);
}

TEST(SmfReader, NotesWithoutAnEndLastToTheEndOfTheirTrack) {
    const auto song = read(file({"\x00\x90\x3C\x64\x60\x90\x40\x64\x81\x40\xFF\x2F\x00"s}));
    ASSERT_TRUE(song);
    ASSERT_EQ(song->parts[0].notes.size(), 2u);
    EXPECT_NEAR(song->parts[0].notes[0].duration_s, 1.5, 1e-9);
    EXPECT_NEAR(song->parts[0].notes[1].duration_s, 1.0, 1e-9);
}

TEST(SmfReader, OfTwoNotesOfOneKeyTheFirstStruckIsTheFirstLetGo) {
    const auto song = read(file({"\x00\x90\x3C\x64\x30\x90\x3C\x50\x30\x80\x3C\x00\x30\x80\x3C\x00"s + kEnd}));
    ASSERT_TRUE(song);
    const auto& notes = song->parts[0].notes;
    ASSERT_EQ(notes.size(), 2u);
    EXPECT_NEAR(notes[0].onset_s, 0.0, 1e-9);
    EXPECT_NEAR(notes[0].duration_s, 0.5, 1e-9);
    EXPECT_NEAR(notes[1].onset_s, 0.25, 1e-9);
    EXPECT_NEAR(notes[1].duration_s, 0.5, 1e-9);
    EXPECT_EQ(notes[1].velocity, 0x50);
}

TEST(SmfReader, TempoChangesOfAllTracksCountAndATempoOfNothingDoesNot) {
    const std::string tempo = "\x60\xFF\x51\x03\x0F\x42\x40"s;  // a second a quarter, from tick 96 on
    const auto song = read(file({tempo + kEnd, "\x81\x40\x90\x3C\x64\x60\x80\x3C\x00"s + kEnd}));
    ASSERT_TRUE(song);
    EXPECT_NEAR(song->parts[0].notes[0].onset_s, 1.5, 1e-9);
    EXPECT_NEAR(song->parts[0].notes[0].duration_s, 1.0, 1e-9);
    const auto none = read(file({"\x00\xFF\x51\x03\x00\x00\x00"s + kNote + kEnd}));
    ASSERT_TRUE(none);
    EXPECT_NEAR(none->parts[0].notes[0].duration_s, 0.5, 1e-9) << "120 BPM, as without one";
}

TEST(SmfReader, TimeInFramesIsSecondsWhateverTheTempo) {
    const auto song = read(file({"\x00\xFF\x51\x03\x0F\x42\x40"s + "\x64\x90\x3C\x64\x64\x80\x3C\x00"s + kEnd}, 0xE728));  // −25 frames of 40 ticks
    ASSERT_TRUE(song);
    EXPECT_NEAR(song->parts[0].notes[0].onset_s, 0.1, 1e-9);
    const auto dropped = read(file({"\x64\x90\x3C\x64\x64\x80\x3C\x00"s + kEnd}, 0xE364));  // −29: 30000/1001 frames
    EXPECT_NEAR(dropped->parts[0].notes[0].onset_s, 100.0 / (100 * 30000.0 / 1001.0), 1e-9);
}

TEST(SmfReader, WhatSaysNothingOfNotesIsLetPass) {
    const std::string song = file({kNote + kEnd});
    EXPECT_EQ(notes_in(song + "trailing bytes"), 1u);
    EXPECT_EQ(notes_in(file({kNote})), 1u) << "no end of track";
    std::string header = "MThd" + number(8, 4) + number(0, 2) + number(1, 2) + number(96, 2) + "??";
    EXPECT_EQ(notes_in(header + chunk("hello", "XFIH") + chunk(kNote + kEnd)), 1u) << "a longer header and an unknown chunk";
    EXPECT_EQ(notes_in(file({kNote + kEnd}, 1)), 1u) << "one tick a quarter";
}

TEST(SmfReader, WhatIsNoWholeFileIsDamagedAndSeveralSongsAreRefused) {
    for (const std::string& bad :
         {""s, "MThd"s, "RIFF"s + std::string(40, '\0'), file({kNote + kEnd}, 0), file({}, 96, 7), file({"\x00\x90\x3C"s}), file({"\x00\x90\x3C\x90"s + kEnd}),
          file({"\xFF\xFF\xFF\xFF\x7F\x90\x3C\x64"s}), file({"\x00\xFF\x01\x7Fx"s}), file({"\x00\xF0\x7Fx"s})})
        EXPECT_EQ(read(bad).error().code, ErrorCode::MidiDamaged);
    const std::string song = file({kNote + kEnd, kNote + kEnd});
    for (std::size_t cut = 1; cut < song.size(); ++cut) EXPECT_EQ(read(song.substr(0, cut)).error().code, ErrorCode::MidiDamaged) << cut;
    EXPECT_EQ(read(file({kNote + kEnd}, 96, 2)).error().code, ErrorCode::MidiUnusable);
    EXPECT_EQ(read(file({kEnd})).error().code, ErrorCode::MidiEmpty);
}

TEST(SmfReader, MoreNotesOrBendsThanARemakeMayHoldAreRefused) {
    std::string many = "\x00\x90\x3C\x64"s;
    for (int i = 0; i < 300'000; ++i) many += "\x01\x3C\x64"s;
    EXPECT_EQ(read(file({many + kEnd})).error().code, ErrorCode::MidiUnusable);
    std::string bent;
    for (int i = 0; i < 128; ++i) bent += "\x00\x90"s + static_cast<char>(i) + "\x64";
    for (int i = 0; i < 90'000; ++i) bent += "\x00\xE0\x10\x50"s;  // each bends all that sound
    EXPECT_EQ(read(file({bent + kEnd})).error().code, ErrorCode::MidiUnusable);
}

TEST(SmfReader, BendsBelongToTheNotesTheySoundUnderInTheRangeTheFileSets) {
    const std::string range = "\x00\xB0\x65\x00\x00\xB0\x64\x00\x00\xB0\x06\x0C"s;  // RPN 0: twelve semitones
    const auto song = read(file({range + "\x00\xE0\x00\x50"s + "\x00\x90\x3C\x64"s + "\x30\xE0\x00\x40"s + "\x30\x80\x3C\x00"s + kNote + kEnd}));
    ASSERT_TRUE(song);
    const auto& notes = song->parts[0].notes;
    ASSERT_EQ(notes.size(), 2u);
    ASSERT_EQ(notes[0].bend.size(), 2u);
    EXPECT_NEAR(notes[0].bend[0].cents, 0x10 * 128 / 8192.0 * 1200, 0.01);
    EXPECT_NEAR(notes[0].bend[1].offset_s, 0.25, 1e-9);
    EXPECT_EQ(notes[0].bend[1].cents, 0.0);
    EXPECT_TRUE(notes[1].bend.empty());
    EXPECT_NEAR(read(file({"\x00\xE0\x00\x50"s + kNote + kEnd}))->parts[0].notes[0].bend[0].cents, 0x10 * 128 / 8192.0 * 200, 0.01)
        << "two until told otherwise";
}

TEST(SmfReader, NamesAndProgramsFindTheirParts) {
    const std::string program = "\x00\xC3\x20"s, on = "\x00\x93\x28\x64\x60\x83\x28\x00"s;
    const auto song = read(file({program + kEnd, "\x00\xFF\x03\x05"s + "Caf\xE9!" + on + kEnd, "\x00\x99\x24\x64\x60\x89\x24\x00"s + kEnd}));
    ASSERT_TRUE(song);
    ASSERT_EQ(song->parts.size(), 2u);
    EXPECT_EQ(song->parts[0].name, "Café!");
    EXPECT_EQ(song->parts[0].program, 32) << "chosen in another track";
    EXPECT_TRUE(song->parts[1].drums);
    EXPECT_EQ(song->parts[1].name, "Drums");
}

TEST(SmfWriter, EventsComeOutInOrderAndAnyGapIsBridged) {
    SmfTrackWriter track;
    track.message(Ticks{1} << 30, 0x90, 60, 100);
    track.message((Ticks{1} << 30) + 960, 0x80, 60, 0);
    track.meta(0, 3, std::string(300, 'n'));
    const std::string bytes = smf_file({track});
    const auto smf = parse_smf({reinterpret_cast<const unsigned char*>(bytes.data()), bytes.size()}, "a.mid");
    ASSERT_TRUE(smf);
    EXPECT_EQ(smf->ticks_per_quarter, 960);
    EXPECT_EQ(smf->tracks[0].texts[0].size(), 300u);
    const auto note = std::find_if(smf->tracks[0].events.begin(), smf->tracks[0].events.end(), [](const SmfEvent& e) { return e.status == 0x90; });
    ASSERT_NE(note, smf->tracks[0].events.end());
    EXPECT_EQ(note->tick, std::int64_t{1} << 30);
}

}  // namespace fw
