// SPDX-License-Identifier: GPL-3.0-or-later
// A sound sheet in words: the same ones on the clipboard, on paper and in a chart.
#pragma once

#include "model/remake.hpp"

#include <string>

namespace fw {

/// What a layer sounds with: its patch, its program by General MIDI's name, its file, or a sound of the remake's own.
std::string layer_in_words(const Remake& remake, const Layer& layer);

/// ", level -9.0 dB, in verse 2 depth 9.0 dB, cutoff moves in chorus": what of an owner's fields is not where it starts, held in a section or moved. set_only:
/// of a layer's source only what was set, not what its patch brings.
std::string fields_in_words(const Remake& remake, const FieldOwner& owner, bool set_only = false);

/// A part's sheet, a line a thing, in the order of the signal: layers, steps, where it goes. Empty where there is no such part.
std::string sheet_in_words(const Remake& remake, PartId part);

}  // namespace fw
