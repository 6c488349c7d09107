// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "check/sound_summary.hpp"
#include "model/remake.hpp"

#include <string>
#include <vector>

namespace fw {

enum class FindingKind { MissingNote, ExtraNote, WrongPitch, Early, Late, MissingHit, ExtraHit, WrongChord, MissingElement, Tone };
const char* finding_kind_name(FindingKind kind);  ///< as in the JSON: "missing_note"

/// One difference between the rebuild and what the evidence says, with its place, size and a remedy.
struct Finding {
    FindingKind kind = FindingKind::MissingNote;
    std::string element_id, element;
    double start_s = 0.0, end_s = 0.0;
    int bar = 0;
    double beat = 0.0;                    ///< from 1, to a thousandth, always less than the bar's beats plus one
    std::string place;                    ///< "bar 3 beat 2½"; empty for the whole song
    int pitch = -1, expected_pitch = -1;  ///< -1 where it does not apply
    double size = 0.0;
    std::string unit;
    double confidence = 0.0;  ///< that the difference is real
    std::string message;      ///< what is different, without its place
    std::string remedy;

    /// "Bar 3 beat 2½: the bass plays F2, the original E2."
    std::string sentence() const;
};

struct ElementMatch {
    std::string id, name, kind;  ///< kind: tempo, key, sections, chords, part
    double match = 0.0;          ///< 0..1
    std::string measures;        ///< what the figure says, in words
    std::vector<double> bars;    ///< per bar from bar 1; -1 where there is nothing to compare
};

struct ToneBand {
    double center_hz = 0.0, original_db = 0.0, rebuild_db = 0.0;
};

struct WidthBand {
    std::string band;
    double original = 0.0, rebuild = 0.0;  ///< side's share of the energy, 0 mono … 0.5 unrelated sides
};

struct CheckReport {
    double match = 0.0;  ///< mean of the elements' figures
    std::vector<ElementMatch> elements;
    std::vector<Finding> findings;  ///< worst first
    std::vector<ToneBand> tone;     ///< third octaves; empty without sound
    std::vector<WidthBand> width;
    double original_lufs = 0.0, rebuild_lufs = 0.0, match_gain_db = 0.0;
};

/// Compares a remake with the evidence: notes and hits both ways, chords against chroma, beats against pulse. With the summaries of both
/// sounds given, tone, width and loudness too. Pure, thread-safe; well under a second for a song.
/// Elements whose difference is marked as intended give a figure and no findings.
CheckReport check(const Remake& remake, const Analysis& analysis, const SoundSummary* original = nullptr, const SoundSummary* rebuild = nullptr);

}  // namespace fw
