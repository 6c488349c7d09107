// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

#include <algorithm>

namespace fw {

inline const std::filesystem::path kDemo = std::filesystem::path(FW_DEMO_DIR) / "lantern-ferry.ogg";

/// The demo's sound repeated to the asked length.
inline Audio repeated_demo(std::int64_t minutes) {
    const Audio once = *read_audio(kDemo);
    Audio sound = once;
    sound.samples.clear();
    const auto wanted = static_cast<std::size_t>(minutes * 60 * once.sample_rate_hz * once.channels);
    while (sound.samples.size() < wanted)
        sound.samples.insert(sound.samples.end(), once.samples.begin(),
                             once.samples.begin() + static_cast<std::ptrdiff_t>(std::min(once.samples.size(), wanted - sound.samples.size())));
    return sound;
}

}  // namespace fw
