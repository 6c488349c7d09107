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
    return [change](Remake& r) { r = with_part(r, test::kBass, change); };
}

constexpr double kNan = std::numeric_limits<double>::quiet_NaN(), kInf = std::numeric_limits<double>::infinity();

const std::vector<Fault>& faults() {
    static const std::vector<Fault> list{
        {"duration of the recording", [](Remake& r) { r.reference.duration_s = 1e9; }},
        {"duration of the recording", [](Remake& r) { r.reference.duration_s = kNan; }},
        {"loudness of the recording is -inf LUFS", [](Remake& r) { r.reference.integrated_lufs = -kInf; }},
        {"the tuning of the song is 5000 cents", [](Remake& r) { r.song.edit().tuning_cents = 5000; }},
        {"tuning", [](Remake& r) { r.song.edit().tuning_confidence = kNan; }},
        {"swing", [](Remake& r) { r.song.edit().swing_ratio = 3; }},
        {"swing", [](Remake& r) { r.song.edit().swing_subdivision = 0; }},
        {"tempo",
         [](Remake& r) {
             r.song.edit().tempo = TempoMap({{0, 0.0}, {960, 600.0}});
         }},
        {"tempo",
         [](Remake& r) {
             r.song.edit().tempo = TempoMap({{0, 0.0}, {960, 0.001}});
         }},
        {"an anchor of the tempo lies",
         [](Remake& r) {
             r.song.edit().tempo = TempoMap({{0, -90'000.0}, {960 * 100'000, 5.0}});
         }},
        {"anchor",
         [](Remake& r) {
             r.song.edit().tempo = TempoMap({{0, 0.0}, {Ticks{1} << 40, 10.0}});
         }},
        {"candidate",
         [](Remake& r) {
             r.song.edit().tempo_candidates = {{kNan, 0.5}};
         }},
        {"the bar of a change of meter",
         [](Remake& r) {
             r.song.edit().meter = MeterMap({{1, 4, 4}, {1'000'000, 3, 4}});
         }},
        {"the start of a key is", [](Remake& r) { r.song.edit().keys[0].start = Ticks{1} << 50; }},
        {"tonic", [](Remake& r) { r.song.edit().keys[0].key.tonic = 12; }},
        {"keys do not stand in order",
         [](Remake& r) {
             r.song.edit().keys.push_back({-5, {2, Mode::Dorian}, 0.5, {}});
         }},
        {"section lies more than half an hour", [](Remake& r) { r.song.edit().sections[1].length = 100'000'000; }},
        {"the length of a section is 0", [](Remake& r) { r.song.edit().sections[0].length = 0; }},
        {"sections do not stand in order", [](Remake& r) { std::swap(r.song.edit().sections[0].start, r.song.edit().sections[1].start); }},
        {"section repeats", [](Remake& r) { r.song.edit().sections[1].repeat_of = SectionId(4); }},
        {"section repeats", [](Remake& r) { r.song.edit().sections[0].repeat_of = SectionId(77); }},
        {"chord lies more than half an hour", [](Remake& r) { r.song.edit().chords.back().start = 50'000'000; }},
        {"no chord", [](Remake& r) { r.song.edit().chords[0].chord.kind = 999; }},
        {"no chord", [](Remake& r) { r.song.edit().chords[0].chord.bass = 12; }},
        {"has the number 0", in_part([](Part& p) { p.id = {}; })},
        {"two of its things have the number 2", in_part([](Part& p) { p.id = PartId(2); })},
        {"was not given out yet", in_part([](Part& p) { p.id = PartId(4000); })},
        {"level", in_part([](Part& p) { p.gain_db = kInf; })},
        {"pan", in_part([](Part& p) { p.pan = -1.5; })},
        {"holds 17 layers, and there can be 16", in_part([](Part& p) { p.layers.resize(17); })},
        {"program", in_part([](Part& p) { p.layers[0].program = 128; })},
        {"the octave of a layer of its part \"Bass\" is 9, not", in_part([](Part& p) { p.layers[0].octave = 9; })},
        {"a pattern of its part \"Bass\" has the number 0", in_part([](Part& p) { p.patterns[0].edit().id = {}; })},
        {"two patterns with the number 1", in_part([](Part& p) { p.patterns.push_back(p.patterns[0]); })},
        {"variant of a pattern that is not there", in_part([](Part& p) { p.patterns[0].edit().parent = PatternId(9); })},
        {"variant of a pattern that is not there", in_part([](Part& p) { p.patterns[0].edit().parent = PatternId(1); })},
        {"places a pattern that is not there", in_part([](Part& p) { p.placements[0].pattern = PatternId(5); })},
        {"the placements of its part \"Bass\" do not stand in order", in_part([](Part& p) { std::swap(p.placements[0], p.placements[1]); })},
        {"pattern of its part \"Bass\" lies more than half an hour", in_part([](Part& p) { p.placements[1].start = 90'000'000; })},
        {"lies more than half an hour", in_part([](Part& p) { p.patterns[0].edit().notes.back().length = 100'000'000; })},
        {"the start of a note of a pattern of its part \"Bass\" is 8589934592 ticks",
         in_part([](Part& p) { p.patterns[0].edit().notes.back().start = Ticks{1} << 33; })},
        {"the notes of its part \"Bass\" do not stand in order",
         in_part([](Part& p) { std::swap(p.patterns[0].edit().notes[0], p.patterns[0].edit().notes[9]); })},
        {"the pitch of a note of a pattern of its part \"Bass\" is 300, not from 0 to 127",
         in_part([](Part& p) { p.patterns[0].edit().notes[0].pitch = 300; })},
        {"velocity", in_part([](Part& p) { p.patterns[0].edit().notes[0].velocity = 0; })},
        {"the length of a note", in_part([](Part& p) { p.patterns[0].edit().notes[0].length = 0; })},
        {"bend", in_part([](Part& p) {
             p.patterns[0].edit().notes[0].bend.edit() = {{0, 1e6}};
         })},
        {"bend", in_part([](Part& p) {
             p.patterns[0].edit().notes[0].bend.edit() = {{10, 0}, {5, 0}};
         })},
        {"bend", in_part([](Part& p) { p.patterns[0].edit().notes[0].bend.edit().resize(5000); })},
        {"play more than 300000 notes", in_part([](Part& p) {
             auto& notes = p.patterns[0].edit().notes;
             notes.resize(1000, notes.back());
             for (std::size_t i = 16; i < 1000; ++i) notes[i].id = NoteId(p.next_id++);
             for (int i = 0; i < 1000; ++i) p.placements.push_back({PatternId(1), p.placements.back().start, false, PlacementId(p.next_id++)});
         })},
        {"the bus \"A\" leads back into itself",
         [](Remake& r) {
             Mixer& m = r.mixer.edit();
             for (const char* name : {"A", "B"}) {
                 Bus b;
                 b.id = BusId(r.next_id++), b.name = name;
                 m.buses.push_back(b);
             }
             m.buses[0].output = m.buses[1].id, m.buses[1].output = m.buses[0].id;
         }},
        {"element \"part:9\"", [](Remake& r) { r.notebook.edit().elements[PartId(9)].state = State::Draft; }},
        {"question", [](Remake& r) { r.notebook.edit().elements[ElementId::tempo()].question = std::string(200'000, 'x'); }},
        {"bars",
         [](Remake& r) {
             r.song.edit().meter = MeterMap({{1, 1, 16}});
             r.reference.duration_s = 21'000;
             r.song.edit().tempo = TempoMap({{0, 0.0}, {960, 0.05}});
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
        const PartId part(pick(1, 2));
        const auto notes = placed_notes(*r.part(part));
        std::vector<NoteRef> some;
        for (int k = 0; k < 2 && !notes.empty(); ++k) some.push_back(notes[static_cast<std::size_t>(pick(0, static_cast<int>(notes.size()) - 1))].ref());
        const Reach reach = pick(0, 1) ? Reach::Here : Reach::Everywhere;
        const SectionId section(pick(3, 5));
        switch (pick(0, 26)) {
            case 0: r = change_notes(r, part, some, {pick(-900, 900), pick(-3000, 3000), 0.25 * pick(1, 16), pick(-60, 60), pick(-99, 99)}, reach); break;
            case 1: r = add_note(r, part, {pick(-5000, 60000), pick(-5, 5000), pick(-20, 200), pick(-20, 200), 1.0, Origin::Drawn, {}}, reach); break;
            case 2: r = remove_notes(r, part, some, reach); break;
            case 3:
                if (doubled < 2) r = reread_tempo(r, 2.0), ++doubled;
                break;
            case 4:
                if (doubled > -2) r = reread_tempo(r, 0.5), --doubled;
                break;
            case 5: r = mute_cell(r, part, section, i % 2); break;
            case 6: r = set_downbeat(r, pick(-2, 20)); break;
            case 7: r = set_meter(r, pick(1, 12), 1 << pick(0, 4)); break;
            case 8: r = split_chord(r, pick(0, 40000)); break;
            case 9: r = set_chord(r, pick(-4000, 60000), Chord{pick(0, 11), 0, 0}); break;
            case 10: r = quantise_notes(r, part, some, Quantising{{240 * pick(0, 4)}}, reach); break;
            case 11: r = add_layer(r, part, {}); break;
            case 12:
                if (const auto& layers = r.part(part)->layers; layers.size() > 4) r = remove_layer(r, layers[1].id);
                break;
            case 13: {
                Step step;
                step.type = step_types()[static_cast<std::size_t>(pick(0, static_cast<int>(step_types().size()) - 1))];
                if (r.part(part)->steps.size() < 8) r = add_step(r, part, step, static_cast<std::size_t>(pick(0, 3)));
                break;
            }
            case 14:
                if (const auto& steps = r.part(part)->steps; !steps.empty()) r = move_step(r, steps[0].id, static_cast<std::size_t>(pick(0, 5)));
                break;
            case 15:
                if (const auto& steps = r.part(part)->steps; steps.size() > 3) r = remove_step(r, steps[2].id);
                break;
            case 16:
                if (r.mixer->buses.size() < 4) r = add_bus(r, "Bus");
                break;
            case 17:
                if (!r.mixer->buses.empty()) r = add_send(r, part, r.mixer->buses[0].id, pick(-200, 100));
                break;
            case 18:
                if (!r.mixer->buses.empty()) r = set_output(r, part, r.mixer->buses.back().id);
                break;
            case 19:
                if (r.mixer->buses.size() > 2) r = remove_bus(r, r.mixer->buses[static_cast<std::size_t>(pick(0, 2))].id);
                break;
            case 20: r = set_field(r, {r.part(part)->layers[0].id, pick(0, 1) ? "cutoff" : "level"}, pick(-1000, 30000)); break;
            case 21: r = set_in_section(r, {part, "pan"}, section, pick(-3, 3)); break;
            case 22:
                r = set_curve(r, {r.part(part)->layers[0].id, "cutoff"}, pick(0, 1) ? section : SectionId(),
                              {{pick(-99, 9000), 300.0}, {pick(0, 9000), 99999.0}});
                break;
            case 23:
                if (r.part(part)->rivals.size() < 3) r = add_rival(r, part, "other");
                break;
            case 24: r = choose_rival(r, part, static_cast<std::size_t>(pick(0, 3))); break;
            case 25: r = copy_section(r, section, r.song->meter.tick_of_bar(pick(1, 9))); break;
            default: r = set_key(r, static_cast<std::size_t>(pick(0, 2)), Key{pick(0, 11), Mode::Minor}); break;
        }
        const auto wrong = what_is_wrong(r);
        ASSERT_FALSE(wrong) << i << ": " << *wrong;
    }
}

}  // namespace fw
