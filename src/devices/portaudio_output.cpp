// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices/audio_output.hpp"
#include "devices/portaudio_stream.hpp"
#include "devices/quiet_stderr.hpp"

namespace fw {

namespace {

class PortAudioOutput final : public AudioOutput {
public:
    PortAudioOutput(PaDeviceIndex device, double rate) : device_(device), rate_(rate) {}
    std::string name() const override { return Pa_GetDeviceInfo(device_)->name; }
    bool simulated() const override { return false; }
    double sample_rate_hz() const override { return rate_; }

    Status start(Callback callback) override {
        stop();
        callback_ = std::move(callback);
        const PaStreamParameters out{device_, 2, paFloat32 | paNonInterleaved, Pa_GetDeviceInfo(device_)->defaultLowOutputLatency, nullptr};
        const auto run = [](const void*, void* output, unsigned long frames, const PaStreamCallbackTimeInfo*, PaStreamCallbackFlags, void* self) -> int {
            auto** channels = static_cast<float**>(output);
            static_cast<PortAudioOutput*>(self)->callback_(std::span(channels[0], frames), std::span(channels[1], frames));
            return paContinue;
        };
        return stream_.start(nullptr, &out, rate_, run, this);
    }
    void stop() override { stream_.stop(); }

private:
    PaDeviceIndex device_;
    double rate_;
    Callback callback_;
    PortAudioStream stream_;  // last: it stops before what it calls goes
};

}  // namespace

std::unique_ptr<AudioOutput> open_sound_card(double preferred_rate_hz) {
    const QuietStderr quiet;
    if (Pa_Initialize() != paNoError) return nullptr;
    const PaDeviceIndex device = Pa_GetDefaultOutputDevice();
    const PaDeviceInfo* info = device == paNoDevice ? nullptr : Pa_GetDeviceInfo(device);
    if (!info || info->maxOutputChannels < 2) {
        Pa_Terminate();
        return nullptr;
    }
    PaStreamParameters out{device, 2, paFloat32 | paNonInterleaved, info->defaultLowOutputLatency, nullptr};
    const bool suits = Pa_IsFormatSupported(nullptr, &out, preferred_rate_hz) == paFormatIsSupported;
    return std::make_unique<PortAudioOutput>(device, suits ? preferred_rate_hz : info->defaultSampleRate);
}

}  // namespace fw
