// SPDX-License-Identifier: GPL-3.0-or-later
// What changes in the course of a song: entries and exits of elements, and the bars in which a repeat is not quite one.
#include "analysis/decoders.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace fw {

namespace {

struct BarSpan {
    int number = 1;
    double start_s = 0.0, end_s = 0.0;
    double length_s() const { return end_s - start_s; }
};

std::vector<BarSpan> bars_of(const std::vector<Beat>& beats, double duration_s) {
    std::vector<BarSpan> bars;
    for (const Beat& b : beats)
        if (bars.empty() || b.bar != bars.back().number) {
            if (!bars.empty()) bars.back().end_s = b.time_s;
            bars.push_back({b.bar, b.time_s, duration_s});
        }
    if (bars.size() > 1) bars.back().end_s = std::min(duration_s, bars.back().start_s + bars[bars.size() - 2].length_s());
    return bars;
}

constexpr double kAhead = 0.04;      // seconds; what is played this much ahead of a bar line belongs to the bar
constexpr double kSamePlace = 0.07;  // seconds; strokes this near to the same place of another bar are the same
// A difference is told only where both sides are sure: fitted on the development corpus, where of the bars told of 98 in 100 differ in truth
// (docs/accuracy.md).
constexpr double kSureNote = 0.75, kSureHit = 0.75, kSureChord = 0.5, kSureKind = 0.75;
constexpr float kNoNote = 0.09F, kNoHit = 0.04F;  // evidence below this says that nothing is played there
constexpr int kMostSemitones = 6;                 // a repeat may lie this much higher or lower

template <class List, class Time>
auto first_from(const List& list, double time_s, Time time) {
    return std::lower_bound(list.begin(), list.end(), time_s, [&](const auto& x, double t) { return time(x) < t; });
}

double time_of(const Hit& h) { return h.time_s; }
double time_of(const HeardNote& n) { return n.onset_s; }

/// Calls f(item, place in the bar 0..1) for what begins in a bar.
template <class Item, class Function>
void for_each_in(const std::vector<Item>& items, const BarSpan& bar, Function&& f) {
    for (auto i = first_from(items, bar.start_s - kAhead, [](const Item& x) { return time_of(x); }); i != items.end() && time_of(*i) < bar.end_s - kAhead; ++i)
        f(*i, (time_of(*i) - bar.start_s) / bar.length_s());
}

float pulse_near(const Evidence& e, int column, double time_s) {
    const auto f = static_cast<Eigen::Index>(std::lround(Evidence::pulse_frame(time_s))), reach = Eigen::Index{4};
    float top = 0.0F;
    for (Eigen::Index i = std::max<Eigen::Index>(0, f - reach); i <= std::min(e.pulse.rows() - 1, f + reach); ++i) top = std::max(top, e.pulse(i, column));
    return top;
}

float sounding_near(const Evidence& e, double time_s, double length_s, int pitch) {
    return e.mean(e.sounding, time_s, time_s + std::clamp(length_s, 0.05, 0.25), pitch);
}

/// Strokes of one drum in `here` that `there` surely lacks.
int lacking_hits(const Evidence& e, const std::vector<Hit>& hits, DrumKind kind, const BarSpan& here, const BarSpan& there) {
    int count = 0;
    for_each_in(hits, here, [&](const Hit& h, double place) {
        if (h.kind != kind || h.confidence < kSureHit) return;
        const double t = there.start_s + place * there.length_s();
        const auto near = first_from(hits, t - kSamePlace, [](const Hit& x) { return x.time_s; });
        for (auto i = near; i != hits.end() && i->time_s < t + kSamePlace; ++i)
            if (i->kind == kind) return;
        count += pulse_near(e, pulse_column(kind), t) < kNoHit;
    });
    return count;
}

/// Notes of one part in `here` that `there`, lying `up` semitones higher, surely lacks.
int lacking_notes(const Evidence& e, const std::vector<HeardNote>& notes, const BarSpan& here, const BarSpan& there, int up,
                  std::vector<HeardNote>* which = nullptr) {
    int count = 0;
    for_each_in(notes, here, [&](const HeardNote& n, double place) {
        if (n.confidence < kSureNote) return;
        const double t = there.start_s + place * there.length_s();
        for (auto i = first_from(notes, t - kSamePlace, [](const HeardNote& x) { return x.onset_s; }); i != notes.end() && i->onset_s < t + kSamePlace; ++i)
            if (i->pitch == n.pitch + up) return;
        if (sounding_near(e, t, n.duration_s, n.pitch + up) >= kNoNote) return;
        ++count;
        if (which) which->push_back(n);
    });
    return count;
}

/// By how much what came lies above what is gone, where each has its counterpart at the same place and all by one interval; else 0.
int one_interval(const std::vector<HeardNote>& gone, const BarSpan& there, const std::vector<HeardNote>& come, const BarSpan& here, int moved) {
    if (gone.empty() || gone.size() != come.size()) return 0;
    int up = 0;
    for (std::size_t i = 0; i < gone.size(); ++i) {
        const double a = (gone[i].onset_s - there.start_s) / there.length_s(), b = (come[i].onset_s - here.start_s) / here.length_s();
        const int by = come[i].pitch - gone[i].pitch - moved;
        if (std::abs(a - b) * here.length_s() > kSamePlace || (i > 0 && by != up)) return 0;
        up = by;
    }
    return up;
}

Chord transposed(Chord chord, int up) {
    if (chord.none()) return chord;
    chord.root = (chord.root + up + 24) % 12;
    chord.bass = chord.bass < 0 ? -1 : (chord.bass + up + 24) % 12;
    return chord;
}

/// The chord that rules a bar, or none.
const ChordSpan* ruling_chord(const std::vector<ChordSpan>& chords, const BarSpan& bar) {
    for (const ChordSpan& c : chords)
        if (std::min(c.end_s, bar.end_s) - std::max(c.start_s, bar.start_s) > 0.6 * bar.length_s()) return &c;
    return nullptr;
}

}  // namespace

