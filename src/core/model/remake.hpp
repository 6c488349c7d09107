// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/time.hpp"
#include "model/drums.hpp"
#include "model/harmony.hpp"
#include "model/time_maps.hpp"

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace fw {

/// Where a note or chord came from.
enum class Origin { Heard, Played, Drawn, Imported };

struct BendPoint {
    Ticks tick = 0;  ///< from the note's start
    double cents = 0.0;
    bool operator==(const BendPoint&) const = default;
};

/// A note, or a drum hit: then the pitch is the General MIDI key of the sound. start counts from the pattern's start.
struct Note {
    Ticks start = 0, length = 0;
    int pitch = 60, velocity = 96;
    double confidence = 1.0;
    Origin origin = Origin::Drawn;
    std::vector<BendPoint> bend;
    bool operator==(const Note&) const = default;
};

/// A stretch of notes used once or many times. parent is the pattern this one is a variant of, 0 for none.
struct Pattern {
    int id = 0;
    std::string letter;  ///< "A", "A′"
    int parent = 0;
    Ticks length = 0;
    std::vector<Note> notes;
    bool operator==(const Pattern&) const = default;
};

struct Placement {
    int pattern = 0;
    Ticks start = 0;
    bool muted = false;
    bool operator==(const Placement&) const = default;
};

enum class InstrumentKind { Synth, DrumKit, SoundFont };

/// What a layer sounds with. For Synth and DrumKit the patch is a name from the sound library; for SoundFont, program is the
/// General MIDI program of the bank in file (empty: the default sound set).
struct Layer {
    InstrumentKind kind = InstrumentKind::Synth;
    std::string patch;
    int program = 0;
    std::string file;
    double gain_db = 0.0;
    int octave = 0;
    bool operator==(const Layer&) const = default;
};

enum class PartRole { Bass, Lead, Chords, Other, Drums };
const char* part_role_name(PartRole role);  ///< "bass", as in the JSON formats

struct Part {
    int id = 0;
    std::string name;
    PartRole role = PartRole::Other;
    std::vector<Pattern> patterns;
    std::vector<Placement> placements;
    std::vector<Layer> layers;
    double gain_db = 0.0;
    double pan = 0.0;  ///< -1 left … 1 right
    bool mute = false, solo = false;
    bool operator==(const Part&) const = default;

    const Pattern* pattern(int pattern_id) const;
};

enum class State { Open, Draft, Confirmed, LeftOut };
const char* state_name(State state);

/// What the user says of an element; question and intended hold the user's own words, empty for none.
struct ElementState {
    State state = State::Open;
    std::string question, intended;
    bool operator==(const ElementState&) const = default;
};

struct Reference {
    std::string path;
    std::uint64_t content_hash = 0;  ///< of the decoded samples, see MonoSignal
    double duration_s = 0.0;
    double integrated_lufs = 0.0;
    bool operator==(const Reference&) const = default;
};

struct KeyArea {
    Ticks start = 0;
    Key key;
    double confidence = 1.0;
    std::vector<std::pair<Key, double>> alternatives;
    bool operator==(const KeyArea&) const = default;
};

struct Section {
    Ticks start = 0, length = 0;
    std::string label, name;
    int repeat_of = -1;
    double confidence = 1.0;
    bool operator==(const Section&) const = default;
};

struct ChordEvent {
    Ticks start = 0, length = 0;
    Chord chord;
    double confidence = 1.0;
    Origin origin = Origin::Heard;
    std::vector<std::pair<Chord, double>> alternatives;
    bool operator==(const ChordEvent&) const = default;
};

struct Candidate {
    double bpm = 0.0, confidence = 0.0;
    bool operator==(const Candidate&) const = default;
};

/// The document: one reference, everything known about it, everything rebuilt from it.
///
/// An immutable value: edits are functions from one Remake to the next (model/edits.hpp). Parts are shared between
/// documents, so that a copy costs little and the audio thread may hold one without a lock.
struct Remake {
    Reference reference;
    double tuning_cents = 0.0, tuning_confidence = 0.0;
    double tempo_error_bpm = 0.0, tempo_confidence = 0.0;
    std::vector<Candidate> tempo_candidates;
    double swing_ratio = 0.5;
    int swing_subdivision = 16;
    TempoMap tempo;
    MeterMap meter;
    std::vector<KeyArea> keys;
    std::vector<Section> sections;
    std::vector<ChordEvent> chords;
    std::vector<std::shared_ptr<const Part>> parts;
    std::map<std::string, ElementState> elements;  ///< by element id, see element_ids()

    const Part* part(int id) const;
    const Key* key_at(Ticks tick) const;
    bool flats_at(Ticks tick) const;
    /// The end of the last section, or of the recording.
    Ticks end_tick() const;
    /// Ids in working order: "tempo", "key", "sections", "chords", then "part:<id>".
    std::vector<std::string> element_ids() const;
    std::string element_name(const std::string& id) const;
    ElementState element(const std::string& id) const;
    std::string tempo_text() const;  ///< "97.30 BPM", with both ends where it changes
};

/// A note where it sounds, with the way back to where it is kept.
struct PlacedNote {
    Note note;  ///< start counts from the start of the song
    int placement = 0, index = 0;
    bool muted = false;
};

/// All notes of a part in song time, ascending by start, muted ones included and marked.
std::vector<PlacedNote> placed_notes(const Part& part);

}  // namespace fw
