// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/describe.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

/// The visitor that reaches every place in time of a document, as its descriptions name them: each t becomes t·factor + shift; distances and lengths t·factor.
class TimeMapper {
public:
    TimeMapper(double factor, Ticks shift) : factor_(factor), shift_(shift) {}

    void place(const char*, Ticks& t, const char*) { t = scaled(t) + shift_; }
    void offset(const char*, Ticks& t, const char*) { t = scaled(t); }
    void span(const char*, Ticks& t, const char*) { t = std::max<Ticks>(1, scaled(t)); }
    void tempo(const char*, TempoMap& map, const char*) { map = map.reread(factor_, shift_); }
    void bend(const char*, std::vector<BendPoint>& points, const char*) {
        for (BendPoint& p : points) p.tick = scaled(p.tick);
    }
    template <class T>
    void list(const char*, std::vector<T>& items, std::size_t, const char*) {
        for (T& item : items) one(item);
    }
    template <class T>
    void piece(const char*, T& thing, const char*) {
        one(thing);
    }

    // Bars are counted anew, so meters stay; all else says nothing of time.
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
    Ticks scaled(Ticks t) const { return factor_ == 1.0 ? t : std::llround(static_cast<double>(t) * factor_); }
    template <class T>
    void one(T& item) {
        describe(*this, item);
    }
    template <class T>
    void one(Shared<T>& item) {
        describe(*this, item.edit());
    }

    double factor_;
    Ticks shift_;
};

}  // namespace fw
