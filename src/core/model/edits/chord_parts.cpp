// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/chord_parts.hpp"

#include "base/pitch.hpp"
#include "model/edits/parts.hpp"
#include "model/edits/patterns.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <cmath>
#include <random>

namespace fw {

namespace {

/// The lowest pitch of a class that is not below another.
int at_or_above(int pc, int low) { return low + pitch_class(pc - low); }

/// Stacked as near as they lie, in the order given.
std::vector<int> stacked(const std::vector<int>& classes, int low) {
    std::vector<int> out;
    for (const int pc : classes) out.push_back(out.empty() ? at_or_above(pc, low) : at_or_above(pc, out.back() + 1));
    return out;
}

std::vector<int> spread_out(std::vector<int> close, Voicing voicing) {
    const std::size_t n = close.size();
    const auto drop = [&](std::size_t from_above) {
        if (n >= from_above && n > 2) close[n - from_above] -= 12;
    };
    switch (voicing) {
        case Voicing::Close: break;
        case Voicing::Drop2: drop(2); break;
        case Voicing::Drop24: drop(2), drop(4); break;
        case Voicing::Open:
            for (std::size_t i = 1; i + 1 < n; i += 2) close[i] += 12;
            break;
    }
    std::sort(close.begin(), close.end());
    return close;
}

double movement(const std::vector<int>& from, const std::vector<int>& to) {
    double sum = 0.0;
    for (const int p : to) {
        int nearest = 127;
        for (const int q : from) nearest = std::min(nearest, std::abs(p - q));
        sum += nearest;
    }
    return sum / static_cast<double>(to.size());
}

/// Ticks from a stroke to the next, so far into a chord. A rate that changes goes by equal ratios and stands on the finer of a thirty-second's and a
/// triplet's grid, as hands count.
Ticks stroke_after(const Derivation& how, Ticks into, Ticks length) {
    const Ticks first = how.every > 0 ? how.every : kTicksPerQuarter / 2;
    if (how.every_at_end <= 0) return first;
    const double share = static_cast<double>(into) / static_cast<double>(std::max<Ticks>(1, length));
    const double now = static_cast<double>(first) * std::pow(static_cast<double>(how.every_at_end) / static_cast<double>(first), share);
    constexpr Ticks kGrid = kTicksPerQuarter / 24;
    return std::max<Ticks>(kGrid, static_cast<Ticks>(std::llround(now / static_cast<double>(kGrid))) * kGrid);
}

/// The tone of a chord that a degree names; none: it does not have it.
std::optional<int> tone_of(const Chord& c, int degree) {
    const auto tones = chord_kinds()[static_cast<std::size_t>(c.kind)].tones();
    const auto first_of = [&](std::initializer_list<int> intervals) -> std::optional<int> {
        for (const int t : tones)
            if (std::find(intervals.begin(), intervals.end(), t) != intervals.end()) return pitch_class(c.root + t);
        return std::nullopt;
    };
    switch (degree) {
        case 1: return c.root;
        case 2:
        case 9: return first_of({2});
        case 3: return first_of({3, 4});
        case 4: return first_of({5});
        case 5: return first_of({6, 7, 8});
        case 6: return first_of({9});
        case 7: return first_of({9, 10, 11});
        default: return std::nullopt;
    }
}

}  // namespace

std::vector<int> voiced(const Chord& chord, const Derivation& how, const std::vector<int>& before) {
    if (chord.none()) return {};
    std::vector<int> classes = chord.tones();
    const auto into_range = [&](std::vector<int> pitches) {
        // Whole octaves down while it stands above the range and has room below, then what is left out of range goes down by itself.
        while (pitches.back() > how.high && pitches.front() - 12 >= how.low) std::for_each(pitches.begin(), pitches.end(), [](int& p) { p -= 12; });
        for (int& p : pitches)
            while (p > std::max(how.high, how.low + 11)) p -= 12;
        for (int& p : pitches) p = std::clamp(p, 0, 127);
        std::sort(pitches.begin(), pitches.end());
        pitches.erase(std::unique(pitches.begin(), pitches.end()), pitches.end());
        return pitches;
    };
    const auto inverted = [&](std::size_t by) {
        std::vector<int> order = classes;
        std::rotate(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(by % order.size()), order.end());
        return into_range(spread_out(stacked(order, how.low), how.voicing));
    };
    if (how.inversion < 0) {
        std::vector<int> best = inverted(0);
        if (before.empty()) return best;
        for (std::size_t i = 0; i < classes.size(); ++i)
            for (const int up : {0, 12}) {
                auto now = inverted(i);
                for (int& p : now) p += up;
                if (now.back() <= std::max(how.high, how.low + 23) &&
                    movement(before, now) + movement(now, before) < movement(before, best) + movement(best, before))
                    best = now;
            }
        return best;
    }
    // The bass that is written lies below unless another inversion is asked for.
    if (how.inversion == 0 && chord.bass >= 0 && chord.bass != chord.root) {
        std::erase(classes, chord.bass);
        std::sort(classes.begin(), classes.end(), [&](int a, int b) { return pitch_class(a - chord.bass) < pitch_class(b - chord.bass); });
        classes.insert(classes.begin(), chord.bass);
    }
    return inverted(static_cast<std::size_t>(how.inversion));
}

std::vector<int> laid_out(const Chord& chord, Voicing voicing, int inversion, int low) {
    constexpr int kRoom = 31;
    Derivation how;
    how.voicing = voicing;
    how.inversion = inversion;
    how.low = low;
    how.high = std::min(127, low + kRoom);
    return voiced(chord, how);
}

std::vector<Note> notes_from_chords(const Song& song, const Derivation& how) {
    std::vector<Note> out;
    std::vector<int> before;
    std::mt19937 dice(1);
    for (const ChordEvent& c : song.chords) {
        if (c.chord.none()) continue;
        std::vector<int> pitches;
        switch (how.kind) {
            case FromChords::Nothing: return {};
            case FromChords::Lowest: pitches = {at_or_above(c.chord.bass >= 0 ? c.chord.bass : c.chord.root, how.low)}; break;
            case FromChords::Roots: pitches = {at_or_above(c.chord.root, how.low)}; break;
            case FromChords::Tone:
                if (const auto pc = tone_of(c.chord, how.tone)) pitches = {at_or_above(*pc, how.low)};
                break;
            case FromChords::Block:
            case FromChords::Top:
            case FromChords::Arpeggio:
                pitches = c.voiced.empty() ? voiced(c.chord, how, before) : c.voiced;
                before = pitches;
                if (how.kind == FromChords::Top) pitches = {pitches.back()};
                break;
        }
        if (pitches.empty()) continue;
        const Ticks end = c.start + c.length;
        // More than a remake may play is refused by its limits, so that nothing is gained by making it.
        const auto enough = [&] { return out.size() > limits::kSoundingNotes; };
        const auto note = [&](Ticks at, Ticks length, std::size_t voice, int pitch) {
            Note n;
            n.start = at;
            n.length = std::max<Ticks>(1, length);
            n.pitch = std::clamp(pitch, 0, 127);
            n.velocity = std::clamp(how.velocity + how.slope * static_cast<int>(voice), 1, 127);
            out.push_back(n);
        };
        if (how.kind == FromChords::Arpeggio) {
            std::vector<int> row;
            for (int o = 0; o < how.octaves; ++o)
                for (const int p : pitches) row.push_back(p + 12 * o);
            std::vector<std::size_t> order(row.size());
            for (std::size_t i = 0; i < row.size(); ++i) order[i] = i;
            if (how.way == ArpeggioWay::Down || how.way == ArpeggioWay::DownUp) std::reverse(order.begin(), order.end());
            if (how.way == ArpeggioWay::UpDown || how.way == ArpeggioWay::DownUp)
                for (std::size_t i = row.size() - 1; i-- > 1;) order.push_back(order[i]);
            std::size_t k = 0;
            Ticks step = 0;
            for (Ticks at = c.start; at < end && !enough(); at += step, ++k) {
                step = stroke_after(how, at - c.start, c.length);
                const std::size_t voice = how.way == ArpeggioWay::Random ? dice() % row.size() : order[k % order.size()];
                const Ticks room = std::min(step, end - at);
                note(at, std::llround(how.length * static_cast<double>(room)), voice, row[voice]);
            }
            continue;
        }
        const Ticks step = how.every > 0 ? how.every : c.length;
        for (Ticks at = c.start; at < end && !enough(); at += step) {
            const Ticks room = std::min(step, end - at);
            for (std::size_t v = 0; v < pitches.size(); ++v) {
                const std::size_t turn = how.strum_ms >= 0.0 ? v : pitches.size() - 1 - v;
                const Ticks late = song.tempo.nearest_tick(song.tempo.seconds(at) + std::abs(how.strum_ms) / 1000.0 * static_cast<double>(turn)) - at;
                note(at + late, std::llround(how.length * static_cast<double>(room)) - late, v, pitches[v]);
            }
        }
    }
    std::stable_sort(out.begin(), out.end(), [](const Note& a, const Note& b) { return a.start != b.start ? a.start < b.start : a.pitch < b.pitch; });
    return out;
}

Remake derive_part(const Remake& remake, PartId id, const Derivation& how) {
    const auto notes = notes_from_chords(*remake.song, how);
    return with_part(remake, id, [&](Part& p) {
        const auto were = std::move(p.placements);
        p.patterns.clear();
        p.placements.clear();
        place_notes(p, notes, remake.song->sections, remake.song->meter);
        for (Placement& x : p.placements) x.muted = std::any_of(were.begin(), were.end(), [&](const Placement& w) { return w.muted && w.start == x.start; });
        p.derived = how;
    });
}

Remake unlink_part(const Remake& remake, PartId id) {
    return with_part(remake, id, [](Part& p) { p.derived.linked = false; });
}

Remake follow_chords(const Remake& before, Remake after) {
    const bool moved = !before.song.is(after.song) &&
                       (before.song->chords != after.song->chords || !(before.song->tempo == after.song->tempo) || !(before.song->meter == after.song->meter));
    for (std::size_t i = 0; i < after.parts.size(); ++i) {
        const Part& now = *after.parts[i];
        const Part* was = before.part(now.id);
        if (!now.derived.linked || !was) continue;
        const bool edited = was->derived == now.derived && (was->patterns != now.patterns || was->placements != now.placements);
        if (moved) after = derive_part(after, now.id, now.derived);
        else if (edited) after = unlink_part(after, now.id);
    }
    return after;
}

}  // namespace fw
