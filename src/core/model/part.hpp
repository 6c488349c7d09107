// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/pattern.hpp"
#include "model/sound.hpp"

#include <functional>
#include <string>
#include <vector>

namespace fw {

enum class PartRole { Bass, Lead, Chords, Other, Drums };
inline constexpr int kPartRoles = 5;
const char* part_role_name(PartRole role);  ///< "bass", as in the JSON formats

/// What a part has from the song's chords.
enum class FromChords { Nothing, Block, Lowest, Roots, Top, Arpeggio, Tone };
/// How the tones of a chord are laid out: as near as they lie, with the second (or the second and fourth) from above an octave lower, or root and fifth below
/// and the others above.
enum class Voicing { Close, Drop2, Drop24, Open };
enum class ArpeggioWay { Up, Down, UpDown, DownUp, Random };

/// How a part is made of the song's chords. While it is linked every change of the chords makes its notes anew (edits/chord_parts.hpp).
struct Derivation {
    FromChords kind = FromChords::Nothing;
    bool linked = false;
    Voicing voicing = Voicing::Close;
    int inversion = 0;        ///< how many of the lowest tones go up an octave; −1 leads each chord to the next by the shortest way
    int low = 48, high = 72;  ///< the range, MIDI pitches: the lowest note lies in the octave above low, none above high where it can be helped
    int tone = 7;             ///< of kind Tone: which, as the degree above the root: 1, 3, 5, 7 or 9
    int every = 0;            ///< a new stroke each so many ticks; 0: once a chord
    int every_at_end = 0;     ///< to which that has changed, by equal ratios, as the chord ends; 0: it stays
    double length = 1.0;      ///< share of the time to the next stroke that is held
    double strum_ms = 0.0;    ///< from one tone to the next; negative from the highest down
    ArpeggioWay way = ArpeggioWay::Up;
    int octaves = 1;               ///< an arpeggio goes through
    int velocity = 88, slope = 0;  ///< of the lowest tone, and how much harder each one above it is played
    bool operator==(const Derivation&) const = default;
};

/// One way to play a part: what it plays, with what sound, and where it goes.
struct PartVersion {
    std::string version_name;  ///< of a rival; may be empty for the only one
    std::vector<Shared<Pattern>> patterns;
    std::vector<Placement> placements;  ///< ascending by start
    std::vector<Layer> layers;
    std::vector<Step> steps;  ///< in the order of the signal
    double gain_db = 0.0;
    double pan = 0.0;       ///< -1 left … 1 right
    double early_ms = 0.0;  ///< played earlier than written, for sounds that speak late
    std::vector<Send> sends;
    BusId output{};  ///< none: the master
    Derivation derived{};
    int next_id = 1;  ///< for patterns, placements and notes
    Unknown unknown{};
    bool operator==(const PartVersion&) const = default;

    const Pattern* pattern(PatternId id) const;
    const Placement* placement(PlacementId id) const;
    /// The notes a pattern plays, its parent's included.
    std::vector<Note> notes(const Pattern& pattern) const;
    /// What a next variant of a pattern is called: A′, A′′, A′′′, and no longer.
    std::string variant_letter(const Pattern& parent) const;
    /// To change a pattern; null where there is none.
    Pattern* edit_pattern(PatternId id);
    /// Gives numbers to patterns' notes and placements that have none yet.
    void number_all();
};

/// One musical role rebuilt. Its chosen version is the part itself; rivals are kept beside it.
struct Part : PartVersion {
    PartId id;
    std::string name;
    PartRole role = PartRole::Other;
    bool mute = false, solo = false;
    std::vector<Shared<PartVersion>> rivals;
    bool operator==(const Part&) const = default;

    const PartVersion& version() const { return *this; }
};

/// A note of a part, where it is played.
struct NoteRef {
    PlacementId placement;
    NoteId note;
    auto operator<=>(const NoteRef&) const = default;
};

/// A note where it sounds, with the way back to where it is kept.
struct PlacedNote {
    Note note;  ///< start counts from the start of the song
    PlacementId placement;
    bool muted = false;  ///< the note or its placement
    NoteRef ref() const { return {placement, note.id}; }
};

/// All notes of a part in song time, ascending by start, muted ones included and marked; or those of them that are wanted: asked with the note as it is kept,
/// from its placement's start.
std::vector<PlacedNote> placed_notes(const PartVersion& part, const std::function<bool(const Note&, const Placement&)>& wanted = {});

/// The strokes of a note, ascending by start, each a plain note with its id; of one without a roll the note itself.
std::vector<Note> strokes_of(const Note& note);

/// What is struck: as placed_notes, with a note's roll as its strokes, each with the note's own ref. Ascending by start.
std::vector<PlacedNote> struck_notes(const PartVersion& part);

}  // namespace fw
