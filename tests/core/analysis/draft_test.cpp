// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/draft.hpp"
#include "model/edits/patterns.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <set>
#include <tuple>

namespace fw {

namespace {

/// An analysis of beats only: per_bar felt beats in a bar, starting on a given one.
Analysis counted(int per_bar, int numerator, int denominator, int first_beat, int count = 40, double step_s = 0.5) {
    Analysis a;
    a.path = "song.wav";
    a.duration_s = count * step_s + 1.0;
    for (int i = 0; i < count; ++i) a.beats.push_back({0.5 + i * step_s, (i + first_beat - 1) / per_bar + 1, (i + first_beat - 1) % per_bar + 1});
    a.meter = {{1, numerator, denominator}};
    return a;
}

}  // namespace

TEST(DraftOfBeats, EveryBeatFallsOnItsTick) {
    const Analysis a = counted(4, 4, 4, 1);
    const Remake r = draft_remake(a);
    for (std::size_t i = 0; i < a.beats.size(); ++i) {
        const BarPosition p = r.song->meter.position(r.song->tempo.nearest_tick(a.beats[i].time_s));
        EXPECT_EQ(p.bar, a.beats[i].bar);
        EXPECT_EQ(p.beat, a.beats[i].beat);
        EXPECT_EQ(p.tick, 0);
    }
}

TEST(DraftOfBeats, AnUpbeatStandsBeforeTheFirstWholeBar) {
    const Analysis a = counted(4, 4, 4, 3);
    const Remake r = draft_remake(a);
    EXPECT_EQ(r.song->tempo.nearest_tick(a.beats[0].time_s), 2 * kTicksPerQuarter);
    EXPECT_EQ(r.song->meter.position(r.song->tempo.nearest_tick(a.beats[2].time_s)).text(), "2·1·000");
}

TEST(DraftOfBeats, ABeatOfSixEightIsADottedQuarter) {
    const Analysis a = counted(2, 6, 8, 1);
    const Remake r = draft_remake(a);
    EXPECT_EQ(r.song->tempo.nearest_tick(a.beats[1].time_s), 1440);
    EXPECT_EQ(r.song->meter.position(r.song->tempo.nearest_tick(a.beats[2].time_s)).bar, 2);
}

TEST(DraftOfBeats, WithoutBeatsThereIsStillADocument) {
    Analysis a;
    a.path = "drone.wav";
    a.duration_s = 12.0;
    const Remake r = draft_remake(a);
    EXPECT_NEAR(r.song->tempo.seconds(r.end_tick()), 12.0, 0.01);
    EXPECT_TRUE(r.parts.empty());
    EXPECT_EQ(r.element_ids().size(), 4u);
}

TEST(DraftOfGivenParts, TheyTakeThePlaceOfWhatWasHeardAndFindTheirRoles) {
    Analysis a = counted(4, 4, 4, 1);
    a.parts = {{PartRole::Lead, "Lead", {{1.0, 0.5, 70, 90, 0.9}}}};
    std::vector<GivenPart> given(4);
    given[0] = {"Upright Bass", false, 32, {{0.5, 0.4, 40, 90, 1.0}}};
    given[1] = {"Main melody", false, -1, {{1.0, 0.4, 72, 90, 1.0}}};
    given[2] = {"Kit", true, -1, {{0.5, 0.1, 36, 110, 1.0}}};
    given[3] = {"Bells", false, 14, {{2.0, 1.0, 84, 70, 1.0}}};
    const auto drafted = draft_remake(a, given, 0.0, "parts.mid");
    ASSERT_TRUE(drafted);
    const Remake& r = *drafted;
    ASSERT_EQ(r.parts.size(), 4u);
    EXPECT_EQ(r.parts[0]->role, PartRole::Bass);
    EXPECT_EQ(r.parts[1]->role, PartRole::Lead);
    EXPECT_EQ(r.parts[2]->role, PartRole::Drums);
    EXPECT_EQ(r.parts[3]->role, PartRole::Other);
    EXPECT_EQ(r.parts[3]->layers[0].source, &kSoundFont);
    EXPECT_EQ(r.parts[3]->layers[0].program, 14);
    for (std::size_t i = 0; i < 4; ++i) {
        const auto notes = placed_notes(*r.parts[i]);
        ASSERT_EQ(notes.size(), 1u);
        EXPECT_NEAR(r.song->tempo.seconds(notes[0].note.start), given[i].notes[0].onset_s, 0.001);
        EXPECT_EQ(notes[0].note.origin, Origin::Imported);
        EXPECT_EQ(notes[0].note.velocity, given[i].notes[0].velocity);
    }
}

TEST(DraftOfSections, ANoteJustAheadOfASectionBelongsToIt) {
    Part part;
    Note early;
    early.start = 15360 - 40;
    early.length = 480;
    place_notes(part, {early}, {{0, 15360, "A", "", {}, 1}, {15360, 15360, "B", "", {}, 1}}, MeterMap());
    ASSERT_EQ(part.placements.size(), 1u);
    EXPECT_EQ(part.placements[0].start, 15360);
    EXPECT_EQ(placed_notes(part)[0].note.start, 15360 - 40) << "and keeps its place";
}

TEST(DraftOfSections, NotesOutsideAllSectionsAreKept) {
    Part part;
    std::vector<Note> notes(3);
    notes[0].start = 100;
    notes[1].start = 20000;
    notes[2].start = 60000;
    for (Note& n : notes) n.length = 200;
    place_notes(part, notes, {{15360, 15360, "A", "", {}, 1}}, MeterMap());
    const auto placed = placed_notes(part);
    ASSERT_EQ(placed.size(), 3u);
    for (std::size_t i = 0; i < 3; ++i) EXPECT_EQ(placed[i].note.start, notes[i].start);
    for (std::size_t i = 1; i < part.placements.size(); ++i) EXPECT_LE(part.placements[i - 1].start, part.placements[i].start);
}

TEST(DraftOfSections, SectionsOfAnyShapeLoseNoNoteAndMoveNone) {
    unsigned random = 3;
    const auto pick = [&](unsigned n) { return random = random * 1664525u + 1013904223u, static_cast<Ticks>(random >> 8) % n; };
    for (int round = 0; round < 50; ++round) {
        // Shorter than a bar, overlapping, apart from one another, beginning anywhere.
        std::vector<Section> sections;
        for (Ticks at = pick(4000); at < 60000; at += 1 + pick(9000)) sections.push_back({at, 1 + pick(7000), "A", "", {}, 1});
        std::vector<Note> notes;
        for (int i = 0; i < 200; ++i) notes.push_back({pick(70000) - 2000, 1 + pick(900), 60 + static_cast<int>(pick(4)), 90, 1.0, Origin::Imported, {}});
        std::stable_sort(notes.begin(), notes.end(), [](const Note& a, const Note& b) { return a.start < b.start; });
        Part part;
        place_notes(part, notes, sections, MeterMap());
        std::multiset<std::tuple<Ticks, Ticks, int>> wanted, found;
        for (const Note& n : notes) wanted.emplace(n.start, n.length, n.pitch);
        for (const PlacedNote& n : placed_notes(part)) found.emplace(n.note.start, n.note.length, n.note.pitch);
        ASSERT_EQ(wanted, found) << round;
        for (std::size_t i = 1; i < part.placements.size(); ++i) EXPECT_LE(part.placements[i - 1].start, part.placements[i].start);
    }
}

}  // namespace fw
