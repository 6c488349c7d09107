// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/phrasing.hpp"

#include "model/edits/parts.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::kBass;
using test::kDrums;
using test::refs;
using test::small_remake;

namespace {

/// A bass with these notes, in one pattern that plays once, in the key of D dorian.
Remake with_notes(std::vector<Note> notes) {
    Remake r = with_part(small_remake(), kBass, [&](Part& p) {
        Pattern all = test::pattern(1, "A", 8 * 3840, std::move(notes));
        sort_notes(all.notes);
        p.patterns = {all};
        p.placements = {{PatternId(1), 0}};
        p.number_all();
    });
    EXPECT_FALSE(what_is_wrong(r));
    return r;
}

Note note(Ticks start, int pitch, Ticks length = 240, int velocity = 96) {
    Note n;
    n.start = start, n.length = length, n.pitch = pitch, n.velocity = velocity;
    return n;
}

std::vector<Note> notes_in(const Remake& r, PartId part = kBass) {
    EXPECT_FALSE(what_is_wrong(r)) << *what_is_wrong(r);
    std::vector<Note> out;
    for (const PlacedNote& p : placed_notes(*r.part(part))) out.push_back(p.note);
    return out;
}

NoteRefs all(const Remake& r, PartId part = kBass) {
    NoteRefs out;
    for (const PlacedNote& p : placed_notes(*r.part(part))) out.push_back(p.ref());
    return out;
}

}  // namespace

TEST(Quantise, SwingGrooveWindowAndStrengthEachDoWhatTheySay) {
    const Remake r = with_notes({note(10, 40), note(250, 41), note(470, 42), note(800, 43)});
    Quantising how{{240, 2.0 / 3.0}};
    auto n = notes_in(quantise_notes(r, kBass, all(r), how));
    EXPECT_EQ(n[0].start, 0);
    EXPECT_EQ(n[1].start, 320) << "the second sixteenth of a swung pair";
    EXPECT_EQ(n[2].start, 480);
    EXPECT_EQ(n[3].start, 800) << "and the fourth";
    how = {{240}, 1.0, 30};
    n = notes_in(quantise_notes(r, kBass, all(r), how));
    EXPECT_EQ(n[2].start, 480);
    EXPECT_EQ(n[3].start, 800) << "80 ticks off is meant so";
    Groove g;
    g.name = "lazy", g.step = 240;
    g.steps = {{0, 100}, {24, 60}, {0, 100}, {-12, 0}};
    how = {{240, 0.5, &g}, 1.0, 0, 1.0};
    n = notes_in(quantise_notes(r, kBass, all(r), how));
    EXPECT_EQ(n[1].start, 264);
    EXPECT_EQ(n[1].velocity, 60);
    EXPECT_EQ(n[3].start, 720 - 12);
    EXPECT_EQ(n[3].velocity, 96) << "a step the groove says nothing of keeps its velocity";
}

TEST(Quantise, AFlamKeepsItsDistanceAndItsMainStrokeIsOnTheGrid) {
    const Remake r = with_notes({note(900, 38, 60, 40), note(945, 38, 60, 110), note(1300, 38, 60, 100)});
    const auto n = notes_in(quantise_notes(r, kBass, all(r), Quantising{{240}}));
    EXPECT_EQ(n[1].start, 960);
    EXPECT_EQ(n[0].start, 915) << "45 ticks ahead as before";
    EXPECT_EQ(n[2].start, 1200);
}

TEST(Lock, NotesGoToTheNearestPlaceWithinTheirWindow) {
    const Remake r = with_notes({note(20, 40), note(930, 41), note(1500, 42), note(2000, 43)});
    const auto n = notes_in(lock_notes(r, kBass, all(r), {1920, 0, 960}, 120));
    EXPECT_EQ(n[0].start, 0);
    EXPECT_EQ(n[1].start, 960);
    EXPECT_EQ(n[2].start, 1500) << "nothing is near";
    EXPECT_EQ(n[3].start, 1920);
    EXPECT_EQ(notes_in(lock_notes(r, kBass, all(r), {0}, 120, 0.5))[0].start, 10);
    EXPECT_EQ(lock_notes(r, kBass, all(r), {}, 120), r);
}

TEST(Humanise, TheSameSeedGivesTheSameAndStaysWithinItsRange) {
    std::vector<Note> many;
    for (int i = 0; i < 60; ++i) many.push_back(note(480 * i, 40 + i % 5));
    const Remake r = with_notes(many);
    const Remake once = humanise_notes(r, kBass, all(r), 20, 10, 5), again = humanise_notes(r, kBass, all(r), 20, 10, 5),
                 other = humanise_notes(r, kBass, all(r), 20, 10, 6);
    EXPECT_EQ(once, again);
    EXPECT_NE(once, other);
    const auto n = notes_in(once);
    Ticks least = 0, most = 0;
    for (int i = 0; i < 60; ++i) {
        const Ticks by = n[static_cast<std::size_t>(i)].start - 480 * i;
        least = std::min(least, by), most = std::max(most, by);
        EXPECT_LE(std::abs(n[static_cast<std::size_t>(i)].velocity - 96), 10);
    }
    EXPECT_GE(least, -20);
    EXPECT_LE(most, 20);
    EXPECT_LT(least, -8) << "both ways";
    EXPECT_GT(most, 8);
}

