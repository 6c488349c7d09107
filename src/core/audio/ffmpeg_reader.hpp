// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"
#include "base/files.hpp"

namespace fw {

/// Opens whatever FFmpeg's libraries can decode (MP3, AAC, Opus, WMA, the sound of a video …); null where they cannot. Reads from this file alone:
/// lists and references that lead to others are not followed. Where channels, rate or format change on the way, what follows is converted to how the
/// file begins, and remarks() say so.
std::unique_ptr<AudioReader> open_with_ffmpeg(FileHandle file, const std::string& name);

}  // namespace fw
