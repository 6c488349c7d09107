// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::kBass;
using test::refs;
using test::small_remake;
using test::sounding;

namespace {
int pitch(const Remake& r, std::size_t place) { return sounding(r, kBass)[place].second; }
}  // namespace

TEST(Variants, AChangeHereOnlyLeavesTheOtherPlaceAlone) {
    const Remake r = small_remake();
    const Remake here = change_notes(r, kBass, refs(r, kBass, {17}), {.semitones = 5}, Reach::Here);
    EXPECT_EQ(pitch(here, 17), pitch(r, 17) + 5);
    EXPECT_EQ(pitch(here, 1), pitch(r, 1));
    const Part& bass = *here.part(kBass);
    ASSERT_EQ(bass.patterns.size(), 2u);
    EXPECT_EQ(bass.patterns[1]->letter, "A′");
    EXPECT_EQ(bass.patterns[1]->notes.size(), 1u) << "the variant keeps only what differs";
    EXPECT_EQ(what_is_wrong(here), std::nullopt);
}

TEST(Variants, AChangeOfTheParentReachesAVariantWhereItHasNotChanged) {
    const Remake r = small_remake();
    const Remake here = change_notes(r, kBass, refs(r, kBass, {17}), {.semitones = 5}, Reach::Here);
    const Remake all = change_notes(here, kBass, refs(here, kBass, {1, 2}), {.semitones = -1});
    EXPECT_EQ(pitch(all, 1), pitch(r, 1) - 1);
    EXPECT_EQ(pitch(all, 2), pitch(r, 2) - 1);
    EXPECT_EQ(pitch(all, 17), pitch(r, 1) + 5) << "what was changed here survives";
    EXPECT_EQ(pitch(all, 18), pitch(r, 2) - 1) << "what was not follows";
}

TEST(Variants, EverywhereFromAVariantChangesANoteWhereItIsKept) {
    const Remake r = small_remake();
    const Remake here = change_notes(r, kBass, refs(r, kBass, {17}), {.semitones = 5}, Reach::Here);
    const Remake inherited = change_notes(here, kBass, refs(here, kBass, {20}), {.semitones = 2});
    EXPECT_EQ(pitch(inherited, 4), pitch(r, 4) + 2);
    const Remake own = change_notes(here, kBass, refs(here, kBass, {17}), {.semitones = 1});
    EXPECT_EQ(pitch(own, 17), pitch(r, 1) + 6);
    EXPECT_EQ(pitch(own, 1), pitch(r, 1));
}

TEST(Variants, NotesAreAddedAndTakenAwayHereOnly) {
    const Remake r = small_remake();
    Note n;
    n.start = 4 * 3840 + 480;
    n.length = 240;
    n.pitch = 70;
    Remake next = add_note(r, kBass, n, Reach::Here);
    EXPECT_EQ(sounding(next, kBass).size(), 33u);
    next = remove_notes(next, kBass, refs(next, kBass, {19}), Reach::Here);
    EXPECT_EQ(sounding(next, kBass).size(), 32u);
    EXPECT_EQ(what_is_wrong(next), std::nullopt);
    const Remake gone = remove_notes(next, kBass, refs(next, kBass, {0, 2}));
    EXPECT_EQ(what_is_wrong(gone), std::nullopt) << "what a parent no longer has is not left out of it";
    EXPECT_EQ(sounding(gone, kBass).size(), 32u - 2u - 1u) << "one of the two was gone here already";
}

TEST(Variants, AVariantOfAVariantIsOneOfTheSameParent) {
    Remake r = small_remake();
    r = with_part(r, kBass, [](Part& p) { p.placements.push_back({PatternId(1), 8 * 3840, false, PlacementId(p.next_id++)}); });
    r = change_notes(r, kBass, refs(r, kBass, {16}), {.semitones = 5}, Reach::Here);
    r = with_part(r, kBass, [](Part& p) { p.placements[2].pattern = p.patterns[1]->id; });
    r = change_notes(r, kBass, refs(r, kBass, {32, 33}), {.semitones = 1}, Reach::Here);
    EXPECT_EQ(what_is_wrong(r), std::nullopt);
    EXPECT_EQ(pitch(r, 32), pitch(r, 16) + 1);
    EXPECT_EQ(pitch(r, 33), pitch(r, 17) + 1);
    EXPECT_EQ(r.part(kBass)->patterns[2]->parent, PatternId(1));
}

