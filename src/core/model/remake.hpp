// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/automation.hpp"
#include "model/clips.hpp"
#include "model/drums.hpp"
#include "model/mixer.hpp"
#include "model/notebook.hpp"
#include "model/part.hpp"
#include "model/song.hpp"

#include <string>
#include <vector>

namespace fw {

/// The document: one reference, everything known about it, everything rebuilt from it, in pieces of one subject each.
///
/// An immutable value: edits are functions from one Remake to the next (model/edits.hpp). Pieces are shared between documents, so that a copy costs little,
/// what has not changed is known by its address, and the audio thread may hold one without a lock.
struct Remake {
    Reference reference;
    Shared<Song> song;
    std::vector<Shared<Part>> parts;
    Shared<Mixer> mixer;
    Shared<Automation> automation;
    Shared<Clips> clips;
    Shared<Notebook> notebook;
    int next_id = 1;  ///< for all but what is unique in a part
    Unknown unknown{};
    bool operator==(const Remake&) const = default;

    const Part* part(PartId id) const;
    /// The end of the last section, or of the recording.
    Ticks end_tick() const;
    /// In working order: tempo, key, sections, chords, the parts, the user's own rows.
    std::vector<ElementId> element_ids() const;
    std::string element_name(ElementId id) const;
    ElementState element(ElementId id) const;
    /// Gives numbers to parts, layers, steps and sections that have none yet, and to what is in the parts.
    void number_all();
};

}  // namespace fw
