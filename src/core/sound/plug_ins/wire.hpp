// SPDX-License-Identifier: GPL-3.0-or-later
// What the program and a plug-in's own process share: one piece of memory, and a round of question and answer for each stretch of sound.
#pragma once

#include "sound/processor.hpp"

#include <linux/futex.h>
#include <sys/syscall.h>
#include <unistd.h>
#include <atomic>
#include <cstdint>
#include <ctime>
#include <string>

namespace fw {

/// Lies in memory both processes see. The program writes what it asks and counts `asked` up; the plug-in's process does it and sets `answered` to the same.
/// Only whole numbers and floats, so that nothing in it can point anywhere.
struct PlugInWire {
    static constexpr std::size_t kMostFields = 512, kMostEvents = 512;
    static constexpr int kDescriptor = 3;       ///< under which the plug-in's process finds it
    static constexpr int kStateDescriptor = 4;  ///< and, where there is one, the state it begins with, as text
    static constexpr std::size_t kMostState = 1 << 20;
    static constexpr const char* kStateUri = "urn:fakturwerk:state";  ///< what states are called in their text
    enum class Task : std::uint32_t { Run, Reset, Leave };
    enum class State : std::uint32_t { Starting, Ready, Unusable };
    struct Event {
        std::uint8_t bytes[3];  ///< a MIDI message
    };

    std::atomic<std::uint32_t> asked{0}, answered{0};
    std::atomic<State> state{State::Starting};
    Task task = Task::Run;
    std::uint32_t frames = 0;      ///< at most kSlice
    std::uint32_t latency = 0;     ///< frames, told once it is ready
    std::uint32_t wants_time = 0;  ///< whether it asks where in the song it is, told once it is ready
    std::uint32_t event_count = 0;
    Event events[kMostEvents];  ///< all at the first frame
    float fields[kMostFields];  ///< in the order the plug-in's control ports stand in
    double bpm = 0.0;           ///< where in the song the stretch begins, as MusicalTime has it; 0: not told
    std::int64_t frame = 0, bar = 0;
    double bar_beat = 0.0;
    std::int32_t beats_per_bar = 4, beat_unit = 4;
    float left[kSlice], right[kSlice];
};
static_assert(std::atomic<std::uint32_t>::is_always_lock_free && std::atomic<PlugInWire::State>::is_always_lock_free);

/// Text on one line, as a plug-in's process writes it and commands have it: what would break the line is written with a stroke before it.
inline std::string on_one_line(const std::string& text) {
    std::string line;
    for (const char c : text) {
        if (c == '\n') line += "\\n";
        else if (c == '\t') line += "\\t";
        else if (c == '\r') line += "\\r";
        else if (c == '\\') line += "\\\\";
        else line += c;
    }
    return line;
}

/// Sleeps while a word has a value, at most so long, or shorter. Between processes, which the standard's wait is not.
inline void sleep_while(const std::atomic<std::uint32_t>& word, std::uint32_t value, long most_ms) noexcept {
    const timespec most{most_ms / 1000, most_ms % 1000 * 1000000};
    ::syscall(SYS_futex, &word, FUTEX_WAIT, value, &most, nullptr, 0);
}
inline void wake(std::atomic<std::uint32_t>& word) noexcept { ::syscall(SYS_futex, &word, FUTEX_WAKE, 1, nullptr, nullptr, 0); }

}  // namespace fw
