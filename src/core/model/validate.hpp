// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <optional>
#include <string>

namespace fw {

/// What is wrong with a remake, as a clause that goes on from "because": "its part "Bass" has a note of pitch 300". Nothing where all is well.
///
/// Looked at: ids above 0, unique and known; everything ascending; ticks, seconds, bars, values and counts within model/limits.hpp; and what it all
/// expands to when it is played. A remake that passes can be shown, checked and rendered in memory and time that its size explains. Used wherever a
/// remake or parts come in; edits keep what they are given valid. Linear in what the remake holds. Pure, thread-safe.
std::optional<std::string> what_is_wrong(const Remake& remake);

}  // namespace fw
