// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"

#include <string>

namespace fw {

/// The analysis as docs/analysis-json.md describes it (`fakturwerk-analysis/1`).
std::string analysis_to_json(const Analysis& analysis);

}  // namespace fw
