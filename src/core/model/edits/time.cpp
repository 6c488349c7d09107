// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/time.hpp"

#include "model/edits/time_mapper.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

using Anchor = TempoMap::Anchor;

Remake recounted(const Remake& remake, Recount how) {
    Remake next = remake;
    TimeMapper mapper(remake, std::move(how));
    describe(mapper, next);
    return next;
}

/// Pins that are on no beat any more cannot be taken hold of.
void tidy_pins(Song& song) {
    std::erase_if(song.pins, [&](const Pin& p) { return song.meter.position(p.at).tick != 0; });
}

/// Everything in proportion: nothing is rounded but where it stands.
Remake in_proportion(const Remake& remake, double factor, Ticks shift) {
    const Recount::Map all = [factor, shift](double t) { return t * factor + static_cast<double>(shift); };
    return recounted(remake, {remake.song->tempo.reread(factor, shift), all, all, all});
}

/// Where an old place lies in the new count by its time in the recording.
Recount::Map by_time(const Song& song, const TempoMap& tempo) {
    return [before = song.tempo, tempo](double t) { return tempo.ticks(before.seconds(t)); };
}

/// Chords change with the beat nearest to where they were heard to change; one that changed within a beat stays there.
Recount::Map on_beats(const Song& song, const TempoMap& tempo, const MeterMap& meter) {
    const Ticks old_beat = song.meter.at_bar(1).beat_ticks(), beat = meter.at_bar(1).beat_ticks();
    return [heard = by_time(song, tempo), old_beat, beat](double t) {
        const double there = heard(t);
        return std::llround(t) % old_beat == 0 ? std::round(there / static_cast<double>(beat)) * static_cast<double>(beat) : there;
    };
}

/// A new tempo map under the same bars.
Remake with_tempo(const Remake& remake, const TempoMap& tempo) {
    const Song& song = *remake.song;
    return recounted(remake, {tempo, [](double t) { return t; }, by_time(song, tempo), on_beats(song, tempo, song.meter)});
}

/// Anchors of a map with one at each of these ticks besides.
std::vector<Anchor> with_anchors_at(const TempoMap& tempo, const std::vector<Ticks>& ticks) {
    std::vector<Anchor> anchors = tempo.anchors();
    for (const Ticks t : ticks) {
        const auto at = std::lower_bound(anchors.begin(), anchors.end(), t, [](const Anchor& a, Ticks x) { return a.tick < x; });
        if (at == anchors.end() || at->tick != t) anchors.insert(at, {t, tempo.seconds(t)});
    }
    return anchors;
}

/// Chords, whose places were rounded, one behind the other again.
void tidy_chords(Song& song) {
    auto& chords = song.chords;
    std::stable_sort(chords.begin(), chords.end(), [](const ChordEvent& a, const ChordEvent& b) { return a.start < b.start; });
    for (std::size_t i = 0; i + 1 < chords.size(); ++i) chords[i].length = std::min(chords[i].length, chords[i + 1].start - chords[i].start);
    std::erase_if(chords, [](const ChordEvent& c) { return c.length <= 0; });
}

/// Sections that fell onto the same bar line are one.
void tidy_sections(Song& song) {
    auto& sections = song.sections;
    for (std::size_t i = 0; i + 1 < sections.size(); ++i) sections[i].length = std::min(sections[i].length, sections[i + 1].start - sections[i].start);
}

/// All ticks counted from elsewhere; what stands on bars goes to the bar line nearest to where it was.
Remake shifted(const Remake& remake, Ticks by) {
    if (by == 0) return remake;
    const Song& song = *remake.song;
    const auto bar = static_cast<double>(song.meter.at_bar(1).bar_ticks());
    const double bars = std::round(static_cast<double>(by) / bar) * bar;
    const TempoMap tempo = song.tempo.reread(1.0, by);
    Remake next = recounted(
        remake, {tempo, [bars](double t) { return t + bars; }, [by](double t) { return t + static_cast<double>(by); }, on_beats(song, tempo, song.meter)});
    tidy_chords(next.song.edit());
    // A pinned beat stays where it was put in the recording.
    for (std::size_t i = 0; i < song.pins.size(); ++i) next.song.edit().pins[i].at = song.pins[i].at + by;
    tidy_pins(next.song.edit());
    return next;
}

}  // namespace