TEST(Shaping, SplitAndJoinAreEachOthersInverse) {
    Note bent = note(0, 45, 960);
    bent.bend.edit() = {{0, 0.0}, {300, 50.0}, {700, -50.0}};
    const Remake r = with_notes({bent, note(0, 52, 960)});
    const Remake cut = split_notes(r, kBass, all(r), 480);
    const auto n = notes_in(cut);
    ASSERT_EQ(n.size(), 4u);
    EXPECT_EQ(n[0].length, 480);
    EXPECT_EQ(n[2].start, 480);
    EXPECT_EQ(n[2].bend->front().cents, 50.0) << "it goes on from the pitch it had reached";
    EXPECT_EQ(n[2].bend->at(1).tick, 220);
    const auto joined = notes_in(join_notes(cut, kBass, all(cut)));
    ASSERT_EQ(joined.size(), 2u);
    EXPECT_EQ(joined[0].length, 960);
    EXPECT_EQ(joined[1].pitch, 52);
    EXPECT_EQ(split_notes(r, kBass, all(r), 5000), r) << "nothing lies there";
}

TEST(Shaping, SplittingAsAVariantSoundsItReachesTheParentOrOnlyHere) {
    // The pattern plays twice; the second place has a variant of its own.
    Remake r = small_remake();
    r = change_notes(r, kBass, refs(r, kBass, {17}), {.semitones = 5}, Reach::Here);
    const std::size_t before = placed_notes(*r.part(kBass)).size();
    const Ticks at = placed_notes(*r.part(kBass))[16].note.start + 300;
    const Remake everywhere = split_notes(r, kBass, refs(r, kBass, {16}), at);
    EXPECT_EQ(notes_in(everywhere).size(), before + 2) << "the parent has both halves, and so has the variant";
    EXPECT_EQ(notes_in(everywhere)[1].start, 300);
    const Remake here = split_notes(r, kBass, refs(r, kBass, {16}), at, Reach::Here);
    EXPECT_EQ(notes_in(here).size(), before + 1);
    EXPECT_EQ(notes_in(here)[0].length, 700) << "the first place is as it was";
    const Remake joined = join_notes(here, kBass, refs(here, kBass, {16, 17}), Reach::Here);
    EXPECT_EQ(notes_in(joined).size(), before);
}

TEST(Shaping, SpacesAreAShareOfTheTimeToTheNextChord) {
    const Remake r = with_notes({note(0, 40, 100), note(20, 44, 100), note(960, 41, 100), note(1920, 43, 700)});
    auto n = notes_in(space_notes(r, kBass, all(r), 1.0, 0));
    EXPECT_EQ(n[0].length, 960);
    EXPECT_EQ(n[1].length, 940) << "a strummed chord ends together";
    EXPECT_EQ(n[2].length, 960);
    EXPECT_EQ(n[3].length, 700) << "behind the last there is nothing";
    n = notes_in(space_notes(r, kBass, all(r), 1.0, 60));
    EXPECT_EQ(n[2].length, 900);
    n = notes_in(space_notes(r, kBass, all(r), 0.5, 0));
    EXPECT_EQ(n[2].length, 480);
    const auto chosen = notes_in(space_notes(r, kBass, {all(r)[0]}, 1.0, 0));
    EXPECT_EQ(chosen[0].length, 960) << "until the part's next note, chosen or not, but not the same chord's";
}

TEST(Shaping, CutOverlapsLeaveOneVoice) {
    const Remake r = with_notes({note(0, 40, 2000), note(480, 41, 100), note(960, 43, 2000)});
    const auto n = notes_in(cut_overlaps(r, kBass, all(r)));
    EXPECT_EQ(n[0].length, 480);
    EXPECT_EQ(n[1].length, 100);
    EXPECT_EQ(n[2].length, 2000);
}

TEST(Pitches, StepsOfTheScaleStayInTheKeyAndKeepWhatIsForeignToIt) {
    const Remake r = with_notes({note(0, 62), note(480, 63), note(960, 71), note(1440, 48)});  // D, E flat, B, C in D dorian
    const auto up = notes_in(step_notes(r, kBass, all(r), 1));
    EXPECT_EQ(up[0].pitch, 64);
    EXPECT_EQ(up[1].pitch, 65) << "a semitone above D becomes one above E";
    EXPECT_EQ(up[2].pitch, 72);
    EXPECT_EQ(up[3].pitch, 50);
    const auto octave = notes_in(step_notes(r, kBass, all(r), -7));
    for (std::size_t i = 0; i < 4; ++i) EXPECT_EQ(octave[i].pitch, notes_in(r)[i].pitch - 12);
}

