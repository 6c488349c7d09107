// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/song.hpp"

#include <algorithm>
#include <cmath>

namespace fw::app {

/// Where times and ticks lie across a view: even in seconds, as the strip, the close-ups and the check are, or even in ticks, as a row of the page is, whose
/// bars stand under each other. Holds a pointer to the song it was made of; make one where it is needed.
class TimeAxis {
public:
    /// From `left` on, start_s lying there, so many pixels a second.
    static TimeAxis of_seconds(const Song& song, double left, double pixels_per_s, double start_s = 0.0) { return {song, left, pixels_per_s, start_s, false}; }
    /// The whole of 0 … duration_s between two edges.
    static TimeAxis of_song(const Song& song, double left, double right, double duration_s) {
        return of_seconds(song, left, std::max(1.0, right - left) / std::max(1.0, duration_s));
    }
    /// From `left` on, `start` lying there, so many pixels a tick.
    static TimeAxis of_ticks(const Song& song, double left, double pixels_per_tick, Ticks start) {
        return {song, left, pixels_per_tick, static_cast<double>(start), true};
    }

    double x_at(double time_s) const { return of(even_in_ticks_ ? song_->tempo.ticks(time_s) : time_s); }
    double x_of(Ticks tick) const { return of(even_in_ticks_ ? static_cast<double>(tick) : song_->tempo.seconds(tick)); }
    double time_at(double x) const { return even_in_ticks_ ? song_->tempo.seconds(value(x)) : value(x); }
    Ticks tick_at(double x) const { return even_in_ticks_ ? static_cast<Ticks>(std::llround(value(x))) : song_->tempo.nearest_tick(value(x)); }

private:
    TimeAxis(const Song& song, double left, double scale, double start, bool even_in_ticks)
        : song_(&song), left_(left), scale_(scale), start_(start), even_in_ticks_(even_in_ticks) {}
    double of(double value) const { return left_ + (value - start_) * scale_; }
    double value(double x) const { return start_ + (x - left_) / scale_; }

    const Song* song_;
    double left_, scale_, start_;
    bool even_in_ticks_;
};

}  // namespace fw::app
