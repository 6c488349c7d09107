// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"

#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace fw {

/// A place sound goes to. start() begins calling the callback from a thread of its own; stop() returns when that is over.
class AudioOutput {
public:
    /// Fills both channels; called in real time.
    using Callback = std::function<void(std::span<float> left, std::span<float> right)>;

    virtual ~AudioOutput() = default;
    virtual std::string name() const = 0;
    virtual bool simulated() const = 0;
    virtual double sample_rate_hz() const = 0;
    virtual Status start(Callback callback) = 0;
    virtual void stop() = 0;
};

/// The system's default sound card through PortAudio, or nothing where there is none.
std::unique_ptr<AudioOutput> open_sound_card(double preferred_rate_hz);

/// A stand-in for a sound card: asks for blocks at the pace of a true clock and keeps what it was given.
class SimulatedOutput final : public AudioOutput {
public:
    /// keep_s: how much of the latest sound is kept for reading back.
    explicit SimulatedOutput(double sample_rate_hz, std::size_t block_frames = 256, double keep_s = 30.0);
    ~SimulatedOutput() override;
    std::string name() const override { return "simulated device"; }
    bool simulated() const override { return true; }
    double sample_rate_hz() const override;
    Status start(Callback callback) override;
    void stop() override;
    /// The latest frames it was given, interleaved stereo, oldest first. Safe at any time.
    std::vector<float> captured(std::size_t frames) const;

private:
    struct State;
    std::unique_ptr<State> state_;
};

/// The sound card if there is one, else the simulated device.
std::unique_ptr<AudioOutput> open_audio_output(double preferred_rate_hz);

}  // namespace fw
