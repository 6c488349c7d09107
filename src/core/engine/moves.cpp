// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/moves.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

double Track::at(std::int64_t frame) const noexcept {
    const auto next = std::upper_bound(points.begin(), points.end(), frame, [](std::int64_t f, const Point& p) { return f < p.frame; });
    if (next == points.begin()) return points.empty() ? 0.0 : points.front().value;
    const Point& a = *(next - 1);
    if (next == points.end()) return a.value;
    return a.value + (next->value - a.value) * static_cast<double>(frame - a.frame) / static_cast<double>(next->frame - a.frame);
}

double Controls::at(std::size_t control, std::int64_t frame) const noexcept {
    const Control& c = all[control];
    const double value = c.track < 0 ? c.value : tracks[static_cast<std::size_t>(c.track)].at(frame);
    return c.in_beats ? value * beat_s.at(frame) : value;
}

Moves::Moves(const Remake& remake, double rate) : remake_(remake), rate_(rate) {
    for (const Curve& c : remake.automation->curves) moved_[c.field].first.push_back(&c);
    for (const SectionSetting& s : remake.automation->settings) moved_[s.field].second.push_back(&s);
    // The tempo in steps, where it changes by more than a hundredth of a per cent.
    double last = 0.0;
    for (const auto& anchor : remake.song->tempo.anchors()) {
        const double beat_s = 60.0 / remake.song->tempo.bpm_at(anchor.tick);
        if (last > 0.0 && std::abs(beat_s / last - 1.0) < 1e-4) continue;
        const auto frame = static_cast<std::int64_t>(std::llround(anchor.time_s * rate));
        if (last > 0.0) controls_.beat_s.points.push_back({frame, last});
        controls_.beat_s.points.push_back({frame, beat_s});
        last = beat_s;
    }
}

std::int64_t Moves::frame_of(double tick) const { return static_cast<std::int64_t>(std::llround(remake_.song->tempo.seconds(tick) * rate_)); }

/// A curve's values from start to end (ticks of the song), in straight pieces.
void Moves::along(const Curve& curve, Ticks start, Ticks end, Track& into) const {
    constexpr int kPieces = 24;  // of a bent stretch: its error stays below a thousandth of its height
    const auto put = [&](double at) { into.points.push_back({frame_of(static_cast<double>(start) + at), curve.at(at)}); };
    const auto length = static_cast<double>(end - start);
    put(0.0);
    for (std::size_t i = 0; i < curve.points.size(); ++i) {
        const CurvePoint& p = curve.points[i];
        const auto here = static_cast<double>(p.tick);
        if (here >= length) break;
        if (here > 0.0) {
            if (i > 0 && curve.points[i - 1].shape == Shape::Hold)
                into.points.push_back({frame_of(static_cast<double>(start) + here), curve.points[i - 1].value});
            put(here);
        }
        if (i + 1 >= curve.points.size() || p.shape == Shape::Hold) continue;
        const auto there = static_cast<double>(curve.points[i + 1].tick);
        // A straight stretch, too, in pieces: it is straight over beats, and the tempo may change on the way.
        for (int k = 1; k < kPieces; ++k)
            if (const double at = here + (there - here) * k / kPieces; at > 0.0 && at < length) put(at);
    }
    into.points.push_back({frame_of(static_cast<double>(end)), curve.at(length - 1.0)});
}

Track Moves::track_of(const std::vector<const Curve*>& curves, const std::vector<const SectionSetting*>& settings, double value) const {
    const Curve* song = nullptr;
    for (const Curve* c : curves)
        if (!c->section) song = c;
    Track track;
    const Ticks beginning = std::min<Ticks>(0, remake_.song->tempo.nearest_tick(0.0)), end = remake_.end_tick();
    Ticks at = beginning;
    const auto rest_until = [&](Ticks until) {
        if (until <= at) return;
        if (song) {
            // The song's curve counts from the song's start; what lies before has its first value.
            const Ticks from = std::max<Ticks>(0, at);
            if (at < 0) track.points.push_back({frame_of(static_cast<double>(at)), song->at(0.0)});
            if (until > from) {
                Track whole;
                along(*song, 0, std::max(until, end), whole);
                const std::int64_t first = frame_of(static_cast<double>(from)), last = frame_of(static_cast<double>(until));
                track.points.push_back({first, whole.at(first)});
                for (const Track::Point& p : whole.points)
                    if (p.frame > first && p.frame < last) track.points.push_back(p);
                track.points.push_back({last, whole.at(last - 1)});
            }
        } else {
            track.points.push_back({frame_of(static_cast<double>(at)), value});
            track.points.push_back({frame_of(static_cast<double>(until)), value});
        }
        at = until;
    };
    for (const Section& s : remake_.song->sections) {
        const auto curve = std::find_if(curves.begin(), curves.end(), [&](const Curve* c) { return c->section == s.id; });
        const auto setting = std::find_if(settings.begin(), settings.end(), [&](const SectionSetting* x) { return x->section == s.id; });
        if (curve == curves.end() && setting == settings.end()) continue;
        rest_until(s.start);
        const Ticks until = s.start + s.length;
        if (curve != curves.end()) {
            along(**curve, s.start, until, track);
        } else {
            track.points.push_back({frame_of(static_cast<double>(s.start)), (*setting)->value});
            track.points.push_back({frame_of(static_cast<double>(until)), (*setting)->value});
        }
        at = until;
    }
    rest_until(std::max(end, at + 1));
    return track;
}

std::size_t Moves::add(const FieldOwner& owner, const Parameter& row, double value) {
    Control control{value, -1, row.unit == Unit::Beats};
    if (!moved_.empty() && row.moves)
        if (const auto moved = moved_.find({owner, row.id}); moved != moved_.end()) {
            control.track = static_cast<int>(controls_.tracks.size());
            controls_.tracks.push_back(track_of(moved->second.first, moved->second.second, value));
        }
    controls_.all.push_back(control);
    return controls_.all.size() - 1;
}

}  // namespace fw
