// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/drums.hpp"

#include <map>

namespace fw {

const std::vector<DrumSound>& drum_sounds() {
    static const std::vector<DrumSound> list{{DrumKind::Kick, "kick", "Kick", 36},
                                             {DrumKind::Snare, "snare", "Snare", 38},
                                             {DrumKind::Clap, "clap", "Clap", 39},
                                             {DrumKind::Rim, "rim", "Rim", 37},
                                             {DrumKind::Tom, "tom", "Tom", 45},
                                             {DrumKind::HatClosed, "hat_closed", "Hat closed", 42},
                                             {DrumKind::HatOpen, "hat_open", "Hat open", 46},
                                             {DrumKind::Ride, "ride", "Ride", 51},
                                             {DrumKind::Crash, "crash", "Crash", 49},
                                             {DrumKind::Percussion, "percussion", "Percussion", 56}};
    return list;
}

const DrumSound& drum_sound(DrumKind kind) {
    for (const DrumSound& s : drum_sounds())
        if (s.kind == kind) return s;
    return drum_sounds().back();
}

const DrumSound* drum_sound_of_key(int key) {
    static const std::map<int, int> same{{35, 36}, {40, 38}, {44, 42}, {41, 45}, {43, 45}, {47, 45}, {48, 45},
                                         {50, 45}, {57, 49}, {52, 49}, {55, 49}, {53, 51}, {59, 51}};
    if (const auto it = same.find(key); it != same.end()) key = it->second;
    for (const DrumSound& s : drum_sounds())
        if (s.key == key) return &s;
    return key >= 27 && key <= 87 ? &drum_sounds().back() : nullptr;
}

std::optional<DrumKind> parse_drum_kind(const std::string& id) {
    for (const DrumSound& s : drum_sounds())
        if (id == s.id) return s.kind;
    return std::nullopt;
}

}  // namespace fw