Remake reread_tempo(const Remake& remake, double factor) {
    if (!(factor > 0.0) || factor == 1.0) return remake;
    Remake next = in_proportion(remake, factor, 0);
    for (Candidate& c : next.song.edit().tempo_candidates)
        if (std::abs(c.bpm / (remake.song->tempo.bpm_at(0) * factor) - 1.0) < 0.01) c.bpm = remake.song->tempo.bpm_at(0);
    tidy_pins(next.song.edit());
    return next;
}

Remake shift_beats(const Remake& remake, Ticks later) { return shifted(remake, -later); }

Remake set_downbeat(const Remake& remake, double time_s) {
    const auto& meter = remake.song->meter.changes().front();
    const Ticks beat = meter.beat_ticks(), bar = meter.bar_ticks();
    const Ticks at = static_cast<Ticks>(std::llround(remake.song->tempo.ticks(time_s) / static_cast<double>(beat))) * beat;
    Ticks shift = (bar - ((at % bar) + bar) % bar) % bar;
    // Count from the earliest bar: after several shifts the first beat would otherwise drift away from bar 1.
    const Ticks first = remake.song->tempo.anchors().front().tick + shift;
    shift -= first / bar * bar;
    return shifted(remake, shift);
}

Remake set_upbeat(const Remake& remake, int beats) {
    const auto& meter = remake.song->meter.changes().front();
    if (beats < 0 || beats >= meter.beats()) return remake;
    const Ticks wanted = beats == 0 ? 0 : meter.bar_ticks() - beats * meter.beat_ticks();
    return shifted(remake, wanted - remake.song->tempo.anchors().front().tick);
}

Remake take_reading(const Remake& remake, double factor, Ticks later, int numerator, int denominator) {
    Remake next = reread_tempo(remake, factor);
    if (numerator > 0) next = set_meter(next, numerator, denominator);
    return shift_beats(next, later);
}

Remake set_tempo(const Remake& remake, double bpm) {
    if (!(bpm >= limits::kSlowestBpm) || !(bpm <= limits::kFastestBpm)) return remake;
    const Song& song = *remake.song;
    const Ticks held = song.pins.empty() ? song.tempo.anchors().front().tick : song.pins.front().at;
    const double held_s = song.tempo.seconds(held), quarter_s = 60.0 / bpm;
    // Two anchors make a straight line; beats are drawn from it.
    return take_beat_map(remake, TempoMap({{held, held_s}, {held + kTicksPerQuarter, held_s + quarter_s}}), song.meter);
}

Remake pin_beat(const Remake& remake, Ticks beat, double time_s, BeatReach reach) {
    const Song& song = *remake.song;
    const double was_s = song.tempo.seconds(beat);
    std::optional<Ticks> below, above;
    for (const Pin& p : song.pins) {
        if (p.at < beat) below = p.at;
        if (p.at > beat && !above) above = p.at;
    }
    const int bar = song.meter.position(beat).bar;
    if (reach == BeatReach::Near) {
        const Ticks line = song.meter.tick_of_bar(bar);
        if (!below) below = line < beat ? line : song.meter.tick_of_bar(bar - 1);
        if (!above) above = song.meter.tick_of_bar(bar + 1);
    }
    const double low_s = below ? song.tempo.seconds(*below) : -limits::kOutside_s, high_s = above ? song.tempo.seconds(*above) : 1e9;
    constexpr double kLeast_s = 0.01;  // between a beat and what holds it on either side
    if (!(time_s > low_s + kLeast_s) || !(time_s < high_s - kLeast_s)) return remake;
    std::vector<Ticks> needed{beat};
    if (below) needed.push_back(*below);
    if (above) needed.push_back(*above);
    std::vector<Anchor> anchors = with_anchors_at(song.tempo, needed);
    for (Anchor& a : anchors) {
        if (a.tick == beat) a.time_s = time_s;
        else if (a.tick < beat && (!below || a.tick > *below))
            a.time_s = below ? low_s + (a.time_s - low_s) * (time_s - low_s) / (was_s - low_s) : a.time_s + time_s - was_s;
        else if (a.tick > beat && (!above || a.tick < *above))
            a.time_s = above ? high_s - (high_s - a.time_s) * (high_s - time_s) / (high_s - was_s) : a.time_s + time_s - was_s;
    }
    for (std::size_t i = 1; i < anchors.size(); ++i) {
        const double bpm = 60.0 * static_cast<double>(anchors[i].tick - anchors[i - 1].tick) / kTicksPerQuarter / (anchors[i].time_s - anchors[i - 1].time_s);
        if (!(bpm >= limits::kSlowestBpm) || !(bpm <= limits::kFastestBpm)) return remake;
    }
    Remake next = with_tempo(remake, TempoMap(std::move(anchors)));
    auto& pins = next.song.edit().pins;
    const auto at = std::lower_bound(pins.begin(), pins.end(), beat, [](const Pin& p, Ticks t) { return p.at < t; });
    if (at == pins.end() || at->at != beat) pins.insert(at, {beat, {}});
    return next;
}

