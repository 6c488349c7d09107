// SPDX-License-Identifier: GPL-3.0-or-later
// A source's fields searched until it sounds like a moment of the original: the synthesiser's, a made drum's, a sampler's with the sound it plays.
#pragma once

#include "base/progress.hpp"
#include "fit/distance.hpp"
#include "sound/catalogue.hpp"

#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace fw {

/// A note that stands alone in a recording.
struct LoneNote {
    std::vector<float> mono;  ///< at 44.1 kHz, from its stroke on
    int key = 60;             ///< that is played
    int velocity = 100;
    double held_s = 0.5;        ///< until it is let go
    double tuning_cents = 0.0;  ///< of the recording above A4 = 440 Hz
};

/// What is fitted. The synthesiser and made drums begin with all their patches; a sampler with the sound in spec (its file is read anew for each hearing, so
/// give it as spec.sound) and with what is set: its root, its loop.
struct FitSource {
    const SourceType* type = &kSynth;
    SourceSpec spec{};
    std::vector<std::pair<std::size_t, double>> settings{};
};

/// A sound that was found: the patch it began with, what is set otherwise, and how far it lies from the moment.
struct FittedSound {
    std::string patch;
    std::vector<std::pair<std::size_t, double>> settings;  ///< by field, ascending
    SoundDistance distance;
    std::vector<std::pair<std::size_t, double>> tone{};  ///< an equaliser behind it, by field, ascending; empty: none
};

/// What a sound plays for a moment, mono at 44.1 kHz, as long as the moment. Pure, thread-safe.
std::vector<float> played(const LoneNote& moment, const FittedSound& sound, const FitSource& source = {});

struct FitWish {
    double seconds = 45.0;            ///< how long it may take
    int hearings = 0;                 ///< how many sounds it may hear, so that a search finds the same at any speed; 0: as many as there is time for
    std::vector<FittedSound> from{};  ///< where to go on: what an earlier search found; empty for a new one
    unsigned seed = 1;
    bool equaliser = true;  ///< whether one may stand behind it
};

/// Searches the fields a single note can tell of: of a sampler its envelope, its filter, its tuning, where it begins. Every patch is heard first; those
/// nearest are bred with each other, those of each wave of the first oscillator by themselves (differential evolution, Storn & Price 1997), and from the best
/// that differ bounded searches without derivatives begin (Rowan, "Functional stability analysis of numerical algorithms", 1990, as NLopt's Sbplx), with waves
/// and kinds of filter tried in turn. The three best that differ, nearest first. better is told whenever a nearer one was found, from any thread, one at a
/// time. Each has an equaliser behind it where one wins more than a third of a decibel in the distance and in third octaves together. Ends with what it has
/// when the time is over or it is told to stop: nothing is lost, from takes it up again. Uses two threads. Empty only for a moment that is silent.
std::vector<FittedSound> fit_sound(const LoneNote& moment, const FitSource& source, const FitWish& wish, const Progress& progress = {},
                                   const std::function<void(const FittedSound&)>& better = {});

}  // namespace fw