TEST(Pitches, DoublingAddsEachNoteOnceWhereverItsPatternPlays) {
    const Remake r = small_remake();
    const Remake doubled = double_notes(r, kBass, all(r), 12);
    ASSERT_EQ(notes_in(doubled).size(), 2 * notes_in(r).size());
    EXPECT_EQ(doubled.part(kBass)->patterns[0]->notes.size(), 32u) << "both places were chosen, their pattern has each octave once";
    EXPECT_EQ(notes_in(doubled)[1].pitch, notes_in(r)[0].pitch + 12);
}

TEST(Velocities, ARampGoesByTime) {
    const Remake r = with_notes({note(0, 40), note(480, 41), note(1920, 43)});
    const auto n = notes_in(ramp_notes(r, kBass, all(r), 20, 100));
    EXPECT_EQ(n[0].velocity, 20);
    EXPECT_EQ(n[1].velocity, 40);
    EXPECT_EQ(n[2].velocity, 100);
}

TEST(Ornaments, AGraceNoteLiesAheadAndAGlideArrives) {
    const Remake r = with_notes({note(960, 40, 300), note(1920, 47, 300)});
    const auto graced = notes_in(grace_notes(r, kBass, {all(r)[0]}, -1, 120));
    EXPECT_EQ(graced[0].start, 840);
    EXPECT_EQ(graced[0].pitch, 39);
    EXPECT_LT(graced[0].velocity, graced[1].velocity);
    for (const GlideShape shape : {GlideShape::Even, GlideShape::Late, GlideShape::Early}) {
        const auto n = notes_in(glide_notes(r, kBass, all(r), 240, shape));
        EXPECT_EQ(n[0].length, 960);
        EXPECT_EQ(n[0].bend->back().tick, 960);
        EXPECT_EQ(n[0].bend->back().cents, 700.0);
        EXPECT_EQ(left_out_of_tune(n[0]), 0.0) << "it ends on the next pitch";
        EXPECT_EQ(n[0].bend->at(1).tick, 720) << "until then it holds its own";
        EXPECT_EQ(n[0].bend->at(1).cents, 0.0);
        EXPECT_TRUE(n[1].bend->empty()) << "there is nothing to glide to";
    }
    Note lost = note(0, 40);
    lost.bend.edit() = {{0, 0.0}, {200, 140.0}};
    EXPECT_NEAR(left_out_of_tune(lost), 40.0, 1e-9);
}

TEST(Ornaments, VibratoEndsOnItsPitchAndIsAsDeepAsAsked) {
    const Remake r = with_notes({note(0, 40, 3840), note(3840, 41, 100)});  // two seconds
    const auto n = notes_in(vibrato_notes(r, kBass, all(r), 30.0, 5.5, 240));
    ASSERT_GT(n[0].bend->size(), 60u);
    double most = 0.0;
    int crossings = 0;
    for (std::size_t i = 1; i < n[0].bend->size(); ++i) {
        most = std::max(most, std::abs(n[0].bend->at(i).cents));
        crossings += (n[0].bend->at(i - 1).cents > 0.5) != (n[0].bend->at(i).cents > 0.5);
    }
    EXPECT_NEAR(most, 30.0, 1.0);
    EXPECT_NEAR(crossings / 2.0, 5.5 * (2.0 - 0.125), 1.0);
    EXPECT_EQ(n[0].bend->back().cents, 0.0);
    EXPECT_TRUE(n[1].bend->empty()) << "too short for a whole wave";
}

TEST(Rolls, AreStruckAsOftenAsTheySayAndTheirLoudnessAndPitchGoEvenly) {
    Remake r = with_notes({note(960, 38, 960, 100), note(1920, 40, 100)});
    Roll roll;
    roll.strokes = 5, roll.apart = 120, roll.first_velocity = 20, roll.semitones = 4.0;
    r = roll_notes(r, kBass, {all(r)[0]}, roll);
    EXPECT_EQ(notes_in(r).size(), 2u) << "it is one object";
    const auto struck = struck_notes(*r.part(kBass));
    ASSERT_EQ(struck.size(), 6u);
    for (int i = 0; i < 5; ++i) {
        const Note& n = struck[static_cast<std::size_t>(i)].note;
        EXPECT_EQ(n.start, 960 + 120 * i);
        EXPECT_EQ(n.velocity, 20 + 20 * i);
        EXPECT_EQ(n.bend->front().cents, 100.0 * i);
        EXPECT_EQ(struck[static_cast<std::size_t>(i)].note.id, struck[0].note.id);
    }
    roll = {2, 40, 50, 0.0, true};
    const Remake flam = roll_notes(r, kBass, {all(r)[0]}, roll);
    const auto strokes = struck_notes(*flam.part(kBass));
    EXPECT_EQ(strokes[0].note.start, 920);
    EXPECT_EQ(strokes[0].note.velocity, 50);
    EXPECT_EQ(strokes[1].note.start, 960) << "the note itself is where it was";
    EXPECT_EQ(strokes[1].note.length, 960);
    EXPECT_EQ(struck_notes(*roll_notes(flam, kBass, {all(r)[0]}, Roll{}).part(kBass)).size(), 2u);
}

