// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"

#include <chrono>
#include <memory>
#include <string>
#include <vector>

namespace fw {

/// A place sound comes from, one channel. What a driver's thread delivers waits until it is taken; take() may be called by one thread at a time.
class AudioInput {
public:
    virtual ~AudioInput() = default;
    virtual std::string name() const = 0;
    virtual double sample_rate_hz() const = 0;
    /// Listens from now on; what came before is forgotten. Errors: DeviceUnusable.
    virtual Status start() = 0;
    virtual void stop() = 0;
    /// What came since it was asked last, in order; what is not taken within some twenty seconds is lost.
    virtual std::vector<float> take() = 0;
};

/// The system's default microphone through PortAudio, or nothing where there is none.
std::unique_ptr<AudioInput> open_microphone(double preferred_rate_hz);

/// A microphone that is not there: it hears a sound, once, at the pace of a true clock from start() on, and silence behind it.
class SimulatedMicrophone final : public AudioInput {
public:
    SimulatedMicrophone(std::vector<float> mono, double sample_rate_hz) : mono_(std::move(mono)), rate_(sample_rate_hz) {}
    std::string name() const override { return "simulated microphone"; }
    double sample_rate_hz() const override { return rate_; }
    Status start() override;
    void stop() override { running_ = false; }
    std::vector<float> take() override;

private:
    std::vector<float> mono_;
    double rate_;
    std::chrono::steady_clock::time_point started_{};
    std::size_t taken_ = 0;
    bool running_ = false;
};

}  // namespace fw
