// SPDX-License-Identifier: GPL-3.0-or-later
// Pieces of a recording, cut to be used: a note that stands alone, and the key it has.
#pragma once

#include "audio/audio_file.hpp"
#include "dsp/likeness.hpp"
#include "engine/share.hpp"
#include "fit/fit_sound.hpp"

#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace fw {

/// Which key a sound has, and how far it lies above it.
struct Root {
    int key = 60;
    double cents = 0.0;  ///< −50 … 50
    double hz = 440.0;
};

Root root_at(double hz);

/// The pitch of a sound that rings by itself: its period where it has one (probe_pitch over windows long enough for 20 Hz); of bells and bars, which have none,
/// the partial that is loudest while it rings, or what half of its strong partials are multiples of (the strike note, which is heard an octave below the
/// nominal; Terhardt & Seewann, "Auditive und objektive Bestimmung der Schlagtonhöhe von historischen Kirchenglocken", Acustica 1984). Nothing for noise and
/// silence. Pure, thread-safe, tens of milliseconds.
std::optional<Root> find_root(const Audio& sound);

/// The sampler's fields by which a held note goes round so: loop, length and loop_start, of what it plays, which lasts played_s.
std::vector<std::pair<const char*, double>> loop_fields(const Round& round, double played_s);

/// A piece of a recording, stereo as it is: from the nearest zero crossing within 3 ms before its start, with a fade of 1 ms at the start and of 15 ms at the
/// end. only: what lies in the share of an element is kept (engine/lens.hpp), the rest is taken out as far as the evidence tells it apart.
Audio cut_out(const Audio& recording, double start_s, double end_s, const std::shared_ptr<const Share>& only = nullptr);

/// A piece as a search takes it: mono at 44.1 kHz, from its stroke on, at most 1.2 s.
LoneNote moment_from(const Audio& piece, int key, int velocity, double held_s, double tuning_cents);

}  // namespace fw
