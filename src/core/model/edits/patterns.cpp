// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/patterns.hpp"

#include "model/edits/parts.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <set>

namespace fw {

namespace {

constexpr Ticks kNear = kTicksPerQuarter / 8;

/// A note played just ahead of a beat belongs to what begins there.
Ticks heart_of(const Note& n) { return n.start + std::min<Ticks>(n.length / 2, kTicksPerQuarter / 8); }

/// Share of notes two patterns have in common, `near` each other. Both ascend by start.
double common_share(const std::vector<Note>& a, const std::vector<Note>& b, Ticks near = kNear) {
    if (a.empty() && b.empty()) return 1.0;
    // By pitch, so that one walk through both finds all pairs.
    std::array<std::vector<Ticks>, 128> theirs;
    std::array<std::size_t, 128> next{};
    for (const Note& n : b) theirs[static_cast<std::size_t>(n.pitch)].push_back(n.start);
    std::size_t shared = 0;
    for (const Note& n : a) {
        const auto& starts = theirs[static_cast<std::size_t>(n.pitch)];
        std::size_t& at = next[static_cast<std::size_t>(n.pitch)];
        while (at < starts.size() && starts[at] < n.start - near) ++at;
        if (at < starts.size() && starts[at] <= n.start + near) ++at, ++shared;
    }
    return 2.0 * static_cast<double>(shared) / static_cast<double>(a.size() + b.size());
}

bool came_from_outside(const std::vector<Note>& notes) {
    return std::any_of(notes.begin(), notes.end(), [](const Note& n) { return n.origin == Origin::Imported; });
}

/// Whether notes that have no ids yet are those of a pattern: nothing that came from outside is altered by it.
bool are_one_pattern(const std::vector<Note>& a, const std::vector<Note>& pattern) {
    if (!came_from_outside(a)) return common_share(a, pattern) >= 0.995;
    return std::equal(a.begin(), a.end(), pattern.begin(), pattern.end(), [](const Note& x, const Note& y) {
        Note same = x;
        same.id = y.id;
        return same == y;
    });
}

}  // namespace

void place_notes(Part& part, const std::vector<Note>& song_notes, const std::vector<Section>& sections, const MeterMap& meter) {
    char next_letter = 'A';
    std::vector<std::vector<Note>> inside(sections.size()), outside(sections.size() + 1);  // outside: before the first section, after it, …
    const auto begun_by = [&](Ticks t) {
        return static_cast<std::size_t>(std::upper_bound(sections.begin(), sections.end(), t, [](Ticks x, const Section& s) { return x < s.start; }) -
                                        sections.begin());
    };
    for (const Note& n : song_notes) {
        const Ticks heart = heart_of(n);
        const std::size_t s = begun_by(heart);
        if (s == 0 || heart >= sections[s - 1].start + sections[s - 1].length) {
            outside[begun_by(n.start)].push_back(n);
            continue;
        }
        inside[s - 1].push_back(n);
        inside[s - 1].back().start -= sections[s - 1].start;
    }
    const auto place = [&](PatternId pattern, Ticks start) { part.placements.push_back({pattern, start, false, PlacementId(part.next_id++)}); };
    const auto add = [&](Pattern made) {
        made.id = PatternId(part.next_id++);
        for (Note& n : made.notes)
            if (!n.id) n.id = NoteId(part.next_id++);
        part.patterns.emplace_back(std::move(made));
        return part.patterns.back()->id;
    };
    for (std::size_t s = 0; s < sections.size(); ++s) {
        if (inside[s].empty()) continue;
        // The pattern it is most like, and among that one's variants one that it simply repeats.
        const Pattern* twin = nullptr;
        double best = 0.0;
        for (const auto& p : part.patterns) {
            if (p->parent || p->length != sections[s].length) continue;
            const double share = common_share(inside[s], p->notes);
            if (share > best) best = share, twin = p.get();
        }
        const Pattern* same = nullptr;
        for (const auto& p : part.patterns)
            if (!same && twin && (p.get() == twin || p->parent == twin->id) && are_one_pattern(inside[s], part.notes(*p))) same = p.get();
        if (same) {
            place(same->id, sections[s].start);
            continue;
        }
        Pattern made;
        if (twin && best >= 0.6) {
            made = variant_of(*twin, std::move(inside[s]), kNear, part.next_id);
            made.letter = part.variant_letter(*twin);
        } else {
            made.notes = std::move(inside[s]);
            made.letter = std::string(1, next_letter);
            if (next_letter < 'Z') ++next_letter;
        }
        made.length = sections[s].length;
        place(add(std::move(made)), sections[s].start);
    }
    // What lies outside all sections: one pattern a gap between them, from its first note's bar to the bar after its last note's.
    for (std::vector<Note>& gap : outside) {
        if (gap.empty()) continue;
        const Ticks begin = meter.tick_of_bar(meter.position(gap.front().start).bar);
        const Ticks end = meter.tick_of_bar(meter.position(gap.back().start).bar + 1);
        for (Note& n : gap) n.start -= begin;
        Pattern made;
        made.letter = "·";
        made.length = std::max<Ticks>(kTicksPerQuarter, end - begin);
        made.notes = std::move(gap);
        place(add(std::move(made)), begin);
    }
    std::stable_sort(part.placements.begin(), part.placements.end(), [](const Placement& a, const Placement& b) { return a.start < b.start; });
}

namespace {

/// A stretch of bars that may be a pattern.
struct Stretch {
    Ticks start = 0, length = 0;
    std::vector<Note> notes;  ///< counting from its start, ascending
};

/// Cuts a song into stretches of bars, anew at each section.
class Cutter {
public:
    Cutter(const Song& song, const std::vector<Note>& notes) : meter_(song.meter) {
        if (notes.empty()) return;
        // Edges: where the sections begin, and what lies before and between them.
        Ticks from = meter_.tick_of_bar(meter_.position(std::min(heart_of(notes.front()), notes.front().start)).bar);
        Ticks last = from;
        for (const Note& n : notes) last = std::max(last, heart_of(n));
        const Ticks end = meter_.tick_of_bar(meter_.position(last).bar + 1);
        edges_.push_back(from);
        for (const Section& s : song.sections)
            for (const Ticks edge : {s.start, s.start + s.length})
                if (edge > edges_.back() && edge < end) edges_.push_back(edge);
        edges_.push_back(end);
    }
    std::size_t sections() const { return edges_.empty() ? 0 : edges_.size() - 1; }

