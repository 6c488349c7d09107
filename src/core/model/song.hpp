// SPDX-License-Identifier: GPL-3.0-or-later
// What is known of the song as a whole: its time, its harmony, its form.
#pragma once

#include "base/time.hpp"
#include "model/harmony.hpp"
#include "model/ids.hpp"
#include "model/shared.hpp"
#include "model/time_maps.hpp"

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

namespace fw {

/// Where a note or chord came from.
enum class Origin { Heard, Played, Drawn, Imported };

struct Reference {
    std::string path;
    std::uint64_t content_hash = 0;  ///< of the decoded samples, see MonoSignal
    double duration_s = 0.0;
    double integrated_lufs = 0.0;
    Unknown unknown{};
    bool operator==(const Reference&) const = default;
};

/// A reading of the tempo.
struct Candidate {
    double bpm = 0.0, confidence = 0.0;
    Unknown unknown{};
    bool operator==(const Candidate&) const = default;
};

struct KeyArea {
    Ticks start = 0;
    Key key;
    double confidence = 1.0;
    std::vector<std::pair<Key, double>> alternatives;
    Unknown unknown{};
    bool operator==(const KeyArea&) const = default;
};

struct Section {
    Ticks start = 0, length = 0;
    std::string label, name;
    SectionId repeat_of{};  ///< an earlier one, or none
    double confidence = 1.0;
    SectionId id{};
    Unknown unknown{};
    bool condensed_out = false;  ///< left out of the condensed version (edits/condense.hpp)
    bool operator==(const Section&) const = default;
};

struct ChordEvent {
    Ticks start = 0, length = 0;
    Chord chord;
    double confidence = 1.0;
    Origin origin = Origin::Heard;
    std::vector<std::pair<Chord, double>> alternatives;
    Unknown unknown{};
    std::vector<int> voiced{};  ///< the pitches it is laid out in, ascending; empty: as the part that is made of it says
    bool operator==(const ChordEvent&) const = default;
};

/// One step of a groove.
struct GrooveStep {
    int late = 0;      ///< ticks later than the grid; negative is earlier
    int velocity = 0;  ///< 1 to 127; 0: it says nothing of this step
    bool operator==(const GrooveStep&) const = default;
};

/// A feel: how far each step of a grid lies off it and how hard it is played, over and over (model/groove.hpp).
struct Groove {
    std::string name;
    int step = kTicksPerQuarter / 4;  ///< ticks
    std::vector<GrooveStep> steps;
    Unknown unknown{};
    bool operator==(const Groove&) const = default;
};

/// A beat that was put where it is by hand: what is moved beside it ends there.
struct Pin {
    Ticks at = 0;
    Unknown unknown{};
    bool operator==(const Pin&) const = default;
};

/// A stretch without a pulse.
struct FreeTime {
    Ticks start = 0, length = 0;
    Unknown unknown{};
    bool operator==(const FreeTime&) const = default;
};

struct Song {
    double tuning_cents = 0.0, tuning_confidence = 0.0;
    double tempo_error_bpm = 0.0, tempo_confidence = 0.0;
    std::vector<Candidate> tempo_candidates;
    double swing_ratio = 0.5;
    int swing_subdivision = 16;
    bool at_440 = false;  ///< the rebuild stands at A4 = 440 Hz instead of following the recording's tuning
    TempoMap tempo;
    MeterMap meter;
    std::vector<Pin> pins;            ///< ascending
    std::vector<FreeTime> free_time;  ///< ascending, apart from each other
    std::vector<Groove> grooves;      ///< each with a name of its own
    std::vector<KeyArea> keys;
    std::vector<Section> sections;
    std::vector<ChordEvent> chords;
    Unknown unknown{};
    bool operator==(const Song&) const = default;

    double rebuild_tuning_cents() const { return at_440 ? 0.0 : tuning_cents; }
    bool is_free(Ticks tick) const;
    const Key* key_at(Ticks tick) const;
    /// The chord that sounds at a tick, be it none (N.C.); null where nothing is said.
    const ChordEvent* chord_at(Ticks tick) const;
    bool flats_at(Ticks tick) const;
    /// The index of the section at a tick; -1 for none.
    int section_at(Ticks tick) const;
    const Section* section(SectionId id) const;
    std::string tempo_text() const;  ///< "97.30 BPM", with both ends where it changes
};

}  // namespace fw
