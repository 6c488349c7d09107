// SPDX-License-Identifier: GPL-3.0-or-later
// A bass that follows a melody, a kick or the chords' rhythm.
#include "model/edits.hpp"
#include "model/validate.hpp"

#include "../../support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {
namespace {

using namespace test;

constexpr Ticks kBar = 3840;

/// The small remake with a melody beside the bass.
struct Key {
    Ticks start, length;
    int pitch, velocity;
};
Remake with_lead(const std::vector<Key>& keys, PartRole role = PartRole::Lead) {
    std::vector<Note> notes;
    for (const Key& k : keys) {
        Note& n = notes.emplace_back();
        n.start = k.start, n.length = k.length, n.pitch = k.pitch, n.velocity = k.velocity;
    }
    Remake r = small_remake();
    Part lead;
    lead.id = PartId(50);
    lead.name = "Lead";
    lead.role = role;
    lead.patterns = {pattern(700, "A", 8 * kBar, notes)};
    lead.placements = {{PatternId(700), 0, false, PlacementId(701), {}}};
    lead.number_all();
    r.parts.push_back(lead);
    r.next_id = 1000;
    return r;
}

std::vector<PlacedNote> bass(const Remake& r) { return placed_notes(*r.part(kBass)); }

TEST(FollowLine, AMelodyIsPlayedLowOneNoteAtATimeAndEndsWhereTheNextBegins) {
    const Remake r = with_lead({{0, 2000, 67, 90}, {0, 2000, 76, 100}, {960, 400, 74, 80}, {1920, 960, 40, 70}});
    const Remake followed = follow_line(r, kBass, PartId(50), {});
    ASSERT_EQ(bass(followed).size(), 3u);
    EXPECT_EQ(bass(followed)[0].note.pitch, 28) << "E, of the top note, as low as it goes";
    EXPECT_EQ(bass(followed)[0].note.velocity, 100);
    EXPECT_EQ(bass(followed)[0].note.length, 960) << "not into the next";
    EXPECT_EQ(bass(followed)[1].note.pitch, 38) << "D";
    EXPECT_EQ(bass(followed)[1].note.length, 400);
    EXPECT_EQ(bass(followed)[2].note.pitch, 28) << "E stays E";
    EXPECT_FALSE(what_is_wrong(followed)) << *what_is_wrong(followed);
    // Of chords the lowest is followed; another octave where that is asked.
    FollowLine higher;
    higher.low = 36;
    EXPECT_EQ(bass(follow_line(with_lead({{0, 960, 67, 90}, {0, 960, 76, 90}}, PartRole::Chords), kBass, PartId(50), higher))[0].note.pitch, 43);
}

TEST(FollowLine, AKickIsPlayedOnTheChordsLowestTonesAndOnlyWhereItIsAsked) {
    const Remake r = small_remake();
    FollowLine how;
    how.roots = true;
    how.sound = 36;
    how.from = 2 * kBar, how.to = 4 * kBar;
    const Remake followed = follow_line(r, kBass, kDrums, how);
    std::vector<Note> there;
    for (const PlacedNote& n : bass(followed))
        if (n.note.start >= 2 * kBar && n.note.start < 4 * kBar) there.push_back(n.note);
    ASSERT_EQ(there.size(), 4u) << "a kick each half bar";
    const Chord& chord = r.song->chords[1].chord;
    for (std::size_t i = 0; i < 4; ++i) {
        EXPECT_EQ(there[i].start, 2 * kBar + static_cast<Ticks>(i) * 1920);
        EXPECT_EQ(there[i].pitch % 12, chord.bass);
        EXPECT_GE(there[i].pitch, 28);
        EXPECT_LT(there[i].pitch, 40);
        EXPECT_EQ(there[i].length, 1920) << "until the next";
    }
    const auto outside = [](const Remake& of) {
        std::vector<std::pair<Ticks, int>> all;
        for (const PlacedNote& n : bass(of))
            if (n.note.start < 2 * kBar || n.note.start >= 4 * kBar) all.emplace_back(n.note.start, n.note.pitch);
        return all;
    };
    EXPECT_EQ(outside(followed), outside(r)) << "the rest is as it was, the repeat too";
    EXPECT_FALSE(what_is_wrong(followed));
    EXPECT_EQ(follow_line(r, kBass, kBass, how), r);
    EXPECT_EQ(follow_line(r, kBass, PartId(99), how), r);
}

}  // namespace
}  // namespace fw