    /// One section in stretches of so many bars, the last shorter where it does not divide.
    std::vector<Stretch> cut(const std::vector<Note>& notes, std::size_t section, int bars) const {
        std::vector<Stretch> out;
        const Ticks begin = edges_[section], end = edges_[section + 1];
        for (Ticks at = begin; at < end;) {
            const Ticks next = std::min(end, meter_.tick_of_bar(meter_.position(at).bar + bars));
            out.push_back({at, next - at, {}});
            at = next;
        }
        // Nothing's heart lies more than an eighth of a beat behind its start.
        auto n = std::lower_bound(notes.begin(), notes.end(), begin - kTicksPerQuarter / 8, [](const Note& x, Ticks t) { return x.start < t; });
        const bool first = section == 0, last = section + 2 == edges_.size();
        for (std::size_t k = 0; n != notes.end() && (n->start < end || last); ++n) {
            const Ticks heart = heart_of(*n);
            if ((heart < begin && !first) || (heart >= end && !last)) continue;
            while (k > 0 && heart < out[k].start) --k;
            while (k + 1 < out.size() && heart >= out[k + 1].start) ++k;
            out[k].notes.push_back(*n);
            out[k].notes.back().start -= out[k].start;
        }
        for (Stretch& s : out) sort_notes(s.notes);
        return out;
    }

private:
    const MeterMap& meter_;
    std::vector<Ticks> edges_;
};

/// Whether a note is the user's word or heard beyond doubt.
bool is_sure(const Note& n, const Folding& how) { return n.origin != Origin::Heard || n.accepted || n.confidence >= how.sure; }

/// Stretches that are one pattern, by their index; the first is the one it was made from.
struct Kind {
    std::vector<std::size_t> members;
};

/// Puts stretches to the kinds they are of, new ones behind; gives what it costs to say them, in notes.
double add_to_kinds(std::vector<Kind>& kinds, const std::vector<Stretch>& all, std::size_t from, const Folding& how) {
    constexpr double kPattern = 2.0, kPlacement = 0.25;
    double cost = 0.0;
    for (std::size_t i = from; i < all.size(); ++i) {
        const Stretch& s = all[i];
        if (s.notes.empty()) continue;
        Kind* best = nullptr;
        double share = how.alike;
        for (Kind& k : kinds) {
            if (all[k.members.front()].length != s.length) continue;
            // Against its first and its latest: what changes little by little is one kind.
            const double now =
                std::max(common_share(s.notes, all[k.members.front()].notes, how.near), common_share(s.notes, all[k.members.back()].notes, how.near));
            if (now >= share && (!best || now > share)) share = now, best = &k;
        }
        const auto size = static_cast<double>(s.notes.size());
        if (best) {
            const double other = static_cast<double>(all[best->members.front()].notes.size());
            cost += kPlacement + (1.0 - share) * (size + other) + (share < 1.0 ? kPattern : 0.0);
            best->members.push_back(i);
        } else {
            cost += kPlacement + kPattern + size;
            kinds.push_back({{i}});
        }
    }
    return cost;
}

/// Notes of several stretches that are one note, at most one of each.
struct Same {
    int pitch = 0;
    double place = 0.0;                        ///< mean start
    std::map<std::size_t, const Note*> notes;  ///< by member
};

std::vector<Same> same_notes(const std::vector<Stretch>& all, const Kind& kind, Ticks near) {
    std::array<std::vector<Same>, 128> by_pitch;
    for (std::size_t m = 0; m < kind.members.size(); ++m)
        for (const Note& n : all[kind.members[m]].notes) {
            auto& here = by_pitch[static_cast<std::size_t>(n.pitch)];
            Same* best = nullptr;
            for (Same& s : here)
                if (!s.notes.contains(m) && std::abs(static_cast<double>(n.start) - s.place) <= static_cast<double>(near) &&
                    (!best || std::abs(static_cast<double>(n.start) - s.place) < std::abs(static_cast<double>(n.start) - best->place)))
                    best = &s;
            if (!best) best = &here.emplace_back(Same{n.pitch, static_cast<double>(n.start), {}});
            best->notes.emplace(m, &n);
            best->place += (static_cast<double>(n.start) - best->place) / static_cast<double>(best->notes.size());
        }
    std::vector<Same> out;
    for (auto& here : by_pitch) std::move(here.begin(), here.end(), std::back_inserter(out));
    return out;
}

template <class Of>
auto middle(const Same& s, Of&& of) {
    std::vector<decltype(of(*s.notes.begin()->second))> values;
    for (const auto& [m, n] : s.notes) values.push_back(of(*n));
    const auto mid = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
    std::nth_element(values.begin(), mid, values.end());
    return *mid;
}

/// The note that stands for its repeats.
Note standing_for(const Same& s) {
    const auto clearest =
        std::max_element(s.notes.begin(), s.notes.end(), [](const auto& a, const auto& b) { return a.second->confidence < b.second->confidence; });
    Note n = *clearest->second;
    n.start = middle(s, [](const Note& x) { return x.start; });
    n.length = middle(s, [](const Note& x) { return x.length; });
    n.velocity = middle(s, [](const Note& x) { return x.velocity; });
    n.muted = middle(s, [](const Note& x) { return static_cast<int>(x.muted); }) != 0;
    n.accepted = std::any_of(s.notes.begin(), s.notes.end(), [](const auto& x) { return x.second->accepted; });
    n.own = kAllOwn;
    return n;
}

std::string letter_of(std::size_t i) { return std::string(1, static_cast<char>('A' + i % 26)) + (i < 26 ? "" : std::to_string(i / 26 + 1)); }

/// Writes a part's patterns and placements from kinds of stretches.
class Folder {
public:
    /// letters: so many are given away already.
    Folder(Part& part, const std::vector<Stretch>& all, const Folding& how, std::size_t letters = 0) : part_(part), all_(all), how_(how), letters_(letters) {}
    std::size_t letters() const { return letters_; }

