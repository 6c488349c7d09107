// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "engine/share.hpp"
#include "model/remake.hpp"

#include <memory>

namespace fw {

/// What of the recording belongs to an element, for a lens: of a part what was heard for its role, else what it plays itself; of the chords their tones. Null
/// where an element has no share (tempo, key, sections). Pure, thread-safe.
std::shared_ptr<const Share> share_of(const Analysis& analysis, const Remake& remake, ElementId element);

/// The share of one pitch, wherever it sounds, or of one drum sound: what a finding is heard through.
std::shared_ptr<const Share> share_of_drum(const Analysis& analysis, DrumKind kind);

}  // namespace fw
