// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/beat_text.hpp"

#include "formats/midi_file.hpp"
#include "model/edits.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <filesystem>
#include <fstream>

namespace fw {

using test::small_remake;

TEST(BeatText, AMapGoesOutAndComesBackTheSame) {
    Remake r = change_meter(small_remake(), 3, 3, 4);
    r = pin_beat(r, 2880, 2.1);
    const auto back = parse_beat_text(beat_text(*r.song, 17.0), "beats");
    ASSERT_TRUE(back) << back.error().message();
    EXPECT_EQ(back->meter, r.song->meter);
    for (Ticks t = 0; t < 30'000; t += 480) EXPECT_NEAR(back->tempo.seconds(t), r.song->tempo.seconds(t), 1e-5) << t;
    const auto done = run_command(small_remake(), beat_map_line(*back));
    ASSERT_TRUE(done) << done.error().message();
    EXPECT_EQ(done->remake.song->meter, r.song->meter);
    EXPECT_NEAR(done->remake.song->tempo.seconds(Ticks{2880}), 2.1, 1e-5);
}

TEST(BeatText, UpbeatsBarsAndPlainTimesAreRead) {
    const auto upbeat = parse_beat_text("# beats\n0.5 3\n1.0 4\n1.5 1\n2.0 2\n2.5 3\n3.0 4\n3.5 1\n", "x");
    ASSERT_TRUE(upbeat);
    EXPECT_EQ(upbeat->tempo.anchors().front().tick, 2 * 960) << "two beats before the first full bar";
    EXPECT_EQ(upbeat->meter.position(upbeat->tempo.nearest_tick(1.5)).beat, 1);
    const auto plain = parse_beat_text("0.5\n1.0\n1.5\n", "x");
    ASSERT_TRUE(plain);
    EXPECT_EQ(plain->meter, MeterMap());
    const auto mixed = parse_beat_text("1.0,1\n1.5,2\n2.0,3\n2.5,1\n3.0,2\n3.5,1\n", "x");
    ASSERT_TRUE(mixed);
    EXPECT_EQ(mixed->meter.at_bar(1).numerator, 3);
    EXPECT_EQ(mixed->meter.at_bar(2).numerator, 2);
}

TEST(BeatText, WhatIsNoListOfBeatsIsRefusedWithItsLine) {
    for (const auto& [text, why] : {std::pair{"", "fewer than two"},
                                    {"1.0\n", "fewer than two"},
                                    {"1.0\nhello\n", "line 2"},
                                    {"2.0\n1.0\n", "line 2 is not later"},
                                    {"1.0\nnan\n", "line 2"},
                                    {"0\n9e9\n", "beyond any recording"}}) {
        const auto read = parse_beat_text(text, "beats.txt");
        ASSERT_FALSE(read) << text;
        EXPECT_NE(read.error().message().find(why), std::string::npos) << read.error().message();
    }
}

TEST(BeatText, AMapIsTakenFromMidi) {
    const auto path = std::filesystem::temp_directory_path() / "fakturwerk-beats.mid";
    const Remake r = change_meter(small_remake(), 3, 3, 4);
    ASSERT_TRUE(write_midi(path, r));
    const auto map = read_beat_map(path);
    ASSERT_TRUE(map) << map.error().message();
    for (Ticks t = 0; t < 30'000; t += 960) EXPECT_NEAR(map->tempo.seconds(t), r.song->tempo.seconds(t), 0.002) << t;
    EXPECT_EQ(map->meter.at_bar(4).numerator, 3);
    std::filesystem::remove(path);
}

}  // namespace fw
