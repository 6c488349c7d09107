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

/// A note, or a drum hit: then the pitch is the General MIDI key of the sound. start counts from the pattern's start.
struct Note {
    Ticks start = 0, length = 0;
    int pitch = 60, velocity = 96;
    double confidence = 1.0;
    Origin origin = Origin::Drawn;
    std::vector<BendPoint> bend;
    NoteId id{};
    Unknown unknown{};
    bool operator==(const Note&) const = default;
};

/// A stretch of notes used once or many times. With a parent it is a variant: the parent's notes but for those it leaves out, and with its own, which stand
/// for the parent's of the same id or are added. A change to the parent so reaches it wherever it has not changed. A variant has no variants.
struct Pattern {
    PatternId id;
    std::string letter;  ///< "A", "A′"
    PatternId parent;
    Ticks length = 0;
    std::vector<Note> notes;        ///< ascending by start, then pitch
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

/// What of a parent and these notes, which have no ids yet, makes a variant that plays just these notes: notes of the parent's pitch within `near` ticks of
/// it are that note, inherited where they are within `same` ticks of it (and for same = 0 equal in everything else, too), changed otherwise. Ids for the
/// others are taken from next_id.
Pattern variant_of(const Pattern& parent, std::vector<Note> notes, Ticks near, Ticks same, int& next_id);

}  // namespace fw
