// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <string>
#include <vector>

namespace fw::fuzz {

/// One way in for what others made. run() returns whether the input was taken, and ends the program where a promise was broken.
struct Target {
    const char* name;
    std::function<std::vector<std::string>()> seeds;  ///< good inputs, made in code
    std::function<bool(const std::string& input)> run;
};
const std::vector<Target>& targets();

}  // namespace fw::fuzz
