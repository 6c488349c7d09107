// SPDX-License-Identifier: GPL-3.0-or-later
// Doubtful notes and what may stand there instead, on the demo's own evidence and truth.
#include "check/doubts.hpp"

#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "model/edits.hpp"
#include "support/truth.hpp"

#include <gtest/gtest.h>
#include <random>

namespace fw {

namespace {

const Analysis& heard() {
    static const auto a = analyse(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.ogg", {}, EvidenceStore::of_user());
    EXPECT_TRUE(a);
    return **a;
}

/// The demo's bass and lead as they truly are.
Remake right(const std::vector<HeardNote>* lead = nullptr) {
    const test::Truth truth = test::read_truth(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.truth.json");
    auto made = draft_remake(heard(), {{"Bass", false, 33, truth.bass}, {"Lead", false, 21, lead ? *lead : truth.lead}}, 0.0, "truth");
    EXPECT_TRUE(made);
    return *made;
}

PartId part_of(const Remake& r, PartRole role) {
    for (const auto& p : r.parts)
        if (p->role == role) return p->id;
    return {};
}

}  // namespace

TEST(Doubts, ANoteAtAWrongPitchIsDoubtedAndItsRightOneIsAmongTheFirstAlternatives) {
    const test::Truth truth = test::read_truth(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.truth.json");
    std::mt19937 dice(5);
    std::vector<HeardNote> lead = truth.lead;
    std::vector<std::pair<std::size_t, int>> planted;
    for (std::size_t i = 3; i < lead.size(); i += 7) {
        constexpr int kSteps[] = {-1, 1, 2, -2, 12, -12, 3};
        planted.emplace_back(i, lead[i].pitch);
        lead[i].pitch += kSteps[dice() % 7];
    }
    const Remake r = right(&lead);
    const PartId id = part_of(r, PartRole::Lead);
    const auto report = check(r, heard());
    auto all = doubts(r, report, id);
    int doubted = 0, among = 0, first = 0;
    for (const auto& [i, truly] : planted)
        for (Doubt& d : all) {
            if (!d.note || std::abs(d.start_s - lead[i].onset_s) > 0.002 || d.shown.pitch != lead[i].pitch) continue;
            ++doubted;
            look_closer(r, *heard().evidence, d);
            ASSERT_FALSE(d.alternatives.empty());
            EXPECT_TRUE(std::any_of(d.alternatives.begin(), d.alternatives.end(), [](const Alternative& a) { return a.written; }))
                << "what is written is among them";
            for (std::size_t k = 0; k < std::min<std::size_t>(3, d.alternatives.size()); ++k) among += d.alternatives[k].pitch == truly;
            first += d.alternatives.front().pitch == truly;
        }
    ASSERT_GE(planted.size(), 15u);
    EXPECT_GE(doubted, static_cast<int>(0.8 * static_cast<double>(planted.size())));
    EXPECT_GE(among, static_cast<int>(0.8 * doubted)) << "of " << doubted << ", first " << first;
    // And what is right is mostly left alone.
    const Remake true_one = right();
    const auto few = doubts(true_one, check(true_one, heard()), part_of(true_one, PartRole::Lead));
    EXPECT_LE(std::count_if(few.begin(), few.end(), [](const Doubt& d) { return d.note.has_value(); }), static_cast<long>(truth.lead.size()) / 5);
}

TEST(Doubts, WhatTheUserSaidDrewOrMutedIsNotDoubted) {
    const Remake r = draft_remake(heard());
    const PartId id = part_of(r, PartRole::Lead);
    const auto report = check(r, heard());
    const auto all = doubts(r, report, id);
    ASSERT_GT(all.size(), 4u);
    EXPECT_TRUE(std::is_sorted(all.begin(), all.end(), [](const Doubt& a, const Doubt& b) { return a.start_s < b.start_s; }));
    const auto with_note = std::find_if(all.begin(), all.end(), [](const Doubt& d) { return d.note.has_value(); });
    const NoteRef ref = *with_note->note;
    const auto still = [&](const Remake& now) {
        const auto d = doubts(now, check(now, heard()), id);
        return std::any_of(d.begin(), d.end(), [&](const Doubt& x) {
            return x.note && std::abs(x.start_s - with_note->start_s) < 1e-6 && x.shown.pitch == with_note->shown.pitch;
        });
    };
    EXPECT_TRUE(still(r));
    EXPECT_FALSE(still(accept_notes(r, id, {ref}, true)));
    EXPECT_TRUE(still(accept_notes(accept_notes(r, id, {ref}, true), id, {ref}, false)));
    EXPECT_FALSE(still(mute_notes(r, id, {ref}, true)));
    EXPECT_FALSE(still(change_notes(r, id, {ref}, {.velocity = 1}))) << "what was changed by hand is the user's";
}

TEST(Doubts, ANoteTakenAwayIsOfferedAndSaysWhatHidesIt) {
    const Remake whole = right();
    const PartId id = part_of(whole, PartRole::Bass);
    const auto bass = placed_notes(*whole.part(id));
    // Every fifth note of the bass is left out, where it is heard clearly.
    std::vector<NoteRef> gone;
    for (std::size_t i = 2; i < bass.size(); i += 5) gone.push_back(bass[i].ref());
    const Remake r = remove_notes(whole, id, gone, Reach::Here);
    int offered = 0, taken = 0;
    auto all = doubts(r, check(r, heard()), id);
    for (std::size_t i = 2; i < bass.size(); i += 5) {
        ++taken;
        for (Doubt& d : all)
            if (!d.note && std::abs(d.start_s - r.song->tempo.seconds(bass[i].note.start)) < 0.1 && d.shown.pitch == bass[i].note.pitch) {
                ++offered;
                break;
            }
    }
    ASSERT_GE(taken, 10);
    EXPECT_GE(offered, taken / 2);
    // A note an octave above another of the rebuild is told to be hidden by it.
    Doubt d;
    d.part = id;
    d.shown = bass[10].note;
    d.shown.pitch += 12;
    d.start_s = r.song->tempo.seconds(bass[11].note.start);
    d.shown.start = bass[11].note.start;
    d.end_s = d.start_s + 0.2;
    d.shown.pitch = bass[11].note.pitch + 12;
    look_closer(r, *heard().evidence, d);
    EXPECT_EQ(d.masked, Masked::ByItsOctave);
}

TEST(Doubts, OfDrumsOtherSoundsAreOffered) {
    const Remake r = draft_remake(heard());
    const PartId id = part_of(r, PartRole::Drums);
    Doubt d;
    d.part = id;
    for (const Hit& h : heard().drums)
        if (h.kind == DrumKind::Kick && h.confidence > 0.95) d.start_s = h.time_s;
    d.shown.start = r.song->tempo.nearest_tick(d.start_s);
    d.shown.pitch = drum_sound(DrumKind::Snare).key;
    look_closer(r, *heard().evidence, d);
    ASSERT_FALSE(d.alternatives.empty());
    for (const Alternative& a : d.alternatives) EXPECT_NE(a.pitch, drum_sound(DrumKind::Kick).key) << "the part plays it there already";
    EXPECT_TRUE(doubts(r, check(r, heard()), PartId(999)).empty());
    EXPECT_TRUE(doubts(r, CheckReport{}, id).empty()) << "what was not checked is not doubted";
}

}  // namespace fw
