// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits.hpp"

#include "model/history.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::kBass;
using test::kDrums;
using test::refs;
using test::small_remake;
using test::sounding;

void expect_same_times(const Remake& a, const Remake& b, double tolerance_s) {
    for (const PartId part : {kBass, kDrums}) {
        const auto x = sounding(a, part), y = sounding(b, part);
        ASSERT_EQ(x.size(), y.size());
        for (std::size_t i = 0; i < x.size(); ++i) {
            EXPECT_NEAR(x[i].first, y[i].first, tolerance_s);
            EXPECT_EQ(x[i].second, y[i].second);
        }
    }
}

TEST(TempoEdits, HalvingAndDoublingMoveNoNoteInTime) {
    const Remake r = small_remake();
    const Remake half = reread_tempo(r, 0.5), twice = reread_tempo(r, 2.0);
    EXPECT_NEAR(half.song->tempo.bpm_at(0), 60.0, 1e-6);
    EXPECT_NEAR(twice.song->tempo.bpm_at(0), 240.0, 1e-6);
    expect_same_times(r, half, 0.001);
    expect_same_times(r, twice, 0.001);
    EXPECT_EQ(half.song->sections[1].start, 2 * 3840);
}

TEST(TempoEdits, TheOldReadingBecomesACandidate) {
    const Remake half = reread_tempo(small_remake(), 0.5);
    EXPECT_NEAR(half.song->tempo_candidates[0].bpm, 120.0, 1e-6);
}

TEST(DownbeatEdits, TheChosenBeatStartsABarAndNothingMoves) {
    const Remake r = small_remake();
    const Remake moved = set_downbeat(r, 0.5 + 0.5 * 3 + 0.04);  // the fourth beat
    EXPECT_EQ(moved.song->meter.position(moved.song->tempo.nearest_tick(0.5 + 0.5 * 3)).beat, 1);
    expect_same_times(r, moved, 1e-9);
    for (double t = 0.1; t < 8.0; t += 0.37) {
        const Remake again = set_downbeat(moved, t);
        EXPECT_GE(again.song->tempo.anchors().front().tick, 0);
        EXPECT_LT(again.song->tempo.anchors().front().tick, 3840) << "the first beat stays in bar 1";
    }
}

TEST(ChordEdits, RelabellingKeepsTheOldReadingAsAnAlternative) {
    const Remake r = small_remake();
    const Chord f{5, 3, 5};
    const Remake next = set_chord(r, 100, f);
    EXPECT_EQ(next.song->chords[0].chord, f);
    EXPECT_EQ(next.song->chords[0].origin, Origin::Drawn);
    EXPECT_EQ(next.song->chords[0].alternatives.front().first, r.song->chords[0].chord);
    EXPECT_EQ(next.song->chords[1], r.song->chords[1]);
}

TEST(ChordEdits, AChordWhereThereIsNoneFillsTheRestOfItsBar) {
    Remake r = small_remake();
    r.song.edit().chords.clear();
    const Remake next = set_chord(r, 3840 + 960, Chord{0, 0, 0});
    ASSERT_EQ(next.song->chords.size(), 1u);
    EXPECT_EQ(next.song->chords[0].start, 3840);
    EXPECT_EQ(next.song->chords[0].length, 3840);
}

TEST(ChordEdits, SplittingCutsInTwo) {
    const Remake next = split_chord(small_remake(), 3840);
    ASSERT_EQ(next.song->chords.size(), 5u);
    EXPECT_EQ(next.song->chords[0].length, 3840);
    EXPECT_EQ(next.song->chords[1].start, 3840);
    EXPECT_EQ(split_chord(next, 0).song->chords.size(), 5u) << "at its start there is nothing to cut";
}

TEST(NoteEdits, AnEditInOnePlacementShowsInEveryPlacementOfThePattern) {
    const Remake r = small_remake();
    const Remake next = change_notes(r, kBass, refs(r, kBass, {0}), {.semitones = 2});
    const auto before = sounding(r, kBass), after = sounding(next, kBass);
    EXPECT_EQ(after[0].second, before[0].second + 2);
    EXPECT_EQ(after[16].second, before[16].second + 2);
    EXPECT_EQ(after[1], before[1]);
}

TEST(NoteEdits, NamingANoteTwiceChangesItOnce) {
    const Remake r = small_remake();
    const Remake next = change_notes(r, kBass, refs(r, kBass, {0, 16}), {.semitones = 2});
    EXPECT_EQ(sounding(next, kBass)[0].second, sounding(r, kBass)[0].second + 2);
}

TEST(NoteEdits, PitchAndLengthStayInRange) {
    const Remake longer = change_notes(small_remake(), kBass, refs(small_remake(), kBass, {0}), {.times = 1.5});
    EXPECT_EQ(placed_notes(*longer.part(kBass))[0].note.length, placed_notes(*small_remake().part(kBass))[0].note.length * 3 / 2);
    const Remake next = change_notes(small_remake(), kBass, refs(small_remake(), kBass, {0}), {.lengthen = -100000, .semitones = 500, .velocity = 500});
    const Note n = placed_notes(*next.part(kBass))[0].note;
    EXPECT_EQ(n.pitch, 127);
    EXPECT_GT(n.length, 0);
    EXPECT_EQ(n.velocity, 127);
}

