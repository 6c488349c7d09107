// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace fw {

/// The voice a new stroke gets: one that is silent, else the oldest. Voices tell whether they are active and their age. Real-time safe.
template <class Voices>
auto& free_or_oldest(Voices& voices) noexcept {
    auto* voice = &voices.front();
    for (auto& v : voices) {
        if (!v.active) return v;
        if (v.age > voice->age) voice = &v;
    }
    return *voice;
}

}  // namespace fw
