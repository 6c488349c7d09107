// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>

namespace fw {

/// The trained weights, built into the program from training/weights/*.fwnn.
std::span<const unsigned char> pulse_weights() noexcept;
std::span<const unsigned char> pitch_weights() noexcept;
std::span<const unsigned char> judge_weights() noexcept;

}  // namespace fw
