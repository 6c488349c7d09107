// SPDX-License-Identifier: GPL-3.0-or-later
// A sound by itself, outside any song.
#pragma once

#include "audio/audio_file.hpp"
#include "sound/catalogue.hpp"

#include <utility>
#include <vector>

namespace fw {

/// A source's sound with some fields set otherwise, struck once: stereo at 44.1 kHz, held and as long as told. Silent where the source cannot be made. Pure,
/// thread-safe.
struct Strike {
    int key = 60, velocity = 100;
    double held_s = 0.8, length_s = 1.5;
};
Audio struck(const SourceType& source, const SourceSpec& spec, const std::vector<std::pair<std::size_t, double>>& settings, const Strike& strike);

}  // namespace fw
