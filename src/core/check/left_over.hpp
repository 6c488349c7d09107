// SPDX-License-Identifier: GPL-3.0-or-later
// What of the original the rebuild does not have yet, from their spectra; and what to do next.
#pragma once

#include "check/check.hpp"

#include <optional>
#include <string>
#include <vector>

namespace fw {

/// A stretch and a band in which something is left.
struct LeftMoment {
    double from_s = 0.0, to_s = 0.0;
    int bar = 1, bars = 1;
    double low_hz = 0.0, high_hz = 0.0;
    double share = 0.0;     ///< of what is there, 0..1, that is not rebuilt
    double below_db = 0.0;  ///< how far it lies below the whole original, by what the ear weighs (IEC 61672, A)
    int pitch = -1;         ///< of the strongest partial left, where one stands out; -1 where it is rather noise
};

struct LeftOver {
    ByteGrid semitones;               ///< power of what is left, laid out as SoundSummary::semitones
    std::vector<float> share;         ///< of the original's power that is left, per frame of its summary, 0..1
    std::vector<LeftMoment> moments;  ///< where most is left, loudest first
    std::vector<LeftMoment> faint;    ///< what is there all through a section, softly, and not in the rebuild: layers that are easily missed
};

/// Neighbouring semitones and frames count as rebuilt, too. Pure, thread-safe.
LeftOver left_over(const Remake& remake, const SoundSummary& original, const SoundSummary& rebuild, double match_gain_db);

/// "bar 12, 500 Hz to 1 kHz: 78 % is not rebuilt, around G4".
std::string left_words(const LeftMoment& moment, bool flats);

/// Something to do, with the place to do it.
struct NextStep {
    std::optional<ElementId> element;
    double from_s = 0.0, to_s = 0.0;
    double weight = 0.0;  ///< how much of the whole is at stake, 0..1
    std::string words;
};
/// Elements and places ranked by how audible their mismatch is, most first, at most eight. Pure, thread-safe.
std::vector<NextStep> what_next(const Remake& remake, const CheckReport& report, const LeftOver* left);

}  // namespace fw