std::vector<Presence> find_presence(const std::vector<HeardPart>& parts, const std::vector<Hit>& drums, const std::vector<Beat>& beats, double duration_s) {
    const std::vector<BarSpan> bars = bars_of(beats, duration_s);
    std::vector<Presence> found;
    const auto add = [&](const std::string& element, const std::vector<char>& plays, int least) {
        for (std::size_t b = 0; b < bars.size();) {
            if (!plays[b]) {
                ++b;
                continue;
            }
            std::size_t end = b + 1;
            while (end < bars.size() && (plays[end] || (end + 1 < bars.size() && plays[end + 1]))) ++end;
            while (!plays[end - 1]) --end;
            int strokes = 0;
            for (std::size_t i = b; i < end; ++i) strokes += plays[i];
            if (strokes >= least) found.push_back({element, bars[b].number, static_cast<int>(end - b), bars[b].start_s, bars[end - 1].end_s});
            b = end;
        }
    };
    const auto cap = [](int n) { return static_cast<char>(std::min(n, 100)); };
    for (const HeardPart& part : parts) {
        std::vector<char> plays(bars.size(), 0);
        for (std::size_t b = 0; b < bars.size(); ++b) {
            int n = 0;
            for_each_in(part.notes, bars[b], [&](const HeardNote& note, double) {
                ++n;
                // What is held across bar lines plays on in those bars.
                for (std::size_t later = b + 1; later < bars.size() && note.onset_s + note.duration_s > bars[later].start_s + 0.25 * bars[later].length_s();
                     ++later)
                    plays[later] = std::max(plays[later], char{1});
            });
            plays[b] = std::max(plays[b], cap(n));
        }
        add(part.name, plays, 2);
    }
    for (int k = 0; k < kDrumKinds; ++k) {
        const auto kind = static_cast<DrumKind>(k);
        std::vector<char> plays(bars.size(), 0);
        for (std::size_t b = 0; b < bars.size(); ++b) {
            int n = 0;
            for_each_in(drums, bars[b], [&](const Hit& h, double) { n += h.kind == kind; });
            plays[b] = cap(n);
        }
        add(drum_sound(kind).id, plays, 2);
    }
    std::stable_sort(found.begin(), found.end(), [](const Presence& a, const Presence& b) { return a.start_s < b.start_s; });
    return found;
}