Remake unpin_beat(const Remake& remake, Ticks beat) {
    Remake next = remake;
    return std::erase_if(next.song.edit().pins, [&](const Pin& p) { return p.at == beat; }) ? next : remake;
}

Remake place_beats(const Remake& remake, Ticks from, const std::vector<double>& times_s) {
    if (times_s.size() < 2 || !std::is_sorted(times_s.begin(), times_s.end(), std::less_equal<>())) return remake;
    const Song& song = *remake.song;
    std::vector<Anchor> placed;
    Ticks t = from;
    for (const double s : times_s) {
        placed.push_back({t, s});
        t += song.meter.at_bar(song.meter.position(t).bar).beat_ticks();
    }
    const Ticks last = placed.back().tick;
    const double late_s = placed.back().time_s - song.tempo.seconds(last);
    std::vector<Anchor> anchors;
    for (const Anchor& a : song.tempo.anchors())
        if (a.tick < from && a.time_s < times_s.front()) anchors.push_back(a);
    anchors.insert(anchors.end(), placed.begin(), placed.end());
    for (const Anchor& a : song.tempo.anchors())
        if (a.tick > last) anchors.push_back({a.tick, a.time_s + late_s});
    return with_tempo(remake, TempoMap(std::move(anchors)));
}

SteadyFit fit_steady(const Song& song, Ticks from, Ticks to) {
    double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
    const auto each = [&](auto&& visit) {
        for (const Anchor& a : song.tempo.anchors())
            if (a.tick >= from && a.tick <= to) visit(static_cast<double>(a.tick - from) / kTicksPerQuarter, a.time_s);
    };
    each([&](double x, double y) { n += 1, sx += x, sy += y, sxx += x * x, sxy += x * y; });
    SteadyFit fit;
    const double v = n * sxx - sx * sx;
    if (n < 2 || !(v > 0)) {
        fit.bpm = song.tempo.bpm_at(from);
        return fit;
    }
    const double slope = (n * sxy - sx * sy) / v, start = (sy - slope * sx) / n;
    fit.bpm = 60.0 / slope;
    each([&](double x, double y) {
        const double off = 1000.0 * (y - start - slope * x);
        fit.rms_ms += off * off / n;
        fit.most_ms = std::max(fit.most_ms, std::abs(off));
    });
    fit.rms_ms = std::sqrt(fit.rms_ms);
    return fit;
}

Remake make_steady(const Remake& remake, Ticks from, Ticks to) {
    if (to <= from) return remake;
    std::vector<Anchor> anchors = with_anchors_at(remake.song->tempo, {from, to});
    std::erase_if(anchors, [&](const Anchor& a) { return a.tick > from && a.tick < to; });
    return with_tempo(remake, TempoMap(std::move(anchors)));
}

