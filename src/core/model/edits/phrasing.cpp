// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/phrasing.hpp"

#include "base/pitch.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <random>
#include <set>

namespace fw {

namespace {

constexpr Ticks kFlam = 72;      // strokes nearer to each other belong together
constexpr Ticks kTogether = 80;  // notes begun within it are one chord
constexpr Ticks kShortest = kTicksPerQuarter / 32;

/// A note where it sounds, and what is to become of it. By place and pitch, which an edit's renumbering of copied variants leaves as they are.
using Wanted = std::map<std::pair<Ticks, int>, Note>;
std::pair<Ticks, int> key_of(const Note& in_song) { return {in_song.start, in_song.pitch}; }

std::vector<PlacedNote> meant(const Remake& r, PartId id, const NoteRefs& refs) {
    const Part* part = r.part(id);
    return part ? notes_meant(*part, refs) : std::vector<PlacedNote>();
}

/// Sets notes as wanted; starts there are of the song.
Remake set_notes(const Remake& r, PartId part, const NoteRefs& refs, Reach reach, const Wanted& wanted) {
    return edit_notes(r, part, refs, reach, [&](Note& n, Ticks from) {
        const auto found = wanted.find({n.start + from, n.pitch});
        if (found == wanted.end()) return;
        const Note before = n;
        n = found->second;
        n.start -= from;
        n.id = before.id, n.own = before.own;
    });
}

/// Groups of notes that begin together, in order of time: where each begins, and its notes.
struct Group {
    Ticks start = 0;
    std::vector<const PlacedNote*> notes;
};
std::vector<Group> groups_of(const std::vector<PlacedNote>& notes) {
    std::vector<Group> groups;
    for (const PlacedNote& n : notes) {
        if (groups.empty() || n.note.start - groups.back().start > kTogether) groups.push_back({n.note.start, {}});
        groups.back().notes.push_back(&n);
    }
    return groups;
}

/// Where the part's next note begins behind a place; none: nothing.
std::optional<Ticks> next_start(const std::vector<PlacedNote>& all, Ticks after) {
    const auto at = std::upper_bound(all.begin(), all.end(), after, [](Ticks t, const PlacedNote& n) { return t < n.note.start; });
    return at == all.end() ? std::nullopt : std::optional(at->note.start);
}

}  // namespace

Remake quantise_notes(const Remake& r, PartId part, const NoteRefs& refs, const Quantising& how, Reach reach) {
    const auto notes = meant(r, part, refs);
    Wanted wanted;
    std::vector<char> done(notes.size(), 0);
    for (std::size_t i = 0; i < notes.size(); ++i) {
        if (done[i]) continue;
        // What is struck at one pitch in quick succession moves as one, by its loudest stroke.
        std::vector<std::size_t> flam{i};
        for (std::size_t j = i + 1; j < notes.size() && notes[j].note.start - notes[flam.back()].note.start <= kFlam; ++j)
            if (!done[j] && notes[j].note.pitch == notes[i].note.pitch) flam.push_back(j);
        const std::size_t main =
            *std::max_element(flam.begin(), flam.end(), [&](std::size_t a, std::size_t b) { return notes[a].note.velocity < notes[b].note.velocity; });
        const Ticks at = notes[main].note.start;
        const GridPlace place = nearest_on(how.grid, r.song->meter, at);
        const bool deliberate = how.window > 0 && std::abs(place.at - at) > how.window;
        const Ticks by = deliberate ? 0 : std::llround(static_cast<double>(place.at - at) * std::clamp(how.strength, 0.0, 1.0));
        for (const std::size_t j : flam) {
            done[j] = 1;
            Note n = notes[j].note;
            n.start += by;
            if (j == main && !deliberate && place.velocity > 0)
                n.velocity = std::clamp(static_cast<int>(std::lround(n.velocity + (place.velocity - n.velocity) * std::clamp(how.dynamics, 0.0, 1.0))), 1, 127);
            wanted.emplace(key_of(notes[j].note), std::move(n));
        }
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake lock_notes(const Remake& r, PartId part, const NoteRefs& refs, std::vector<Ticks> places, Ticks window, double strength, Reach reach) {
    std::sort(places.begin(), places.end());
    Wanted wanted;
    for (const PlacedNote& p : meant(r, part, refs)) {
        const auto next = std::lower_bound(places.begin(), places.end(), p.note.start);
        std::optional<Ticks> best;
        if (next != places.end()) best = *next;
        if (next != places.begin() && (!best || p.note.start - *std::prev(next) < *best - p.note.start)) best = *std::prev(next);
        if (!best || std::abs(*best - p.note.start) > window) continue;
        Note n = p.note;
        n.start += std::llround(static_cast<double>(*best - n.start) * std::clamp(strength, 0.0, 1.0));
        wanted.emplace(key_of(p.note), std::move(n));
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake humanise_notes(const Remake& r, PartId part, const NoteRefs& refs, Ticks range, int velocity, std::uint32_t seed, Reach reach) {
    std::mt19937 dice(seed);
    // Not std::uniform_int_distribution, whose numbers are another library's own business: the same seed is the same everywhere.
    const auto roll = [&](Ticks most) { return most <= 0 ? Ticks{0} : static_cast<Ticks>(dice() % static_cast<std::uint32_t>(2 * most + 1)) - most; };
    Wanted wanted;
    for (const PlacedNote& p : meant(r, part, refs)) {
        Note n = p.note;
        n.start += roll(range);
        n.velocity = std::clamp(n.velocity + static_cast<int>(roll(velocity)), 1, 127);
        wanted.emplace(key_of(p.note), std::move(n));
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake split_notes(const Remake& r, PartId part, const NoteRefs& refs, Ticks at, Reach reach) {
    Wanted wanted;
    std::vector<Beside> second;
    for (const PlacedNote& p : meant(r, part, refs)) {
        if (at <= p.note.start || at >= p.note.start + p.note.length) continue;
        Note first = p.note, rest = p.note;
        rest.start = at;
        rest.length = p.note.start + p.note.length - at;
        first.length = at - p.note.start;
        rest.roll = {};
        // Each half keeps its stretch of the curve; the pitch reached is where the second begins.
        double reached = 0.0;
        std::vector<BendPoint> before, after;
        for (const BendPoint& b : *p.note.bend) {
            if (b.tick < first.length) before.push_back(b), reached = b.cents;
            else after.push_back({b.tick - first.length, b.cents});
        }
        if (!p.note.bend->empty() && (after.empty() || after.front().tick > 0)) after.insert(after.begin(), {0, reached});
        first.bend = std::move(before), rest.bend = std::move(after);
        wanted.emplace(key_of(p.note), std::move(first));
        second.push_back({p.ref(), std::move(rest)});
    }
    return add_beside(set_notes(r, part, refs, reach, wanted), part, second, reach);
}

Remake join_notes(const Remake& r, PartId part, const NoteRefs& refs, Reach reach) {
    std::map<int, std::vector<PlacedNote>> by_pitch;
    for (const PlacedNote& p : meant(r, part, refs)) by_pitch[p.note.pitch].push_back(p);
    Wanted wanted;
    for (const auto& [pitch, notes] : by_pitch) {
        Note n = notes.front().note;
        for (const PlacedNote& p : notes) n.length = std::max(n.length, p.note.start + p.note.length - n.start);
        wanted.emplace(key_of(notes.front().note), std::move(n));
    }
    const Remake next = set_notes(r, part, refs, reach, wanted);
    if (!next.part(part)) return next;
    NoteRefs still;  // a variant made for this place numbers its notes anew: the others are found again by where they are
    for (const PlacedNote& p : placed_notes(*next.part(part)))
        for (const auto& [pitch, notes] : by_pitch)
            if (p.note.pitch == pitch)
                for (std::size_t i = 1; i < notes.size(); ++i)
                    if (p.note.start == notes[i].note.start && p.placement == notes[i].placement) still.push_back(p.ref());
    return remove_notes(next, part, still, reach);
}

Remake space_notes(const Remake& r, PartId part, const NoteRefs& refs, double share, Ticks gap, Reach reach) {
    const auto notes = meant(r, part, refs);
    if (notes.empty()) return r;
    const auto all = placed_notes(*r.part(part));
    const auto groups = groups_of(notes);
    Wanted wanted;
    for (std::size_t g = 0; g < groups.size(); ++g) {
        const Ticks latest = groups[g].notes.back()->note.start;
        const auto next = g + 1 < groups.size() ? std::optional(groups[g + 1].start) : next_start(all, latest + kTogether);
        if (!next) continue;
        for (const PlacedNote* p : groups[g].notes) {
            Note n = p->note;
            n.length = std::max(kShortest, static_cast<Ticks>(std::llround(static_cast<double>(*next - n.start) * share)) - gap);
            wanted.emplace(key_of(p->note), std::move(n));
        }
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake cut_overlaps(const Remake& r, PartId part, const NoteRefs& refs, Reach reach) {
    const auto notes = meant(r, part, refs);
    if (notes.empty()) return r;
    const auto all = placed_notes(*r.part(part));
    Wanted wanted;
    for (const PlacedNote& p : notes)
        if (const auto next = next_start(all, p.note.start); next && *next < p.note.start + p.note.length) {
            Note n = p.note;
            n.length = *next - n.start;
            wanted.emplace(key_of(p.note), std::move(n));
        }
    return set_notes(r, part, refs, reach, wanted);
}

Remake step_notes(const Remake& r, PartId part, const NoteRefs& refs, int steps, Reach reach) {
    Wanted wanted;
    for (const PlacedNote& p : meant(r, part, refs)) {
        const Key* key = r.song->key_at(p.note.start);
        auto scale = (key ? *key : Key{}).scale();
        std::sort(scale.begin(), scale.end());
        // As a number of the scale's tones, with how far above the tone below it lies.
        const int octave = (p.note.pitch - pitch_class(p.note.pitch)) / 12;
        const auto above = std::upper_bound(scale.begin(), scale.end(), pitch_class(p.note.pitch));
        const int degree = static_cast<int>(above - scale.begin()) - 1 + 7 * octave;
        const auto pitch_of_degree = [&](int d) { return 12 * ((d - ((d % 7) + 7) % 7) / 7) + scale[static_cast<std::size_t>(((d % 7) + 7) % 7)]; };
        Note n = p.note;
        const int off = n.pitch - pitch_of_degree(degree);
        n.pitch = std::clamp(pitch_of_degree(degree + steps) + off, 0, 127);
        n.origin = Origin::Drawn;
        wanted.emplace(key_of(p.note), std::move(n));
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake double_notes(const Remake& r, PartId part, const NoteRefs& refs, int semitones, Reach reach) {
    return copy_notes(r, part, refs, part, 0, 1, semitones, reach);
}

Remake rate_notes(const Remake& r, PartId part, const NoteRefs& refs, double times_as_fast, Reach reach) {
    const auto notes = meant(r, part, refs);
    if (notes.empty() || !(times_as_fast > 0.0)) return r;
    const auto sooner = [&](Ticks t) { return std::llround(static_cast<double>(t) / times_as_fast); };
    Wanted wanted;
    for (const PlacedNote& n : notes) {
        Note to = n.note;
        to.start = notes.front().note.start + sooner(to.start - notes.front().note.start);
        to.length = std::max<Ticks>(1, sooner(to.length));
        if (to.roll->strokes > 1) to.roll.edit().apart = std::max<Ticks>(1, sooner(to.roll->apart));
        std::vector<BendPoint> bend = *to.bend;
        for (BendPoint& b : bend) b.tick = sooner(b.tick);
        // At one place the later point counts.
        bend.erase(std::unique(bend.begin(), bend.end(), [](const BendPoint& a, const BendPoint& b) { return a.tick == b.tick; }), bend.end());
        to.bend = std::move(bend);
        wanted[key_of(n.note)] = std::move(to);
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake ramp_notes(const Remake& r, PartId part, const NoteRefs& refs, int from, int to, Reach reach) {
    const auto notes = meant(r, part, refs);
    if (notes.empty()) return r;
    const double first = static_cast<double>(notes.front().note.start), span = static_cast<double>(notes.back().note.start) - first;
    Wanted wanted;
    for (const PlacedNote& p : notes) {
        Note n = p.note;
        const double way = span > 0.0 ? (static_cast<double>(n.start) - first) / span : 0.0;
        n.velocity = std::clamp(static_cast<int>(std::lround(from + way * (to - from))), 1, 127);
        wanted.emplace(key_of(p.note), std::move(n));
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake grace_notes(const Remake& r, PartId part, const NoteRefs& refs, int semitones, Ticks length, Reach reach) {
    std::vector<Beside> graces;
    for (const PlacedNote& p : meant(r, part, refs)) {
        Note n;
        n.start = p.note.start - length;
        n.length = length;
        n.pitch = std::clamp(p.note.pitch + semitones, 0, 127);
        n.velocity = std::max(1, p.note.velocity * 3 / 4);
        graces.push_back({p.ref(), n});
    }
    return add_beside(r, part, graces, reach);
}

Remake copy_notes(const Remake& r, PartId part, const NoteRefs& refs, PartId into, Ticks by, int times, int semitones, Reach reach) {
    std::vector<Beside> copies;
    const auto notes = meant(r, part, refs);
    for (int k = 1; k <= times; ++k)
        for (const PlacedNote& p : notes) {
            Note n = p.note;
            n.start += k * by;
            n.pitch = std::clamp(n.pitch + semitones, 0, 127);
            n.origin = Origin::Drawn;
            n.confidence = 1.0;
            n.accepted = false;
            n.own = kAllOwn;
            copies.push_back({into == part ? p.ref() : NoteRef{}, std::move(n)});
        }
    return add_beside(r, into, copies, reach);
}

Remake send_notes(const Remake& r, PartId id, const NoteRefs& notes, PartId into, bool keep, Reach reach) {
    const Part* part = r.part(id);
    if (!part || !r.part(into) || id == into) return r;
    // What goes with these notes is what would be missing without them.
    std::multiset<std::pair<Ticks, int>> left;
    const Remake without = remove_notes(r, id, notes, reach);
    for (const PlacedNote& n : placed_notes(*without.part(id))) left.insert(key_of(n.note));
    NoteRefs gone;
    for (const PlacedNote& n : placed_notes(*part))
        if (const auto at = left.find(key_of(n.note)); at != left.end()) left.erase(at);
        else gone.push_back(n.ref());
    const Remake next = copy_notes(r, id, gone, into, 0, 1, 0, reach);
    return keep ? next : remove_notes(next, id, notes, reach);
}

Remake glide_notes(const Remake& r, PartId part, const NoteRefs& refs, Ticks time, GlideShape shape, Reach reach) {
    const auto notes = meant(r, part, refs);
    const auto groups = groups_of(notes);
    const auto top = [](const Group& g) {
        return *std::max_element(g.notes.begin(), g.notes.end(), [](const PlacedNote* a, const PlacedNote* b) { return a->note.pitch < b->note.pitch; });
    };
    Wanted wanted;
    for (std::size_t g = 0; g + 1 < groups.size(); ++g) {
        const Note& from = top(groups[g])->note;
        const Note& to = top(groups[g + 1])->note;
        Note n = from;
        n.length = to.start - from.start;
        const Ticks way = std::min(time, n.length);
        const double cents = 100.0 * (to.pitch - from.pitch);
        std::vector<BendPoint>& bend = n.bend.edit();
        bend = {{0, 0.0}};
        constexpr int kPieces = 8;
        for (int i = 0; i <= kPieces; ++i) {
            const double x = static_cast<double>(i) / kPieces;
            const double y = shape == GlideShape::Even ? x : shape == GlideShape::Late ? x * x : 1.0 - (1.0 - x) * (1.0 - x);
            const Ticks tick = n.length - way + static_cast<Ticks>(std::llround(x * static_cast<double>(way)));
            if (tick > bend.back().tick) bend.push_back({tick, cents * y});
        }
        wanted.emplace(key_of(from), std::move(n));
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake vibrato_notes(const Remake& r, PartId part, const NoteRefs& refs, double depth, double rate_hz, Ticks delay, Reach reach) {
    Wanted wanted;
    for (const PlacedNote& p : meant(r, part, refs)) {
        if (p.note.length <= delay) continue;
        Note n = p.note;
        const TempoMap& tempo = r.song->tempo;
        const double begin = tempo.seconds(n.start + delay), end = tempo.seconds(n.start + n.length);
        // Twelve points a wave follow it to 2 % of its depth. Less than a whole wave would leave it off its pitch: waves are whole.
        const int waves = static_cast<int>(std::floor((end - begin) * rate_hz));
        if (waves < 1) continue;
        constexpr int kPoints = 12;
        std::vector<BendPoint>& bend = n.bend.edit();
        bend = {{0, 0.0}};
        for (int i = 0; i <= waves * kPoints; ++i) {
            const Ticks tick = tempo.nearest_tick(begin + i / (rate_hz * kPoints)) - n.start;
            if (tick > bend.back().tick) bend.push_back({tick, i == waves * kPoints ? 0.0 : depth * std::sin(2.0 * std::numbers::pi * i / kPoints)});
        }
        wanted.emplace(key_of(p.note), std::move(n));
    }
    return set_notes(r, part, refs, reach, wanted);
}

Remake straighten_notes(const Remake& r, PartId part, const NoteRefs& refs, Reach reach) {
    return edit_notes(r, part, refs, reach, [](Note& n, Ticks) { n.bend = {}; });
}

Remake bend_notes(const Remake& r, PartId part, const NoteRefs& refs, const std::vector<BendPoint>& points, Reach reach) {
    return edit_notes(r, part, refs, reach, [&](Note& n, Ticks) {
        std::vector<BendPoint> bend;
        for (const BendPoint& b : points)
            if (b.tick <= n.length) bend.push_back({b.tick, std::clamp(b.cents, -limits::kBendCents, limits::kBendCents)});
        n.bend = std::move(bend);
    });
}

std::vector<BendPoint> thinned(const std::vector<BendPoint>& drawn, double within_cents) {
    if (drawn.size() < 3) return drawn;
    std::vector<bool> kept(drawn.size(), false);
    kept.front() = kept.back() = true;
    std::vector<std::pair<std::size_t, std::size_t>> open{{0, drawn.size() - 1}};
    while (!open.empty()) {
        const auto [a, b] = open.back();
        open.pop_back();
        double farthest = within_cents;
        std::size_t at = 0;
        for (std::size_t i = a + 1; i < b; ++i) {
            const double share = static_cast<double>(drawn[i].tick - drawn[a].tick) / static_cast<double>(std::max<Ticks>(1, drawn[b].tick - drawn[a].tick));
            const double off = std::abs(drawn[i].cents - (drawn[a].cents + share * (drawn[b].cents - drawn[a].cents)));
            if (off > farthest) farthest = off, at = i;
        }
        if (at == 0) continue;
        kept[at] = true;
        open.emplace_back(a, at);
        open.emplace_back(at, b);
    }
    std::vector<BendPoint> out;
    for (std::size_t i = 0; i < drawn.size(); ++i)
        if (kept[i]) out.push_back(drawn[i]);
    return out;
}

double left_out_of_tune(const Note& note) {
    constexpr double kHeard_cents = 12.0;
    if (note.bend->empty()) return 0.0;
    const double end = note.bend->back().cents, off = end - 100.0 * std::round(end / 100.0);
    return std::abs(off) > kHeard_cents ? off : 0.0;
}

Remake roll_notes(const Remake& r, PartId part, const NoteRefs& refs, const Roll& roll, Reach reach) {
    return edit_notes(r, part, refs, reach, [&](Note& n, Ticks) {
        n.roll = roll.strokes > 1 ? roll : Roll{};
        if (roll.strokes > 1 && !roll.leads_in) n.length = std::max(n.length, roll.apart * roll.strokes);
    });
}

Remake mute_notes(const Remake& r, PartId part, const NoteRefs& refs, bool muted, Reach reach) {
    return edit_notes(r, part, refs, reach, [muted](Note& n, Ticks) { n.muted = muted; });
}

Remake accept_notes(const Remake& r, PartId part, const NoteRefs& refs, bool accepted, Reach reach) {
    return edit_notes(r, part, refs, reach, [accepted](Note& n, Ticks) { n.accepted = accepted; });
}

}  // namespace fw