void find_differences(std::vector<SectionSpan>& sections, const Evidence& e, const std::vector<HeardPart>& parts, const std::vector<Hit>& drums,
                      const std::vector<ChordSpan>& chords, const std::vector<Beat>& beats, double duration_s) {
    const std::vector<BarSpan> bars = bars_of(beats, duration_s);
    const auto bar_of = [&](int number) -> const BarSpan* {
        const auto at = std::lower_bound(bars.begin(), bars.end(), number, [](const BarSpan& b, int n) { return b.number < n; });
        return at != bars.end() && at->number == number && at->length_s() > 0.1 ? &*at : nullptr;
    };
    for (SectionSpan& section : sections) {
        section.differences.clear();
        if (section.repeat_of < 0) continue;
        const SectionSpan& model = sections[static_cast<std::size_t>(section.repeat_of)];
        std::vector<std::pair<const BarSpan*, const BarSpan*>> pairs;
        for (int i = 0; i < std::min(section.bars, model.bars); ++i) {
            const BarSpan *here = bar_of(section.start_bar + i), *there = bar_of(model.start_bar + i);
            if (here && there) pairs.emplace_back(here, there);
        }
        // A repeat may be transposed as a whole: by what leaves the fewest notes over.
        int up = 0, fewest = -1;
        for (int k = 0; k <= 2 * kMostSemitones; ++k) {
            const int shift = k % 2 ? (k + 1) / 2 : -k / 2;
            int over = 0;
            for (const auto& [here, there] : pairs)
                for (const HeardPart& part : parts) over += lacking_notes(e, part.notes, *here, *there, -shift);
            if (fewest < 0 || over < fewest) fewest = over, up = shift;
        }
        section.up = up;
        for (const auto& [here, there] : pairs) {
            const auto tell = [&, h = here, t = there](const std::string& element, int missing, int added) {
                if (missing + added > 0) section.differences.push_back({h->number, t->number, h->start_s, h->end_s, element, missing, added, 0, {}, {}});
                return missing + added > 0;
            };
            for (const HeardPart& part : parts) {
                std::vector<HeardNote> gone, come;
                lacking_notes(e, part.notes, *there, *here, up, &gone);
                lacking_notes(e, part.notes, *here, *there, -up, &come);
                if (tell(part.name, static_cast<int>(gone.size()), static_cast<int>(come.size())))
                    section.differences.back().up = one_interval(gone, *there, come, *here, up);
            }
            for (int k = 0; k < kDrumKinds; ++k) {
                const auto kind = static_cast<DrumKind>(k);
                tell(drum_sound(kind).id, lacking_hits(e, drums, kind, *there, *here), lacking_hits(e, drums, kind, *here, *there));
            }
            const ChordSpan *a = ruling_chord(chords, *here), *b = ruling_chord(chords, *there);
            if (!a || !b || a->confidence < kSureChord || b->confidence < kSureChord || a->chord.none() || b->chord.none()) continue;
            const Chord moved = transposed(b->chord, up);
            if (moved.root == a->chord.root && (moved.kind == a->chord.kind || std::min(a->confidence, b->confidence) < kSureKind)) continue;
            tell("Chords", 1, 1);
            section.differences.back().from = moved.label();
            section.differences.back().to = a->chord.label();
        }
    }
}

}  // namespace fw
