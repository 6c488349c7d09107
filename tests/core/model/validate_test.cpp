// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/validate.hpp"

#include "model/edits.hpp"
#include "model/limits.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <functional>
#include <limits>
#include <random>

namespace fw {

using test::small_remake;

namespace {

struct Fault {
    const char* says;  ///< part of the sentence it gets
    std::function<void(Remake&)> make;
};

std::function<void(Remake&)> in_part(const std::function<void(Part&)>& change) {
    return [change](Remake& r) { r = with_part(r, 1, change); };
}

constexpr double kNan = std::numeric_limits<double>::quiet_NaN(), kInf = std::numeric_limits<double>::infinity();

const std::vector<Fault>& faults() {
    static const std::vector<Fault> list{
        {"length of the recording", [](Remake& r) { r.reference.duration_s = 1e9; }},
        {"length of the recording", [](Remake& r) { r.reference.duration_s = kNan; }},
        {"loudness", [](Remake& r) { r.reference.integrated_lufs = -kInf; }},
        {"tuning", [](Remake& r) { r.tuning_cents = 5000; }},
        {"tuning", [](Remake& r) { r.tuning_confidence = kNan; }},
        {"swing", [](Remake& r) { r.swing_ratio = 3; }},
        {"swing", [](Remake& r) { r.swing_subdivision = 0; }},
        {"tempo",
         [](Remake& r) {
             r.tempo = TempoMap({{0, 0.0}, {960, 600.0}});
         }},
        {"tempo",
         [](Remake& r) {
             r.tempo = TempoMap({{0, 0.0}, {960, 0.001}});
         }},
        {"anchor",
         [](Remake& r) {
             r.tempo = TempoMap({{0, 0.0}, {960, 1e9}});
         }},
        {"anchor",
         [](Remake& r) {
             r.tempo = TempoMap({{0, 0.0}, {Ticks{1} << 40, 10.0}});
         }},
        {"candidate",
         [](Remake& r) {
             r.tempo_candidates = {{kNan, 0.5}};
         }},
        {"meter changes at bar",
         [](Remake& r) {
             r.meter = MeterMap({{1, 4, 4}, {1'000'000, 3, 4}});
         }},
        {"key lies", [](Remake& r) { r.keys[0].start = Ticks{1} << 50; }},
        {"tonic", [](Remake& r) { r.keys[0].key.tonic = 12; }},
        {"keys do not stand in order",
         [](Remake& r) {
             r.keys.push_back({-5, {2, Mode::Dorian}, 0.5, {}});
         }},
        {"section lies more than half an hour", [](Remake& r) { r.sections[1].length = 100'000'000; }},
        {"section is", [](Remake& r) { r.sections[0].length = 0; }},
        {"sections do not stand in order", [](Remake& r) { std::swap(r.sections[0].start, r.sections[1].start); }},
        {"section repeats", [](Remake& r) { r.sections[1].repeat_of = 1; }},
        {"section repeats", [](Remake& r) { r.sections[0].repeat_of = 77; }},
        {"chord lies more than half an hour", [](Remake& r) { r.chords.back().start = 50'000'000; }},
        {"no chord", [](Remake& r) { r.chords[0].chord.kind = 999; }},
        {"no chord", [](Remake& r) { r.chords[0].chord.bass = 12; }},
        {"has the number 0", in_part([](Part& p) { p.id = 0; })},
        {"two of its parts have the number 2", in_part([](Part& p) { p.id = 2; })},
        {"level", in_part([](Part& p) { p.gain_db = kInf; })},
        {"pan", in_part([](Part& p) { p.pan = -1.5; })},
        {"has 17 layers, more than 16", in_part([](Part& p) { p.layers.resize(17); })},
        {"program", in_part([](Part& p) { p.layers[0].program = 128; })},
        {"octaves", in_part([](Part& p) { p.layers[0].octave = 9; })},
        {"pattern with the number 0", in_part([](Part& p) { p.patterns[0].id = 0; })},
        {"two patterns with the number 1", in_part([](Part& p) { p.patterns.push_back(p.patterns[0]); })},
        {"variant of a pattern that is not there", in_part([](Part& p) { p.patterns[0].parent = 9; })},
        {"variant of a pattern that is not there", in_part([](Part& p) { p.patterns[0].parent = 1; })},
        {"places a pattern that is not there", in_part([](Part& p) { p.placements[0].pattern = 5; })},
        {"placements do not stand in order", in_part([](Part& p) { std::swap(p.placements[0], p.placements[1]); })},
        {"pattern of its part \"Bass\" lies more than half an hour", in_part([](Part& p) { p.placements[1].start = 90'000'000; })},
        {"lies more than half an hour", in_part([](Part& p) { p.patterns[0].notes.back().length = 100'000'000; })},
        {"ticks from its pattern", in_part([](Part& p) { p.patterns[0].notes.back().start = Ticks{1} << 33; })},
        {"notes do not stand in order", in_part([](Part& p) { std::swap(p.patterns[0].notes[0], p.patterns[0].notes[9]); })},
        {"pitch 300", in_part([](Part& p) { p.patterns[0].notes[0].pitch = 300; })},
        {"velocity 0", in_part([](Part& p) { p.patterns[0].notes[0].velocity = 0; })},
        {"note of 0 ticks", in_part([](Part& p) { p.patterns[0].notes[0].length = 0; })},
        {"bend", in_part([](Part& p) {
             p.patterns[0].notes[0].bend = {{0, 1e6}};
         })},
        {"bend", in_part([](Part& p) {
             p.patterns[0].notes[0].bend = {{10, 0}, {5, 0}};
         })},
        {"bend", in_part([](Part& p) { p.patterns[0].notes[0].bend.resize(5000); })},
        {"play more than 300000 notes", in_part([](Part& p) {
             p.patterns[0].notes.resize(1000, p.patterns[0].notes.back());
             for (int i = 0; i < 1000; ++i) p.placements.push_back({1, p.placements.back().start, false});
         })},
        {"element \"part:9\"", [](Remake& r) { r.elements["part:9"].state = State::Draft; }},
        {"question", [](Remake& r) { r.elements["tempo"].question = std::string(200'000, 'x'); }},
        {"bars",
         [](Remake& r) {
             r.meter = MeterMap({{1, 1, 16}});
             r.reference.duration_s = 21'000;
             r.tempo = TempoMap({{0, 0.0}, {960, 0.05}});
         }},
    };
    return list;
}

}  // namespace

TEST(Validate, AWholeRemakeHasNothingWrong) {
    EXPECT_EQ(what_is_wrong(small_remake()), std::nullopt);
    EXPECT_EQ(what_is_wrong(Remake{}), std::nullopt);
}

TEST(Validate, EachFaultAloneIsToldByItsName) {
    for (const Fault& fault : faults()) {
        Remake r = small_remake();
        fault.make(r);
        const auto words = what_is_wrong(r);
        ASSERT_TRUE(words) << fault.says;
        EXPECT_NE(words->find(fault.says), std::string::npos) << *words;
        EXPECT_LT(words->size(), 200u) << *words;
    }
}

TEST(Validate, EditsKeepARemakeValidHoweverOftenTheyAreMade) {
    std::mt19937 random(8);
    const auto pick = [&](int low, int high) { return low + static_cast<int>(random() % static_cast<unsigned>(high - low + 1)); };
    Remake r = small_remake();
    int doubled = 0;
    for (int i = 0; i < 3000; ++i) {
        const std::vector<NoteRef> some{{pick(0, 1), pick(0, 15)}, {pick(0, 1), pick(0, 15)}};
        switch (pick(0, 11)) {
            case 0: r = change_notes(r, pick(1, 2), some, pick(-900, 900), pick(-60, 60), pick(-3000, 3000), pick(-99, 99)); break;
            case 1: r = add_note(r, pick(1, 2), {pick(-5000, 60000), pick(-5, 5000), pick(-20, 200), pick(-20, 200), 1.0, Origin::Drawn, {}}); break;
            case 2: r = remove_notes(r, pick(1, 2), some); break;
            case 3:
                if (doubled < 2) r = reread_tempo(r, 2.0), ++doubled;
                break;
            case 4:
                if (doubled > -2) r = reread_tempo(r, 0.5), --doubled;
                break;
            case 5: r = mute_cell(r, pick(1, 2), static_cast<std::size_t>(pick(0, 2)), i % 2); break;
            case 6: r = set_downbeat(r, pick(-2, 20)); break;
            case 7: r = set_meter(r, pick(1, 12), 1 << pick(0, 4)); break;
            case 8: r = split_chord(r, pick(0, 40000)); break;
            case 9: r = set_chord(r, pick(-4000, 60000), Chord{pick(0, 11), 0, 0}); break;
            case 10: r = quantise_notes(r, pick(1, 2), some, 240 * pick(0, 4), 1.0); break;
            default: r = set_key(r, static_cast<std::size_t>(pick(0, 2)), Key{pick(0, 11), Mode::Minor}); break;
        }
        const auto wrong = what_is_wrong(r);
        ASSERT_FALSE(wrong) << i << ": " << *wrong;
    }
}

}  // namespace fw
