// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace fw {

/// Everything that listens works on mono at this rate, in Hz: it carries all that tells notes and drums apart.
inline constexpr double kAnalysisRate = 22050.0;

}  // namespace fw
