// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "audio/audio_file.hpp"

#include <sndfile.h>

namespace fw::test {

/// Writes a WAV of floats, so that samples no sound card knows can be in it.
inline void write_float_wav(const std::filesystem::path& path, const Audio& a) {
    SF_INFO info{};
    info.samplerate = a.sample_rate_hz;
    info.channels = a.channels;
    info.format = SF_FORMAT_WAV | SF_FORMAT_FLOAT;
    SNDFILE* f = sf_open(path.c_str(), SFM_WRITE, &info);
    sf_writef_float(f, a.samples.data(), static_cast<sf_count_t>(a.frames()));
    sf_close(f);
}

}  // namespace fw::test
