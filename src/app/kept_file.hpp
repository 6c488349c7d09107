// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

#include <string>

namespace fw::app {

/// Writes a sound where it outlasts the day, in a folder of that name among the user's data, called by what is in it: the same sound is one file. From any
/// thread. Gives the path. Errors: those of write_audio.
Result<std::string> kept_as_file(const Audio& sound, const char* folder);

}  // namespace fw::app
