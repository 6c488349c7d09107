// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/followed_changes.hpp"

#include "commands/command.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {
namespace {

using test::small_remake;

double bar_s(int bar) { return 0.5 + 2.0 * (bar - 1); }

/// The recording of small_remake(): its bars, and parts of which only names and roles count.
Analysis heard() {
    Analysis a;
    for (int beat = 0; beat < 32; ++beat) {
        Beat b;
        b.time_s = 0.5 + 0.5 * beat;
        b.bar = beat / 4 + 1, b.beat = beat % 4 + 1;
        a.beats.push_back(b);
    }
    a.parts = {{PartRole::Bass, "Bass", {}}, {PartRole::Lead, "Lead", {}}};
    a.duration_s = 17.0;
    return a;
}

BarDifference told(int bar, int of_bar, const char* element, int missing, int added, int up = 0) {
    BarDifference d;
    d.bar = bar, d.of_bar = of_bar;
    d.start_s = bar_s(bar), d.end_s = bar_s(bar + 1);
    d.element = element;
    d.missing = missing, d.added = added, d.up = up;
    return d;
}

Remake done(const Remake& r, const std::string& line) {
    const auto parsed = parse_line(line);
    EXPECT_TRUE(parsed && *parsed) << line;
    const auto next = run_command(r, **parsed);
    EXPECT_TRUE(next) << line << ": " << (next ? "" : next.error().message());
    return next ? next->remake : r;
}

TEST(FollowedChanges, ABarIsFollowedOnlyWhereTheRebuildDiffersAsTold) {
    const Analysis a = heard();
    const Remake same = small_remake();
    EXPECT_EQ(FollowedChanges(same, a).difference(told(6, 2, "Bass", 1, 0)), Followed::No) << "both bars are alike";
    const Remake without = done(same, "note.remove part=Bass from=6.2 to=6.3 reach=here");
    EXPECT_EQ(FollowedChanges(without, a).difference(told(6, 2, "Bass", 1, 0)), Followed::Yes);
    EXPECT_EQ(FollowedChanges(without, a).difference(told(6, 2, "Bass", 0, 1)), Followed::No) << "one less is not one more";
    EXPECT_EQ(FollowedChanges(without, a).difference(told(6, 2, "Lead", 1, 0)), Followed::NotBuilt);
    const Remake other = done(same, "note.change part=Bass from=6 to=7 semitones=5 reach=here");
    EXPECT_EQ(FollowedChanges(other, a).difference(told(6, 2, "Bass", 1, 0)), Followed::No) << "a bar in which all is other shows no single change";
    EXPECT_EQ(FollowedChanges(other, a).difference(told(6, 2, "Bass", 4, 4, 5)), Followed::Yes);
    EXPECT_EQ(FollowedChanges(other, a).difference(told(6, 2, "Bass", 4, 4, 7)), Followed::No) << "a fourth is no fifth";
}

TEST(FollowedChanges, StrokesAreThoseOfTheDrumsOwnKeys) {
    const Analysis a = heard();
    const Remake r = done(small_remake(), "note.remove part=Drums from=6.1 to=6.2 reach=here");
    EXPECT_EQ(FollowedChanges(r, a).difference(told(6, 2, "kick", 1, 0)), Followed::Yes);
    EXPECT_EQ(FollowedChanges(r, a).difference(told(6, 2, "snare", 1, 0)), Followed::No);
    EXPECT_EQ(FollowedChanges(r, a).difference(told(6, 2, "ride", 1, 0)), Followed::NotBuilt);
}

TEST(FollowedChanges, EntriesAndExitsAreWhereNothingSoundsOnOneSide) {
    const Analysis a = heard();
    const Remake r = small_remake();
    EXPECT_EQ(FollowedChanges(r, a).entry("Bass", bar_s(5)), Followed::No) << "it played before";
    EXPECT_EQ(FollowedChanges(r, a).exit("Bass", bar_s(5)), Followed::No) << "it plays on";
    EXPECT_EQ(FollowedChanges(r, a).entry("Lead", bar_s(5)), Followed::NotBuilt);
    const Remake second = done(r, "note.remove part=Bass from=1 to=5 reach=here");
    EXPECT_EQ(FollowedChanges(second, a).entry("Bass", bar_s(5)), Followed::Yes);
    EXPECT_EQ(FollowedChanges(second, a).entry("Bass", bar_s(6)), Followed::No) << "a bar late";
    EXPECT_EQ(FollowedChanges(second, a).entry("Bass", bar_s(4)), Followed::No) << "a bar early";
    const Remake first = done(r, "note.remove part=Bass from=5 to=9 reach=here");
    EXPECT_EQ(FollowedChanges(first, a).exit("Bass", bar_s(5)), Followed::Yes);
    const Remake muted = done(r, "part.mute part=Bass on=on");
    EXPECT_EQ(FollowedChanges(muted, a).exit("Bass", bar_s(5)), Followed::NotBuilt) << "what is muted does nothing";
}

TEST(FollowedChanges, AChordChangesWhereItsOwnTonesArePlayedAndItsNameCountsForNothing) {
    const Analysis a = heard();
    BarDifference d = told(6, 2, "Chords", 1, 1);
    d.from = "C:maj", d.to = "C:7";
    Remake r = small_remake();
    for (auto& p : r.parts)
        if (p->role == PartRole::Bass) {
            Part& part = p.edit();
            part.patterns[0].edit().notes.clear();
            part.number_all();
        }
    EXPECT_EQ(FollowedChanges(r, a).difference(d), Followed::NotBuilt) << "names of chords alone sound like nothing";
    for (const char* at : {"2", "6"})
        for (const char* pitch : {"C3", "E3", "G3"}) r = done(r, std::string("note.add part=Bass at=") + at + " pitch=" + pitch + " length=1/2 reach=here");
    EXPECT_EQ(FollowedChanges(r, a).difference(d), Followed::No);
    const Remake seventh = done(r, "note.add part=Bass at=6 pitch=Bb3 length=1/2 reach=here");
    EXPECT_EQ(FollowedChanges(seventh, a).difference(d), Followed::Yes);
}

}  // namespace
}  // namespace fw
