// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "check/check.hpp"

#include <string>

namespace fw {

/// A check report as docs/analysis-json.md describes it (`fakturwerk-check/2`).
std::string check_to_json(const CheckReport& report);

}  // namespace fw
