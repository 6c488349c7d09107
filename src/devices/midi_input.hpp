// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"

#include <chrono>
#include <cstdint>
#include <memory>
#include <string>
#include <vector>

namespace fw {

using Moment = std::chrono::steady_clock::time_point;

/// A message from a keyboard, with the moment it came.
struct MidiMessage {
    Moment at;
    std::uint8_t status = 0, first = 0, second = 0;
    bool note_on() const { return (status & 0xF0) == 0x90 && second > 0; }
    bool note_off() const { return (status & 0xF0) == 0x80 || ((status & 0xF0) == 0x90 && second == 0); }
    bool bend() const { return (status & 0xF0) == 0xE0; }
    bool control() const { return (status & 0xF0) == 0xB0; }
};

/// A place messages come from. take() may be called by one thread; what a driver's thread delivers waits until then.
class MidiInput {
public:
    virtual ~MidiInput() = default;
    virtual std::string name() const = 0;
    /// What came since it was asked last, in order.
    virtual std::vector<MidiMessage> take() = 0;
};

/// The names of the system's MIDI inputs; none where it has none or no MIDI at all.
std::vector<std::string> midi_inputs();
/// One of them, by name. Errors: one that is gone, or that another program holds.
Result<std::unique_ptr<MidiInput>> open_midi_input(const std::string& name);

/// A keyboard that is not there: it plays what it is given, as a hand would, from the moment it is started on.
class SimulatedKeyboard final : public MidiInput {
public:
    struct Key {
        double at_s = 0.0, length_s = 0.1;  ///< from the start
        int pitch = 60, velocity = 96;
    };
    /// unsteady_s: how far the hand is off, to either side at most; the same seed is always off the same.
    SimulatedKeyboard(std::vector<Key> keys, double unsteady_s, unsigned seed);
    std::string name() const override { return "simulated keyboard"; }
    std::vector<MidiMessage> take() override;
    /// Moves a controller (7: a fader) at a time from the start, 0 to 127; before start().
    void move_controller(double at_s, int controller, int value);
    void start(Moment at);
    /// How far each key was off, in the order given: what a test may ask for.
    const std::vector<double>& off_s() const { return off_s_; }

private:
    struct Due {
        double at_s;
        std::uint8_t status, first, second;
    };
    std::vector<Due> due_;
    std::vector<double> off_s_;
    std::size_t next_ = 0;
    Moment started_{};
    bool running_ = false;
};

}  // namespace fw
