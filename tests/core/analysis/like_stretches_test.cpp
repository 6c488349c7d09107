// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/like_stretches.hpp"

#include "model/edits/parts.hpp"
#include "model/edits/patterns.hpp"
#include "support/made_evidence.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <random>
#include <set>

namespace fw {

using test::kBass;

namespace {

constexpr Ticks kBar = 4 * kTicksPerQuarter;

/// Sixteen bars of a bass line as it is heard, with other bars and changed repeats at known places; the draft of the first bar is right, that of others worn.
struct Heard {
    Analysis analysis;
    Remake remake;
    std::set<int> repeats, lacking, richer;  ///< bars from 0
};

Heard heard(unsigned seed, PartRole role = PartRole::Bass) {
    std::mt19937 dice(seed);
    const auto pick = [&](int n) { return static_cast<int>(dice() % static_cast<unsigned>(n)); };
    Heard out;
    out.remake = test::small_remake();
    Song& song = out.remake.song.edit();
    song.tempo = TempoMap({{0, 0.5}, {32 * kBar, 0.5 + 64.0}});
    song.sections = {{0, 16 * kBar, "A", "", {}, 1.0, SectionId(1)}};
    Evidence e = test::silent_evidence(34.0);
    std::vector<Note> line, other;
    for (int step = 0; step < 16; ++step)
        if (step == 0 || pick(3) == 0) {
            Note n;
            n.start = step * 240, n.length = 220, n.pitch = role == PartRole::Drums ? (pick(2) ? 36 : 38) : 36 + pick(12), n.origin = Origin::Heard,
            n.confidence = 0.9;
            line.push_back(n);
            n.start = ((step + 2) % 16) * 240;
            n.pitch = role == PartRole::Drums ? 46 : 50 + pick(10);
            other.push_back(n);
        }
    std::vector<Note> written;
    HeardPart part{role, "Bass", {}};
    for (int bar = 0; bar < 16; ++bar) {
        const bool repeat = bar == 0 || bar % 4 != 3;
        std::vector<Note> now = repeat ? line : other;
        if (repeat && bar > 0) {
            out.repeats.insert(bar);
            if (pick(4) == 0 && now.size() > 3) now.erase(now.begin() + 1 + pick(static_cast<int>(now.size()) - 1)), out.lacking.insert(bar);
            else if (pick(4) == 0) {
                Note n = now.front();
                n.start = 13 * 240, n.pitch = role == PartRole::Drums ? 51 : 58;
                if (std::none_of(now.begin(), now.end(), [](const Note& x) { return x.start == 13 * 240; })) now.push_back(n), out.richer.insert(bar);
            }
        }
        for (Note n : now) {
            n.start += bar * kBar + (bar ? pick(41) - 20 : 0);
            const double at = song.tempo.seconds(n.start);
            if (role == PartRole::Drums) {
                test::spike(e.pulse, at, pulse_column(drum_sound_of_key(n.pitch)->kind), 0.85F);
                out.analysis.drums.push_back({at, drum_sound_of_key(n.pitch)->kind, 90, 0.85});
            } else {
                test::play(e, at, at + 0.1, n.pitch);
                test::sound(e.bass_sounding, e.bass_onset, at, at + 0.1, n.pitch);
                part.notes.push_back({at, 0.1, n.pitch, 90, 0.9, {}});
            }
            // The draft missed some of what was heard.
            if (bar == 0 || pick(4) > 0) written.push_back(n);
        }
    }
    out.analysis.parts = {part};
    out.analysis.duration_s = 34.0;
    out.analysis.evidence = std::make_shared<const Evidence>(std::move(e));
    std::stable_sort(written.begin(), written.end(), [](const Note& a, const Note& b) { return a.start < b.start; });
    out.remake = with_part(out.remake, kBass, [&](Part& p) {
        p.role = role;
        p.patterns.clear(), p.placements.clear(), p.next_id = 1;
        place_notes(p, written, out.remake.song->sections, out.remake.song->meter);
    });
    return out;
}

}  // namespace

TEST(LikeStretches, ABarIsFoundWhereverItIsHeardWithWhatDiffersThereAndNowhereElse) {
    for (const PartRole role : {PartRole::Bass, PartRole::Drums}) {
        int right = 0, told = 0, there = 0, changes_right = 0, changes_told = 0, changes = 0;
        for (unsigned seed = 1; seed <= 30; ++seed) {
            const Heard h = heard(seed, role);
            std::set<int> found, changed;
            for (const LikeStretch& s : like_stretches(h.analysis, *h.remake.song, *h.remake.part(kBass), 0, kBar)) {
                EXPECT_EQ(s.at % kBar, 0);
                found.insert(static_cast<int>(s.at / kBar));
                if (!s.missing.empty() || !s.more.empty()) changed.insert(static_cast<int>(s.at / kBar));
            }
            there += static_cast<int>(h.repeats.size());
            told += static_cast<int>(found.size());
            for (const int bar : found) right += h.repeats.contains(bar);
            std::set<int> differs = h.lacking;
            differs.insert(h.richer.begin(), h.richer.end());
            changes += static_cast<int>(differs.size());
            changes_told += static_cast<int>(changed.size());
            for (const int bar : changed) changes_right += differs.contains(bar);
        }
        EXPECT_GE(static_cast<double>(right) / told, 0.95) << "precision of places";
        EXPECT_GE(static_cast<double>(right) / there, 0.95) << "recall of places";
        EXPECT_GE(changes, 40);
        EXPECT_GE(static_cast<double>(changes_right) / changes_told, 0.95) << "precision of changes";
        EXPECT_GE(static_cast<double>(changes_right) / changes, 0.9) << "recall of changes";
    }
}

TEST(LikeStretches, SilenceAndAStretchWithoutNotesAreLikeNothing) {
    Heard h = heard(1);
    EXPECT_TRUE(like_stretches(h.analysis, *h.remake.song, *h.remake.part(kBass), 40 * kBar, kBar).empty());
    h.analysis.evidence = std::make_shared<const Evidence>(test::silent_evidence(34.0));
    h.analysis.parts.clear();
    EXPECT_TRUE(like_stretches(h.analysis, *h.remake.song, *h.remake.part(kBass), 0, kBar).empty());
}

TEST(LikeStretches, WhatTheUserWroteThereIsKept) {
    Heard h = heard(2);
    const int bar = *h.repeats.begin();
    h.remake = with_part(h.remake, kBass, [&](Part& p) {
        Pattern own = test::pattern(900, "X", kBar);
        Note n;
        n.start = 500, n.length = 100, n.pitch = 84, n.origin = Origin::Drawn;
        own.notes = {n};
        p.patterns.emplace_back(own);
        p.placements.push_back({PatternId(900), bar * kBar, false, PlacementId(901), {}});
        std::stable_sort(p.placements.begin(), p.placements.end(), [](const Placement& a, const Placement& b) { return a.start < b.start; });
        p.number_all();
    });
    bool kept = false;
    for (const LikeStretch& s : like_stretches(h.analysis, *h.remake.song, *h.remake.part(kBass), 0, kBar))
        if (s.at == bar * kBar) kept = std::any_of(s.more.begin(), s.more.end(), [](const Note& n) { return n.pitch == 84 && n.origin == Origin::Drawn; });
    EXPECT_TRUE(kept);
}

}  // namespace fw
