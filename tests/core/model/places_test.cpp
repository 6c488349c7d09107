// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/places.hpp"

#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

using test::kBass;
using test::small_remake;

TEST(Places, AreReadAsPeopleSayThem) {
    const Remake r = small_remake();
    EXPECT_EQ(parse_place(r, "5"), 4 * 3840);
    EXPECT_EQ(parse_place(r, "5.3"), 4 * 3840 + 2 * 960);
    EXPECT_EQ(parse_place(r, "5.3.240"), 4 * 3840 + 2 * 960 + 240);
    EXPECT_EQ(parse_place(r, "verse 2"), 4 * 3840);
    EXPECT_EQ(parse_place(r, "Verse"), 0);
    EXPECT_EQ(parse_place(r, "A #2"), 4 * 3840);
    EXPECT_EQ(parse_place(r, "#2"), 4 * 3840);
    EXPECT_EQ(parse_place(r, "1.5s"), 2 * 960);
    for (const char* bad : {"", "fifty", "the and of 5 in 2", "and", "e 3", "the x of 2 in 7", "1:75", "5.9", "5.1.5000", "5.", "verse 3", "5.3.2.1", "#9",
                            "99999999999", "nans"})
        EXPECT_FALSE(parse_place(r, bad)) << bad;
    EXPECT_EQ(parse_place(r, "1:02.5"), r.song->tempo.nearest_tick(62.5));
    EXPECT_EQ(parse_place(r, "bar 5"), 4 * 3840);
    EXPECT_EQ(parse_place(r, "five"), 4 * 3840);
    EXPECT_EQ(parse_place(r, "the and of 2 in 7"), 6 * 3840 + 960 + 480);
    EXPECT_EQ(parse_place(r, "the and of one"), std::nullopt) << "no bar is said";
    EXPECT_EQ(parse_place(r, "The E of One in Nine"), 8 * 3840 + 240);
    EXPECT_EQ(parse_place(r, "the a of 4, bar 2"), 3840 + 3 * 960 + 720);
    EXPECT_EQ(parse_place(r, "beat 3 of bar 5"), 4 * 3840 + 2 * 960);
    for (const Ticks t : {Ticks{-3000}, Ticks{0}, Ticks{961}, Ticks{50000}}) EXPECT_EQ(parse_place(r, place_text(r.song->meter, t)), t);
}

TEST(Places, LengthsAreRead) {
    const Remake r = small_remake();
    EXPECT_EQ(parse_length(r, "1/8"), 480);
    EXPECT_EQ(parse_length(r, "-1/16"), -240);
    EXPECT_EQ(parse_length(r, "1/8T"), 320);
    EXPECT_EQ(parse_length(r, "1/4."), 1440);
    EXPECT_EQ(parse_length(r, "2 bars"), 2 * 3840);
    EXPECT_EQ(parse_length(r, "1.5 beats"), 1440);
    EXPECT_EQ(parse_length(r, "33 ticks"), 33);
    for (const char* bad : {"", "8", "1/0", "x", "1 mile", "1/8x"}) EXPECT_FALSE(parse_length(r, bad)) << bad;
    for (const Ticks t : {-700, -240, 0, 1, 960, 3840, 5000}) EXPECT_EQ(parse_length(r, length_text(t)), t) << length_text(t);
}

TEST(Places, ThingsOfOneNameAreToldApart) {
    Remake r = small_remake();
    for (auto& p : r.parts) p.edit().name = "Lead";
    EXPECT_EQ(find_part(r, "lead")->id, kBass);
    EXPECT_EQ(find_part(r, "Lead #2")->id, test::kDrums);
    for (const auto& p : r.parts) EXPECT_EQ(find_part(r, part_text(r, p->id))->id, p->id);
    for (const Section& s : r.song->sections) EXPECT_EQ(find_section(r, section_text(r, s.id))->id, s.id);
    EXPECT_FALSE(find_part(r, "Bass"));
    r.song.edit().sections[1].name = "#1";
    EXPECT_EQ(find_section(r, section_text(r, SectionId(4)))->id, SectionId(4)) << "whatever it is called";
}

TEST(Places, ElementsReadBackFromFiles) {
    for (const ElementId id : {ElementId::tempo(), ElementId::key(), ElementId::sections(), ElementId::chords(), ElementId(PartId(12)), ElementId(RowId(3))})
        EXPECT_EQ(ElementId::parse(id.text()), id);
    for (const char* bad : {"", "part", "part:", "part:0", "part:x", "part:1x", "tempo:1", "mix"}) EXPECT_FALSE(ElementId::parse(bad)) << bad;
}

}  // namespace fw
