// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "check/check.hpp"

#include <optional>

namespace fw {

/// The remake with a finding's remedy applied; nothing where the remedy is not an edit (tone, width, loudness, a missing part)
/// or its place no longer exists.
std::optional<Remake> apply_remedy(const Remake& remake, const Finding& finding);

}  // namespace fw