    void fold(const Kind& kind) {
        const std::vector<Same> same = same_notes(all_, kind, how_.near);
        const std::size_t members = kind.members.size();
        Pattern parent;
        parent.id = PatternId(part_.next_id++);
        parent.letter = letter_of(letters_++);
        parent.length = all_[kind.members.front()].length;
        for (std::size_t i = 0; i < same.size(); ++i) {
            const std::size_t with = same[i].notes.size();
            // Of two repeats neither is the rule: the first is.
            if (members == 2 ? !same[i].notes.contains(0) : 2 * with <= members) continue;
            Note n = standing_for(same[i]);
            n.id = NoteId(part_.next_id++);
            ids_[i] = n.id;
            parent.notes.push_back(std::move(n));
        }
        sort_notes(parent.notes);
        if (parent.notes.empty()) {  // nothing that most have: each is its own
            --letters_;
            if (members == 1) return;  // it plays nothing at all
            for (const std::size_t m : kind.members) fold({{m}});
            return;
        }
        const PatternId parent_id = parent.id;
        part_.patterns.emplace_back(std::move(parent));
        std::vector<Pattern> variants;
        for (std::size_t m = 0; m < members; ++m) {
            Pattern v = variant(*part_.pattern(parent_id), same, m);
            PatternId plays = parent_id;
            if (!v.notes.empty() || !v.left_out.empty()) {
                const auto twin = std::find_if(variants.begin(), variants.end(), [&](const Pattern& x) { return same_but_ids(x, v); });
                if (twin != variants.end()) {
                    plays = twin->id;
                } else {
                    v.id = PatternId(part_.next_id++);
                    v.letter = part_.variant_letter(*part_.pattern(parent_id));
                    for (Note& n : v.notes)
                        if (!n.id) n.id = NoteId(part_.next_id++);
                    plays = v.id;
                    variants.push_back(v);
                    part_.patterns.emplace_back(std::move(v));
                }
            }
            part_.placements.push_back({plays, all_[kind.members[m]].start, false, PlacementId(part_.next_id++), {}});
        }
        ids_.clear();
    }

private:
    /// What a member differs in from the pattern.
    Pattern variant(const Pattern& parent, const std::vector<Same>& same, std::size_t m) const {
        Pattern v;
        v.parent = parent.id;
        v.length = parent.length;
        for (std::size_t i = 0; i < same.size(); ++i) {
            const auto mine = same[i].notes.find(m);
            const auto id = ids_.find(i);
            if (id == ids_.end()) {
                // Only this one and few others have it.
                if (mine != same[i].notes.end() && is_sure(*mine->second, how_)) {
                    Note n = *mine->second;
                    n.id = {};
                    n.own = kAllOwn;
                    v.notes.push_back(std::move(n));
                }
            } else if (mine == same[i].notes.end()) {
                // It is left out here only if it is sure to be there where it is.
                const auto sure = std::count_if(same[i].notes.begin(), same[i].notes.end(), [&](const auto& n) { return is_sure(*n.second, how_); });
                if (2 * static_cast<std::size_t>(sure) > same[i].notes.size()) v.left_out.push_back(id->second);
            } else {
                Note n = *mine->second;
                n.id = id->second;
                const Note& theirs = *parent.own(n.id);
                n.own = difference(n, theirs) & (how_.keep_timing ? kOwnStart | kOwnLength | kOwnVelocity | kOwnMuted : kOwnMuted);
                if (!(n.bend == theirs.bend) && is_sure(n, how_) && n.origin != Origin::Heard) n.own |= kOwnRest;
                if (n.own != 0) v.notes.push_back(std::move(n));
            }
        }
        std::sort(v.left_out.begin(), v.left_out.end());
        sort_notes(v.notes);
        return v;
    }