Remake count_bars(const Remake& remake, int from_bar, int to_bar, int bars) {
    const Song& song = *remake.song;
    if (to_bar <= from_bar || bars < 1 || bars > limits::kBars || bars == to_bar - from_bar) return remake;
    const Ticks a = song.meter.tick_of_bar(from_bar), b = song.meter.tick_of_bar(to_bar);
    const MeterMap::Change inside = song.meter.at_bar(from_bar);
    const Ticks length = bars * inside.bar_ticks(), more = length - (b - a);
    const double a_s = song.tempo.seconds(a), b_s = song.tempo.seconds(b);
    std::vector<Anchor> anchors;
    for (const Anchor& x : with_anchors_at(song.tempo, {a, b})) {
        if (x.tick <= a) anchors.push_back(x);
        if (x.tick == a)
            for (Ticks t = inside.beat_ticks(); t < length; t += inside.beat_ticks())
                anchors.push_back({a + t, a_s + (b_s - a_s) * static_cast<double>(t) / static_cast<double>(length)});
        if (x.tick >= b) anchors.push_back({x.tick + more, x.time_s});
    }
    std::vector<MeterMap::Change> changes;
    for (MeterMap::Change c : song.meter.changes()) {
        if (c.bar > from_bar && c.bar < to_bar) continue;
        if (c.bar >= to_bar) c.bar += bars - (to_bar - from_bar);
        changes.push_back(c);
    }
    // The meter that held behind the stretch holds on there, also where its change lay within.
    MeterMap::Change behind = song.meter.at_bar(to_bar);
    behind.bar = from_bar + bars;
    changes.push_back(behind);
    const MeterMap meter(std::move(changes));
    const TempoMap tempo(std::move(anchors));
    const double scale = static_cast<double>(length) / static_cast<double>(b - a), bar_ticks = static_cast<double>(inside.bar_ticks());
    const Recount::Map structure = [=](double t) {
        const auto from = static_cast<double>(a), to = static_cast<double>(b);
        if (t <= from) return t;
        if (t >= to) return t + static_cast<double>(more);
        return from + std::round((t - from) * scale / bar_ticks) * bar_ticks;
    };
    Remake next = recounted(remake, {tempo, structure, by_time(song, tempo), on_beats(song, tempo, meter)});
    next.song.edit().meter = meter;
    std::erase_if(next.song.edit().pins, [&](const Pin& p) { return p.at > a && p.at < a + length; });
    tidy_chords(next.song.edit());
    tidy_sections(next.song.edit());
    return next;
}

Remake set_meter(const Remake& remake, int numerator, int denominator) {
    Remake next = remake;
    next.song.edit().meter = MeterMap({{1, numerator, denominator}});
    return next;
}

Remake change_meter(const Remake& remake, int from_bar, int numerator, int denominator) {
    if (from_bar <= 1 && remake.song->meter.changes().size() == 1) return set_meter(remake, numerator, denominator);
    const MeterMap& before = remake.song->meter;
    std::vector<MeterMap::Change> changes;
    for (const MeterMap::Change& c : before.changes())
        if (c.bar < from_bar) changes.push_back(c);
    changes.push_back({std::max(1, from_bar), numerator, denominator});
    // Later changes stay where they are in the music: at the bar line nearest to it.
    for (const MeterMap::Change& c : before.changes()) {
        if (c.bar <= from_bar) continue;
        const Ticks bar = changes.back().bar_ticks(), t = before.tick_of_bar(c.bar);
        const MeterMap so_far(changes);
        const BarPosition there = so_far.position(t + bar / 2);
        changes.push_back({std::max(there.bar, changes.back().bar + 1), c.numerator, c.denominator});
    }
    Remake next = remake;
    next.song.edit().meter = MeterMap(std::move(changes));
    return next;
}

Remake take_beat_map(const Remake& remake, const TempoMap& tempo, const MeterMap& meter) {
    const Song& song = *remake.song;
    const Recount::Map heard = by_time(song, tempo);
    const Recount::Map structure = [heard, meter](double t) {
        const double there = heard(t);
        const int bar = meter.position(std::llround(there)).bar;
        const auto line = static_cast<double>(meter.tick_of_bar(bar)), next = static_cast<double>(meter.tick_of_bar(bar + 1));
        return there - line < next - there ? line : next;
    };
    Remake next = recounted(remake, {tempo, structure, heard, on_beats(song, tempo, meter)});
    Song& made = next.song.edit();
    made.meter = meter;
    made.pins.clear();
    tidy_chords(made);
    tidy_sections(made);
    return next;
}

Remake mark_free_time(const Remake& remake, Ticks from, Ticks length) {
    if (length <= 0) return remake;
    Remake next = remake;
    auto& free = next.song.edit().free_time;
    FreeTime made{from, length, {}};
    std::erase_if(free, [&](const FreeTime& f) {
        if (f.start > made.start + made.length || f.start + f.length < made.start) return false;
        const Ticks end = std::max(made.start + made.length, f.start + f.length);
        made.start = std::min(made.start, f.start);
        made.length = end - made.start;
        return true;
    });
    free.insert(std::find_if(free.begin(), free.end(), [&](const FreeTime& f) { return f.start > made.start; }), made);
    return next;
}

Remake clear_free_time(const Remake& remake, Ticks at) {
    Remake next = remake;
    return std::erase_if(next.song.edit().free_time, [&](const FreeTime& f) { return at >= f.start && at < f.start + f.length; }) ? next : remake;
}

}  // namespace fw
