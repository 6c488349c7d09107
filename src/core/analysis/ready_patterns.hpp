// SPDX-License-Identifier: GPL-3.0-or-later
// Ready drum patterns, and how well each fits what is heard.
#pragma once

#include "analysis/evidence.hpp"
#include "model/drums.hpp"
#include "model/pattern.hpp"
#include "model/song.hpp"

#include <span>
#include <string_view>
#include <vector>

namespace fw {

/// A bar of strokes on an even grid. Of each sound a text with a letter a step: "X" hard, "x" as usual, "o" soft, "." none.
struct ReadyPattern {
    std::string_view name;
    int steps;     ///< in a bar of four quarters: 16, or 12 for triplets
    double swing;  ///< where the second step of a pair lies in it
    std::string_view kick, snare, hat, open_hat;
    std::string_view tom = "";
};
std::span<const ReadyPattern> ready_patterns();

/// A bar of it, counting from the bar's start; drum hits by their General MIDI keys, ascending by start.
std::vector<Note> notes_of(const ReadyPattern& pattern);

struct PatternFit {
    const ReadyPattern* pattern = nullptr;
    double fit = 0.0;  ///< 0 chance … 1: every stroke is surely heard and no other is
};
/// All ready patterns against the evidence of some bars, best first: of each step and each of kick, snare and hat whether a stroke is heard there as the
/// pattern says (phi coefficient of strokes and evidence, averaged over the sounds that are heard at all). Empty where no bar is of four quarters. Pure,
/// thread-safe.
std::vector<PatternFit> fit_patterns(const Evidence& evidence, const TempoMap& tempo, const MeterMap& meter, int first_bar, int last_bar);

/// Bars that lead from one section into the next, like ready_patterns().
std::span<const ReadyPattern> ready_fills();

/// The bar before a section begins, with the fill that fits it best.
struct FillPlace {
    int bar = 0;
    PatternFit best;
    bool heard = false;  ///< whether that bar's drums differ from the bar before it
};
/// The last bar of each section but the song's last, ascending. Pure, thread-safe.
std::vector<FillPlace> fill_places(const Evidence& evidence, const Song& song);

}  // namespace fw
