// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/ready_patterns.hpp"

#include "support/made_evidence.hpp"

#include <gtest/gtest.h>
#include <set>

namespace fw {

using test::silent_evidence;
using test::spike;

namespace {

/// What would be heard of a ready pattern over some bars at 120 BPM, drums a little soft.
Evidence heard(const ReadyPattern& p, const TempoMap& tempo, int bars) {
    Evidence e = silent_evidence(tempo.seconds(Ticks{(bars + 1) * 3840}) + 1.0);
    for (int bar = 0; bar < bars; ++bar)
        for (const Note& n : notes_of(p))
            spike(e.pulse, tempo.seconds(bar * 3840 + n.start), pulse_column(drum_sound_of_key(n.pitch)->kind), n.velocity > 60 ? 0.85F : 0.5F);
    return e;
}

TempoMap steady() { return TempoMap({{0, 0.5}, {40 * 3840, 0.5 + 40 * 2.0}}); }

}  // namespace

TEST(ReadyPatterns, EachIsWholeAndHasANameOfItsOwn) {
    std::set<std::string_view> names;
    for (const ReadyPattern& p : ready_patterns()) {
        EXPECT_TRUE(names.insert(p.name).second) << p.name;
        for (const auto text : {p.kick, p.snare, p.hat, p.open_hat}) {
            EXPECT_EQ(static_cast<int>(text.size()), p.steps) << p.name;
            EXPECT_EQ(text.find_first_not_of("Xxo."), std::string_view::npos) << p.name;
        }
        const auto notes = notes_of(p);
        EXPECT_GE(notes.size(), 4u) << p.name;
        for (const Note& n : notes) EXPECT_LT(n.start, 3840) << p.name;
    }
}

TEST(ReadyPatterns, TheOneThatIsPlayedFitsBest) {
    const TempoMap tempo = steady();
    int first = 0;
    for (const ReadyPattern& p : ready_patterns()) {
        const auto fits = fit_patterns(heard(p, tempo, 4), tempo, MeterMap(), 1, 4);
        ASSERT_FALSE(fits.empty());
        const auto mine = std::find_if(fits.begin(), fits.end(), [&](const PatternFit& f) { return f.pattern == &p; });
        EXPECT_LE(mine - fits.begin(), 2) << p.name << ", best was " << fits.front().pattern->name;
        EXPECT_GT(mine->fit, 0.68) << p.name;
        first += mine == fits.begin();
    }
    EXPECT_GE(first, static_cast<int>(ready_patterns().size()) - 3) << "those that differ by ghost notes alone may change places";
}

TEST(ReadyPatterns, NothingHeardAndAnotherMeterSayNothing) {
    const TempoMap tempo = steady();
    EXPECT_TRUE(fit_patterns(silent_evidence(20.0), tempo, MeterMap(), 1, 4).empty());
    EXPECT_TRUE(fit_patterns(heard(ready_patterns()[0], tempo, 4), tempo, MeterMap({{1, 3, 4}}), 1, 4).empty());
    // Noise fits none.
    Evidence noise = silent_evidence(30.0);
    std::uint32_t n = 1;
    for (Eigen::Index f = 0; f < noise.pulse.rows(); ++f)
        for (int c = 0; c < kPulseColumns; ++c) n = n * 1664525U + 1013904223U, noise.pulse(f, c) = static_cast<float>(n >> 24) / 255.0F;
    for (const PatternFit& f : fit_patterns(noise, tempo, MeterMap(), 1, 8)) EXPECT_LT(f.fit, 0.25) << f.pattern->name;
}

TEST(ReadyFills, TheOneThatIsPlayedIsFoundBeforeTheSectionAndNoneIsHeardWhereTheGrooveGoesOn) {
    const TempoMap tempo = steady();
    Song song;
    song.tempo = tempo;
    song.sections = {{0, 4 * 3840, "A", "", {}, 1.0, SectionId(1)},
                     {4 * 3840, 4 * 3840, "B", "", {}, 1.0, SectionId(2)},
                     {8 * 3840, 4 * 3840, "A", "", {}, 1.0, SectionId(3)}};
    const ReadyPattern& groove = ready_patterns()[0];
    int named = 0;
    for (const ReadyPattern& fill : ready_fills()) {
        for (const auto text : {fill.kick, fill.snare, fill.hat, fill.open_hat}) EXPECT_EQ(static_cast<int>(text.size()), fill.steps) << fill.name;
        Evidence e = silent_evidence(30.0);
        for (int bar = 0; bar < 12; ++bar)
            for (const Note& n : notes_of(bar == 3 ? fill : groove))
                spike(e.pulse, tempo.seconds(bar * 3840 + n.start), pulse_column(drum_sound_of_key(n.pitch)->kind), n.velocity > 60 ? 0.85F : 0.5F);
        const auto places = fill_places(e, song);
        ASSERT_EQ(places.size(), 2u) << "one before each section but the first";
        EXPECT_EQ(places[0].bar, 4);
        EXPECT_TRUE(places[0].heard) << fill.name;
        EXPECT_EQ(places[1].bar, 8);
        EXPECT_FALSE(places[1].heard) << "the groove goes on there";
        named += places[0].best.pattern == &fill;
    }
    EXPECT_GE(named, static_cast<int>(ready_fills().size()) - 2);
    EXPECT_TRUE(fill_places(silent_evidence(30.0), song).empty());
}

}  // namespace fw
