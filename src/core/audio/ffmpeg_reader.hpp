// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

namespace fw {

/// Opens whatever FFmpeg's libraries can decode (AAC, Opus, WMA, the sound of a video …); null where they cannot.
std::unique_ptr<AudioReader> open_with_ffmpeg(const std::filesystem::path& path);

}  // namespace fw
