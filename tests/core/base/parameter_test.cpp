// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/parameter.hpp"

#include <gtest/gtest.h>
#include <cmath>
#include <limits>

namespace fw {

namespace {
constexpr Parameter kHz{"cutoff", "Cutoff", Unit::Hertz, 20, 20000, 1000, Scale::Logarithmic, 0.02};
constexpr Parameter kDb{"level", "Level", Unit::Decibels, -60, 12, 0, Scale::Linear, 0.5};
constexpr Parameter kBeats{"release", "Release", Unit::Beats, 0.0625, 8, 0.5, Scale::Logarithmic, 0.05};
constexpr Parameter kShare{"mix", "Mix", Unit::Share, 0, 1, 0.5, Scale::Linear, 0.02};
constexpr Parameter kOn{"on", "On", Unit::None, 0, 1, 1, Scale::Switch, 1};
constexpr Parameter kKey{"low", "Lowest", Unit::Pitch, 0, 127, 0, Scale::Whole, 1};
constexpr const char* kNames[] = {"low-pass", "high-pass", "band pass"};
constexpr Parameter kKind{"kind", "Kind", Unit::None, 0, 2, 0, Scale::Choice, 1, false, "", kNames};
}  // namespace

TEST(ParameterTest, ValuesAreShownInTheTradesUnits) {
    EXPECT_EQ(value_text(kHz, 440), "440 Hz");
    EXPECT_EQ(value_text(kHz, 2500), "2.50 kHz");
    EXPECT_EQ(value_text(kDb, -9), "−9.0 dB");
    EXPECT_EQ(value_text(kDb, -0.01), "0.0 dB") << "no minus before nothing";
    EXPECT_EQ(value_text(kBeats, 0.5), "1/8");
    EXPECT_EQ(value_text(kBeats, 2.0 / 3.0), "1/4T");
    EXPECT_EQ(value_text(kShare, 0.25), "25 %");
    EXPECT_EQ(value_text(kOn, 1), "on");
    EXPECT_EQ(value_text(kKey, 60), "C4");
    EXPECT_EQ(value_text(kKind, 1), "high-pass");
}

TEST(ParameterTest, WhatPeopleTypeIsRead) {
    EXPECT_EQ(parse_value(kHz, "2.5k"), 2500.0);
    EXPECT_EQ(parse_value(kHz, "800 Hz"), 800.0);
    EXPECT_EQ(parse_value(kDb, "-9dB"), -9.0);
    EXPECT_EQ(parse_value(kDb, "−9,5"), -9.5);
    EXPECT_EQ(parse_value(kDb, "+3"), 3.0);
    EXPECT_EQ(parse_value(kBeats, "1/8"), 0.5);
    EXPECT_EQ(parse_value(kBeats, "3 beats"), 3.0);
    EXPECT_EQ(parse_value(kShare, "40%"), 0.4);
    EXPECT_EQ(parse_value(kShare, "0.4"), 0.4);
    EXPECT_EQ(parse_value(kOn, "off"), 0.0);
    EXPECT_EQ(parse_value(kKey, "Bb2"), 46.0);
    EXPECT_EQ(parse_value(kKind, "Band Pass"), 2.0);
    for (const char* bad : {"", "loud", "13 dB", "9 Hz", "nan", "inf", "1e999"}) EXPECT_FALSE(parse_value(kDb, bad)) << bad;
    for (const char* bad : {"", "H4", "C99", "4C"}) EXPECT_FALSE(parse_value(kKey, bad)) << bad;
}

TEST(ParameterTest, WhatIsShownReadsBackAsNearlyTheSame) {
    for (const Parameter* p : {&kHz, &kDb, &kBeats, &kShare, &kOn, &kKey, &kKind})
        for (int i = 0; i <= 50; ++i) {
            const double v = value_at(*p, i / 50.0);
            const auto back = parse_value(*p, value_text(*p, v));
            ASSERT_TRUE(back) << p->id << " " << value_text(*p, v);
            EXPECT_NEAR(position_of(*p, *back), position_of(*p, v), 0.006) << p->id << " " << value_text(*p, v);
        }
}

TEST(ParameterTest, ValuesStayInRangeAndNotANumberIsNeutral) {
    EXPECT_EQ(clamped(kDb, 99), 12.0);
    EXPECT_EQ(clamped(kDb, -std::numeric_limits<double>::infinity()), -60.0);
    EXPECT_EQ(clamped(kHz, std::nan("")), 1000.0);
    EXPECT_EQ(clamped(kKey, 60.4), 60.0);
    EXPECT_NEAR(value_at(kHz, 0.5), std::sqrt(20.0 * 20000.0), 1e-6) << "half way in octaves";
}

}  // namespace fw
