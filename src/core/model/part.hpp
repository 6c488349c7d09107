// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/pattern.hpp"
#include "model/sound.hpp"

#include <string>
#include <vector>

namespace fw {

enum class PartRole { Bass, Lead, Chords, Other, Drums };
inline constexpr int kPartRoles = 5;
const char* part_role_name(PartRole role);  ///< "bass", as in the JSON formats

/// One way to play a part: what it plays, with what sound, and where it goes.
struct PartVersion {
    std::string version_name;  ///< of a rival; may be empty for the only one
    std::vector<Shared<Pattern>> patterns;
    std::vector<Placement> placements;  ///< ascending by start
    std::vector<Layer> layers;
    std::vector<Step> steps;  ///< in the order of the signal
    double gain_db = 0.0;
    double pan = 0.0;  ///< -1 left … 1 right
    std::vector<Send> sends;
    BusId output{};   ///< none: the master
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
    bool muted = false;
    NoteRef ref() const { return {placement, note.id}; }
};

/// All notes of a part in song time, ascending by start, muted ones included and marked.
std::vector<PlacedNote> placed_notes(const PartVersion& part);

}  // namespace fw
