// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/condense.hpp"

#include "model/edits/parts.hpp"

#include <algorithm>
#include <limits>
#include <optional>

namespace fw {

namespace {

/// What is taken out of the song, ascending and apart.
class Cuts {
public:
    explicit Cuts(const Song& song) {
        for (const Section& s : song.sections) {
            if (!s.condensed_out) continue;
            if (!cuts_.empty() && cuts_.back().second == s.start) cuts_.back().second = s.start + s.length;
            else cuts_.emplace_back(s.start, s.start + s.length);
        }
    }
    const std::vector<std::pair<Ticks, Ticks>>& all() const { return cuts_; }
    /// Where a place is then; nothing for one that is taken out.
    std::optional<Ticks> after(Ticks t) const {
        Ticks gone = 0;
        for (const auto& [from, to] : cuts_) {
            if (t < from) break;
            if (t < to) return std::nullopt;
            gone += to - from;
        }
        return t - gone;
    }
    /// The next place from which on it is taken out; the end of time for none.
    Ticks next(Ticks t) const {
        for (const auto& [from, to] : cuts_)
            if (t < from) return from;
        return std::numeric_limits<Ticks>::max();
    }

private:
    std::vector<std::pair<Ticks, Ticks>> cuts_;
};

TempoMap shorter(const TempoMap& tempo, const Cuts& cuts) {
    std::vector<TempoMap::Anchor> anchors;
    const auto add = [&](Ticks at) {
        double gone_s = 0.0;
        for (const auto& [from, to] : cuts.all())
            if (at >= to) gone_s += tempo.seconds(to) - tempo.seconds(from);
        if (const auto there = cuts.after(at)) anchors.push_back({*there, tempo.seconds(at) - gone_s});
    };
    for (const TempoMap::Anchor& a : tempo.anchors()) add(a.tick);
    for (const auto& [from, to] : cuts.all()) add(from - 1), add(to);
    std::sort(anchors.begin(), anchors.end(), [](const auto& a, const auto& b) { return a.tick < b.tick; });
    return TempoMap(std::move(anchors));
}

MeterMap shorter(const MeterMap& meter, const Cuts& cuts) {
    std::vector<int> bars;
    for (const MeterMap::Change& c : meter.changes()) bars.push_back(c.bar);
    for (const auto& [from, to] : cuts.all()) bars.push_back(meter.position(to).bar);
    std::sort(bars.begin(), bars.end());
    std::vector<MeterMap::Change> changes;
    for (const int bar : bars) {
        if (!cuts.after(meter.tick_of_bar(bar))) continue;
        MeterMap::Change c = meter.at_bar(bar);
        c.bar = bar;
        for (const auto& [from, to] : cuts.all())
            if (meter.tick_of_bar(bar) >= to) c.bar -= meter.position(to).bar - meter.position(from).bar;
        if (!changes.empty() && changes.back().bar == c.bar) changes.back() = c;
        else if (changes.empty() || changes.back().numerator != c.numerator || changes.back().denominator != c.denominator) changes.push_back(c);
    }
    return MeterMap(std::move(changes));
}

/// Things that hold from a place on: what holds where a cut ends holds from there.
template <class Holding>
std::vector<Holding> shorter(const std::vector<Holding>& all, const Cuts& cuts) {
    std::vector<Holding> out;
    for (std::size_t i = 0; i < all.size(); ++i) {
        Holding x = all[i];
        const auto there = cuts.after(x.start);
        if (there) {
            x.start = *there;
        } else {
            // It begins in what is gone: it is heard from the cut's end on, where nothing else begins before.
            Ticks end = x.start;
            for (const auto& [from, to] : cuts.all())
                if (x.start >= from && x.start < to) end = to;
            if (i + 1 < all.size() && all[i + 1].start <= end) continue;
            x.start = *cuts.after(end);
        }
        if (!out.empty() && out.back().start == x.start) out.back() = std::move(x);
        else out.push_back(std::move(x));
    }
    return out;
}

}  // namespace

bool is_condensed(const Song& song) {
    return std::any_of(song.sections.begin(), song.sections.end(), [](const Section& s) { return s.condensed_out; });
}

Remake leave_out_of_condensed(const Remake& remake, SectionId section, bool out) {
    const Section* s = remake.song->section(section);
    if (!s || s->condensed_out == out) return remake;
    Remake next = remake;
    for (Section& x : next.song.edit().sections)
        if (x.id == section) x.condensed_out = out;
    return next;
}

Remake condensed(const Remake& remake) {
    if (!is_condensed(*remake.song)) return remake;
    const Cuts cuts(*remake.song);
    Remake next = remake;
    for (const auto& [from, to] : cuts.all())
        next.reference.duration_s = std::max(0.001, next.reference.duration_s - (remake.song->tempo.seconds(to) - remake.song->tempo.seconds(from)));
    Song& song = next.song.edit();
    song.tempo = shorter(remake.song->tempo, cuts);
    song.meter = shorter(remake.song->meter, cuts);
    song.keys = shorter(remake.song->keys, cuts);
    song.pins.clear();
    song.free_time.clear();
    song.sections.clear();
    for (Section s : remake.song->sections) {
        if (s.condensed_out) continue;
        s.start = *cuts.after(s.start);
        if (const Section* first = remake.song->section(s.repeat_of); first && first->condensed_out) s.repeat_of = {};
        song.sections.push_back(std::move(s));
    }
    song.chords.clear();
    for (ChordEvent c : remake.song->chords) {
        const Ticks end = c.start + c.length;
        if (!cuts.after(c.start)) continue;
        c.length = std::min(end, cuts.next(c.start)) - c.start;
        c.start = *cuts.after(c.start);
        song.chords.push_back(std::move(c));
    }
    for (auto& shared : next.parts) {
        std::vector<Note> kept;
        Ticks end = kTicksPerQuarter;
        for (const PlacedNote& n : placed_notes(*shared)) {
            const auto there = cuts.after(n.note.start);
            if (!there) continue;
            Note& note = kept.emplace_back(n.note);
            note.length = std::max<Ticks>(1, std::min(n.note.start + n.note.length, cuts.next(n.note.start)) - n.note.start);
            note.start = *there;
            note.muted = n.muted;
            note.own = kAllOwn;
            note.id = {};
            end = std::max(end, note.start + note.length);
        }
        // Patterns begin at the song's start or with what is played before it.
        const Ticks from = kept.empty() ? 0 : std::min<Ticks>(0, kept.front().start);
        for (Note& n : kept) n.start -= from;
        sort_notes(kept);
        Part& part = shared.edit();
        Pattern one;
        one.id = PatternId(part.next_id++);
        one.letter = "A";
        one.length = end - from;
        one.notes = std::move(kept);
        part.patterns = {std::move(one)};
        part.placements = {{part.patterns.front()->id, from, false, PlacementId(part.next_id++), {}}};
        part.rivals.clear();
        part.derived = {};
        part.number_all();
    }
    Clips& clips = next.clips.edit();
    std::erase_if(clips.clips, [&](Clip& c) {
        // One that ends at a cut's beginning belongs to what comes before it.
        const auto there = c.ends_here ? cuts.after(c.start - 1) : cuts.after(c.start);
        if (there) c.start = c.ends_here ? *there + 1 : *there;
        return !there;
    });
    for (Curve& c : next.automation.edit().curves) {
        if (c.section) continue;
        std::vector<CurvePoint> points;
        for (const CurvePoint& p : c.points)
            if (const auto there = cuts.after(p.tick)) points.push_back({*there, p.value, p.shape, p.bend});
        for (const auto& [from, to] : cuts.all()) {
            if (from > 0) points.push_back({*cuts.after(from - 1), c.at(static_cast<double>(from - 1)), Shape::Hold});
            points.push_back({*cuts.after(to), c.at(static_cast<double>(to))});
        }
        std::stable_sort(points.begin(), points.end(), [](const CurvePoint& a, const CurvePoint& b) { return a.tick < b.tick; });
        points.erase(std::unique(points.begin(), points.end(), [](const CurvePoint& a, const CurvePoint& b) { return a.tick == b.tick; }), points.end());
        c.points = std::move(points);
    }
    return without_loose_ends(std::move(next));
}

}  // namespace fw
