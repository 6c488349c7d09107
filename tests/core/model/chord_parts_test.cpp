// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/chord_parts.hpp"

#include "base/pitch.hpp"
#include "model/chord_words.hpp"
#include "model/edits/song.hpp"
#include "model/limits.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <set>

namespace fw {

using test::kBass;
using test::small_remake;

namespace {

Chord chord(const char* name) {
    const auto c = parse_chord(name);
    EXPECT_TRUE(c) << name;
    return c.value_or(Chord{});
}

Song song_of(const std::vector<const char*>& names) {
    Song s = *small_remake().song;
    s.chords.clear();
    Ticks at = 0;
    for (const char* name : names) {
        s.chords.push_back({at, 3840, chord(name), 1.0, Origin::Drawn, {}});
        at += 3840;
    }
    return s;
}

std::vector<int> pitches(const std::vector<Note>& notes) {
    std::vector<int> out;
    for (const Note& n : notes) out.push_back(n.pitch);
    return out;
}

}  // namespace

TEST(Voicing, EachLayoutIsWhatItSays) {
    Derivation how;
    how.kind = FromChords::Block;
    how.low = 48, how.high = 84;
    EXPECT_EQ(voiced(chord("C"), how), (std::vector<int>{48, 52, 55}));
    EXPECT_EQ(voiced(chord("C/E"), how), (std::vector<int>{52, 55, 60})) << "the bass that is written lies below";
    how.inversion = 2;
    EXPECT_EQ(voiced(chord("C"), how), (std::vector<int>{55, 60, 64}));
    how.inversion = 0;
    how.voicing = Voicing::Drop2;
    EXPECT_EQ(voiced(chord("Cmaj7"), how), (std::vector<int>{43, 48, 52, 59}));
    how.voicing = Voicing::Drop24;
    EXPECT_EQ(voiced(chord("Cmaj7"), how), (std::vector<int>{36, 43, 52, 59}));
    how.voicing = Voicing::Open;
    EXPECT_EQ(voiced(chord("C"), how), (std::vector<int>{48, 55, 64}));
    EXPECT_TRUE(voiced(Chord{}, how).empty());
}

TEST(Voicing, TheShortestWayMovesLessThanRootPositions) {
    Derivation plain, smooth;
    plain.kind = smooth.kind = FromChords::Block;
    smooth.inversion = -1;
    const auto moved = [](const std::vector<const char*>& names, const Derivation& how) {
        int sum = 0;
        std::vector<int> before;
        for (const char* n : names) {
            const auto now = voiced(chord(n), how, before);
            if (!before.empty())
                for (std::size_t i = 0; i < std::min(now.size(), before.size()); ++i) sum += std::abs(now[i] - before[i]);
            before = now;
        }
        return sum;
    };
    const std::vector<const char*> names{"C", "F", "G", "Am", "Dm", "G", "C"};
    EXPECT_LT(moved(names, smooth), moved(names, plain) / 2);
    for (int root = 0; root < 12; ++root) {
        const auto p = voiced({root, 0, root}, smooth, {60, 64, 67});
        std::set<int> classes;
        for (const int x : p) classes.insert(pitch_class(x));
        EXPECT_EQ(classes, (std::set<int>{root, (root + 4) % 12, (root + 7) % 12})) << "no tone is lost on the way";
    }
}

TEST(Derive, EachKindHasOfTheChordsWhatItSays) {
    const Song s = song_of({"Dm7", "G7/B", "N.C.", "Cmaj7"});
    Derivation how;
    how.low = 36, how.high = 60;
    how.kind = FromChords::Lowest;
    EXPECT_EQ(pitches(notes_from_chords(s, how)), (std::vector<int>{38, 47, 36}));
    how.kind = FromChords::Roots;
    EXPECT_EQ(pitches(notes_from_chords(s, how)), (std::vector<int>{38, 43, 36}));
    how.kind = FromChords::Tone;
    how.tone = 7;
    EXPECT_EQ(pitches(notes_from_chords(s, how)), (std::vector<int>{36, 41, 47}));
    how.tone = 9;
    EXPECT_TRUE(notes_from_chords(s, how).empty()) << "none of them has a ninth";
    how.kind = FromChords::Block;
    EXPECT_EQ(notes_from_chords(s, how).size(), 12u);
    how.kind = FromChords::Top;
    const auto tops = notes_from_chords(s, how);
    ASSERT_EQ(tops.size(), 3u);
    EXPECT_EQ(tops[0].pitch, 48);
    EXPECT_EQ(tops[2].start, 3 * 3840) << "no chord, no note";
    EXPECT_EQ(tops[2].length, 3840);
}

TEST(Derive, ArpeggiosStrumsAndStrokesFollowTheirNumbers) {
    const Song s = song_of({"C"});
    Derivation how;
    how.kind = FromChords::Arpeggio;
    how.every = 480, how.length = 0.5, how.slope = 4, how.velocity = 60;
    const auto up = notes_from_chords(s, how);
    ASSERT_EQ(up.size(), 8u);
    EXPECT_EQ(pitches(up), (std::vector<int>{48, 52, 55, 48, 52, 55, 48, 52}));
    EXPECT_EQ(up[0].length, 240);
    EXPECT_EQ(up[2].velocity, 68);
    how.way = ArpeggioWay::UpDown;
    EXPECT_EQ(pitches(notes_from_chords(s, how)), (std::vector<int>{48, 52, 55, 52, 48, 52, 55, 52}));
    how.way = ArpeggioWay::Down;
    how.octaves = 2;
    EXPECT_EQ(pitches(notes_from_chords(s, how)), (std::vector<int>{67, 64, 60, 55, 52, 48, 67, 64}));
    how.way = ArpeggioWay::Random;
    EXPECT_EQ(pitches(notes_from_chords(s, how)), pitches(notes_from_chords(s, how))) << "the same every time";
    how = {};
    how.kind = FromChords::Block;
    how.every = 320, how.strum_ms = 20.0;  // at 120 BPM 38 ticks
    const auto cut = notes_from_chords(s, how);
    ASSERT_EQ(cut.size(), 36u) << "triplets";
    EXPECT_EQ(cut[0].start, 0);
    EXPECT_NEAR(static_cast<double>(cut[1].start), 38.4, 1.0);
    EXPECT_NEAR(static_cast<double>(cut[2].start), 76.8, 1.0);
    how.strum_ms = -20.0;
    EXPECT_EQ(notes_from_chords(s, how)[0].pitch, 55) << "from the highest down";
}

TEST(Derive, ALinkedPartFollowsItsChordsUntilItsNotesAreEdited) {
    Derivation how;
    how.kind = FromChords::Roots;
    how.linked = true;
    how.low = 36;
    const Remake r = derive_part(small_remake(), kBass, how);
    ASSERT_FALSE(what_is_wrong(r)) << *what_is_wrong(r);
    EXPECT_EQ(placed_notes(*r.part(kBass)).size(), 4u);
    EXPECT_EQ(placed_notes(*r.part(kBass))[0].note.pitch, 38);
    const Remake changed = follow_chords(r, set_chord(r, 0, chord("E")));
    EXPECT_EQ(placed_notes(*changed.part(kBass))[0].note.pitch, 40);
    EXPECT_TRUE(changed.part(kBass)->derived.linked);
    Remake edited = r;
    edited.parts[0].edit().patterns[0].edit().notes[0].pitch = 50;
    edited = follow_chords(r, edited);
    EXPECT_FALSE(edited.part(kBass)->derived.linked) << "the hand goes before the link";
    EXPECT_EQ(placed_notes(*follow_chords(edited, set_chord(edited, 0, chord("E"))).part(kBass))[0].note.pitch, 50);
    EXPECT_EQ(follow_chords(r, r), r);
}

TEST(Derive, MoreThanARemakeMayPlayIsNotMade) {
    Song s = song_of({"C"});
    s.chords[0].length = Ticks{1} << 26;
    Derivation how;
    how.kind = FromChords::Block;
    how.every = 1;
    const auto notes = notes_from_chords(s, how);
    EXPECT_GT(notes.size(), limits::kSoundingNotes);
    EXPECT_LT(notes.size(), limits::kSoundingNotes + 10);
    Remake r = small_remake();
    r.song.edit().chords = s.chords;
    EXPECT_TRUE(what_is_wrong(derive_part(r, kBass, how))) << "and what would play it is refused";
}

TEST(PutChord, WhatWasWrittenThereGivesWay) {
    const Remake r = small_remake();  // four chords of two bars
    const Remake next = put_chord(r, 3840, 3840 * 2, chord("E"));
    ASSERT_EQ(next.song->chords.size(), 5u);
    EXPECT_EQ(next.song->chords[0].length, 3840);
    EXPECT_EQ(next.song->chords[1].chord, chord("E"));
    EXPECT_EQ(next.song->chords[2].start, 3 * 3840);
    EXPECT_FALSE(what_is_wrong(next));
    const Remake inside = put_chord(r, 960, 960, chord("E"));
    EXPECT_EQ(inside.song->chords.size(), 6u) << "what lies around it stays on both sides";
    EXPECT_FALSE(what_is_wrong(inside));
    const Remake copied = copy_chords(r, 0, 4 * 3840, 4 * 3840, 2);
    EXPECT_FALSE(what_is_wrong(copied));
    EXPECT_EQ(copied.song->chords.size(), 6u);
    EXPECT_EQ(copied.song->chords[5].start, 10 * 3840);
}

TEST(ChordWords, DegreesReadInTheKeyAndAreWrittenBack) {
    const Key d{2, Mode::Dorian}, c{0, Mode::Major};
    EXPECT_EQ(parse_chord_in(c, "ii7"), chord("Dm7"));
    EXPECT_EQ(parse_chord_in(c, "V7"), chord("G7"));
    EXPECT_EQ(parse_chord_in(c, "bVII"), chord("Bb"));
    EXPECT_EQ(parse_chord_in(d, "i7"), chord("Dm7"));
    EXPECT_EQ(parse_chord_in(d, "IV"), chord("G"));
    EXPECT_EQ(parse_chord_in(c, "V/B"), chord("G/B"));
    EXPECT_EQ(parse_chord_in(c, "dm7/f"), chord("Dm7/F")) << "typed without capitals";
    for (const char* bad : {"", "H7", "IIII", "xyz", "b/"}) EXPECT_FALSE(parse_chord_in(c, bad)) << bad;
    for (const char* name : {"Dm7", "G7", "Bb", "F#dim", "Am9", "Cmaj7"})
        EXPECT_EQ(parse_chord_in(c, degree_name(c, chord(name))), chord(name)) << degree_name(c, chord(name));
}

TEST(ChordWords, EveryKindReadsBackFromItsNameAndItsLabel) {
    for (std::size_t k = 0; k < chord_kinds().size(); ++k)
        for (int root = 0; root < 12; ++root) {
            const Chord c{root, static_cast<int>(k), root};
            EXPECT_EQ(parse_chord(c.name(false)), c) << c.name(false);
            EXPECT_EQ(parse_chord(c.label()), c) << c.label();
        }
}

TEST(ChordWords, CompletionsBeginAsTypedAndTheKeysOwnComeFirst) {
    const Key c{0, Mode::Major};
    const auto d = chord_completions(c, "D");
    ASSERT_FALSE(d.empty());
    EXPECT_EQ(d.front(), "Dm");
    for (const auto& name : chord_completions(c, "f#m")) EXPECT_TRUE(parse_chord_in(c, name)) << name;
    const auto bass = chord_completions(c, "Dm7/");
    EXPECT_EQ(bass.front(), "Dm7/D");
    EXPECT_TRUE(std::find(bass.begin(), bass.end(), "Dm7/F") != bass.end());
    EXPECT_TRUE(chord_completions(c, "Q").empty());
}

TEST(ChordWords, NotesAreNamedWhateverTheirOrder) {
    const auto best = [](std::vector<int> p) {
        const auto all = chords_of_notes(p);
        return all.empty() ? std::string("none") : all.front().first.name(false);
    };
    EXPECT_EQ(best({60, 64, 67}), "C");
    EXPECT_EQ(best({52, 60, 67}), "C/E");
    EXPECT_EQ(best({50, 53, 57, 60}), "Dm7");
    EXPECT_EQ(best({50, 60, 65}), "Dm7") << "a fifth may be left out";
    EXPECT_EQ(best({43, 59, 65}), "G7");
    EXPECT_EQ(best({60}), "none");
    EXPECT_EQ(best({60, 72}), "none");
    // Every kind in root position is named as itself, or as something with the very same tones.
    for (std::size_t k = 0; k < chord_kinds().size(); ++k) {
        std::vector<int> p;
        for (const int t : chord_kinds()[k].tones()) p.push_back(48 + t + (t < 3 && t > 0 && k > 10 ? 12 : 0));
        const auto all = chords_of_notes(p, 6);
        ASSERT_FALSE(all.empty()) << chord_kinds()[k].sign;
        const Chord expected{0, static_cast<int>(k), 0};
        std::set<int> wanted, found;
        for (const int t : expected.tones()) wanted.insert(t);
        for (const int t : all.front().first.tones()) found.insert(t);
        EXPECT_EQ(found, wanted) << chord_kinds()[k].sign << " was named " << all.front().first.name(false);
    }
}

TEST(ChordWords, AThirdMoreAndOneFewerAreTheKeys) {
    const Key c{0, Mode::Major};
    EXPECT_EQ(extended(c, chord("C"), true), chord("Cmaj7"));
    EXPECT_EQ(extended(c, chord("G"), true), chord("G7"));
    EXPECT_EQ(extended(c, chord("Dm"), true), chord("Dm7"));
    EXPECT_EQ(extended(c, chord("Bdim"), true), chord("Bm7b5"));
    EXPECT_EQ(extended(c, chord("G7"), true), chord("G9"));
    EXPECT_EQ(extended(c, chord("G9"), true), chord("G9")) << "there is no more";
    for (const char* name : {"C", "G", "Dm", "Bdim"}) EXPECT_EQ(extended(c, extended(c, chord(name), true), false), chord(name)) << name;
}

TEST(ChordWords, WhatOftenFollowedIsLikelyToFollowAgain) {
    Song s = song_of({"C", "F", "C", "F", "C", "F", "C"});
    s.keys = {{0, {0, Mode::Major}, 1.0, {}}};
    const auto next = likely_next(s, 6 * 3840 + 100);
    ASSERT_FALSE(next.empty());
    EXPECT_EQ(next.front().first, chord("F"));
    double sum = 0.0;
    for (const auto& [c, share] : likely_next(s, 0, 100)) sum += share;
    EXPECT_NEAR(sum, 1.0, 1e-9);
    EXPECT_FALSE(likely_next(Song{}, 0).empty()) << "with nothing to go by the key's own triads";
}

TEST(FromChords, AnArpeggiosRateChangesUntilTheChordEnds) {
    Derivation how;
    how.kind = FromChords::Arpeggio;
    how.every = 960;
    how.every_at_end = 240;
    const auto notes = notes_from_chords(song_of({"C"}), how);
    ASSERT_GT(notes.size(), 6u);
    EXPECT_EQ(notes[1].start - notes[0].start, 960);
    for (std::size_t i = 2; i < notes.size(); ++i) EXPECT_LE(notes[i].start - notes[i - 1].start, notes[i - 1].start - notes[i - 2].start) << "ever faster";
    EXPECT_LE(notes.back().start - notes[notes.size() - 2].start, 320);
    EXPECT_LT(notes.back().start + notes.back().length, 3841) << "none beyond the chord";
    how.every_at_end = 0;
    EXPECT_EQ(notes_from_chords(song_of({"C"}), how).size(), 4u);
}

TEST(FromChords, AChordsOwnLayoutHoldsForItAloneAndIsGivenUpWithTheChord) {
    Derivation how;
    how.kind = FromChords::Block;
    Remake r = small_remake();
    *&r.song.edit() = song_of({"Dm", "G"});
    r = voice_chord(r, 0, {65, 50, 57, 57});
    ASSERT_FALSE(what_is_wrong(r)) << *what_is_wrong(r);
    const auto notes = notes_from_chords(*r.song, how);
    EXPECT_EQ((std::vector<int>{notes[0].pitch, notes[1].pitch, notes[2].pitch}), (std::vector<int>{50, 57, 65}));
    EXPECT_EQ(notes[3].pitch, notes_from_chords(*small_remake().song, how).empty() ? 0 : notes[3].pitch);
    EXPECT_TRUE(r.song->chords[1].voiced.empty()) << "the other one is laid out as before";
    EXPECT_TRUE(set_chord(r, 0, chord("F")).song->chords[0].voiced.empty()) << "another chord has another layout";
    EXPECT_EQ(set_chord(r, 0, chord("Dm")).song->chords[0].voiced.size(), 3u);
    EXPECT_EQ(copy_chords(r, 0, 3840, 7680, 1).song->chords.back().voiced.size(), 3u) << "copied along";
    EXPECT_TRUE(voice_chord(r, 0, {}).song->chords[0].voiced.empty());
}

}  // namespace fw
