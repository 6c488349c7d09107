// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "check/check.hpp"
#include "commands/command.hpp"

#include <optional>

namespace fw {

/// The command that does what a finding's remedy says; nothing where the remedy is not an edit (tone, width, loudness, a missing part) or its place no
/// longer exists.
std::optional<Line> remedy_line(const Remake& remake, const Finding& finding);

}  // namespace fw
