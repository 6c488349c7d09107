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
#include "model/edits/patterns.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"
#include "support/truth.hpp"

#include <gtest/gtest.h>
#include <functional>
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

double notes_figure(const Remake& r) {
    const auto report = check(r, *demo().analysis);
    EXPECT_TRUE(report.match.notes);
    return report.match.notes.value_or(-1.0);
}

/// The demo's parts as they truly are, on the demo's own tempo map.
const Remake& right() {
    static const Remake r = [] {
        const test::Truth truth = test::read_truth(std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.truth.json");
        GivenPart bass{"Bass", false, 33, truth.bass}, lead{"Lead", false, 21, truth.lead}, drums{"Drums", true, 0, {}};
        for (const Hit& h : truth.drums) drums.notes.push_back({h.time_s, 0.1, drum_sound(h.kind).key, h.velocity, 1.0, {}});
        auto made = draft_remake(*demo().analysis, {bass, lead, drums}, 0.0, "truth");
        EXPECT_TRUE(made);
        return *made;
    }();
    return r;
}

Remake with_parts(const std::function<void(Part&)>& change) {
    Remake r = right();
    for (const auto& part : right().parts) r = with_part(r, part->id, change);
    return r;
}

TEST(Check, TheRightNotesAgreeAndADraftSaysHowMuchOfItIsProbablyRight) {
    const double true_one = notes_figure(right()), draft = notes_figure(demo().remake);
    EXPECT_GT(true_one, 0.93);
    EXPECT_LT(draft, true_one) << "what nobody has looked at is not better than what is right";
    EXPECT_GT(draft, 0.6);
    const CheckReport report = check(right(), *demo().analysis);
    int listed = 0;
    for (const Finding& f : report.findings) listed += f.listed() && f.kind != FindingKind::WrongChord && f.kind != FindingKind::MissingElement;
    EXPECT_LT(listed, 15 * 113 / 60);
    for (const ElementMatch& e : report.elements) {
        EXPECT_FALSE(e.measures.empty());
        EXPECT_EQ(e.match.notes.has_value(), e.kind == "part") << e.name << ": what the analysis decided takes no part in the match";
        ASSERT_TRUE(e.match.known) << e.name;
    }
}

TEST(Check, NothingBuiltHasNoFigureAndSilenceIsMissing) {
    Remake nothing = right();
    nothing.parts.clear();
    const CheckReport none = check(nothing, *demo().analysis);
    EXPECT_FALSE(none.match.notes) << "no parts, no figure";
    EXPECT_EQ(std::count_if(none.findings.begin(), none.findings.end(), [](const Finding& f) { return f.kind == FindingKind::MissingElement; }), 3);
    EXPECT_LT(notes_figure(with_parts([](Part& p) { p.mute = true; })), 0.01);
    EXPECT_LT(notes_figure(with_parts([](Part& p) { p.gain_db = -96.0; })), 0.01);
    EXPECT_LT(notes_figure(with_parts([](Part& p) {
                  for (Layer& l : p.layers) l.on = 0.0;
              })),
              0.01);
    Remake one = right();
    one = with_part(one, one.parts[0]->id, [](Part& p) { p.solo = true; });
    EXPECT_LT(notes_figure(one), 0.6) << "what is not soloed is not heard";
}

TEST(Check, WhatOneOfTwoDrumPartsHasIsNotMissing) {
    // Kick and snare in a part of their own, the rest in another.
    const Part& drums = part_of(right(), PartRole::Drums);
    const auto missing = [&](const Remake& r) {
        const auto all = check(r, *demo().analysis).findings;
        return std::count_if(all.begin(), all.end(), [](const Finding& f) { return f.kind == FindingKind::MissingHit; });
    };
    std::vector<NoteRef> low, high;
    for (const PlacedNote& n : placed_notes(drums)) (n.note.pitch < 40 ? low : high).push_back(n.ref());
    Remake two = right();
    Part other = drums;
    other.id = PartId(two.next_id++);
    for (Layer& l : other.layers) l.id = LayerId(two.next_id++);
    two.parts.emplace_back(std::move(other));
    two = remove_notes(remove_notes(two, drums.id, low), two.parts.back()->id, high);
    EXPECT_EQ(missing(two), missing(right()));
    // A sound of which nothing is written is one finding, not one a stroke.
    const Remake gone = remove_notes(right(), drums.id, low);
    EXPECT_LT(missing(gone), missing(right()) + 20);
    std::vector<std::string> told;
    for (const Finding& f : check(gone, *demo().analysis).findings)
        if (f.kind == FindingKind::MissingElement) told.push_back(finding_message(f));
    ASSERT_EQ(told.size(), 2u);
    EXPECT_NE(told[0].find("hits of Kick, Drums has none."), std::string::npos) << told[0];
    EXPECT_NE(told[1].find("hits of Snare, Drums has none."), std::string::npos) << told[1];
}

TEST(Check, FewerPartsAreNoBetterMatch) {
    Remake one = right();
    one.parts.erase(one.parts.begin() + 1, one.parts.end());
    const CheckReport report = check(one, *demo().analysis);
    EXPECT_GT(std::count_if(report.findings.begin(), report.findings.end(), [](const Finding& f) { return f.kind == FindingKind::MissingElement; }), 0);
}

TEST(Check, AnotherSongsNotesMatchNothingAndWrongOnesTakeOffInProportion) {
    // The same notes, turned about in time and bent a tritone: as good as another song's.
    const double length = demo().analysis->duration_s;
    Remake stranger = right();
    for (const auto& part : right().parts) {
        const Ticks turn = right().song->tempo.nearest_tick(length * 0.41), end = right().end_tick();
        std::vector<Note> notes;
        for (const PlacedNote& n : placed_notes(*part)) {
            Note x = n.note;
            x.start = (x.start + turn + 77) % end;
            if (part->role != PartRole::Drums) x.pitch += 6;
            notes.push_back(x);
        }
        sort_notes(notes);
        stranger = with_part(stranger, part->id, [&](Part& p) {
            p.patterns.clear(), p.placements.clear();
            place_notes(p, notes, {}, right().song->meter);
        });
    }
    EXPECT_LT(notes_figure(stranger), 0.2);

    double before = notes_figure(right());
    for (const int of_five : {1, 2, 4}) {
        Remake r = right();
        const Part& bass = part_of(r, PartRole::Bass);
        std::vector<NoteRef> some;
        const auto notes = placed_notes(bass);
        for (std::size_t i = 0; i < notes.size(); ++i)
            if (static_cast<int>(i % 5) < of_five) some.push_back(notes[i].ref());
        r = change_notes(r, bass.id, some, {.semitones = 6});
        const double now = notes_figure(r);
        EXPECT_LT(now, before - 0.02) << of_five;
        before = now;
    }
}

TEST(Check, APartWhoseNotesAreAQuarterOrFourTimesAsLongIsToldAndMended) {
    for (const auto& [role, as_long] : {std::pair(PartRole::Bass, 0.25), std::pair(PartRole::Lead, 0.25), std::pair(PartRole::Bass, 4.0)}) {
        const Part& part = part_of(right(), role);
        std::vector<NoteRef> all;
        for (const PlacedNote& n : placed_notes(part)) all.push_back(n.ref());
        NoteChange shorter;
        shorter.times = as_long;
        const Remake wrong = change_notes(right(), part.id, all, shorter);
        const auto too_short = [&](const Remake& r) {
            std::vector<Finding> out;
            for (const Finding& f : check(r, *demo().analysis).findings)
                if ((f.kind == FindingKind::TooShort || f.kind == FindingKind::TooLong) && f.listed()) out.push_back(f);
            return out;
        };
        EXPECT_TRUE(too_short(right()).empty());
        const auto told = too_short(wrong);
        ASSERT_EQ(told.size(), 1u);
        EXPECT_EQ(told[0].element, ElementId(part.id));
        EXPECT_EQ(told[0].kind, as_long < 1.0 ? FindingKind::TooShort : FindingKind::TooLong);
        EXPECT_NEAR(std::log2(told[0].size * as_long), 0.0, 0.5) << told[0].size;
        EXPECT_NE(finding_message(told[0]).find("as long as they are written"), std::string::npos);
        const auto mended = apply_remedy(wrong, told[0]);
        ASSERT_TRUE(mended);
        EXPECT_TRUE(too_short(*mended).empty());
    }
}

TEST(Check, AWholePartThatIsOffIsOneFindingWithOneRemedy) {
    const Part& bass = part_of(right(), PartRole::Bass);
    const auto all = [&] {
        std::vector<NoteRef> refs;
        for (const PlacedNote& n : placed_notes(bass)) refs.push_back(n.ref());
        return refs;
    }();
    const auto of_bass = [&](const Remake& r) {
        std::vector<Finding> out;
        for (const Finding& f : check(r, *demo().analysis).findings)
            if (f.listed() && f.element == ElementId(bass.id)) out.push_back(f);
        return out;
    };
    const auto up = of_bass(change_notes(right(), bass.id, all, {.semitones = 1}));
    ASSERT_EQ(up.size(), 1u) << "its notes are not told one by one; " << finding_sentence(up.back());
    EXPECT_EQ(up[0].kind, FindingKind::Transposed);
    EXPECT_NE(finding_message(up[0]).find("a semitone too high"), std::string::npos) << finding_message(up[0]);
    const Remake wrong = change_notes(right(), bass.id, all, {.semitones = 1});
    const auto mended = apply_remedy(wrong, up[0]);
    ASSERT_TRUE(mended);
    for (const Finding& f : of_bass(*mended)) EXPECT_NE(f.kind, FindingKind::Transposed);

    const Remake late = change_notes(right(), bass.id, all, {.move = 480});
    const auto shifted = of_bass(late);
    ASSERT_EQ(shifted.size(), 1u);
    EXPECT_EQ(shifted[0].kind, FindingKind::Shifted);
    EXPECT_NEAR(shifted[0].size, 308.0, 25.0) << "an eighth at 97.3 BPM";
    const auto back = apply_remedy(late, shifted[0]);
    ASSERT_TRUE(back);
    for (const Finding& f : of_bass(*back)) EXPECT_NE(f.kind, FindingKind::Shifted);
    for (const Finding& f : check(right(), *demo().analysis).findings) EXPECT_FALSE(is_of_whole_part(f)) << finding_message(f);
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
    // A snare where none is near and none is heard, among many that are.
    Note snare;
    snare.length = 100;
    snare.pitch = drum_sound(DrumKind::Snare).key;
    const auto far_from_all = [&](Ticks at) {
        const double s = r.song->tempo.seconds(at);
        return std::none_of(demo().analysis->drums.begin(), demo().analysis->drums.end(), [&](const Hit& h) { return std::abs(h.time_s - s) < 0.09; });
    };
    snare.start = r.song->sections[1].start;
    while (!far_from_all(snare.start)) snare.start += 60;
    EXPECT_TRUE(find(check(add_note(r, drums.id, snare), *demo().analysis), FindingKind::ExtraHit, r.song->tempo.seconds(snare.start)));
    // Of a sound that is not heard elsewhere in the recording nothing can be said, and that is said.
    Note cowbell = snare;
    cowbell.pitch = 56;
    const CheckReport unsure = check(add_note(r, drums.id, cowbell), *demo().analysis);
    EXPECT_FALSE(find(unsure, FindingKind::ExtraHit, r.song->tempo.seconds(snare.start)));
    EXPECT_NE(unsure.elements.back().measures.find("not judged"), std::string::npos) << unsure.elements.back().measures;
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

TEST(Check, WhereTheOriginalItselfStandsNothingIsToldOrCounted) {
    const Part& bass = part_of(right(), PartRole::Bass);
    const PlacedNote n = sure_note(bass);
    const double at = right().song->tempo.seconds(n.note.start);
    const Remake wrong = change_notes(right(), bass.id, {n.ref()}, {.semitones = -1}, Reach::Here);
    const auto told = [&](const Remake& r) {
        const auto all = check(r, *demo().analysis).findings;
        return std::count_if(all.begin(), all.end(), [&](const Finding& f) { return f.element == ElementId(bass.id) && std::abs(f.start_s - at) < 0.01; });
    };
    ASSERT_GE(told(wrong), 1);
    Clip clip;
    clip.start = n.note.start - 480;
    const double from = right().song->tempo.seconds(clip.start);
    EXPECT_EQ(told(add_clip(wrong, from_original(wrong, "Fill", from, from + 2.0), clip)), 0) << "the original at its own place";
    EXPECT_GE(told(add_clip(wrong, from_original(wrong, "Fill", from + 5.0, from + 7.0), clip)), 1) << "another place of it is no answer";
    clip.mute = true;
    EXPECT_GE(told(add_clip(wrong, from_original(wrong, "Fill", from, from + 2.0), clip)), 1) << "nor is one that is not heard";
    const Remark meant{RemarkKind::Intended, ElementId(bass.id), n.note.start, n.note.length, "a semitone low", {}};
    EXPECT_EQ(told(add_remark(wrong, meant)), 0);
    EXPECT_GT(notes_figure(add_remark(wrong, meant)), notes_figure(wrong)) << "it is not counted either";
    EXPECT_GE(told(add_remark(wrong, {RemarkKind::Question, ElementId(bass.id), n.note.start, n.note.length, "?", {}})), 1) << "a question is no answer";
}

TEST(Check, WhatWasSaidOfSoundOutlastsAnEditUnlessItIsMeantByThen) {
    CheckReport before;
    before.match.sound = 0.7;
    before.sound.rebuild_lufs = -14.0;
    Finding f;
    f.kind = FindingKind::Tone;
    f.name = "mix";
    f.center_hz = 794.0;
    f.confidence = 0.9;
    before.findings = {f};
    f.kind = FindingKind::Early;
    before.findings.push_back(f);
    CheckReport now;
    keep_sound(right(), before, now);
    EXPECT_EQ(now.match.sound, 0.7);
    EXPECT_EQ(now.sound.rebuild_lufs, -14.0);
    ASSERT_EQ(now.findings.size(), 1u) << "what is said of notes is said anew";
    EXPECT_EQ(now.findings[0].kind, FindingKind::Tone);
    CheckReport later;
    keep_sound(add_remark(right(), {RemarkKind::Intended, ElementId::sections(), 0, 960, "tone 794 Hz: darker on purpose", {}}), before, later);
    EXPECT_TRUE(later.findings.empty());
    CheckReport other;
    keep_sound(add_remark(right(), {RemarkKind::Intended, ElementId::sections(), 0, 960, "tone 1000 Hz: hollow on purpose", {}}), before, other);
    EXPECT_EQ(other.findings.size(), 1u) << "another difference is meant";
}

TEST(Check, FaintNotesHoldAllThatWasDecidedAndMore) {
    const Analysis& a = *demo().analysis;
    ASSERT_GT(a.faint_notes.size(), a.notes.size());
    EXPECT_GT(a.faint_drums.size(), a.drums.size());
    EXPECT_TRUE(std::is_sorted(a.faint_notes.begin(), a.faint_notes.end(), [](const HeardNote& x, const HeardNote& y) { return x.onset_s < y.onset_s; }));
    for (const HeardPart& part : a.parts)
        for (const HeardNote& n : part.notes)
            EXPECT_TRUE(std::any_of(
                a.faint_notes.begin(), a.faint_notes.end(),
                [&](const HeardNote& f) { return f.pitch == n.pitch && std::abs(f.onset_s - n.onset_s) < 0.061 && f.confidence >= n.confidence - 1e-9; }))
                << part.name << " at " << n.onset_s;
}

TEST(Check, AnotherReadingOfTheSameBeatsChangesNothing) { EXPECT_NEAR(notes_figure(reread_tempo(right(), 2.0)), notes_figure(right()), 0.02); }

TEST(Check, FindingsStandInOneOrderAndNoBarHasABeatTooMany) {
    // Every third note and hit a little early: many findings, many of them just ahead of a bar line.
    Remake early = demo().remake;
    for (const auto& part : demo().remake.parts) {
        std::vector<NoteRef> some;
        const auto notes = placed_notes(*part);
        for (std::size_t i = 0; i < notes.size(); i += 3) some.push_back(notes[i].ref());
        early = change_notes(early, part->id, some, {.move = -70});
    }
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
    EXPECT_GT(ahead_of_a_bar, 4);
    // Surest first by whole hundredths, then by time: so that any two can be compared, and any three agree.
    for (std::size_t i = 1; i < report.findings.size(); ++i) {
        const auto rank = [](const Finding& f) { return std::pair(-std::lround(f.confidence * (0.4 + 0.6 * f.audible) * 100.0), f.start_s); };
        EXPECT_LE(rank(report.findings[i - 1]), rank(report.findings[i])) << i;
    }
}

TEST(Check, ComparesToneWidthAndLoudnessOfTheSound) {
    const Audio loud = test::sine(1000, 4), soft = test::sine(1000, 4, 44100, 2, 0.25F);
    const SoundSummary a = summarise(loud), b = summarise(soft);
    const CheckReport report = check(demo().remake, *demo().analysis, &a, &b);
    EXPECT_NEAR(report.sound.match_gain_db, 6.02, 0.1);
    ASSERT_EQ(report.sound.tone.size(), third_octave_centers_hz().size());
    for (const ToneBand& t : report.sound.tone)
        EXPECT_NEAR(t.original_db - t.rebuild_db, std::abs(t.center_hz - 1000) < 1 ? 6.02 : 3.0, std::abs(t.center_hz - 1000) < 1 ? 0.1 : 3.2);
    for (const WidthBand& w : report.sound.width) EXPECT_NEAR(w.original, 0.0, 1e-6) << "both channels alike: no side";
}

TEST(CheckJson, HoldsEveryElementAndFindingOfTheReport) {
    const Part& bass = part_of(demo().remake, PartRole::Bass);
    const CheckReport report = check(change_notes(demo().remake, bass.id, test::refs(demo().remake, bass.id, {0, 1, 2}), {.semitones = 5}), *demo().analysis);
    const auto j = nlohmann::json::parse(check_to_json(report));
    EXPECT_EQ(j["schema"], "fakturwerk-check/2");
    for (const char* key : {"notes", "sound", "known"}) EXPECT_TRUE(j["match"].contains(key)) << key;
    EXPECT_TRUE(j["match"]["sound"].is_null()) << "no sound was compared";
    EXPECT_EQ(j["elements"].back()["bars"][3].size(), 3u);
    EXPECT_EQ(j["elements"].size(), report.elements.size());
    ASSERT_EQ(j["findings"].size(), report.findings.size());
    ASSERT_FALSE(j["findings"].empty());
    for (const char* key : {"kind", "element", "start_s", "end_s", "bar", "beat", "size", "unit", "confidence", "listed", "cause", "message", "remedy"})
        EXPECT_TRUE(j["findings"][0].contains(key)) << key;
}

}  // namespace fw
