// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <string>

namespace fw {

/// A remake as a chart to play and talk from: tempo, meter, key and tuning, the chords bar by bar under their sections, and each element with where it plays,
/// what it sounds with and through what it goes, in the trade's words and units. One page of HTML, nothing loaded from elsewhere; prints on paper. Pure,
/// thread-safe.
std::string chart_to_html(const Remake& remake);

}  // namespace fw
