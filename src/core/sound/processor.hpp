// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

namespace fw {

/// A stretch of stereo sound, both sides of one length.
struct Stereo {
    std::span<float> left, right;

    std::size_t size() const noexcept { return left.size(); }
    Stereo part(std::size_t from, std::size_t count) const noexcept { return {left.subspan(from, count), right.subspan(from, count)}; }
};

/// A note while it sounds, by which it is bent and released: two notes of one key are two voices.
using VoiceId = std::uint64_t;

/// Frames between two settings of fields; the grid counts from the first frame of the recording, so that the same plan gives the same samples whatever
/// block a device asks for.
inline constexpr std::size_t kSlice = 32;

/// Where in the song a frame lies.
struct MusicalTime {
    std::int64_t frame = 0;
    double bpm = 120.0;     ///< quarters a minute
    std::int64_t bar = 0;   ///< from 0; negative before the first
    double bar_beat = 0.0;  ///< into the bar, in beat_units
    int beats_per_bar = 4, beat_unit = 4;
};

/// Something that sounds: a source adds what it plays, a step replaces what it is given.
///
/// Made for one sample rate. Real time: everything but construction neither allocates, locks, blocks nor throws. Threads: one at a time.
/// reset() equals freshly made and set, sample for sample.
class Processor {
public:
    virtual ~Processor() = default;
    Processor() = default;
    Processor(const Processor&) = delete;
    Processor& operator=(const Processor&) = delete;

    /// Falls silent and forgets what it heard; what was set stays set and holds from the first frame on.
    virtual void reset() noexcept = 0;
    /// Frames by which sound comes out later than it went in; the engine delays what runs beside it.
    virtual std::size_t latency() const noexcept { return 0; }
    /// Seconds for which it may sound on after its input has ended.
    virtual double tail_s() const noexcept { return 0.0; }
    /// Whether a source has nothing to sound until the next note: it may then be left out.
    virtual bool idle() const noexcept { return false; }
    /// Whether it can work no more and is left out; from any thread.
    virtual bool failed() const noexcept { return false; }
    /// Sets a field, by its place in the kind's table, to a value within the field's range; beats come as seconds. Holds from the next slice on, reached
    /// without a step in the sound. Not-a-number is not taken.
    virtual void set(std::size_t field, double value) noexcept = 0;
    /// Whether it asks where in the song it is; it is then told before each slice.
    virtual bool wants_time() const noexcept { return false; }
    virtual void tell_time(const MusicalTime&) noexcept {}
    /// key 0..127, velocity 1..127.
    virtual void note_on(VoiceId, int /*key*/, int /*velocity*/) noexcept {}
    virtual void note_off(VoiceId) noexcept {}
    /// Detunes a voice by cents for as long as it sounds.
    virtual void bend(VoiceId, double /*cents*/) noexcept {}
    /// At most kSlice frames. A source adds to io, a step replaces io; what is not a number in io comes out as silence. side: another signal to listen to,
    /// empty for none.
    virtual void process(Stereo io, Stereo side) noexcept = 0;
};

}  // namespace fw
