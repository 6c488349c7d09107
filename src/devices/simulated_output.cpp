// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices/audio_output.hpp"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <mutex>
#include <thread>

namespace fw {

struct SimulatedOutput::State {
    double rate = 44100.0;
    std::size_t block = 256;
    Callback callback;
    std::thread thread;
    std::atomic<bool> running{false};
    mutable std::mutex mutex;  // only this device's own clock thread and readers of the capture meet here, never the callback
    std::vector<float> ring;
    std::size_t written = 0;  // frames in all
};

SimulatedOutput::SimulatedOutput(double rate, std::size_t block, double keep_s) : state_(std::make_unique<State>()) {
    state_->rate = rate;
    state_->block = block;
    state_->ring.resize(2 * std::max<std::size_t>(block, static_cast<std::size_t>(keep_s * rate)));
}

SimulatedOutput::~SimulatedOutput() { stop(); }

double SimulatedOutput::sample_rate_hz() const { return state_->rate; }

Status SimulatedOutput::start(Callback callback) {
    stop();
    state_->callback = std::move(callback);
    state_->running = true;
    state_->thread = std::thread([s = state_.get()] {
        using Clock = std::chrono::steady_clock;
        std::vector<float> left(s->block), right(s->block);
        const auto begun = Clock::now();
        for (std::int64_t blocks = 1; s->running; ++blocks) {
            s->callback(left, right);
            {
                const std::lock_guard lock(s->mutex);
                const std::size_t frames = s->ring.size() / 2;
                for (std::size_t i = 0; i < s->block; ++i) {
                    const std::size_t at = (s->written + i) % frames;
                    s->ring[2 * at] = left[i];
                    s->ring[2 * at + 1] = right[i];
                }
                s->written += s->block;
            }
            const double due_s = static_cast<double>(blocks) * static_cast<double>(s->block) / s->rate;
            std::this_thread::sleep_until(begun + std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(due_s)));
        }
    });
    return Done{};
}

void SimulatedOutput::stop() {
    state_->running = false;
    if (state_->thread.joinable()) state_->thread.join();
}

std::vector<float> SimulatedOutput::captured(std::size_t frames) const {
    const std::lock_guard lock(state_->mutex);
    const std::size_t size = state_->ring.size() / 2;
    frames = std::min({frames, size, state_->written});
    std::vector<float> out(frames * 2);
    for (std::size_t i = 0; i < frames; ++i) {
        const std::size_t at = (state_->written - frames + i) % size;
        out[2 * i] = state_->ring[2 * at];
        out[2 * i + 1] = state_->ring[2 * at + 1];
    }
    return out;
}

std::unique_ptr<AudioOutput> open_audio_output(double preferred_rate_hz) {
    if (auto card = open_sound_card(preferred_rate_hz)) return card;
    return std::make_unique<SimulatedOutput>(preferred_rate_hz);
}

}  // namespace fw