TEST(Rolls, MutedAndAcceptedNotesAreMarkedAndNothingElse) {
    const Remake r = small_remake();
    const Remake quiet = mute_notes(r, kBass, refs(r, kBass, {3}), true, Reach::Here);
    EXPECT_TRUE(placed_notes(*quiet.part(kBass))[3].muted);
    EXPECT_FALSE(placed_notes(*quiet.part(kBass))[19].muted) << "only here";
    EXPECT_EQ(mute_notes(quiet, kBass, refs(quiet, kBass, {3}), false, Reach::Here).part(kBass)->placements.size(), 2u);
    const Remake sure = accept_notes(r, kBass, refs(r, kBass, {3}), true);
    EXPECT_TRUE(placed_notes(*sure.part(kBass))[19].note.accepted) << "it is the same note of the same pattern";
    EXPECT_EQ(placed_notes(*sure.part(kBass))[3].note.confidence, 0.8) << "what the evidence said stays";
}

TEST(Copies, GoWhereTheyAreSentAndIntoOtherParts) {
    const Remake r = small_remake();
    const Remake more = copy_notes(r, kBass, refs(r, kBass, {0}), kDrums, 480, 3, 0);
    EXPECT_EQ(placed_notes(*more.part(kDrums)).size(), placed_notes(*r.part(kDrums)).size() + 3);
    EXPECT_EQ(notes_in(more), notes_in(r));
}

TEST(Bends, ADrawnCurveIsKeptWithinTheNoteAndThinnedToWhatMatters) {
    const Remake r = small_remake();
    const auto all = test::refs(r, kBass, {0});
    const Remake bent = bend_notes(r, kBass, all, {{0, -200.0}, {350, 0.0}, {700, 100.0}, {5000, 900.0}});
    const Note n = placed_notes(*bent.part(kBass)).front().note;
    ASSERT_EQ(n.bend->size(), 3u) << "what lies behind the note is left out";
    EXPECT_EQ(n.bend->back().cents, 100.0);
    EXPECT_FALSE(what_is_wrong(bent));
    EXPECT_EQ(left_out_of_tune(n), 0.0);
    // A straight way and a knee: three points of a hundred.
    std::vector<BendPoint> drawn;
    for (int i = 0; i <= 100; ++i) drawn.push_back({i * 5, i < 60 ? -100.0 + i * 100.0 / 60.0 + (i % 2) : 0.0});
    const auto few = thinned(drawn, 4.0);
    EXPECT_LE(few.size(), 4u);
    EXPECT_EQ(few.front().cents, -100.0);
    EXPECT_EQ(few.back().tick, 500);
    const auto near_knee = std::find_if(few.begin(), few.end(), [](const BendPoint& b) { return std::abs(b.tick - 300) < 30; });
    EXPECT_NE(near_knee, few.end());
    EXPECT_EQ(thinned({{0, 1.0}}, 4.0).size(), 1u);
}

TEST(Phrasing, AnotherRateIsFromWhereTheFirstBegins) {
    Remake r = small_remake();
    const auto chosen = test::refs(r, kBass, {0, 1, 2, 3});
    const auto before = placed_notes(*r.part(kBass));
    const auto twice = placed_notes(*rate_notes(r, kBass, chosen, 2.0, Reach::Here).part(kBass));
    EXPECT_EQ(twice[0].note.start, before[0].note.start);
    EXPECT_EQ(twice[3].note.start - twice[0].note.start, (before[3].note.start - before[0].note.start + 1) / 2);
    EXPECT_EQ(twice[2].note.length, before[2].note.length / 2);
    EXPECT_EQ(twice[4].note.start, before[4].note.start) << "what was not chosen stays";
    const Remake there = rate_notes(r, kBass, test::refs(r, kBass, {0}), 2.0), back = rate_notes(there, kBass, test::refs(there, kBass, {0}), 0.5);
    EXPECT_EQ(placed_notes(*back.part(kBass))[0].note, before[0].note) << "twice as fast and half as fast is as it was";
    EXPECT_EQ(rate_notes(r, kBass, {}, 2.0), r);
}

}  // namespace fw
