// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/fit_equaliser.hpp"

#include "sound/catalogue.hpp"
#include "sound/tone_curve.hpp"

#include <gtest/gtest.h>
#include <cmath>

namespace fw {

namespace {

constexpr double kOctaves[] = {37.0, 74.0, 147.0, 294.0, 587.0, 1175.0, 2350.0, 4700.0, 9400.0};

/// What an equaliser with some fields set would be asked for, by octave.
std::vector<WantedGain> asked(std::initializer_list<std::pair<const char*, double>> fields) {
    std::vector<double> values;
    for (const Parameter& p : kEqualiser.fields) values.push_back(p.neutral);
    for (const auto& [id, value] : fields) values[*index_of_field(kEqualiser.fields, id)] = value;
    std::vector<WantedGain> all;
    for (const double hz : kOctaves) all.push_back({hz, equaliser_db(values, hz, 48000.0), 1.0});
    return all;
}

double field(const EqualiserFit& fit, std::string_view id) {
    for (const auto& [name, value] : fit.fields)
        if (id == name) return value;
    return 0.0;
}

}  // namespace

TEST(FitEqualiser, WhereNothingIsWantedNothingIsTurned) {
    EXPECT_TRUE(fit_equaliser({}).fields.empty());
    EXPECT_TRUE(fit_equaliser(asked({})).fields.empty());
}

TEST(FitEqualiser, AnEqualisersOwnCurveIsFoundAgainNearly) {
    for (const auto& wanted : {asked({{"low", 6.0}}), asked({{"high", -8.0}, {"high_hz", 5000.0}}), asked({{"mid", -6.0}, {"mid_hz", 500.0}, {"top", 5.0}}),
                               asked({{"low", -6.0}, {"mid", 4.0}, {"mid_hz", 300.0}, {"high", 5.0}})}) {
        const EqualiserFit fit = fit_equaliser(wanted);
        EXPECT_GT(fit.before_db, 1.0);
        EXPECT_LT(fit.after_db, 0.35 * fit.before_db);
        for (const auto& [id, value] : fit.fields) {
            const Parameter& row = kEqualiser.fields[*index_of_field(kEqualiser.fields, id)];
            EXPECT_EQ(clamped(row, value), value) << id;
        }
    }
}

TEST(FitEqualiser, WhatIsHardlyTrustedHardlyCountsAndNothingIsTurnedBeyondTwelveDecibels) {
    auto wanted = asked({{"low", 6.0}});
    wanted.back().db = -18.0, wanted.back().weight = 0.001;
    const EqualiserFit fit = fit_equaliser(wanted);
    EXPECT_NEAR(field(fit, "low"), 6.0, 2.5);
    EXPECT_GT(field(fit, "high"), -3.0) << "one octave that the mix hardly tells of";
    for (auto& w : wanted) w.db = 40.0, w.weight = 1.0;
    for (const auto& [id, value] : fit_equaliser(wanted).fields)
        if (std::string_view(id).find("hz") == std::string_view::npos) {
            EXPECT_LE(value, 12.0) << id;
        }
}

}  // namespace fw
