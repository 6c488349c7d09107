// SPDX-License-Identifier: GPL-3.0-or-later
#include "audio/mono.hpp"

namespace fw {

std::vector<float> mono_of(const Audio& sound) {
    std::vector<float> mono(sound.frames());
    const auto channels = static_cast<std::size_t>(sound.channels);
    for (std::size_t i = 0; i < mono.size(); ++i) {
        float sum = 0.0F;
        for (std::size_t c = 0; c < channels; ++c) sum += sound.samples[i * channels + c];
        mono[i] = sum / static_cast<float>(channels);
    }
    return mono;
}

}  // namespace fw
