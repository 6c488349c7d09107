// SPDX-License-Identifier: GPL-3.0-or-later
// How the two halves of validation, validate_members and validate, say what is wrong. Nobody else needs it.
#pragma once

#include <string>

namespace fw {
struct Remake;
}

namespace fw::faults {

/// Thrown at the first fault and caught in what_is_wrong.
struct Fault {
    std::string words;
};
[[noreturn]] void fail(std::string words);
/// A name as it stands in a sentence: short, without what cannot be shown.
std::string quoted(const std::string& name);
std::string shown(double value);

/// Holds every described member of a remake to its limits, each by itself; throws Fault.
void check_members(const Remake& remake);

}  // namespace fw::faults
