// SPDX-License-Identifier: GPL-3.0-or-later
// The check on the demo's own evidence: faults put in on purpose must be found, where they are and as what they are.
#include "check/check.hpp"

#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "check/remedy.hpp"
#include "check/words.hpp"
#include "engine/plan.hpp"
#include "formats/check_json.hpp"
#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fw {

namespace {

struct Demo {
    std::shared_ptr<const Analysis> analysis;
    Remake remake;
};
const Demo& demo() {
    static const Demo d = [] {
        auto a = analyse(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.ogg", {}, EvidenceStore::of_user());
        EXPECT_TRUE(a);
        return Demo{*a, draft_remake(**a)};
    }();
    return d;
}

const Part& part_of(const Remake& r, PartRole role) {
    for (const auto& p : r.parts)
        if (p->role == role) return *p;
    ADD_FAILURE() << "no such part";
    return *r.parts.front();
}

/// A note of the part the evidence is very sure of, somewhere in the middle.
PlacedNote sure_note(const Part& part) {
    const auto notes = placed_notes(part);
    PlacedNote best = notes[notes.size() / 2];
    for (std::size_t i = notes.size() / 4; i < notes.size() * 3 / 4; ++i)
        if (notes[i].note.confidence > best.note.confidence) best = notes[i];
    return best;
}

const Finding* find(const CheckReport& report, FindingKind kind, double time_s) {
    for (const Finding& f : report.findings)
        if (f.kind == kind && std::abs(f.start_s - time_s) < 0.08) return &f;
    return nullptr;
}

/// The remake once a finding's remedy was followed.
std::optional<Remake> apply_remedy(const Remake& r, const Finding& f) {
    const auto line = remedy_line(r, f);
    if (!line) return std::nullopt;
    auto done = run_command(r, *line);
    EXPECT_TRUE(done) << line->text() << ": " << done.error().message();
    return done ? std::optional(done->remake) : std::nullopt;
}

}  // namespace

TEST(Check, ADraftAgreesWithTheEvidenceItWasMadeFrom) {
    const CheckReport report = check(demo().remake, *demo().analysis);
    EXPECT_GT(report.match, 0.9);
    for (const ElementMatch& e : report.elements) {
        EXPECT_GE(e.match, 0.0);
        EXPECT_LE(e.match, 1.0);
        EXPECT_FALSE(e.measures.empty());
    }
}

TEST(Check, AWrongPitchIsFoundNamedAndRemedied) {
    const Remake& r = demo().remake;
    const Part& bass = part_of(r, PartRole::Bass);
    const PlacedNote n = sure_note(bass);
    // Three semitones away nothing sounds that close to a bass note.
    const Remake wrong = change_notes(r, bass.id, {n.ref()}, {.semitones = -1}, Reach::Here);
    const double at = r.song->tempo.seconds(n.note.start);
    const CheckReport report = check(wrong, *demo().analysis);
    const Finding* f = find(report, FindingKind::WrongPitch, at);
    ASSERT_TRUE(f);
    EXPECT_EQ(f->pitch, n.note.pitch - 1);
    EXPECT_EQ(f->expected_pitch, n.note.pitch);
    EXPECT_EQ(f->bar, r.song->meter.position(n.note.start).bar);
    EXPECT_NE(finding_message(*f).find("Bass plays"), std::string::npos);
    EXPECT_NE(remedy_words(*f).find("set the pitch to"), std::string::npos);
    const auto mended = apply_remedy(wrong, *f);
    ASSERT_TRUE(mended);
    EXPECT_FALSE(find(check(*mended, *demo().analysis), FindingKind::WrongPitch, at));
}

TEST(Check, AMissingNoteIsFoundAndRemedied) {
    const Remake& r = demo().remake;
    const Part& bass = part_of(r, PartRole::Bass);
    const PlacedNote n = sure_note(bass);
    const Remake gap = remove_notes(r, bass.id, {n.ref()}, Reach::Here);
    const double at = r.song->tempo.seconds(n.note.start);
    const CheckReport report = check(gap, *demo().analysis);
    const Finding* f = find(report, FindingKind::MissingNote, at);
    ASSERT_TRUE(f);
    EXPECT_EQ(f->expected_pitch, n.note.pitch);
    const auto mended = apply_remedy(gap, *f);
    ASSERT_TRUE(mended);
    EXPECT_FALSE(find(check(*mended, *demo().analysis), FindingKind::MissingNote, at));
}

TEST(Check, AnExtraNoteAndALateOneAreFound) {
    const Remake& r = demo().remake;
    const Part& bass = part_of(r, PartRole::Bass);
    const PlacedNote n = sure_note(bass);
    Note extra;
    extra.start = n.note.start;
    extra.length = 400;
    extra.pitch = 102;  // far above everything that is played
    const CheckReport with_extra = check(add_note(r, bass.id, extra), *demo().analysis);
    EXPECT_TRUE(find(with_extra, FindingKind::ExtraNote, r.song->tempo.seconds(extra.start)));
    const Remake late = change_notes(r, bass.id, {n.ref()}, {.move = 100}, Reach::Here);
    const CheckReport report = check(late, *demo().analysis);
    const Finding* f = find(report, FindingKind::Late, r.song->tempo.seconds(n.note.start + 100));
    ASSERT_TRUE(f);
    EXPECT_NEAR(f->size, 1000 * (r.song->tempo.seconds(n.note.start + 100) - r.song->tempo.seconds(n.note.start)), 2.0);
    EXPECT_EQ(f->unit, "ms");
}

TEST(Check, MissingAndExtraHitsAreFound) {
    const Remake& r = demo().remake;
    const Part& drums = part_of(r, PartRole::Drums);
    const PlacedNote n = sure_note(drums);
    const CheckReport gone = check(remove_notes(r, drums.id, {n.ref()}, Reach::Here), *demo().analysis);
    const Finding* f = find(gone, FindingKind::MissingHit, r.song->tempo.seconds(n.note.start));
    ASSERT_TRUE(f);
    EXPECT_TRUE(apply_remedy(remove_notes(r, drums.id, {n.ref()}, Reach::Here), *f));
    Note crash;
    crash.start = n.note.start + 333;
    crash.length = 100;
    crash.pitch = drum_sound(DrumKind::Crash).key;
    EXPECT_TRUE(find(check(add_note(r, drums.id, crash), *demo().analysis), FindingKind::ExtraHit, r.song->tempo.seconds(crash.start)));
}

TEST(Check, AWrongChordIsFoundAndRemedied) {
    const Remake& r = demo().remake;
    const ChordEvent* sure = &r.song->chords.front();
    for (const ChordEvent& c : r.song->chords)
        if (!c.chord.none() && c.confidence > sure->confidence) sure = &c;
    const Chord far{(sure->chord.root + 6) % 12, 0, (sure->chord.root + 6) % 12};
    const Remake wrong = set_chord(r, sure->start, far);
    const double at = r.song->tempo.seconds(sure->start);
    const CheckReport report = check(wrong, *demo().analysis);
    const Finding* f = find(report, FindingKind::WrongChord, at);
    ASSERT_TRUE(f);
    const auto mended = apply_remedy(wrong, *f);
    ASSERT_TRUE(mended);
    EXPECT_FALSE(find(check(*mended, *demo().analysis), FindingKind::WrongChord, at));
}

TEST(Check, ADifferenceMarkedAsIntendedIsNotReportedAgain) {
    const Remake& r = demo().remake;
    const Part& bass = part_of(r, PartRole::Bass);
    const PlacedNote n = sure_note(bass);
    Remake wrong = change_notes(r, bass.id, {n.ref()}, {.semitones = 6});
    const ElementId id = bass.id;
    wrong = set_element(wrong, id, {State::Draft, "", "a fifth lower on purpose"});
    for (const Finding& f : check(wrong, *demo().analysis).findings) EXPECT_NE(f.element, id);
}

TEST(Check, ADoubleTimeReadingOfTheSameBeatsStillMatches) {
    const CheckReport report = check(reread_tempo(demo().remake, 2.0), *demo().analysis);
    EXPECT_GT(report.elements.front().match, 0.95);
}

TEST(Check, FindingsStandInOneOrderAndNoBarHasABeatTooMany) {
    // Every note and hit a little early: many findings, many of them just ahead of a bar line.
    Remake early = demo().remake;
    for (const auto& part : demo().remake.parts)
        early = with_part(early, part->id, [](Part& p) {
            for (Placement& x : p.placements) x.start -= 70;
        });
    const CheckReport report = check(early, *demo().analysis);
    ASSERT_GT(report.findings.size(), 100u);
    int ahead_of_a_bar = 0;
    for (const Finding& f : report.findings) {
        EXPECT_GE(f.beat, 1.0);
        EXPECT_LT(std::round(f.beat * 1000.0) / 1000.0, 5.0) << "as it is written to the JSON";
        EXPECT_EQ(f.place.find("beat 5"), std::string::npos) << f.place;
        if (f.beat > 4.9) {
            ++ahead_of_a_bar;
            EXPECT_EQ(f.place, "bar " + std::to_string(f.bar + 1) + " beat 1") << "to the quarter of a beat it is the next bar's first";
        }
        EXPECT_EQ(finding_sentence(f).substr(0, 4), "Bar ");
    }
    EXPECT_GT(ahead_of_a_bar, 10);
    // Surest first by whole hundredths, then by time: so that any two can be compared, and any three agree.
    for (std::size_t i = 1; i < report.findings.size(); ++i) {
        const auto rank = [](const Finding& f) { return std::pair(-std::lround(f.confidence * 100.0), f.start_s); };
        EXPECT_LE(rank(report.findings[i - 1]), rank(report.findings[i])) << i;
    }
}

TEST(Check, ComparesToneWidthAndLoudnessOfTheSound) {
    const Audio loud = test::sine(1000, 4), soft = test::sine(1000, 4, 44100, 2, 0.25F);
    const SoundSummary a = summarise(loud), b = summarise(soft);
    const CheckReport report = check(demo().remake, *demo().analysis, &a, &b);
    EXPECT_NEAR(report.match_gain_db, 6.02, 0.1);
    ASSERT_EQ(report.tone.size(), third_octave_centers_hz().size());
    for (const ToneBand& t : report.tone)
        EXPECT_NEAR(t.original_db - t.rebuild_db, std::abs(t.center_hz - 1000) < 1 ? 6.02 : 3.0, std::abs(t.center_hz - 1000) < 1 ? 0.1 : 3.2);
    for (const WidthBand& w : report.width) EXPECT_NEAR(w.original, 0.0, 1e-6) << "both channels alike: no side";
}

TEST(CheckJson, HoldsEveryElementAndFindingOfTheReport) {
    const Part& bass = part_of(demo().remake, PartRole::Bass);
    const CheckReport report = check(change_notes(demo().remake, bass.id, test::refs(demo().remake, bass.id, {0, 1, 2}), {.semitones = 5}), *demo().analysis);
    const auto j = nlohmann::json::parse(check_to_json(report));
    EXPECT_EQ(j["schema"], "fakturwerk-check/1");
    EXPECT_EQ(j["elements"].size(), report.elements.size());
    ASSERT_EQ(j["findings"].size(), report.findings.size());
    ASSERT_FALSE(j["findings"].empty());
    for (const char* key : {"kind", "element", "start_s", "end_s", "bar", "beat", "size", "unit", "confidence", "message", "remedy"})
        EXPECT_TRUE(j["findings"][0].contains(key)) << key;
}

}  // namespace fw
