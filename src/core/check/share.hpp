// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "check/check.hpp"
#include "engine/lens.hpp"
#include "model/remake.hpp"

#include <memory>

namespace fw {

/// What of the recording belongs to an element, for a lens: of a part what was heard for its role, else what it plays itself; of the chords their tones. Null
/// where an element has no share (tempo, key, sections). Pure, thread-safe.
std::shared_ptr<const Share> share_of(const Analysis& analysis, const Remake& remake, ElementId element);

/// The share of one drum sound.
std::shared_ptr<const Share> share_of_drum(const Analysis& analysis, DrumKind kind);

/// The lens a finding is heard best through: around the pitch that is missing, wrong or too much, the share of its drum, the band in which tone or width
/// differ; the element's share for what concerns all of it; else the whole. Pure, thread-safe.
Lens lens_of(const Finding& finding, const Analysis& analysis, const Remake& remake);

}  // namespace fw
