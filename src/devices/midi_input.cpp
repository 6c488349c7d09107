// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices/midi_input.hpp"

#include <RtMidi.h>

#include <algorithm>
#include <filesystem>
#include <mutex>
#include <random>

namespace fw {

namespace {

/// RtMidi's own thread puts messages in; whoever asks takes them out.
class SystemInput final : public MidiInput {
public:
    explicit SystemInput(std::string name) : name_(std::move(name)) {}
    std::string name() const override { return name_; }

    Status open() {
        try {
            const unsigned count = in_.getPortCount();
            for (unsigned i = 0; i < count; ++i) {
                if (in_.getPortName(i) != name_) continue;
                in_.setCallback(&SystemInput::receive, this);
                in_.ignoreTypes(true, true, true);
                in_.openPort(i);
                return Done{};
            }
        } catch (const RtMidiError& e) {
            return Error{ErrorCode::NoMidiInput, name_, e.getMessage()};
        }
        return Error{ErrorCode::NoMidiInput, name_, "it is no longer there"};
    }

    std::vector<MidiMessage> take() override {
        const std::lock_guard lock(mutex_);
        return std::exchange(waiting_, {});
    }

private:
    static void receive(double, std::vector<unsigned char>* bytes, void* self) {
        if (!bytes || bytes->empty() || bytes->front() >= 0xF0) return;
        MidiMessage m{std::chrono::steady_clock::now(), bytes->front(), bytes->size() > 1 ? (*bytes)[1] : std::uint8_t{0},
                      bytes->size() > 2 ? (*bytes)[2] : std::uint8_t{0}};
        auto& in = *static_cast<SystemInput*>(self);
        constexpr std::size_t kMost = 4096;  // whoever does not ask for so long does not want them
        const std::lock_guard lock(in.mutex_);
        if (in.waiting_.size() < kMost) in.waiting_.push_back(m);
    }

    std::string name_;
    std::mutex mutex_;
    std::vector<MidiMessage> waiting_;
    RtMidiIn in_;  // last, so that its thread has ended before what it fills goes
};

}  // namespace

std::vector<std::string> midi_inputs() {
    std::vector<std::string> names;
    // Without a sequencer the driver would only complain.
    std::error_code none;
    if (!std::filesystem::exists("/dev/snd/seq", none)) return names;
    try {
        RtMidiIn in;
        const unsigned count = in.getPortCount();
        for (unsigned i = 0; i < count; ++i) names.push_back(in.getPortName(i));
    } catch (const RtMidiError&) {
        // A system without MIDI has no inputs.
    }
    return names;
}

Result<std::unique_ptr<MidiInput>> open_midi_input(const std::string& name) {
    try {
        auto input = std::make_unique<SystemInput>(name);
        if (auto opened = input->open(); !opened) return opened.error();
        return std::unique_ptr<MidiInput>(std::move(input));
    } catch (const RtMidiError& e) {
        return Error{ErrorCode::NoMidiInput, name, e.getMessage()};
    }
}

SimulatedKeyboard::SimulatedKeyboard(std::vector<Key> keys, double unsteady_s, unsigned seed) {
    std::mt19937 dice(seed);
    for (const Key& k : keys) {
        const double off = unsteady_s * (static_cast<double>(dice() % 2001) / 1000.0 - 1.0);
        off_s_.push_back(off);
        const auto pitch = static_cast<std::uint8_t>(std::clamp(k.pitch, 0, 127));
        const double at = std::max(0.0, k.at_s + off);
        due_.push_back({at, 0x90, pitch, static_cast<std::uint8_t>(std::clamp(k.velocity, 1, 127))});
        due_.push_back({at + k.length_s, 0x80, pitch, 0});
    }
    std::stable_sort(due_.begin(), due_.end(), [](const Due& a, const Due& b) { return a.at_s < b.at_s; });
}

void SimulatedKeyboard::move_controller(double at_s, int controller, int value) {
    due_.push_back({at_s, 0xB0, static_cast<std::uint8_t>(std::clamp(controller, 0, 127)), static_cast<std::uint8_t>(std::clamp(value, 0, 127))});
    std::stable_sort(due_.begin(), due_.end(), [](const Due& a, const Due& b) { return a.at_s < b.at_s; });
}

void SimulatedKeyboard::start(Moment at) {
    started_ = at;
    running_ = true;
    next_ = 0;
}

std::vector<MidiMessage> SimulatedKeyboard::take() {
    std::vector<MidiMessage> out;
    if (!running_) return out;
    const double now = std::chrono::duration<double>(std::chrono::steady_clock::now() - started_).count();
    for (; next_ < due_.size() && due_[next_].at_s <= now; ++next_) {
        const Due& d = due_[next_];
        out.push_back({started_ + std::chrono::duration_cast<Moment::duration>(std::chrono::duration<double>(d.at_s)), d.status, d.first, d.second});
    }
    return out;
}

}  // namespace fw
