// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices/audio_input.hpp"
#include "devices/portaudio_stream.hpp"
#include "devices/quiet_stderr.hpp"

#include <algorithm>
#include <atomic>

namespace fw {

namespace {

class PortAudioInput final : public AudioInput {
public:
    PortAudioInput(PaDeviceIndex device, double rate) : device_(device), rate_(rate), ring_(kRoom) {}
    std::string name() const override { return Pa_GetDeviceInfo(device_)->name; }
    double sample_rate_hz() const override { return rate_; }

    Status start() override {
        read_ = written_.load();
        const PaStreamParameters in{device_, 1, paFloat32, Pa_GetDeviceInfo(device_)->defaultLowInputLatency, nullptr};
        const auto run = [](const void* input, void*, unsigned long frames, const PaStreamCallbackTimeInfo*, PaStreamCallbackFlags, void* self) -> int {
            static_cast<PortAudioInput*>(self)->keep(static_cast<const float*>(input), frames);
            return paContinue;
        };
        return stream_.start(&in, nullptr, rate_, run, this);
    }
    void stop() override { stream_.stop(); }
    std::vector<float> take() override {
        std::vector<float> heard;
        const std::size_t until = written_.load(std::memory_order_acquire);
        if (until - read_ > kRoom) read_ = until - kRoom;
        for (; read_ < until; ++read_) heard.push_back(ring_[read_ % kRoom]);
        return heard;
    }

private:
    static constexpr std::size_t kRoom = std::size_t{1} << 20;
    /// Called by the driver: writes and says how far it has come.
    void keep(const float* samples, std::size_t count) noexcept {
        std::size_t at = written_.load(std::memory_order_relaxed);
        for (std::size_t i = 0; i < count; ++i) ring_[at++ % kRoom] = samples ? samples[i] : 0.0F;
        written_.store(at, std::memory_order_release);
    }

    PaDeviceIndex device_;
    double rate_;
    std::vector<float> ring_;
    std::atomic<std::size_t> written_{0};
    std::size_t read_ = 0;
    PortAudioStream stream_;  // last: it stops before what it writes to goes
};

}  // namespace

std::unique_ptr<AudioInput> open_microphone(double preferred_rate_hz) {
    const QuietStderr quiet;
    if (Pa_Initialize() != paNoError) return nullptr;
    const PaDeviceIndex device = Pa_GetDefaultInputDevice();
    const PaDeviceInfo* info = device == paNoDevice ? nullptr : Pa_GetDeviceInfo(device);
    if (!info || info->maxInputChannels < 1) {
        Pa_Terminate();
        return nullptr;
    }
    const PaStreamParameters in{device, 1, paFloat32, info->defaultLowInputLatency, nullptr};
    const bool suits = Pa_IsFormatSupported(&in, nullptr, preferred_rate_hz) == paFormatIsSupported;
    return std::make_unique<PortAudioInput>(device, suits ? preferred_rate_hz : info->defaultSampleRate);
}

}  // namespace fw
