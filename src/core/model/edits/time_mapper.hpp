// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/describe.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <utility>

namespace fw {

/// How song time is counted anew.
struct Recount {
    using Map = std::function<double(double)>;  ///< from old ticks to new ones, ascending

    TempoMap tempo;  ///< the new one
    Map structure;   ///< for what stands on bars: sections, patterns and their places, keys, curves
    Map heard;       ///< for what stands where it sounds: notes, clips, remarks, free time
    Map chords;      ///< for where chords change
};

/// The visitor that reaches every place in time of a document, as its descriptions name them, and counts it anew.
///
/// Notes count from their pattern's start: they are moved as they lie in the first place the pattern, or a variant of it, is played.
class TimeMapper {
public:
    TimeMapper(const Remake& before, Recount recount) : song_(*before.song), how_(std::move(recount)), now_(&how_.structure) {}

    void place(const char*, Ticks& t, const char*) {
        from_ = t;
        t = to_ = mapped(from_);
    }
    void offset(const char*, Ticks& t, const char*) {
        from_ = base_ + t;
        to_ = mapped(from_);
        t = to_ - base_to_;
    }
    void span(const char*, Ticks& t, const char*) { t = std::max<Ticks>(1, mapped(from_ + t) - to_); }
    void tempo(const char*, TempoMap& map, const char*) { map = how_.tempo; }
    void bend(const char*, std::vector<BendPoint>& points, const char*) {
        for (BendPoint& p : points) p.tick = mapped(from_ + p.tick) - to_;
    }
    template <class T>
    void list(const char*, std::vector<T>& items, std::size_t, const char*) {
        for (T& item : items) one(item);
    }
    template <class T>
    void piece(const char*, T& thing, const char*) {
        one(thing);
    }

    // Bars are counted by whoever counts anew, so meters stay; all else says nothing of time.
    template <class... Rest>
    void what(Rest&&...) {}
    template <class... Rest>
    void whole(Rest&&...) {}
    template <class... Rest>
    void number(Rest&&...) {}
    template <class... Rest>
    void field(Rest&&...) {}
    template <class... Rest>
    void flag(Rest&&...) {}
    template <class... Rest>
    void text(Rest&&...) {}
    template <class... Rest>
    void path(Rest&&...) {}
    template <class... Rest>
    void hash(Rest&&...) {}
    template <class... Rest>
    void choice(Rest&&...) {}
    template <class... Rest>
    void id(Rest&&...) {}
    template <class... Rest>
    void meant(Rest&&...) {}
    template <class... Rest>
    void ids(Rest&&...) {}
    template <class... Rest>
    void chord(Rest&&...) {}
    template <class... Rest>
    void key(Rest&&...) {}
    template <class... Rest>
    void guesses(Rest&&...) {}
    template <class... Rest>
    void pitches(Rest&&...) {}
    template <class... Rest>
    void meter(Rest&&...) {}
    template <class... Rest>
    void source(Rest&&...) {}
    template <class... Rest>
    void step_type(Rest&&...) {}
    template <class... Rest>
    void settings(Rest&&...) {}
    template <class... Rest>
    void members(Rest&&...) {}
    template <class... Rest>
    void treatment(Rest&&...) {}
    template <class... Rest>
    void field_ref(Rest&&...) {}
    template <class... Rest>
    void element(Rest&&...) {}
    template <class... Rest>
    void elements(Rest&&...) {}
    template <class... Rest>
    void unknown(Rest&&...) {}

private:
    Ticks mapped(Ticks t) const { return std::llround((*now_)(static_cast<double>(t))); }

    template <class T>
    void under(const Recount::Map& map, T& item) {
        const auto* before = std::exchange(now_, &map);
        describe(*this, item);
        now_ = before;
    }
    void begin_at(Ticks base) {
        from_ = base_ = base;
        to_ = base_to_ = mapped(base);
    }
    /// Where each pattern of a version is played first.
    template <class Version>
    void version(Version& v) {
        auto before = std::move(first_);
        first_.clear();
        for (const Placement& p : v.placements) {
            first_.emplace(p.pattern, p.start);
            if (const Pattern* pattern = v.pattern(p.pattern); pattern && pattern->parent) first_.emplace(pattern->parent, p.start);
        }
        describe(*this, v);
        first_ = std::move(before);
    }

    template <class T>
    void one(T& item) {
        describe(*this, item);
    }
    template <class T>
    void one(Shared<T>& item) {
        one(item.edit());
    }
    void one(Part& item) { version(item); }
    void one(PartVersion& item) { version(item); }
    void one(Pattern& item) {
        const auto at = first_.find(item.id);
        begin_at(at == first_.end() ? 0 : at->second);
        describe(*this, item);
        std::stable_sort(item.notes.begin(), item.notes.end(), [](const Note& a, const Note& b) { return a.start < b.start; });
    }
    void one(Note& item) { under(how_.heard, item); }
    void one(ChordEvent& item) { under(how_.chords, item); }
    void one(Clip& item) { under(how_.heard, item); }
    void one(Remark& item) { under(how_.heard, item); }
    void one(FreeTime& item) { under(how_.heard, item); }
    void one(Curve& item) {
        const Section* section = song_.section(item.section);
        begin_at(section ? section->start : 0);
        describe(*this, item);
    }

    const Song song_;  ///< as it was
    Recount how_;
    const Recount::Map* now_;
    Ticks base_ = 0, base_to_ = 0, from_ = 0, to_ = 0;
    std::map<PatternId, Ticks> first_;
};

}  // namespace fw
