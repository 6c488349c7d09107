// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/automation.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

const char* shape_name(Shape shape) {
    switch (shape) {
        case Shape::Straight: return "straight";
        case Shape::Smooth: return "smooth";
        case Shape::Hold: return "hold";
        case Shape::Curved: break;
    }
    return "curved";
}

double share_of_way(Shape shape, double bend, double time) {
    switch (shape) {
        case Shape::Straight: break;
        case Shape::Smooth: return time * time * (3.0 - 2.0 * time);
        case Shape::Hold: return 0.0;
        case Shape::Curved: return bend >= 0.0 ? std::pow(time, std::exp2(3.0 * bend)) : 1.0 - std::pow(1.0 - time, std::exp2(-3.0 * bend));
    }
    return time;
}

double Curve::at(double tick) const {
    const auto next = std::upper_bound(points.begin(), points.end(), tick, [](double t, const CurvePoint& p) { return t < static_cast<double>(p.tick); });
    if (next == points.begin()) return points.front().value;
    const CurvePoint& a = *(next - 1);
    if (next == points.end() || a.shape == Shape::Hold) return a.value;
    const double way = (tick - static_cast<double>(a.tick)) / static_cast<double>(next->tick - a.tick);
    return a.value + (next->value - a.value) * share_of_way(a.shape, a.bend, way);
}

const Macro* Automation::macro(MacroId id) const {
    for (const Macro& m : macros)
        if (m.id == id) return &m;
    return nullptr;
}

const NoteMove* Automation::note_move(const FieldRef& field) const {
    for (const NoteMove& m : by_notes)
        if (m.field == field) return &m;
    return nullptr;
}

}  // namespace fw
