// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"
#include "base/time.hpp"

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

namespace fw {

/// One event of a Standard MIDI File (The MIDI Association, RP-001): a channel message, or a meta event where status is 0xFF.
struct SmfEvent {
    std::int64_t tick = 0;    ///< from the start of the file
    std::uint8_t status = 0;  ///< 0x80…0xEF with its channel, or 0xFF
    std::uint8_t first = 0;   ///< first data byte; of a meta event its kind
    std::uint8_t second = 0;  ///< second data byte, 0 where there is none
    std::uint32_t text = 0;   ///< of a meta event: the index of its bytes in SmfTrack::texts
    int channel() const noexcept { return status & 0x0F; }
    int kind() const noexcept { return status & 0xF0; }
};

struct SmfTrack {
    std::vector<SmfEvent> events;  ///< ascending by tick, in the file's order within one
    std::vector<std::string> texts;
    std::int64_t end_tick = 0;  ///< where the track ends, by its own word or with its last event
};

/// What a Standard MIDI File holds. System-exclusive and other system messages are passed over: they say nothing of notes.
struct Smf {
    int ticks_per_quarter = 0;      ///< 0 where time is counted in frames
    double ticks_per_second = 0.0;  ///< … and then this; 0 otherwise
    std::vector<SmfTrack> tracks;

    /// Seconds from the start of the file at a tick, by the tempo events of all tracks.
    class Clock {
    public:
        explicit Clock(const Smf& smf);
        double seconds(std::int64_t tick) const;

    private:
        struct Point {
            std::int64_t tick;
            double time_s, seconds_per_tick;
        };
        std::vector<Point> points_;
    };
};

/// Reads a file of format 0 or 1. Lenient where no note is in doubt: running status goes on across meta and system events, a missing end of track,
/// unknown chunks and bytes behind the last track are let pass. MidiDamaged where a track is cut or its bytes are no events; MidiUnusable for format 2.
/// Linear in time and memory, at most some thirty bytes a byte of the file. Pure, thread-safe.
Result<Smf> parse_smf(std::span<const unsigned char> bytes, const std::string& name);

/// Collects the events of one track in any order and writes them as a chunk: at one tick meta events first, then ends of notes, controllers and bends,
/// beginnings of notes; what is alike in that stays in the order it came.
class SmfTrackWriter {
public:
    /// A meta event of a kind with its bytes, such as a text.
    void meta(std::int64_t tick, std::uint8_t kind, const std::string& bytes);
    /// Two data bytes, or one for program changes and channel pressure.
    void message(std::int64_t tick, int status, int first, int second = 0);
    std::string chunk() const;

private:
    struct Entry {
        std::int64_t tick;
        int order;
        std::uint8_t status, first, second;
        std::uint32_t text;
    };
    std::vector<Entry> entries_;
    std::vector<std::string> texts_;
};

/// A whole file of format 1, 960 ticks a quarter.
std::string smf_file(const std::vector<SmfTrackWriter>& tracks);

}  // namespace fw
