// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of how the recording is counted: tempo, beats, bars, meter. None moves a note in recording time, as far as its pattern is played once; where a pattern
// is played often, its notes stay where they are in the first place and go with the bars in the others. What stands on bars (sections, patterns' places, keys)
// goes with the bars.
#pragma once

#include "model/remake.hpp"

#include <vector>

namespace fw {

/// Reads the same music at factor times the tempo, all beats and bars at once.
Remake reread_tempo(const Remake& remake, double factor);
/// Counts every beat so many ticks later (negative: earlier) in the recording: half a beat puts right what was counted off the beat.
Remake shift_beats(const Remake& remake, Ticks later);
/// Another reading in one: reread_tempo, then the meter where one is given (numerator above 0), then shift_beats in the new ticks.
Remake take_reading(const Remake& remake, double factor, Ticks later, int numerator = 0, int denominator = 0);
/// Makes the beat nearest to a recording time the first of a bar; what lies before it becomes a part bar.
Remake set_downbeat(const Remake& remake, double time_s);
/// So many beats, 0 to less than a bar, are counted before the first full bar.
Remake set_upbeat(const Remake& remake, int beats);
/// One tempo throughout (quarters a minute), which holds the first beat where it is, or one that is pinned.
Remake set_tempo(const Remake& remake, double bpm);

/// How far a moved beat takes its neighbours along: to the next pin on each side; where there is none, a bar far or all of the rest.
enum class BeatReach { Near, All };
/// Puts a beat at a recording time and pins it. The document as it is where that would pass a neighbouring pin, or the bar it may reach.
Remake pin_beat(const Remake& remake, Ticks beat, double time_s, BeatReach reach = BeatReach::Near);
/// Lets go of a pin; the beat stays where it is.
Remake unpin_beat(const Remake& remake, Ticks beat);
/// Puts beats from a tick on, one felt beat apart, at these recording times (ascending, at least two); what lies behind goes on from the last one as it was.
Remake place_beats(const Remake& remake, Ticks from, const std::vector<double>& times_s);

/// A straight line through the beats of a stretch.
struct SteadyFit {
    double bpm = 0.0;     ///< quarters a minute
    double rms_ms = 0.0;  ///< of the beats about it
    double most_ms = 0.0;
};
SteadyFit fit_steady(const Song& song, Ticks from, Ticks to);
/// Counts a stretch at one tempo between its ends.
Remake make_steady(const Remake& remake, Ticks from, Ticks to);

/// Counts the stretch from one bar to another (not included) as so many bars, at least one: bars are inserted or taken out, what follows keeps its time.
Remake count_bars(const Remake& remake, int from_bar, int to_bar, int bars);
/// Counts all bars from bar 1 in one meter.
Remake set_meter(const Remake& remake, int numerator, int denominator);
/// Counts bars in a meter from one of them on, up to the next change.
Remake change_meter(const Remake& remake, int from_bar, int numerator, int denominator);

/// Another map altogether: beats [tick, second] and meters. What stands on bars goes to the bar line nearest in time.
Remake take_beat_map(const Remake& remake, const TempoMap& tempo, const MeterMap& meter);

/// A stretch without a pulse: beats are counted through, clicks are silent there. Those it meets become one.
Remake mark_free_time(const Remake& remake, Ticks from, Ticks length);
Remake clear_free_time(const Remake& remake, Ticks at);

}  // namespace fw
