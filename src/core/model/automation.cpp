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

double Curve::at(double tick) const {
    const auto next = std::upper_bound(points.begin(), points.end(), tick, [](double t, const CurvePoint& p) { return t < static_cast<double>(p.tick); });
    if (next == points.begin()) return points.front().value;
    const CurvePoint& a = *(next - 1);
    if (next == points.end() || a.shape == Shape::Hold) return a.value;
    const double way = (tick - static_cast<double>(a.tick)) / static_cast<double>(next->tick - a.tick);
    double share = way;
    if (a.shape == Shape::Smooth) share = way * way * (3.0 - 2.0 * way);
    // Exponents 1/8 … 8: bend 0 is straight, and -b mirrors b.
    else if (a.shape == Shape::Curved) share = a.bend >= 0.0 ? std::pow(way, std::exp2(3.0 * a.bend)) : 1.0 - std::pow(1.0 - way, std::exp2(-3.0 * a.bend));
    return a.value + (next->value - a.value) * share;
}

const Macro* Automation::macro(MacroId id) const {
    for (const Macro& m : macros)
        if (m.id == id) return &m;
    return nullptr;
}

}  // namespace fw
