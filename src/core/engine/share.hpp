// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

namespace fw {

/// What sounds when, of an element and of all others: by this a mask is made that lets the element's share of a recording through.
struct Share {
    /// A note with its partials, or the noise of a stroke.
    struct Tone {
        double start_s = 0.0, end_s = 0.0;
        float hz = 0.0F;  ///< the fundamental; 0: a stroke, which sounds from low_hz to high_hz
        float low_hz = 0.0F, high_hz = 0.0F;
        float power = 1.0F;  ///< against the others
        bool mine = false;   ///< the element's
    };
    std::vector<Tone> tones;  ///< ascending by start
    double longest_s = 0.0;   ///< of any tone
};

}  // namespace fw
