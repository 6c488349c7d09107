// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of how notes are played: when, how long, how hard, along which pitch. Each says its reach; what is meant in song time is told from where the notes
// sound.
#pragma once

#include "model/edits/notes.hpp"
#include "model/groove.hpp"

#include <cstdint>

namespace fw {

using NoteRefs = std::vector<NoteRef>;

struct Quantising {
    Grid grid;
    double strength = 1.0;  ///< 0..1: how far towards the grid
    Ticks window = 0;       ///< what lies farther from the grid is meant so and stays; 0: nothing does
    double dynamics = 0.0;  ///< 0..1: how far towards the groove's velocities
};
/// Moves starts onto a grid. Strokes of one pitch within a flam's time of each other keep their distance: the loudest goes onto the grid.
Remake quantise_notes(const Remake& remake, PartId part, const NoteRefs& notes, const Quantising& how, Reach reach = Reach::Everywhere);
/// Moves each note onto the nearest of some places within a window; what has none within it stays. A bass locked to a kick.
Remake lock_notes(const Remake& remake, PartId part, const NoteRefs& notes, std::vector<Ticks> places, Ticks window, double strength = 1.0,
                  Reach reach = Reach::Everywhere);
/// Moves notes by up to so many ticks and changes velocities by up to so much, evenly distributed; the same seed always gives the same.
Remake humanise_notes(const Remake& remake, PartId part, const NoteRefs& notes, Ticks range, int velocity, std::uint32_t seed, Reach reach = Reach::Everywhere);

/// Cuts notes at a place; both halves sound as before.
Remake split_notes(const Remake& remake, PartId part, const NoteRefs& notes, Ticks at, Reach reach = Reach::Everywhere);
/// Makes one note of those of each pitch, from the first one's start to the last one's end.
Remake join_notes(const Remake& remake, PartId part, const NoteRefs& notes, Reach reach = Reach::Everywhere);
/// Lets notes end before the next ones begin: each note, or chord of notes begun within a sixteenth triplet's half of each other, is held for a share of the
/// time to the next, less a gap. The last ends where the part's next note begins, or stays as long as it is.
Remake space_notes(const Remake& remake, PartId part, const NoteRefs& notes, double share, Ticks gap, Reach reach = Reach::Everywhere);
/// Ends notes where the next of the part begins, so that no two sound at once; what begins together stays.
Remake cut_overlaps(const Remake& remake, PartId part, const NoteRefs& notes, Reach reach = Reach::Everywhere);

/// Moves pitches along the scale of the key there; what is outside the scale moves by the steps of the tone below it.
Remake step_notes(const Remake& remake, PartId part, const NoteRefs& notes, int scale_steps, Reach reach = Reach::Everywhere);
/// Adds each note once more, semitones higher.
Remake double_notes(const Remake& remake, PartId part, const NoteRefs& notes, int semitones, Reach reach = Reach::Everywhere);
/// Notes twice as fast (2), half as fast (0.5) or in any other ratio, from where the first of them begins: times, lengths, rolls and bends.
Remake rate_notes(const Remake& remake, PartId part, const NoteRefs& notes, double times_as_fast, Reach reach = Reach::Everywhere);
/// Velocities from one to another, evenly by time.
Remake ramp_notes(const Remake& remake, PartId part, const NoteRefs& notes, int from, int to, Reach reach = Reach::Everywhere);
/// A short, soft note before each, so many semitones away.
Remake grace_notes(const Remake& remake, PartId part, const NoteRefs& notes, int semitones, Ticks length, Reach reach = Reach::Everywhere);
/// Copies notes by so many ticks, over and over; into: the part that gets them.
Remake copy_notes(const Remake& remake, PartId part, const NoteRefs& notes, PartId into, Ticks by, int times, int semitones = 0,
                  Reach reach = Reach::Everywhere);

/// Lets another part play notes, too, wherever their pattern plays where that is meant; keep: this part plays them on.
Remake send_notes(const Remake& remake, PartId part, const NoteRefs& notes, PartId into, bool keep, Reach reach = Reach::Everywhere);

/// How a glide gets from one pitch to the next.
enum class GlideShape { Even, Late, Early };
/// Lets each note glide into the next one, whose pitch it reaches as that begins. Of chords the highest notes are led.
Remake glide_notes(const Remake& remake, PartId part, const NoteRefs& notes, Ticks time, GlideShape shape, Reach reach = Reach::Everywhere);
/// A wave of the pitch, depth in cents to either side, from a while after the stroke on.
Remake vibrato_notes(const Remake& remake, PartId part, const NoteRefs& notes, double depth_cents, double rate_hz, Ticks delay,
                     Reach reach = Reach::Everywhere);
/// Gives notes a pitch curve; none takes it off. Points ascend from 0 on; what lies behind a note's end is left out.
Remake bend_notes(const Remake& remake, PartId part, const NoteRefs& notes, const std::vector<BendPoint>& points, Reach reach = Reach::Everywhere);
/// What was drawn freely with as few points as keep within some cents of it (Ramer, "An iterative procedure for the polygonal approximation of plane
/// curves", 1972). Points ascend.
std::vector<BendPoint> thinned(const std::vector<BendPoint>& drawn, double within_cents);
/// Takes the bend curves off notes: they sound at their pitch from beginning to end.
Remake straighten_notes(const Remake& remake, PartId part, const NoteRefs& notes, Reach reach = Reach::Everywhere);
/// How many cents off any semitone a note ends, or 0: a glide that never arrives, a pitch that is left out of tune.
double left_out_of_tune(const Note& note);

/// One note struck several times; a roll of one stroke is a plain note again.
Remake roll_notes(const Remake& remake, PartId part, const NoteRefs& notes, const Roll& roll, Reach reach = Reach::Everywhere);
Remake mute_notes(const Remake& remake, PartId part, const NoteRefs& notes, bool muted, Reach reach = Reach::Everywhere);
/// The user has looked at them and says that they are right, or takes that back.
Remake accept_notes(const Remake& remake, PartId part, const NoteRefs& notes, bool accepted, Reach reach = Reach::Everywhere);

}  // namespace fw
