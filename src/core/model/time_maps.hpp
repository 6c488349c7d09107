// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/time.hpp"

#include <string>
#include <vector>

namespace fw {

/// Musical time to recording time and back, straight between anchors and beyond the outer ones.
/// Immutable value. Anchors ascend strictly in both coordinates; with fewer than two, 120 BPM from 0 s is assumed.
class TempoMap {
public:
    struct Anchor {
        Ticks tick = 0;
        double time_s = 0.0;
        bool operator==(const Anchor&) const = default;
    };

    TempoMap() = default;
    /// Drops anchors that do not ascend; never fails.
    explicit TempoMap(std::vector<Anchor> anchors);

    double seconds(Ticks tick) const { return seconds(static_cast<double>(tick)); }
    double seconds(double tick) const;
    double ticks(double time_s) const;  ///< not rounded
    Ticks nearest_tick(double time_s) const;
    double bpm_at(Ticks tick) const;  ///< quarters a minute of the stretch that holds the tick
    const std::vector<Anchor>& anchors() const noexcept { return anchors_; }
    /// The same recording times with every tick t moved to t·factor + shift.
    TempoMap reread(double factor, Ticks shift) const;
    bool operator==(const TempoMap&) const = default;

private:
    std::vector<Anchor> anchors_{{0, 0.0}, {kTicksPerQuarter, 0.5}};
};

/// A place in a bar: bar and beat from 1, tick within the beat.
struct BarPosition {
    int bar = 1, beat = 1;
    Ticks tick = 0;
    std::string text() const;  ///< "5·2·480"
};

/// Bars and beats over ticks. Changes take effect at bar lines. Immutable value; never empty.
class MeterMap {
public:
    struct Change {
        int bar = 1, numerator = 4, denominator = 4;
        bool operator==(const Change&) const = default;
        /// The felt beat: a dotted quarter in 6/8, 9/8, 12/8, else the denominator's value.
        Ticks beat_ticks() const;
        Ticks bar_ticks() const;
        int beats() const { return static_cast<int>(bar_ticks() / beat_ticks()); }
    };

    MeterMap() = default;
    explicit MeterMap(std::vector<Change> changes);

    const Change& at_bar(int bar) const;
    Ticks tick_of_bar(int bar) const;  ///< bars before 1 continue backwards in the first meter
    BarPosition position(Ticks tick) const;
    Ticks tick_of(const BarPosition& position) const;
    const std::vector<Change>& changes() const noexcept { return changes_; }
    bool operator==(const MeterMap&) const = default;

private:
    std::vector<Change> changes_{{1, 4, 4}};
};

}  // namespace fw
