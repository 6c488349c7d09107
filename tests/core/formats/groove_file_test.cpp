// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/groove_file.hpp"

#include "formats/midi_file.hpp"
#include "model/edits/phrasing.hpp"
#include "model/groove.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <fstream>

namespace fw {

TEST(GrooveFile, WhatIsWrittenIsReadIntoAnotherRemakeAsItWas) {
    const test::TemporaryFolder folder;
    Groove g;
    g.name = "Late snare";
    g.step = 240;
    g.steps = {{0, 100}, {12, 60}, {-5, 96}, {40, 0}};
    ASSERT_TRUE(write_grooves(folder / "g.txt", {g}));
    const auto lines = read_grooves(folder / "g.txt");
    ASSERT_TRUE(lines) << lines.error().message();
    ASSERT_EQ(lines->size(), 1u);
    const auto with = run_command(test::small_remake(), lines->front());
    ASSERT_TRUE(with) << with.error().message();
    ASSERT_TRUE(find_groove(*with->remake.song, "late snare"));
    EXPECT_EQ(find_groove(*with->remake.song, "late snare")->steps, g.steps);
    EXPECT_EQ(find_groove(*with->remake.song, "late snare")->step, 240);
}

TEST(GrooveFile, AMidiFilesNotesTellTheirFeel) {
    const test::TemporaryFolder folder;
    Remake r = test::small_remake();
    // Every off-beat sixteenth is played 30 ticks late.
    Part p = *r.part(test::kDrums);
    Pattern d = test::pattern(1, "A", 8 * 3840);
    for (int i = 0; i < 64; ++i) d.notes.push_back({i * 240 + (i % 2 ? 30 : 0), 100, 42, i % 2 ? 60 : 100, 1.0, Origin::Drawn, {}});
    p.patterns = {d};
    p.number_all();
    r.parts = {p};
    ASSERT_TRUE(write_midi(folder / "hats.mid", r));
    const auto lines = read_grooves(folder / "hats.mid");
    ASSERT_TRUE(lines) << lines.error().message();
    ASSERT_EQ(lines->size(), 1u);
    const auto with = run_command(test::small_remake(), lines->front());
    ASSERT_TRUE(with);
    const Groove& g = with->remake.song->grooves.front();
    ASSERT_EQ(g.steps.size(), 16u);
    for (std::size_t i = 0; i < 16; ++i) {
        EXPECT_NEAR(g.steps[i].late, i % 2 ? 30 : 0, 1) << i;
        EXPECT_NEAR(g.steps[i].velocity, i % 2 ? 60 : 100, 1) << i;
    }
}

TEST(GrooveFile, WhatIsNoGrooveIsSaidInOneSentence) {
    const test::TemporaryFolder folder;
    std::ofstream(folder / "none.txt") << "# nothing here\n";
    std::ofstream(folder / "other.txt") << "part.remove part=Bass\n";
    std::ofstream(folder / "open.txt") << "groove.add name=\"open\n";
    for (const char* name : {"none.txt", "other.txt", "open.txt"}) {
        const auto lines = read_grooves(folder / name);
        ASSERT_FALSE(lines) << name;
        EXPECT_EQ(lines.error().code, ErrorCode::GrooveUnusable);
        EXPECT_NE(lines.error().message().find(name), std::string::npos);
    }
    EXPECT_EQ(read_grooves(folder / "gone.txt").error().code, ErrorCode::FileMissing);
}

}  // namespace fw
