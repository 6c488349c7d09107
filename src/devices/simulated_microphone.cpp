// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices/audio_input.hpp"

namespace fw {

Status SimulatedMicrophone::start() {
    started_ = std::chrono::steady_clock::now();
    taken_ = 0;
    running_ = true;
    return Done{};
}

std::vector<float> SimulatedMicrophone::take() {
    std::vector<float> heard;
    if (!running_) return heard;
    const std::chrono::duration<double> since = std::chrono::steady_clock::now() - started_;
    for (const auto until = static_cast<std::size_t>(since.count() * rate_); taken_ < until; ++taken_)
        heard.push_back(taken_ < mono_.size() ? mono_[taken_] : 0.0F);
    return heard;
}

}  // namespace fw
