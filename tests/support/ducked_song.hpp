// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "sound/catalogue.hpp"

#include <cmath>
#include <numbers>
#include <vector>

namespace fw::test {

inline constexpr double kDuckedRate = 44100.0;

/// Sixteen seconds of a held chord, ducked or not, dying away after each beat or not, with a kick each half second from 0 on, or without.
inline std::vector<float> ducked_song(double depth_db, double release_s, bool kicks = true, double fades_db_a_second = 0.0) {
    const auto frames = static_cast<std::size_t>(16 * kDuckedRate);
    std::vector<float> left(frames);
    for (std::size_t i = 0; i < frames; ++i) {
        const double t = static_cast<double>(i) / kDuckedRate, in_stroke = std::fmod(t, 0.5);
        double x = 0.0;
        for (const double hz : {220.0, 277.2, 329.6})
            for (int k = 1; k < 12; ++k) x += 0.06 / k * std::sin(2.0 * std::numbers::pi * hz * k * t);
        left[i] = static_cast<float>(x * std::pow(10.0, -fades_db_a_second * in_stroke / 20.0));
    }
    std::vector<float> right = left;
    if (depth_db > 0.0) {
        auto duck = kDuck.make(kDuckedRate);
        duck->set(*index_of_field(kDuck.fields, "depth"), depth_db);
        duck->set(*index_of_field(kDuck.fields, "release"), release_s);
        const auto beat = static_cast<std::size_t>(0.5 * kDuckedRate);
        for (std::size_t at = 0; at + kSlice <= frames; at += kSlice) {
            if (at / beat != (at + kSlice) / beat || at == 0) duck->note_on(1, 36, 100);
            duck->process({std::span(left).subspan(at, kSlice), std::span(right).subspan(at, kSlice)}, {});
        }
    }
    if (kicks)
        for (std::size_t i = 0; i < frames; ++i) {
            const double t = std::fmod(static_cast<double>(i) / kDuckedRate, 0.5);
            left[i] += static_cast<float>(0.8 * std::exp(-t / 0.12) * std::sin(2.0 * std::numbers::pi * (50.0 * t + 4.0 * (1.0 - std::exp(-t / 0.02)))));
        }
    return left;
}

}  // namespace fw::test
