// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/plan.hpp"
#include "model/remake.hpp"

#include <optional>
#include <span>
#include <vector>

namespace fw {

/// What a picture of a sound shows; each against its own loudest.
struct SoundCurves {
    static constexpr double kLowest_hz = 30.0, kPerOctave = 6.0, kStep_s = 0.01;
    std::vector<float> spectrum_db;  ///< bands of a sixth of an octave from kLowest_hz up, over the whole sound
    std::vector<float> level_db;     ///< each hundredth of a second
    std::vector<float> cents;        ///< each twentieth of a second: how far the pitch lies above the one that was meant; not-a-number where none is clear
    double noise = 0.0;              ///< 0 a tone … 1 noise
    bool empty() const { return level_db.empty(); }
};
/// Of a mono sound from its stroke on; hz: the pitch that is meant, 0 for none. Pure, thread-safe, some milliseconds a second of sound.
SoundCurves curves_of(std::span<const float> mono, double sample_rate_hz, double hz);

/// A single note of a part by itself, its layers and steps, mono at 44.1 kHz from its stroke on; nothing where it is silent. only: of its layers none but
/// this one.
std::optional<std::vector<float>> played_alone(const Remake& remake, PartId part, int key, int velocity, double held_s, double length_s,
                                               const AssetLoader& assets = {}, LayerId only = {});

}  // namespace fw
