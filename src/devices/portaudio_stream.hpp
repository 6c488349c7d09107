// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"

#include <portaudio.h>
#include <string>

namespace fw {

/// A stream of a device, in or out, after Pa_Initialize: it stops and gives the library up as it goes.
class PortAudioStream {
public:
    PortAudioStream() = default;
    ~PortAudioStream() {
        stop();
        Pa_Terminate();
    }
    PortAudioStream(const PortAudioStream&) = delete;
    PortAudioStream& operator=(const PortAudioStream&) = delete;

    /// Errors: DeviceUnusable, with the device's name.
    Status start(const PaStreamParameters* in, const PaStreamParameters* out, double rate, PaStreamCallback* run, void* self) {
        constexpr unsigned long kFrames = 256;
        stop();
        if (Pa_OpenStream(&stream_, in, out, rate, kFrames, paNoFlag, run, self) != paNoError || Pa_StartStream(stream_) != paNoError) {
            stop();
            return Error{ErrorCode::DeviceUnusable, Pa_GetDeviceInfo((in ? in : out)->device)->name, {}};
        }
        return Done{};
    }
    void stop() {
        if (!stream_) return;
        Pa_StopStream(stream_);
        Pa_CloseStream(stream_);
        stream_ = nullptr;
    }

private:
    PaStream* stream_ = nullptr;
};

}  // namespace fw
