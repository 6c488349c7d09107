// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

namespace fw {

/// The sound set used where a layer names no file: the first of the usual places where one is installed.
std::string default_soundfont();

/// General MIDI program names, for menus.
const std::vector<std::string>& general_midi_names();

}  // namespace fw