TEST(NoteEdits, RemovingAndAddingAreExact) {
    const Remake r = small_remake();
    const Remake fewer = remove_notes(r, kDrums, refs(r, kDrums, {0, 5}));
    EXPECT_EQ(sounding(fewer, kDrums).size(), sounding(r, kDrums).size() - 2);
    Note n;
    n.start = 100 * 3840;
    n.length = 240;
    const Remake more = add_note(r, kBass, n);  // far beyond every section
    EXPECT_EQ(sounding(more, kBass).size(), sounding(r, kBass).size() + 1);
    EXPECT_NEAR(sounding(more, kBass).back().first, more.song->tempo.seconds(n.start), 1e-9);
    EXPECT_EQ(add_note(r, PartId(77), n), r) << "no such part: nothing changes";
}

TEST(NoteEdits, QuantisingGoesAsFarAsAsked) {
    const Remake r = small_remake();
    const Remake full = quantise_notes(r, kBass, refs(r, kBass, {1, 2}), Quantising{{240}});
    EXPECT_EQ(placed_notes(*full.part(kBass))[1].note.start, 960);
    const Remake half = quantise_notes(r, kBass, refs(r, kBass, {2}), Quantising{{240}, 0.5});
    EXPECT_EQ(placed_notes(*half.part(kBass))[2].note.start, 1920 + 7);
}

TEST(NoteEdits, StraighteningTakesBendsOffTheChosenNotesOnly) {
    const Remake bent = with_part(small_remake(), kBass, [](Part& p) {
        for (std::size_t i : {1u, 2u}) p.patterns[0].edit().notes[i].bend.edit() = {{0, -150.0}, {120, 0.0}};
    });
    const Remake r = straighten_notes(bent, kBass, {refs(bent, kBass, {1})[0], {PlacementId(99), NoteId(99)}});
    EXPECT_TRUE(placed_notes(*r.part(kBass))[1].note.bend->empty());
    EXPECT_EQ(placed_notes(*r.part(kBass))[2].note.bend->size(), 2u);
    EXPECT_EQ(straighten_notes(bent, PartId(77), refs(bent, kBass, {1})), bent);
}

TEST(ArrangementEdits, MutingACellSilencesOnlyThatPlacement) {
    const Remake r = mute_cell(small_remake(), kBass, SectionId(4), true);
    EXPECT_EQ(sounding(r, kBass).size(), 16u);
    EXPECT_EQ(sounding(mute_cell(r, kBass, SectionId(4), false), kBass).size(), 32u);
}

TEST(HistoryTest, UndoAndRedoWalkTheSameDocuments) {
    History h(std::make_shared<const Remake>(small_remake()));
    const auto first = h.current();
    h.push(reread_tempo(*first, 0.5), "Halve tempo");
    h.push(rename_section(*h.current(), SectionId(3), "bridge"), "Rename section");
    const auto last = h.current();
    h.undo();
    EXPECT_EQ(h.redo_label(), "Rename section");
    h.undo();
    EXPECT_EQ(h.current(), first);
    EXPECT_FALSE(h.can_undo());
    h.redo();
    h.redo();
    EXPECT_EQ(h.current(), last);
}

TEST(HistoryTest, ADragIsOneStepAndTheNextDragAnother) {
    History h(std::make_shared<const Remake>(small_remake()));
    const Remake base = *h.current();
    for (int i = 1; i <= 5; ++i) h.push(change_notes(base, kBass, refs(base, kBass, {0}), {.semitones = i}), "Move notes", "drag");
    h.close_step();
    h.push(change_notes(*h.current(), kBass, refs(base, kBass, {0}), {.semitones = 1}), "Move notes", "drag");
    h.undo();
    EXPECT_EQ(sounding(*h.current(), kBass)[0].second, sounding(base, kBass)[0].second + 5);
    h.undo();
    EXPECT_EQ(sounding(*h.current(), kBass), sounding(base, kBass));
}

TEST(HistoryTest, KnowsWhatIsSavedAcrossUndo) {
    History h(std::make_shared<const Remake>(small_remake()));
    EXPECT_FALSE(h.unsaved());
    h.push(reread_tempo(*h.current(), 0.5), "x");
    EXPECT_TRUE(h.unsaved());
    h.mark_saved();
    h.undo();
    EXPECT_TRUE(h.unsaved());
    h.redo();
    EXPECT_FALSE(h.unsaved());
    h.undo();
    h.push(reread_tempo(*h.current(), 2.0), "y");
    EXPECT_TRUE(h.unsaved()) << "the saved document is out of reach now";
}

TEST(PartEdits, OnePartAloneKeepsItsNotesOrThoseThatAreMeant) {
    const Remake r = small_remake();
    const Remake alone = only_part(r, kBass);
    ASSERT_EQ(alone.parts.size(), 1u);
    EXPECT_EQ(sounding(alone, kBass), sounding(r, kBass));
    const Remake some = only_part(r, kBass, refs(r, kBass, {1, 17}));
    EXPECT_FALSE(what_is_wrong(some)) << *what_is_wrong(some);
    const auto kept = sounding(some, kBass);
    ASSERT_EQ(kept.size(), 2u);
    EXPECT_EQ(kept[0], sounding(r, kBass)[1]);
    EXPECT_EQ(kept[1], sounding(r, kBass)[17]) << "of two places of one pattern only what is meant";
    EXPECT_TRUE(only_part(r, PartId(77)).parts.empty());
}

}  // namespace fw
