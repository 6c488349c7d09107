// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "check/check.hpp"

#include <string>
#include <vector>

namespace fw {

/// Where two sounds are compared besides the whole.
struct SoundPlaces {
    struct Section {
        std::string name;
        double from_s = 0.0, to_s = 0.0;
        int bar = 1;
    };
    std::vector<Section> sections;
    std::vector<double> strokes_s;  ///< after which the decay is looked at
};
SoundPlaces sound_places(const Remake& remake, const Analysis& analysis);

/// Fills in what a report says of sound — level, tone, width, decay, noise bed and true peak of the whole, level, tone and width by section — and adds
/// findings. One cause is one finding: a section is told only where it differs otherwise than the whole. Pure but for the report, thread-safe.
void compare_sound(const SoundSummary& original, const SoundSummary& rebuild, const SoundPlaces& places, CheckReport& report);

}  // namespace fw
