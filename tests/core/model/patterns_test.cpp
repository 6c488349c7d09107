// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/patterns.hpp"

#include "model/edits/arrangement.hpp"
#include "model/edits/notes.hpp"
#include "model/edits/parts.hpp"
#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <algorithm>
#include <map>
#include <random>
#include <set>

namespace fw {

using test::kBass;
using test::small_remake;

namespace {

constexpr Ticks kBar = 4 * kTicksPerQuarter;

struct Planted {
    Remake remake;
    std::set<Ticks> changed;  ///< where the loops begin that differ
    Ticks loop = kBar;
};

/// A song of three sections that repeat loops of a length, played by hand, with changes in some of them.
Planted planted(unsigned seed, int loop_bars, Origin origin) {
    std::mt19937 dice(seed);
    const auto pick = [&](int n) { return static_cast<int>(dice() % static_cast<unsigned>(n)); };
    Planted out;
    out.loop = loop_bars * kBar;
    Remake r = small_remake();
    r.next_id = 200;
    auto& song = r.song.edit();
    song.sections.clear();
    std::vector<Note> notes;
    Ticks at = 0;
    for (int s = 0; s < 3; ++s) {
        const Ticks length = 16 * kBar;
        song.sections.push_back({at, length, std::string(1, static_cast<char>('A' + s)), "", {}, 1.0, SectionId(s + 100)});
        std::vector<Note> loop;
        for (Ticks t = 0; t < out.loop; t += 240)
            if (pick(5) < 2) {
                Note n;
                n.start = t, n.length = 200, n.pitch = 36 + 5 * s + pick(5), n.velocity = 70 + pick(40), n.origin = origin;
                n.confidence = 0.85 + 0.01 * pick(15);
                loop.push_back(n);
            }
        for (Ticks place = at; place < at + length; place += out.loop) {
            std::vector<Note> now = loop;
            if (place > at && pick(6) == 0 && now.size() > 3) {
                const int what = pick(3);
                if (what == 0) now.erase(now.begin() + pick(static_cast<int>(now.size())));
                else if (what == 1) now[static_cast<std::size_t>(pick(static_cast<int>(now.size())))].pitch += 30;
                else {
                    Note n = now[static_cast<std::size_t>(pick(static_cast<int>(now.size())))];
                    n.pitch += 19;
                    now.push_back(n);
                }
                out.changed.insert(place);
            }
            for (Note n : now) {
                n.start += place + pick(31) - 15;
                n.velocity += pick(13) - 6;
                // What is heard badly now and then: a note too many that nothing vouches for, or one too few that was hardly heard.
                notes.push_back(n);
                if (origin == Origin::Heard && pick(20) == 0) {
                    Note ghost = n;
                    ghost.pitch += 7;
                    ghost.confidence = 0.3 + 0.01 * pick(40);
                    notes.push_back(ghost);
                }
            }
        }
        at += length;
    }
    std::stable_sort(notes.begin(), notes.end(), [](const Note& a, const Note& b) { return a.start < b.start; });
    out.remake = with_part(r, kBass, [&](Part& p) {
        p.patterns.clear(), p.placements.clear(), p.next_id = 1;
        place_notes(p, notes, r.song->sections, r.song->meter);
    });
    const auto wrong = what_is_wrong(out.remake);
    EXPECT_FALSE(wrong) << *wrong;
    return out;
}

std::multiset<std::pair<Ticks, int>> sounding(const Remake& r) {
    std::multiset<std::pair<Ticks, int>> out;
    for (const PlacedNote& n : placed_notes(*r.part(kBass)))
        if (!n.muted) out.emplace(n.note.start, n.note.pitch);
    return out;
}

}  // namespace

TEST(FindPatterns, PlantedChangesAreFoundAndNothingElseIsCalledOne) {
    for (const Origin origin : {Origin::Imported, Origin::Heard}) {
        int right = 0, told = 0, there = 0;
        for (unsigned seed = 1; seed <= 40; ++seed) {
            const int bars = 1 << (seed % 3);
            const Planted song = planted(seed, bars, origin);
            const Remake folded = find_patterns(song.remake, kBass);
            ASSERT_FALSE(what_is_wrong(folded)) << *what_is_wrong(folded);
            // A change counts at the loop it lies in, however long the patterns that were found.
            std::set<Ticks> found;
            for (const Variation& v : variations(*folded.part(kBass)))
                for (const Ticks t : v.places) found.insert((t + kTicksPerQuarter / 8) / song.loop * song.loop);
            there += static_cast<int>(song.changed.size());
            told += static_cast<int>(found.size());
            for (const Ticks t : found) right += song.changed.contains(t);
        }
        EXPECT_GE(there, 100);
        EXPECT_GE(static_cast<double>(right) / told, 0.95) << "precision, " << (origin == Origin::Heard ? "heard" : "given");
        EXPECT_GE(static_cast<double>(right) / there, 0.95) << "recall, " << (origin == Origin::Heard ? "heard" : "given");
    }
}

TEST(FindPatterns, WhatWasGivenSoundsAsBeforeButForItsTiming) {
    for (unsigned seed = 1; seed <= 10; ++seed) {
        const Planted song = planted(seed, 2, Origin::Imported);
        const Remake folded = find_patterns(song.remake, kBass);
        const auto before = sounding(song.remake), after = sounding(folded);
        ASSERT_EQ(before.size(), after.size());
        std::map<int, std::vector<Ticks>> by_pitch[2];
        for (const auto& [t, p] : before) by_pitch[0][p].push_back(t);
        for (const auto& [t, p] : after) by_pitch[1][p].push_back(t);
        for (const auto& [pitch, times] : by_pitch[0]) {
            ASSERT_EQ(times.size(), by_pitch[1][pitch].size()) << pitch;
            for (std::size_t i = 0; i < times.size(); ++i) EXPECT_LE(std::abs(times[i] - by_pitch[1][pitch][i]), 31) << "as far as it was played off";
        }
        Folding exact;
        exact.keep_timing = true;
        EXPECT_EQ(sounding(find_patterns(song.remake, kBass, exact)), before) << "with its timing kept it sounds the same to the tick";
    }
}

TEST(FindPatterns, AnEditOfTheLoopIsHeardInAllItsRepeats) {
    const Planted song = planted(3, 1, Origin::Imported);
    const Remake folded = find_patterns(song.remake, kBass);
    const Part& part = *folded.part(kBass);
    ASSERT_LE(part.patterns.size() - variations(part).size(), 6u) << "three loops and little else";
    const auto first = placed_notes(part).front();
    const Remake higher = change_notes(folded, kBass, {first.ref()}, {.semitones = 40});
    const auto count = [&](const Remake& r) {
        int n = 0;
        for (const PlacedNote& p : placed_notes(*r.part(kBass))) n += p.note.pitch == first.note.pitch + 40;
        return n;
    };
    EXPECT_GE(count(higher), 12) << "of sixteen repeats, but for those that change this very note";
}

TEST(FindPatterns, WhatWasHeardOnceAndDoubtfullyIsLeftOutAndWhatMostHaveIsWritten) {
    std::vector<Note> notes;
    Remake r = small_remake();
    for (int bar = 0; bar < 8; ++bar)
        for (int beat = 0; beat < 4; ++beat) {
            Note n;
            n.start = bar * kBar + beat * 960, n.length = 400, n.pitch = 40 + beat, n.origin = Origin::Heard;
            n.confidence = 0.6;
            if (bar == 5 && beat == 2) continue;  // overheard once, and never heard surely
            notes.push_back(n);
            if (bar == 2 && beat == 1) n.pitch = 70, n.confidence = 0.4, notes.push_back(n);
            if (bar == 6 && beat == 1) n.pitch = 71, n.confidence = 0.4, n.accepted = true, notes.push_back(n);
        }
    r = with_part(r, kBass, [&](Part& p) {
        p.patterns.clear(), p.placements.clear(), p.next_id = 1;
        place_notes(p, notes, r.song->sections, r.song->meter);
    });
    const Remake folded = find_patterns(r, kBass);
    int low = 0, doubtful = 0, accepted = 0;
    for (const PlacedNote& n : placed_notes(*folded.part(kBass))) low += n.note.pitch == 42, doubtful += n.note.pitch == 70, accepted += n.note.pitch == 71;
    EXPECT_EQ(low, 8) << "seven of eight have it";
    EXPECT_EQ(doubtful, 0);
    EXPECT_EQ(accepted, 1) << "what the user said is right stays";
}

TEST(FindPatterns, NothingAndOneNoteAreNoTrouble) {
    Remake r = small_remake();
    EXPECT_EQ(find_patterns(r, PartId(77)), r);
    r = with_part(r, kBass, [](Part& p) { p.patterns.clear(), p.placements.clear(); });
    EXPECT_EQ(find_patterns(r, kBass), r);
    Note n;
    n.start = -100, n.length = 200;
    r = add_note(r, kBass, n);
    const Remake folded = find_patterns(r, kBass);
    EXPECT_FALSE(what_is_wrong(folded));
    EXPECT_EQ(sounding(folded), sounding(r));
}

TEST(FindPatterns, WhatDriftsAwayUntilNothingIsSharedStillSoundsAndEachPatternHasALetterOfItsOwn) {
    // Each bar shares two of three notes with the one before; over six bars no note is in most of them.
    Remake r = small_remake();
    std::vector<Note> notes;
    for (int bar = 0; bar < 6; ++bar)
        for (int i = 0; i < 3; ++i) {
            Note n;
            n.start = bar * kBar + ((bar + i) % 8) * 480, n.length = 240, n.pitch = 40 + bar + i, n.origin = Origin::Imported;
            notes.push_back(n);
        }
    for (int i = 0; i < 4; ++i) {  // and something else behind, which gets the next letter
        Note n;
        n.start = 6 * kBar + i * 960, n.length = 240, n.pitch = 80 + i, n.origin = Origin::Imported;
        notes.push_back(n);
    }
    std::stable_sort(notes.begin(), notes.end(), [](const Note& a, const Note& b) { return a.start < b.start; });
    r.song.edit().sections.clear();
    r = with_part(r, kBass, [&](Part& p) {
        p.patterns.clear(), p.placements.clear(), p.next_id = 1;
        place_notes(p, notes, {}, r.song->meter);
    });
    Folding bar_by_bar;
    bar_by_bar.bars = 1;
    const Remake folded = find_patterns(r, kBass, bar_by_bar);
    EXPECT_EQ(sounding(folded), sounding(r));
    std::set<std::string> letters;
    std::size_t patterns = 0;
    for (const auto& p : folded.part(kBass)->patterns)
        if (!p->parent) letters.insert(p->letter), ++patterns;
    EXPECT_EQ(letters.size(), patterns) << "a pattern is meant by its letter";
}

TEST(FindPatterns, HowNearTwoNotesAreOneIsTheUsersChoice) {
    Remake r = small_remake();
    std::vector<Note> notes;
    for (int bar = 0; bar < 4; ++bar)
        for (int i = 0; i < 4; ++i) {
            Note n;
            n.start = bar * kBar + i * 960 + (bar % 2 ? 150 : 0), n.length = 240, n.pitch = 40 + i, n.origin = Origin::Imported;
            notes.push_back(n);
        }
    r = with_part(r, kBass, [&](Part& p) {
        p.patterns.clear(), p.placements.clear(), p.next_id = 1;
        place_notes(p, notes, r.song->sections, r.song->meter);
    });
    Folding how;
    how.bars = 1;
    const auto own = [&](Ticks near) {
        how.near = near;
        const Remake folded = find_patterns(r, kBass, how);
        return std::count_if(folded.part(kBass)->patterns.begin(), folded.part(kBass)->patterns.end(), [](const auto& p) { return !p->parent; });
    };
    EXPECT_EQ(own(120), 2) << "150 ticks late is another loop";
    EXPECT_EQ(own(200), 1) << "or the same";
}

TEST(PlacePattern, GoesOnlyWhereThePartIsFree) {
    const Remake r = small_remake();
    EXPECT_EQ(place_pattern(r, kBass, PatternId(1), 2 * kBar), r);
    const Remake more = place_pattern(r, kBass, PatternId(1), 8 * kBar);
    EXPECT_EQ(more.part(kBass)->placements.size(), 3u);
    EXPECT_FALSE(what_is_wrong(more));
}

TEST(SpreadStretch, OneBarBecomesAPatternPlayedWhereItIsToldAndDiffersOnlyThere) {
    // Eight bars by hand: the first is right, the others were heard badly.
    Remake r = small_remake();
    std::vector<Note> notes;
    std::mt19937 dice(3);
    for (int bar = 0; bar < 8; ++bar)
        for (int beat = 0; beat < 4; ++beat) {
            if (bar > 0 && dice() % 3 == 0) continue;
            Note n;
            n.start = bar * kBar + beat * 960 + 11, n.length = 400, n.pitch = 38 + beat, n.velocity = 90, n.origin = Origin::Heard, n.confidence = 0.6;
            notes.push_back(n);
        }
    r = with_part(r, kBass, [&](Part& p) {
        p.patterns.clear(), p.placements.clear(), p.next_id = 1;
        place_notes(p, notes, r.song->sections, r.song->meter);
    });
    const auto placed = placed_notes(*r.part(kBass));
    const auto before = sounding(r);
    Note more;
    more.start = 5 * kBar + 2400, more.length = 100, more.pitch = 60;
    const Remake s = spread_stretch(r, kBass, 0, kBar, {{kBar, {}, {}}, {3 * kBar, {placed[1].ref()}, {}}, {5 * kBar, {}, {more}}, {kBar + 960, {}, {}}});
    ASSERT_FALSE(what_is_wrong(s)) << *what_is_wrong(s);
    const auto now = sounding(s);
    const auto bar_of = [](const std::multiset<std::pair<Ticks, int>>& all, int bar) {
        std::multiset<std::pair<Ticks, int>> out;
        for (const auto& [t, p] : all)
            if (t >= bar * kBar && t < (bar + 1) * kBar) out.emplace(t - bar * kBar, p);
        return out;
    };
    const auto first = bar_of(before, 0);
    EXPECT_EQ(bar_of(now, 0), first);
    EXPECT_EQ(bar_of(now, 1), first) << "the overlapping place was left out";
    auto lacking = first;
    lacking.erase({971, 39});
    EXPECT_EQ(bar_of(now, 3), lacking);
    auto richer = first;
    richer.emplace(2400, 60);
    EXPECT_EQ(bar_of(now, 5), richer);
    for (const int bar : {2, 4, 6, 7}) EXPECT_EQ(bar_of(now, bar), bar_of(before, bar)) << "bar " << bar + 1 << " is not touched";
    const Part& part = *s.part(kBass);
    const Placement* source = nullptr;
    for (const Placement& p : part.placements)
        if (p.start == 0) source = &p;
    ASSERT_TRUE(source);
    const auto at = [&](Ticks t) { return std::find_if(part.placements.begin(), part.placements.end(), [&](const Placement& p) { return p.start == t; }); };
    EXPECT_EQ(at(kBar)->pattern, source->pattern) << "the same pattern";
    EXPECT_EQ(part.pattern(at(3 * kBar)->pattern)->parent, source->pattern) << "a variant of it";
    std::vector<Ticks> changed;
    for (const Variation& v : variations(part)) changed.push_back(v.start);
    EXPECT_TRUE(std::find(changed.begin(), changed.end(), 3 * kBar) != changed.end());
    EXPECT_TRUE(std::find(changed.begin(), changed.end(), 5 * kBar) != changed.end());
    // A change of the pattern reaches all of them.
    const Remake moved = change_notes(s, kBass, {placed_notes(part).front().ref()}, {.semitones = 12});
    EXPECT_TRUE(bar_of(sounding(moved), 1).contains({11, 50}));
    EXPECT_TRUE(bar_of(sounding(moved), 3).contains({11, 50}));
}

TEST(SpreadStretch, WithoutPlacesOrAPartNothingSoundsOtherwise) {
    const Remake r = small_remake();
    EXPECT_EQ(sounding(spread_stretch(r, kBass, 0, kBar, {})), sounding(r));
    // A bar of silence played elsewhere is silence there.
    const Remake hole = fall_out(small_remake(), kBass, 0, kBar), silent = spread_stretch(hole, kBass, 0, kBar, {{2 * kBar, {}, {}}});
    for (const auto& [at, pitch] : sounding(silent)) EXPECT_FALSE(at >= 2 * kBar && at < 3 * kBar) << at;
    EXPECT_EQ(spread_stretch(r, PartId(99), 0, kBar, {{kBar, {}, {}}}), r);
    EXPECT_EQ(spread_stretch(r, kBass, 0, 0, {{kBar, {}, {}}}), r);
}

TEST(SortNotes, FewOutOfPlaceOrManyStandAfterwardsAsAStableSortPutsThem) {
    std::mt19937 dice(5);
    for (const int moved : {0, 1, 3, 31, 32, 33, 200}) {
        std::vector<Note> notes(300);
        for (std::size_t i = 0; i < notes.size(); ++i)
            notes[i].id = NoteId(static_cast<int>(i) + 1), notes[i].start = static_cast<Ticks>(i / 3) * 240, notes[i].pitch = 60;
        for (int k = 0; k < moved; ++k) {
            Note& n = notes[dice() % notes.size()];
            n.start = static_cast<Ticks>(dice() % 100) * 240, n.pitch = 50 + static_cast<int>(dice() % 20);
        }
        std::vector<Note> expected = notes;
        std::stable_sort(expected.begin(), expected.end(),
                         [](const Note& a, const Note& b) { return std::pair(a.start, a.pitch) < std::pair(b.start, b.pitch); });
        sort_notes(notes);
        EXPECT_EQ(notes, expected) << moved;
    }
}

}  // namespace fw
