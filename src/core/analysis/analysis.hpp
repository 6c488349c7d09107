// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/evidence.hpp"
#include "model/drums.hpp"
#include "model/harmony.hpp"
#include "model/remake.hpp"

#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace fw {

struct Beat {
    double time_s = 0.0;
    int bar = 1;   ///< from 1
    int beat = 1;  ///< from 1 within the bar
};

struct TempoCandidate {
    double bpm = 0.0;
    double confidence = 0.0;
};

struct TempoSegment {
    double start_s = 0.0, end_s = 0.0, bpm = 0.0;
};

struct TempoEstimate {
    double bpm = 0.0;        ///< of the longest segment
    double error_bpm = 0.0;  ///< standard error of the fit
    bool steady = false;     ///< one tempo throughout, beats within a few milliseconds of it
    double confidence = 0.0;
    std::vector<TempoCandidate> alternatives;
    std::vector<TempoSegment> segments;
    std::vector<std::pair<double, double>> free_time{};  ///< from .. to in seconds: no pulse is heard there, beats are counted through
};

struct MeterChange {
    int bar = 1, numerator = 4, denominator = 4;
};

struct Swing {
    double ratio = 0.5;    ///< share of the pair that the first note takes; 0.5 straight, 0.667 triplet
    int subdivision = 16;  ///< 8 or 16
    double confidence = 0.0;
};

/// The column of Evidence::pulse that a drum is read from.
constexpr int pulse_column(DrumKind kind) noexcept { return static_cast<int>(kind); }

/// One place of the bar as one drum plays it.
struct StepFeel {
    int step = 0;            ///< from 0
    int count = 0;           ///< strokes heard there
    double offset_ms = 0.0;  ///< median against the straight grid, late is positive
    double spread_ms = 0.0;  ///< of single strokes about it (1.48 median absolute deviations)
    double velocity = 0.0;   ///< mean
};

struct DrumFeel {
    DrumKind kind{};
    std::vector<StepFeel> steps;
};

/// How the drums are played against the grid, place by place.
struct Feel {
    int steps_per_bar = 16, steps_per_beat = 4;
    std::vector<DrumFeel> drums;
};

struct KeySpan {
    double start_s = 0.0, end_s = 0.0;
    Key key;
    double confidence = 0.0;
    std::vector<std::pair<Key, double>> alternatives;
};

struct ChordSpan {
    double start_s = 0.0, end_s = 0.0;
    Chord chord;
    double confidence = 0.0;
    std::vector<std::pair<Chord, double>> alternatives;
};

/// How a bar of a repeat differs from the same bar of the section it repeats.
struct BarDifference {
    int bar = 1, of_bar = 1;
    double start_s = 0.0, end_s = 0.0;  ///< of the bar
    std::string element;                ///< a part's name, a drum as in the JSON, or "Chords"
    int missing = 0, added = 0;         ///< notes or strokes
    int up = 0;                         ///< semitones by which all that is other lies higher; 0 where it does not by one interval
    std::string from{}, to{};           ///< of chords, in Harte's syntax: what the other bar has and what this one has
};

/// A stretch in which an element plays: its entry and its exit.
struct Presence {
    std::string element;  ///< as in BarDifference
    int start_bar = 1, bars = 0;
    double start_s = 0.0, end_s = 0.0;
};

struct SectionSpan {
    double start_s = 0.0, end_s = 0.0;
    int start_bar = 1, bars = 0;
    std::string label, name;
    int repeat_of = -1;  ///< index of the first section like it, -1 for none
    double confidence = 0.0;
    std::vector<BarDifference> differences{};  ///< from that section, bar by bar
    int up = 0;                                ///< semitones by which the whole repeat lies higher than that section
};

struct HeardBend {
    double offset_s = 0.0;  ///< from the note's onset
    double cents = 0.0;
};

struct HeardNote {
    double onset_s = 0.0, duration_s = 0.0;
    int pitch = 0, velocity = 0;
    double confidence = 0.0;
    std::vector<HeardBend> bend{};  ///< straight lines between its points; empty for a straight pitch
};

struct Hit {
    double time_s = 0.0;
    DrumKind kind = DrumKind::Kick;
    int velocity = 0;
    double confidence = 0.0;
};

struct HeardPart {
    PartRole role = PartRole::Other;
    std::string name;
    std::vector<HeardNote> notes;
    /// Whether this is what a part of a role plays; of the parts without a role, which are several, the one of the name. Without a name: any of them.
    bool is_of(PartRole of, const std::string& named) const { return role == of && (role != PartRole::Other || named.empty() || name == named); }
};

/// Drafts of everything, made from the evidence alone. Immutable once made.
struct Analysis {
    std::string path;
    double duration_s = 0.0;
    int sample_rate_hz = 0, channels = 0;
    double integrated_lufs = 0.0;
    std::uint64_t content_hash = 0;
    std::vector<ErrorCode> remarks;  ///< on the recording, as in Audio
    Tuning tuning;
    TempoEstimate tempo;
    std::vector<MeterChange> meter;
    std::vector<Beat> beats;
    Swing swing;
    std::vector<KeySpan> keys;
    std::vector<ChordSpan> chords;
    std::vector<SectionSpan> sections;
    std::vector<Presence> presence;
    std::vector<HeardPart> parts;
    std::vector<HeardNote> notes;
    std::vector<Hit> drums;
    /// Whatever else may be there, too, by time, down to what is less likely than not: for who asks whether something in particular was heard.
    std::vector<HeardNote> faint_notes;
    std::vector<Hit> faint_drums;
    Feel feel;
    std::shared_ptr<const Evidence> evidence;
};

}  // namespace fw
