// SPDX-License-Identifier: GPL-3.0-or-later
// How a part's sound behaves, measured by playing it.
#pragma once

#include "engine/plan.hpp"

#include <optional>
#include <utility>
#include <vector>

namespace fw {

/// What was measured of a part's sound at a pitch it plays.
struct SoundManners {
    int key = 60;                 ///< that was played
    double speaks_ms = 0.0;       ///< from the stroke until it has half of the amplitude it reaches within a second: how late a slow attack is heard
    std::optional<double> cents;  ///< how far it sounds above the key once it has its pitch; nothing where no pitch is clear
    double settles_ms = 0.0;      ///< until it is within 20 cents of that pitch and stays there; 0 where it begins there
    /// What of a held note is loud enough to be in tune with: below it notes are over before the pitch has settled.
    double beats_db = 0.0;  ///< depth of the dips that voices beside each other make in its held level; 0 for an even level
    double beats_hz = 0.0;
    double mono_db = 0.0;   ///< what its level loses where both sides become one: 0 for a sound in the middle, 3 for sides that have nothing in common
    double lows_off = 0.0;  ///< the share of its lows (below 150 Hz) that is not in the middle, 0 … 1; 0 where it has none
};

/// Plays a note of a part's chosen version by itself — its layers and steps, not its bus — in the middle of what it plays. Drums are played on the key they
/// play most. Nothing where the part plays nothing, has no layer that sounds there, or is silent. assets: as compile_plan wants them. Tens of milliseconds;
/// pure, thread-safe.
std::optional<SoundManners> measure_manners(const Remake& remake, PartId part, const AssetLoader& assets = {});

/// Of a sound as it was rendered: from its stroke on, at a rate, stereo interleaved; hz is the pitch that was meant, 0 for none.
SoundManners manners_of(const Audio& sound, double hz);

/// How much of a part's energy each layer that is on makes, playing alone the note the part plays most: ascending by place, together 1. Empty for fewer than
/// two layers that sound. Steps that are set off by loudness take each for itself.
std::vector<std::pair<LayerId, double>> layer_shares(const Remake& remake, PartId part, const AssetLoader& assets = {});

/// How many of a part's notes last longer than a sampler's sound does at their pitch, where it neither loops nor is meant to play to its end: they break off.
int notes_cut_short(const Part& part, const Layer& layer, const TempoMap& tempo, double sound_s);

/// How far a step is heard: what switching it off changes, in dB below the part's own level over a stretch where the part plays most. Nothing where nothing is
/// heard. An effect nobody hears lies below −60.
std::optional<double> heard_db(const Remake& remake, PartId part, StepId step, const AssetLoader& assets = {});

}  // namespace fw