TEST(Variants, APatternPlayedOnceNeedsNoVariant) {
    const Remake r = with_part(small_remake(), kBass, [](Part& p) { p.placements.pop_back(); });
    const Remake here = change_notes(r, kBass, refs(r, kBass, {3}), {.semitones = 5}, Reach::Here);
    EXPECT_EQ(here.part(kBass)->patterns.size(), 1u);
    EXPECT_EQ(pitch(here, 3), pitch(r, 3) + 5);
}

TEST(Variants, MadeFromNotesTheyKeepOnlyWhatDiffers) {
    const Pattern parent = *small_remake().part(kBass)->patterns[0];
    std::vector<Note> notes = parent.notes;
    for (Note& n : notes) n.id = {};
    notes[3].start += 12;  // the same note, played a little later
    notes[7].pitch += 12;  // another note
    notes.erase(notes.begin() + 9);
    const auto wanted = notes;
    int next = 1000;
    const Pattern variant = variant_of(parent, notes, 120, next);
    ASSERT_EQ(variant.notes.size(), 2u);
    EXPECT_EQ(variant.own(parent.notes[3].id)->own, kOwnStart);
    EXPECT_EQ(variant.left_out.size(), 2u);
    const auto plays = notes_of(variant, &parent);
    ASSERT_EQ(plays.size(), wanted.size());
    for (std::size_t i = 0; i < plays.size(); ++i) EXPECT_EQ(difference(plays[i], wanted[i]), 0) << i;
    EXPECT_EQ(variant_of(parent, parent.notes, 120, next).notes.size(), 0u);
}

TEST(Variants, APitchChangedInTheParentReachesANoteWhoseTimingIsAnotherHere) {
    const Remake r = small_remake();
    const Remake later = change_notes(r, kBass, refs(r, kBass, {17}), {.move = 30}, Reach::Here);
    const Remake up = change_notes(later, kBass, refs(later, kBass, {1}), {.semitones = 3});
    EXPECT_EQ(pitch(up, 17), pitch(r, 17) + 3);
    EXPECT_EQ(placed_notes(*up.part(kBass))[17].note.start, placed_notes(*r.part(kBass))[17].note.start + 30) << "and keeps it";
    // From the variant's side: the pitch is the parent's, the timing its own.
    const Remake everywhere = change_notes(later, kBass, refs(later, kBass, {17}), {.move = 10, .semitones = 3});
    EXPECT_EQ(pitch(everywhere, 1), pitch(r, 1) + 3);
    EXPECT_EQ(placed_notes(*everywhere.part(kBass))[1].note.start, placed_notes(*r.part(kBass))[1].note.start);
    EXPECT_EQ(placed_notes(*everywhere.part(kBass))[17].note.start, placed_notes(*r.part(kBass))[17].note.start + 40);
    EXPECT_EQ(what_is_wrong(everywhere), std::nullopt);
    // A pattern and its variant meant at once: each member is changed once.
    std::vector<NoteRef> all;
    for (const PlacedNote& n : placed_notes(*later.part(kBass))) all.push_back(n.ref());
    const Remake both = change_notes(later, kBass, all, {.move = 10, .semitones = 1});
    for (std::size_t i = 0; i < 32; ++i) {
        EXPECT_EQ(pitch(both, i), pitch(later, i) + 1) << i;
        EXPECT_EQ(placed_notes(*both.part(kBass))[i].note.start, placed_notes(*later.part(kBass))[i].note.start + 10) << i;
    }
}

}  // namespace fw
