// SPDX-License-Identifier: GPL-3.0-or-later
// Fields as the engine sees them: a value that stays, or a track of values over frames.
#pragma once

#include "model/fields.hpp"
#include "model/remake.hpp"

#include <cstdint>
#include <map>
#include <vector>

namespace fw {

/// Values over frames, straight between points; two points at one frame are a jump. Before the first point the first value, behind the last the last.
struct Track {
    struct Point {
        std::int64_t frame = 0;
        double value = 0.0;
    };
    std::vector<Point> points;

    double at(std::int64_t frame) const noexcept;
};

struct Control {
    double value = 0.0;
    int track = -1;         ///< what moves it; -1: nothing
    bool in_beats = false;  ///< the value is told in beats and heard in seconds
};

/// All fields of a plan, and the tempo they follow.
struct Controls {
    std::vector<Control> all;
    std::vector<Track> tracks;
    Track beat_s;  ///< seconds a quarter

    double at(std::size_t control, std::int64_t frame) const noexcept;
};

/// Collects controls while a plan is made.
class Moves {
public:
    /// rate: frames a second.
    Moves(const Remake& remake, double sample_rate_hz);
    /// Adds a field's control and returns its place. value: what is set.
    std::size_t add(const FieldOwner& owner, const Parameter& row, double value);
    bool moves(std::size_t control) const { return controls_.all[control].track >= 0 || controls_.all[control].in_beats; }
    Controls take() { return std::move(controls_); }

private:
    Track track_of(const std::vector<const Curve*>& curves, const std::vector<const SectionSetting*>& settings, double value) const;
    Track by_notes(const NoteMove& move, const Parameter& row, const Track& base) const;
    std::int64_t frame_of(double tick) const;
    void along(const Curve& curve, Ticks start, Ticks end, Track& into) const;

    const Remake& remake_;
    double rate_;
    struct Movers {
        std::vector<const Curve*> curves;
        std::vector<const SectionSetting*> settings;
        const NoteMove* notes = nullptr;
    };
    std::map<FieldRef, Movers> moved_;
    Controls controls_;
};

}  // namespace fw
