// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "check/left_over.hpp"

#include <string>

namespace fw {

/// A check report as one page for people: figures and what they mean, elements by section, tone, findings, what is left and what is next, what was meant, what
/// is open. HTML with its pictures inside (SVG), nothing loaded from elsewhere; prints on paper. left may be null. Pure, thread-safe.
std::string check_to_html(const Remake& remake, const CheckReport& report, const LeftOver* left);

}  // namespace fw
