// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/fit_equaliser.hpp"

#include "sound/catalogue.hpp"
#include "sound/tone_curve.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <nlopt.hpp>

namespace fw {

namespace {

constexpr double kRate_hz = 48'000.0;
constexpr double kMost_db = 12.0;
/// What a decibel of gain costs against a decibel of distance: enough that a gain which moves nothing is not there.
constexpr double kGainCosts = 0.03;

/// A field the search moves, and how far: frequencies by their logarithm.
struct Moved {
    const char* id;
    double low, high;
    bool is_gain;
};
constexpr std::array kMoved{Moved{"low_hz", 60.0, 300.0, false},      Moved{"low", -kMost_db, kMost_db, true}, Moved{"mid_hz", 150.0, 1800.0, false},
                            Moved{"mid", -kMost_db, kMost_db, true},  Moved{"top_hz", 1000.0, 7000.0, false},  Moved{"top", -kMost_db, kMost_db, true},
                            Moved{"high_hz", 3000.0, 12000.0, false}, Moved{"high", -kMost_db, kMost_db, true}};

std::vector<double> neutral() {
    std::vector<double> values;
    for (const Parameter& p : kEqualiser.fields) values.push_back(p.neutral);
    return values;
}

std::vector<double> values_of(const std::vector<double>& x) {
    std::vector<double> values = neutral();
    for (std::size_t i = 0; i < kMoved.size(); ++i) values[*index_of_field(kEqualiser.fields, kMoved[i].id)] = kMoved[i].is_gain ? x[i] : std::exp(x[i]);
    return values;
}

double distance_db(std::span<const WantedGain> wanted, const std::vector<double>& values, double power) {
    double sum = 0.0, weights = 0.0;
    for (const WantedGain& w : wanted) {
        sum += w.weight * std::pow(std::abs(equaliser_db(values, w.hz, kRate_hz) - w.db), power);
        weights += w.weight;
    }
    return weights > 0.0 ? std::pow(sum / weights, 1.0 / power) : 0.0;
}

}  // namespace

EqualiserFit fit_equaliser(std::span<const WantedGain> wanted) {
    EqualiserFit fit;
    fit.before_db = fit.after_db = distance_db(wanted, neutral(), 1.0);
    constexpr double kNothing_db = 0.25;
    if (fit.before_db < kNothing_db) return fit;
    const auto cost = [&](const std::vector<double>& x) {
        double gains = 0.0;
        for (std::size_t i = 0; i < kMoved.size(); ++i)
            if (kMoved[i].is_gain) gains += x[i] * x[i];
        return std::pow(distance_db(wanted, values_of(x), 2.0), 2.0) + kGainCosts * gains;
    };
    using Cost = decltype(cost);
    nlopt::opt search(nlopt::LN_SBPLX, kMoved.size());
    std::vector<double> low, high, best;
    for (const Moved& m : kMoved) {
        low.push_back(m.is_gain ? m.low : std::log(m.low));
        high.push_back(m.is_gain ? m.high : std::log(m.high));
    }
    search.set_lower_bounds(low);
    search.set_upper_bounds(high);
    search.set_min_objective([](const std::vector<double>& x, std::vector<double>&, void* of) { return (*static_cast<const Cost*>(of))(x); },
                             const_cast<void*>(static_cast<const void*>(&cost)));
    search.set_maxeval(1500);
    search.set_xtol_abs(0.01);
    double least = 0.0;
    for (const auto& [mid_hz, top_hz] : {std::pair(400.0, 2500.0), std::pair(220.0, 1200.0), std::pair(900.0, 5000.0)}) {
        std::vector<double> x{std::log(120.0), 0.0, std::log(mid_hz), 0.0, std::log(top_hz), 0.0, std::log(6000.0), 0.0};
        double value = 0.0;
        search.optimize(x, value);
        if (best.empty() || value < least) best = x, least = value;
    }
    std::vector<double> values = values_of(best);
    for (std::size_t i = 0; i < kMoved.size(); i += 2) {  // each frequency with its gain
        const double gain = std::round(10.0 * best[i + 1]) / 10.0, hz = std::exp(best[i]);
        const std::size_t at = *index_of_field(kEqualiser.fields, kMoved[i].id), gain_at = *index_of_field(kEqualiser.fields, kMoved[i + 1].id);
        values[gain_at] = std::abs(gain) < 0.5 ? 0.0 : gain;
        values[at] = values[gain_at] == 0.0 ? kEqualiser.fields[at].neutral : hz < 1000.0 ? std::round(hz) : std::round(hz / 10.0) * 10.0;
    }
    fit.after_db = distance_db(wanted, values, 1.0);
    if (fit.after_db >= fit.before_db) {
        fit.after_db = fit.before_db;
        return fit;
    }
    for (std::size_t f = 0; f < values.size(); ++f)
        if (values[f] != kEqualiser.fields[f].neutral) fit.fields.emplace_back(kEqualiser.fields[f].id, values[f]);
    return fit;
}

}  // namespace fw