    bool same_but_ids(const Pattern& a, const Pattern& b) const {
        return a.left_out == b.left_out && a.notes.size() == b.notes.size() &&
               std::equal(a.notes.begin(), a.notes.end(), b.notes.begin(), [&](const Note& x, const Note& y) {
                   const bool added = y.own == kAllOwn;
                   if (x.own != y.own || x.pitch != y.pitch || (!added && x.id != y.id)) return false;
                   if (how_.keep_timing || !added) return difference(x, y) == 0;
                   return std::abs(x.start - y.start) <= how_.near;
               });
    }

    Part& part_;
    const std::vector<Stretch>& all_;
    const Folding& how_;
    std::map<std::size_t, NoteId> ids_;  ///< of the pattern's notes, by their place among the same
    std::size_t letters_;
};

}  // namespace

Remake find_patterns(const Remake& remake, PartId id, const Folding& how) {
    const Part* part = remake.part(id);
    if (!part) return remake;
    std::vector<Note> notes;
    for (const PlacedNote& p : placed_notes(*part)) {
        notes.push_back(p.note);
        notes.back().muted = p.muted;
        notes.back().own = kAllOwn;
    }
    if (notes.empty()) return remake;
    const Cutter cutter(*remake.song, notes);
    // Section by section, each cut as it is said most shortly with the patterns there are by then.
    std::vector<Stretch> stretches;
    std::vector<Kind> kinds;
    const std::vector<int> lengths = how.bars > 0 ? std::vector{how.bars} : std::vector{1, 2, 4, 8, 16};
    for (std::size_t s = 0; s < cutter.sections(); ++s) {
        std::vector<Stretch> best_cut;
        const std::size_t before = stretches.size();
        std::vector<Kind> best_kinds;
        double least = 1e300;
        for (const int length : lengths) {
            std::vector<Kind> with = kinds;
            stretches.resize(before);
            for (Stretch& x : cutter.cut(notes, s, length)) stretches.push_back(std::move(x));
            const double cost = add_to_kinds(with, stretches, before, how);
            if (cost < least)
                least = cost, best_cut.assign(stretches.begin() + static_cast<std::ptrdiff_t>(before), stretches.end()), best_kinds = std::move(with);
        }
        stretches.resize(before);
        std::move(best_cut.begin(), best_cut.end(), std::back_inserter(stretches));
        kinds = std::move(best_kinds);
    }
    return with_part(remake, id, [&](Part& p) {
        p.patterns.clear();
        p.placements.clear();
        Folder folder(p, stretches, how);
        for (const Kind& k : kinds) folder.fold(k);
        std::stable_sort(p.placements.begin(), p.placements.end(), [](const Placement& a, const Placement& b) { return a.start < b.start; });
    });
}

Remake spread_stretch(const Remake& remake, PartId id, Ticks from, Ticks length, std::vector<Repeat> places) {
    const Part* part = remake.part(id);
    if (!part || length < 1) return remake;
    Folding how;
    how.keep_timing = true;
    how.sure = 0.0;  // it was decided already what differs
    std::sort(places.begin(), places.end(), [](const Repeat& a, const Repeat& b) { return a.at < b.at; });
    Ticks free = -limits::kFarthestTick;
    std::erase_if(places, [&](const Repeat& p) {
        const bool taken = p.at < free || (p.at < from + length && from < p.at + length);
        if (!taken) free = p.at + length;
        return taken;
    });
    // The stretch first: it is what the others are repeats of.
    std::vector<Stretch> all{{from, length, {}}};
    for (const Repeat& p : places) all.push_back({p.at, length, {}});
    const auto window_of = [&](Ticks heart) -> Stretch* {
        for (Stretch& s : all)
            if (heart >= s.start && heart < s.start + s.length) return &s;
        return nullptr;
    };
    std::vector<Note> rest;
    std::vector<std::pair<NoteRef, Note>> spread;
    for (const PlacedNote& p : placed_notes(*part)) {
        Note n = p.note;
        n.muted = p.muted;
        n.own = kAllOwn;
        Stretch* window = window_of(heart_of(n));
        if (!window) {
            rest.push_back(std::move(n));
        } else if (window == &all.front()) {
            n.start -= from;
            all.front().notes.push_back(n);
            spread.emplace_back(p.ref(), std::move(n));
        }
    }
    Kind kind{{0}};
    for (std::size_t i = 0; i < places.size(); ++i) {
        kind.members.push_back(i + 1);
        for (const auto& [ref, n] : spread)
            if (std::find(places[i].left_out.begin(), places[i].left_out.end(), ref) == places[i].left_out.end()) all[i + 1].notes.push_back(n);
        for (Note n : places[i].added) {
            n.start -= places[i].at;
            n.own = kAllOwn;
            all[i + 1].notes.push_back(std::move(n));
        }
        sort_notes(all[i + 1].notes);
    }
    // What lies around: cut where the sections and these stretches begin and end.
    std::set<Ticks> edges;
    for (const Stretch& s : all) edges.insert({s.start, s.start + s.length});
    for (const Section& s : remake.song->sections) edges.insert({s.start, s.start + s.length});
    const MeterMap& meter = remake.song->meter;
    for (const Note& n : rest)
        edges.insert({meter.tick_of_bar(meter.position(std::min(n.start, heart_of(n))).bar), meter.tick_of_bar(meter.position(heart_of(n)).bar + 1)});
    std::vector<Stretch> around;
    // Bars of one stretch between two firm edges are one.
    std::set<Ticks> firm;
    for (const Stretch& s : all) firm.insert({s.start, s.start + s.length});
    for (const Section& s : remake.song->sections) firm.insert({s.start, s.start + s.length});
    for (const Note& n : rest) {
        const Ticks heart = heart_of(n);
        const Ticks begin = *std::prev(edges.upper_bound(heart));
        if (around.empty() || heart >= around.back().start + around.back().length) {
            const Ticks end = *edges.upper_bound(heart);
            // On with the one before where nothing firm lies between.
            if (!around.empty() && firm.upper_bound(around.back().start) == firm.upper_bound(begin)) around.back().length = end - around.back().start;
            else around.push_back({begin, end - begin, {}});
        }
        around.back().notes.push_back(n);
        around.back().notes.back().start -= around.back().start;
    }
    std::vector<Kind> kinds;
    for (Stretch& s : around) sort_notes(s.notes);
    add_to_kinds(kinds, around, 0, how);
    return with_part(remake, id, [&](Part& p) {
        p.patterns.clear();
        p.placements.clear();
        Folder folder(p, all, how);
        folder.fold(kind);
        Folder others(p, around, how, folder.letters());
        for (const Kind& k : kinds) others.fold(k);
        std::stable_sort(p.placements.begin(), p.placements.end(), [](const Placement& a, const Placement& b) { return a.start < b.start; });
    });
}

std::vector<Variation> variations(const PartVersion& part) {
    std::vector<Variation> out;
    for (const Placement& place : part.placements) {
        const Pattern* p = part.pattern(place.pattern);
        const Pattern* parent = p && p->parent ? part.pattern(p->parent) : nullptr;
        if (!parent) continue;
        Variation v{place.id, place.start, p->length, 0, static_cast<int>(p->left_out.size()), 0, {}};
        for (const Note& n : p->notes) {
            const Note* theirs = parent->own(n.id);
            if (!theirs) ++v.added;
            else if (n.own & (kOwnPitch | kOwnMuted)) ++v.changed;
            else continue;
            v.places.push_back(place.start + (theirs ? resolved(n, *theirs) : n).start);
        }
        for (const NoteId gone : p->left_out)
            if (const Note* theirs = parent->own(gone)) v.places.push_back(place.start + theirs->start);
        std::sort(v.places.begin(), v.places.end());
        if (!v.places.empty()) out.push_back(std::move(v));
    }
    return out;
}

Remake place_pattern(const Remake& remake, PartId id, PatternId pattern, Ticks at) {
    const Part* part = remake.part(id);
    const Pattern* wanted = part ? part->pattern(pattern) : nullptr;
    if (!wanted) return remake;
    for (const Placement& p : part->placements) {
        const Pattern* there = part->pattern(p.pattern);
        if (there && p.start < at + wanted->length && at < p.start + there->length) return remake;
    }
    return with_part(remake, id, [&](Part& p) {
        const auto before = std::upper_bound(p.placements.begin(), p.placements.end(), at, [](Ticks t, const Placement& x) { return t < x.start; });
        p.placements.insert(before, {pattern, at, false, PlacementId(p.next_id++), {}});
    });
}

}  // namespace fw
