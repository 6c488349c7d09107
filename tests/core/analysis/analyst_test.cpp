// SPDX-License-Identifier: GPL-3.0-or-later
// The whole analysis on sound: signals made in code and the demo, held to the bars the demo must reach.
#include "analysis/analyst.hpp"
#include "model/edits/patterns.hpp"

#include "analysis/draft.hpp"
#include "model/validate.hpp"
#include "support/signals.hpp"
#include "support/truth.hpp"

#include <gtest/gtest.h>
#include <chrono>
#include <thread>

namespace fw {

namespace {

std::shared_ptr<const Analysis> demo() {
    static const auto analysis = [] {
        // Evidence that was heard once for all tests (tests/CMakeLists.txt); IsTheSameOnEveryRun hears it anew.
        auto a = analyse(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.ogg", {}, EvidenceStore::of_user());
        EXPECT_TRUE(a);
        return a ? *a : nullptr;
    }();
    return analysis;
}

}  // namespace

TEST(TuningTest, IsMeasuredWithinACentOnCleanTones) {
    for (const double cents : {-42.0, -15.0, 0.0, 14.0, 33.0}) {
        std::vector<test::Tone> list;
        for (int i = 0; i < 24; ++i) list.push_back({i * 0.4, 0.38, 50 + i * 7 % 24});
        const auto mono = make_mono(test::tones(list, 10, cents), "tones");
        ASSERT_TRUE(mono);
        EXPECT_NEAR(measure_tuning(*mono).cents, cents, 1.0);
    }
}

TEST(TuningTest, ADriftIsToldAndASteadyTuningHasNone) {
    std::vector<test::Tone> list;
    for (int i = 0; i < 24; ++i) list.push_back({i * 0.4, 0.38, 50 + i * 7 % 24});
    Audio drifting = test::tones(list, 10, -10);
    const Audio later = test::tones(list, 10, 14);
    drifting.samples.insert(drifting.samples.end(), later.samples.begin(), later.samples.end());
    EXPECT_NEAR(measure_tuning(*make_mono(drifting, "drifting")).drift_cents, 24.0, 2.0);
    EXPECT_NEAR(measure_tuning(*make_mono(later, "steady")).drift_cents, 0.0, 1.0);
}

TEST(AnalysisOfTheDemo, TuningTempoAndBeatsReachTheirBars) {
    const auto a = demo();
    ASSERT_TRUE(a);
    const test::Truth truth = test::read_truth(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.truth.json");
    EXPECT_NEAR(a->tuning.cents, truth.cents, 5.0);
    EXPECT_NEAR(a->tempo.bpm, 97.3, 0.1);
    ASSERT_GE(a->tempo.segments.size(), 2u);
    double last_area = 0.0, longest = 0.0;
    for (const TempoSegment& s : a->tempo.segments)
        if (s.start_s > 95.0 && s.end_s - s.start_s > longest) longest = s.end_s - s.start_s, last_area = s.bpm;
    EXPECT_NEAR(last_area, 110.6, 0.1);
    std::vector<double> beats;
    for (const Beat& b : a->beats) beats.push_back(b.time_s);
    EXPECT_GE(test::onset_f(truth.beats, beats, 0.07), 0.95);
}

TEST(AnalysisOfTheDemo, KeyAndChordsReachTheirBars) {
    const auto a = demo();
    ASSERT_TRUE(a);
    const test::Truth truth = test::read_truth(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.truth.json");
    // D dorian, the last chorus a tone higher, and back.
    ASSERT_EQ(a->keys.size(), 3u);
    for (std::size_t i = 0; i < 3; ++i) EXPECT_EQ(a->keys[i].key.name(), i == 1 ? "E dorian" : "D dorian");
    EXPECT_NEAR(a->keys[1].start_s, 79.55, 0.1);
    EXPECT_NEAR(a->keys[2].start_s, 99.28, 0.1);
    EXPECT_GE(test::major_minor_share(truth.chords, a->chords), 0.80);
}

TEST(AnalysisOfTheDemo, NotesAndDrumsReachTheirBars) {
    const auto a = demo();
    ASSERT_TRUE(a);
    const test::Truth truth = test::read_truth(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.truth.json");
    for (const HeardPart& p : a->parts) {
        if (p.role == PartRole::Bass) {
            EXPECT_GE(test::note_f(truth.bass, p.notes), 0.90);
        } else if (p.role == PartRole::Lead) {
            EXPECT_GE(test::note_f(truth.lead, p.notes), 0.80);
        }
    }
    for (const auto& [kind, bar] : {std::pair{DrumKind::Kick, 0.90}, {DrumKind::Snare, 0.90}, {DrumKind::HatClosed, 0.90}}) {
        std::vector<double> found;
        for (const Hit& h : a->drums)
            if (h.kind == kind) found.push_back(h.time_s);
        EXPECT_GE(test::onset_f(truth.hits.at(drum_sound(kind).id), found, 0.05), bar) << drum_sound(kind).id;
    }
}

TEST(AnalysisOfTheDemo, NotesEndAndStrokesAreAsHardAsTheyWerePlayed) {
    const auto a = demo();
    ASSERT_TRUE(a);
    const test::Truth truth = test::read_truth(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.truth.json");
    for (const HeardPart& p : a->parts) {
        if (p.role != PartRole::Bass && p.role != PartRole::Lead) continue;
        EXPECT_GE(test::ends_right(p.role == PartRole::Bass ? truth.bass : truth.lead, p.notes), 0.88) << p.name;
    }
    for (const auto& [kind, most] : {std::pair{DrumKind::Kick, 7.0}, {DrumKind::Snare, 5.0}, {DrumKind::HatClosed, 12.0}})
        EXPECT_LE(test::velocity_error(truth.drums, a->drums, kind), most) << drum_sound(kind).id;
}

TEST(AnalysisOfTheDemo, SectionBoundariesReachTheirBar) {
    const auto a = demo();
    ASSERT_TRUE(a);
    const test::Truth truth = test::read_truth(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.truth.json");
    std::vector<double> found;
    for (const SectionSpan& s : a->sections) found.push_back(s.start_s);
    EXPECT_GE(test::onset_f(truth.sections, found, 60.0 / 97.3 * 4), 0.85);
}

TEST(AnalysisOfTheDemo, IsTheSameOnEveryRun) {
    const auto a = demo();
    auto again = analyse(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.ogg");
    ASSERT_TRUE(a && again);
    const Analysis& b = **again;
    EXPECT_EQ(a->tempo.bpm, b.tempo.bpm);
    EXPECT_EQ(a->tuning.cents, b.tuning.cents);
    ASSERT_EQ(a->notes.size(), b.notes.size());
    for (std::size_t i = 0; i < a->notes.size(); ++i) {
        EXPECT_EQ(a->notes[i].onset_s, b.notes[i].onset_s);
        EXPECT_EQ(a->notes[i].pitch, b.notes[i].pitch);
        EXPECT_EQ(a->notes[i].velocity, b.notes[i].velocity);
    }
    ASSERT_EQ(a->drums.size(), b.drums.size());
    for (std::size_t i = 0; i < a->drums.size(); ++i) EXPECT_EQ(a->drums[i].time_s, b.drums[i].time_s);
    for (std::size_t i = 0; i < a->drums.size(); ++i) EXPECT_EQ(a->drums[i].velocity, b.drums[i].velocity);
    // What is told of a note as one of all and as one of its part agrees.
    for (const HeardPart& p : a->parts) {
        if (p.role != PartRole::Chords && p.role != PartRole::Other) continue;
        for (const HeardNote& n : p.notes) {
            const auto same = [&](const HeardNote& o) { return o.onset_s == n.onset_s && o.pitch == n.pitch && o.velocity == n.velocity; };
            EXPECT_TRUE(std::any_of(a->notes.begin(), a->notes.end(), same));
        }
    }
}

TEST(AnalysisOfTheDemo, EveryItemHasAConfidenceBetweenNoneAndAll) {
    const auto a = demo();
    ASSERT_TRUE(a);
    const auto fair = [](double c) { return c >= 0.0 && c <= 1.0; };
    EXPECT_TRUE(fair(a->tuning.confidence) && fair(a->tempo.confidence) && fair(a->swing.confidence));
    EXPECT_FALSE(a->tempo.alternatives.empty());
    for (const auto& k : a->keys) EXPECT_TRUE(fair(k.confidence) && !k.alternatives.empty());
    for (const auto& c : a->chords) EXPECT_TRUE(fair(c.confidence) && c.alternatives.size() == 3);
    for (const auto& s : a->sections) EXPECT_TRUE(fair(s.confidence));
    for (const auto& n : a->notes) EXPECT_TRUE(fair(n.confidence));
    for (const auto& h : a->drums) EXPECT_TRUE(fair(h.confidence));
}

TEST(Analyse, StopsWhenToldToInTheMiddle) {
    using Clock = std::chrono::steady_clock;
    Progress progress([](double, std::string_view) {});
    Clock::time_point asked;
    std::thread stopper([&] {
        std::this_thread::sleep_for(std::chrono::milliseconds(700));
        asked = Clock::now();
        progress.cancel();
    });
    const auto r = analyse(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.ogg", progress);
    const auto stopped = Clock::now();
    stopper.join();
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::Cancelled);
    // The promise is 0.2 s and bench/ measures it; a busy test machine may stretch it, so here it is recorded, not judged.
    RecordProperty("stopped_after_ms", static_cast<int>(std::chrono::duration_cast<std::chrono::milliseconds>(stopped - asked).count()));
}

TEST(Analyse, RecordingsOfEveryRateAreHeard) {
    std::vector<test::Tone> list;
    for (int i = 0; i < 24; ++i) list.push_back({0.5 + i * 0.5, 0.45, 48 + i * 5 % 17, 0.4F});
    for (const int rate : {8000, 44100, 192000}) {
        const auto mono = make_mono(test::tones(list, 13, 0.0, rate), "tones");
        ASSERT_TRUE(mono);
        const auto a = analyse(*mono, "tones");
        ASSERT_TRUE(a) << rate;
        int found = 0;
        for (const test::Tone& t : list)
            found += std::any_of((*a)->notes.begin(), (*a)->notes.end(),
                                 [&](const HeardNote& n) { return n.pitch == t.pitch && std::abs(n.onset_s - t.start_s) < 0.06; });
        EXPECT_GE(found, 12) << rate;
    }
}

TEST(Analyse, AHeldToneAndNoiseAreNotMusicAndStillGiveADocument) {
    const auto mono = make_mono(test::sine(440, 5), "tone");
    ASSERT_TRUE(mono);
    const auto a = analyse(*mono, "tone");
    ASSERT_TRUE(a);
    const Remake r = draft_remake(**a);
    EXPECT_EQ(what_is_wrong(r), std::nullopt);
    EXPECT_GT(r.end_tick(), 0);
}

TEST(DraftTest, KeepsPerformedTimingAndCoversEveryHeardNote) {
    const auto a = demo();
    ASSERT_TRUE(a);
    const Remake r = draft_remake(*a);
    std::size_t heard = a->drums.size(), drafted = 0;
    for (const HeardPart& p : a->parts) heard += p.notes.size();
    for (const auto& part : r.parts) drafted += placed_notes(*part).size();
    EXPECT_EQ(drafted, heard);
    for (const auto& part : r.parts) {
        if (part->role != PartRole::Bass) continue;
        const auto notes = placed_notes(*part);
        std::size_t i = 0;
        for (const HeardPart& p : a->parts)
            if (p.role == PartRole::Bass) {
                for (const HeardNote& n : p.notes) EXPECT_NEAR(r.song->tempo.seconds(notes[i++].note.start), n.onset_s, 0.001);
            }
    }
    for (const auto& id : r.element_ids()) EXPECT_EQ(r.element(id).state, State::Draft) << "only the user confirms";
    EXPECT_EQ(what_is_wrong(r), std::nullopt);
}

TEST(DraftTest, RepeatsShareAPatternAndSmallChangesMakeAVariant) {
    Part part;
    std::vector<Note> notes;
    for (int section = 0; section < 3; ++section)
        for (int b = 0; b < 16; ++b) {
            Note n;
            n.start = section * 4 * 3840 + b * 960;
            n.length = 480;
            n.pitch = 40 + b % 4 + (section == 2 && b == 15 ? 5 : 0);
            notes.push_back(n);
        }
    place_notes(part, notes, {{0, 15360, "A", "", {}, 1}, {15360, 15360, "A", "", {}, 1}, {30720, 15360, "A", "", {}, 1}}, MeterMap());
    ASSERT_EQ(part.placements.size(), 3u);
    EXPECT_EQ(part.placements[0].pattern, part.placements[1].pattern);
    EXPECT_NE(part.placements[2].pattern, part.placements[0].pattern);
    EXPECT_EQ(part.pattern(part.placements[2].pattern)->letter, "A′");
    EXPECT_EQ(part.pattern(part.placements[2].pattern)->parent, part.placements[0].pattern);
}

}  // namespace fw
