// SPDX-License-Identifier: GPL-3.0-or-later
// The words for findings and remedies: the one place where they are put into sentences.
#pragma once

#include "check/check.hpp"

#include <string>

namespace fw {

/// What is different, without its place: "Bass plays F2, the original E2."
std::string finding_message(const Finding& finding);
/// "Bar 3 beat 2½: Bass plays F2, the original E2."
std::string finding_sentence(const Finding& finding);
/// "set the pitch to E2".
std::string remedy_words(const Finding& finding);

}  // namespace fw
