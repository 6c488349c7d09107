// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <optional>
#include <string>

namespace fw {

/// What is wrong with a remake, as a clause that goes on from "because": "the pitch of a note of a pattern of its part "Bass" is 300, not from 0 to
/// 127". Nothing where all is well.
///
/// Looked at: every member's limits as described (model/describe.hpp); ids unique, known and given out; everything ascending; and what it all
/// expands to when it is played. A remake that passes can be shown, checked and rendered in memory and time that its size explains. Used wherever a
/// remake or parts come in; edits keep what they are given valid. Linear in what the remake holds. Pure, thread-safe.
std::optional<std::string> what_is_wrong(const Remake& remake);

}  // namespace fw
