// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/time.hpp"
#include "model/ids.hpp"
#include "model/shared.hpp"
#include "model/song.hpp"

#include <string>
#include <vector>

namespace fw {

struct BendPoint {
    Ticks tick = 0;  ///< from the note's start
    double cents = 0.0;
    bool operator==(const BendPoint&) const = default;
};

/// One note struck several times: a flam, a ruff, a roll, a build-up. One stroke is the plain note.
struct Roll {
    int strokes = 1;
    Ticks apart = 60;         ///< from one stroke to the next
    int first_velocity = 96;  ///< of the first stroke; the last has the note's own, those between go evenly from one to the other
    double semitones = 0.0;   ///< how far the pitch has risen by the last stroke
    bool leads_in = false;    ///< the note's place is its last stroke's, as of a flam; else its first one's
    bool operator==(const Roll&) const = default;
};

/// The members of a note by which a variant's note can differ from its parent's.
enum NoteMember : int { kOwnStart = 1, kOwnLength = 2, kOwnPitch = 4, kOwnVelocity = 8, kOwnRest = 16, kOwnMuted = 32, kAllOwn = 63 };

/// A note, or a drum hit: then the pitch is the General MIDI key of the sound. start counts from the pattern's start.
/// There are tens of thousands and every edit copies a pattern's: what few notes have is kept aside.
struct Note {
    Ticks start = 0, length = 0;
    int pitch = 60, velocity = 96;
    double confidence = 1.0;
    Origin origin = Origin::Drawn;
    NoteId id{};
    int own = kAllOwn;  ///< in a variant, of a note of the parent's: the members that are its own; the others follow the parent
    bool muted = false;
    bool accepted = false;  ///< the user has looked at it and says that it is right
    Seldom<std::vector<BendPoint>> bend{};
    Seldom<Roll> roll{};
    Unknown unknown{};
    bool operator==(const Note&) const = default;
};

/// A stretch of notes used once or many times. With a parent it is a variant: the parent's notes but for those it leaves out; of its own notes those with an id
/// of the parent's say in what that note differs, the others are added. A change to the parent so reaches it wherever it has not changed, be it only the
/// pitch of a note whose timing is another here. A variant has no variants.
struct Pattern {
    PatternId id;
    std::string letter;  ///< "A", "A′"
    PatternId parent;
    Ticks length = 0;
    std::vector<Note> notes;       ///< ascending by start, then pitch
    std::vector<NoteId> left_out;  ///< of the parent's notes, ascending
    Unknown unknown{};
    bool operator==(const Pattern&) const = default;

    const Note* own(NoteId note) const;
    bool leaves_out(NoteId note) const;
};

struct Placement {
    PatternId pattern;
    Ticks start = 0;
    bool muted = false;
    PlacementId id{};
    Unknown unknown{};
    bool operator==(const Placement&) const = default;
};

/// Puts notes in the order patterns keep: by start, then pitch.
void sort_notes(std::vector<Note>& notes);

/// The notes a pattern plays; parent: the pattern it is a variant of, or null.
std::vector<Note> notes_of(const Pattern& pattern, const Pattern* parent);

/// The members in which two notes differ.
int difference(const Note& a, const Note& b);
/// Gives a note some members of another.
void take_members(Note& into, const Note& from, int members);
/// A variant's note as it sounds: what is not its own as in the parent's.
Note resolved(const Note& variants, const Note& parents);

/// What of a parent and these notes, which have no ids yet, makes a variant that plays just these notes: a note of the parent's pitch within `near` ticks of
/// it is that note. Ids for the others are taken from next_id.
Pattern variant_of(const Pattern& parent, std::vector<Note> notes, Ticks near, int& next_id);

}  // namespace fw
