// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/moves.hpp"

#include "model/note_move.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

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
    for (const Curve& c : remake.automation->curves) moved_[c.field].curves.push_back(&c);
    for (const SectionSetting& s : remake.automation->settings) moved_[s.field].settings.push_back(&s);
    for (const NoteMove& m : remake.automation->by_notes) moved_[m.field].notes = &m;
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

/// How far on their way the notes of a part have a field, over frames: each goes on from where the one before has left it. What sounds together is one.
Track Moves::by_notes(const NoteMove& move, const Parameter& row, const Track& base) const {
    constexpr int kPieces = 12;  // of what falls in a curve
    struct Span {
        std::int64_t on, off;
        double far;
    };
    std::vector<Span> spans;
    if (const Part* part = remake_.part(move.by)) {
        const auto early = static_cast<std::int64_t>(std::llround(part->early_ms / 1000.0 * rate_));
        const auto played = [&](Ticks tick) { return frame_of(static_cast<double>(tick)) - early; };
        for (const PlacedNote& n : struck_notes(*part)) {
            if (n.muted) continue;
            Span now{played(n.note.start), played(n.note.start + n.note.length), 1.0 - move.velocity * (1.0 - n.note.velocity / 127.0)};
            if (!spans.empty()) now.off = std::max(now.off, spans.back().off);
            if (!spans.empty() && spans.back().on == now.on) spans.back() = {now.on, now.off, std::max(now.far, spans.back().far)};
            else spans.push_back(now);
        }
    }
    Track way;
    double from = 0.0;
    for (std::size_t i = 0; i < spans.size(); ++i) {
        const Span& s = spans[i];
        const std::int64_t until = i + 1 < spans.size() ? spans[i + 1].on : std::numeric_limits<std::int64_t>::max();
        const double held_s = static_cast<double>(s.off - s.on) / rate_;
        const auto far = [&](std::int64_t frame) {
            return s.far * note_way(move, static_cast<double>(frame - s.on) / rate_, held_s, s.far > 0.0 ? from / s.far : 0.0);
        };
        std::vector<std::int64_t> at{s.on};
        const auto add = [&](double since_ms) {
            const std::int64_t frame = s.on + static_cast<std::int64_t>(std::llround(since_ms / 1000.0 * rate_));
            if (frame > at.back() && frame < until) at.push_back(frame);
        };
        if (move.attack_ms < 1000.0 * held_s) add(move.attack_ms);
        for (int k = 1; k <= kPieces; ++k)
            if (const double ms = move.attack_ms + move.decay_ms * k / kPieces; ms < 1000.0 * held_s) add(ms);
        add(1000.0 * held_s);
        for (int k = 1; k <= kPieces; ++k) add(1000.0 * held_s + move.release_ms * k / kPieces);
        for (const std::int64_t frame : at) way.points.push_back({frame, far(frame)});
        from = until < std::numeric_limits<std::int64_t>::max() ? far(until) : 0.0;
    }
    if (way.points.empty()) return base;
    Track moved;
    const auto put = [&](std::int64_t frame, double value, double share) {
        const double is = position_of(row, value);
        moved.points.push_back({frame, value_at(row, is + share * (position_of(row, move.to) - is))});
    };
    for (std::size_t i = 0, j = 0; i < base.points.size() || j < way.points.size();) {
        if (j >= way.points.size() || (i < base.points.size() && base.points[i].frame <= way.points[j].frame)) {
            put(base.points[i].frame, base.points[i].value, way.at(base.points[i].frame));
            ++i;
        } else {
            put(way.points[j].frame, base.at(way.points[j].frame), way.points[j].value);
            ++j;
        }
    }
    return moved;
}

std::size_t Moves::add(const FieldOwner& owner, const Parameter& row, double value) {
    Control control{value, -1, row.unit == Unit::Beats};
    if (!moved_.empty() && row.moves)
        if (const auto moved = moved_.find({owner, row.id}); moved != moved_.end()) {
            const auto& [curves, settings, notes] = moved->second;
            Track track{{{0, value}}};
            if (!curves.empty() || !settings.empty()) track = track_of(curves, settings, value);
            control.track = static_cast<int>(controls_.tracks.size());
            controls_.tracks.push_back(notes ? by_notes(*notes, row, track) : std::move(track));
        }
    controls_.all.push_back(control);
    return controls_.all.size() - 1;
}

}  // namespace fw
