// SPDX-License-Identifier: GPL-3.0-or-later
// Fields that each note moves anew.
#include "engine/moves.hpp"
#include "model/edits.hpp"
#include "model/note_move.hpp"
#include "model/validate.hpp"

#include "../../support/remakes.hpp"
#include "../../support/rendering.hpp"

#include <gtest/gtest.h>

namespace fw {
namespace {

using namespace test;

constexpr double kRate = 44100.0;

/// The small remake's bass alone with these notes, and a low-pass among its steps.
struct Made {
    Remake remake;
    FieldRef cutoff;
    std::int64_t frame(Ticks tick, double more_ms = 0.0) const {
        return std::llround((remake.song->tempo.seconds(static_cast<double>(tick)) + more_ms / 1000.0) * kRate);
    }
    double at(std::int64_t frame) const {
        Moves moves(remake, kRate);
        const Parameter& row = *find_field(remake, cutoff);
        const std::size_t control = moves.add(cutoff.owner, row, *field_value(remake, cutoff));
        return moves.take().at(control, frame);
    }
};

struct Key {
    Ticks start, length;
    int pitch, velocity;
};
Made made(const std::vector<Key>& keys) {
    std::vector<Note> notes;
    for (const Key& k : keys) {
        Note& n = notes.emplace_back();
        n.start = k.start, n.length = k.length, n.pitch = k.pitch, n.velocity = k.velocity;
    }

    Made m{small_remake(), {}};
    Part& bass = m.remake.parts[0].edit();
    bass.patterns = {pattern(900, "A", 8 * 3840, notes)};
    bass.placements = {{PatternId(900), 0, false, PlacementId(901), {}}};
    bass.number_all();
    m.remake = add_step(m.remake, bass.id, step(kFilter));
    m.cutoff = {m.remake.parts[0]->steps.back().id, "cutoff"};
    EXPECT_TRUE(find_field(m.remake, m.cutoff));
    m.remake = set_field(m.remake, m.cutoff, 200.0);
    return m;
}

NoteMove opening(const Made& m) {
    NoteMove move;
    move.field = m.cutoff;
    move.by = m.remake.parts[0]->id;
    move.to = 3200.0;
    move.attack_ms = 10.0;
    move.decay_ms = 100.0;
    move.sustain = 0.5;
    move.release_ms = 50.0;
    move.bend = 0.0;
    return move;
}

TEST(NoteMoves, AFieldGoesThereFallsAndComesBackWithEachNote) {
    Made m = made({{960, 960, 40, 127}, {3840, 960, 43, 127}});
    m.remake = move_by_notes(m.remake, opening(m));
    ASSERT_FALSE(what_is_wrong(m.remake));
    EXPECT_NEAR(m.at(0), 200.0, 0.1) << "before any note it is what is set";
    EXPECT_NEAR(m.at(m.frame(960)), 200.0, 0.1);
    EXPECT_NEAR(m.at(m.frame(960, 10.0)), 3200.0, 1.0);
    // Half of the way on the scale of a cutoff, which is of ratios: the geometric middle.
    EXPECT_NEAR(m.at(m.frame(960, 300.0)), 800.0, 1.0);
    EXPECT_NEAR(m.at(m.frame(1920, 25.0)), 400.0, 8.0) << "half of what was left has gone";
    EXPECT_NEAR(m.at(m.frame(1920, 60.0)), 200.0, 0.1);
    EXPECT_NEAR(m.at(m.frame(3840, 10.0)), 3200.0, 1.0) << "and anew";
    EXPECT_NEAR(m.at(m.frame(4 * 3840)), 200.0, 0.1);
}

TEST(NoteMoves, ComeWithAPartThatIsPlayedEarly) {
    Made m = made({{960, 960, 40, 127}});
    m.remake = move_by_notes(set_field(m.remake, {m.remake.parts[0]->id, "early_ms"}, 40.0), opening(m));
    EXPECT_NEAR(m.at(m.frame(960, -40.0)), 200.0, 0.1);
    EXPECT_NEAR(m.at(m.frame(960, -30.0)), 3200.0, 1.0);
    EXPECT_NEAR(m.at(m.frame(1920, 20.0)), 200.0, 0.1) << "and goes with it";
}

TEST(NoteMoves, GoOnFromWhereTheNoteBeforeLeftThemAndBySoftnessLessFar) {
    // The second begins while the first comes back; chords are one; a muted note moves nothing.
    Made m = made({{0, 960, 40, 127}, {0, 960, 47, 30}, {980, 480, 43, 64}});
    NoteMove move = opening(m);
    move.release_ms = 1000.0, move.velocity = 1.0;
    m.remake = move_by_notes(m.remake, move);
    EXPECT_NEAR(m.at(m.frame(0, 10.0)), 3200.0, 1.0) << "the hardest of a chord counts";
    const double left = m.at(m.frame(980) - 1), right = m.at(m.frame(980));
    EXPECT_NEAR(left, right, 0.02 * left) << "no jump";
    EXPECT_GT(left, 400.0);
    const double peak = m.at(m.frame(980, 10.0));
    EXPECT_NEAR(std::log2(peak / 200.0), 4.0 * 64.0 / 127.0, 0.02) << "half as hard, half as far, in octaves";
}

TEST(NoteMoves, StandOnACurveAndChangeTheSound) {
    Made m = made({{960, 960, 40, 127}, {4800, 960, 40, 127}});
    m.remake = set_curve(m.remake, m.cutoff, {}, {{0, 200.0}, {3840, 200.0, Shape::Hold}, {3841, 100.0}});
    m.remake = move_by_notes(m.remake, opening(m));
    EXPECT_NEAR(m.at(m.frame(3000)), 200.0, 1.0);
    EXPECT_NEAR(m.at(m.frame(4700)), 100.0, 1.0) << "what it comes back to is where the curve has it";
    EXPECT_NEAR(m.at(m.frame(4800, 10.0)), 3200.0, 2.0);
    Remake still = move_by_no_notes(m.remake, m.cutoff);
    EXPECT_TRUE(still.automation->by_notes.empty());
    EXPECT_NE(rendered(m.remake).samples, rendered(still).samples);
}

TEST(NoteMoves, GoWithWhatTheyMoveAndWithThePartThatMovesThem) {
    Made m = made({{960, 960, 40, 127}});
    NoteMove move = opening(m);
    move.by = m.remake.parts[1]->id;
    const Remake moved = move_by_notes(m.remake, move);
    EXPECT_TRUE(remove_step(moved, std::get<StepId>(m.cutoff.owner)).automation->by_notes.empty());
    EXPECT_TRUE(remove_part(moved, move.by).automation->by_notes.empty());
    EXPECT_EQ(move_by_notes(m.remake, {}), m.remake) << "no field, no move";
    Remake twice = moved;
    twice.automation.edit().by_notes.push_back(move);
    EXPECT_NE(what_is_wrong(twice)->find("moved by notes twice"), std::string::npos);
}

}  // namespace
}  // namespace fw
