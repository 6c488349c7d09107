// SPDX-License-Identifier: GPL-3.0-or-later
// An equaliser's fields from a curve that is wanted.
#pragma once

#include <span>
#include <utility>
#include <vector>

namespace fw {

/// How much louder or softer a frequency should become, and how much that is to be trusted.
struct WantedGain {
    double hz = 0.0, db = 0.0;
    double weight = 1.0;  ///< against the others; 0: anything will do
};

struct EqualiserFit {
    std::vector<std::pair<const char*, double>> fields;  ///< of the Equaliser step, by id: those that are not where they start
    double before_db = 0.0, after_db = 0.0;              ///< weighted mean distance from what is wanted: of nothing, of this
};

/// Shelves and two bells of a width that suits octaves, none beyond 12 dB, by which the equaliser's curve comes nearest to what is wanted; least gains where
/// several do, whole tenths of a decibel. A bounded search without derivatives (Rowan 1990, as NLopt's Sbplx) from three places where bells may begin, the same
/// every time. Nothing is set where nothing is wanted. Pure, thread-safe, some milliseconds.
EqualiserFit fit_equaliser(std::span<const WantedGain> wanted);

}  // namespace fw
