// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/automation.hpp"

#include "model/fields.hpp"

#include <algorithm>

namespace fw {

namespace {
/// The field's row where it can be moved in that section; else null.
const Parameter* movable(const Remake& remake, const FieldRef& field, SectionId section) {
    const Parameter* row = find_field(remake, field);
    return row && row->moves && (!section || remake.song->section(section)) ? row : nullptr;
}
}  // namespace

Remake set_in_section(const Remake& remake, const FieldRef& field, SectionId section, double value) {
    const Parameter* row = section ? movable(remake, field, section) : nullptr;
    if (!row) return remake;
    Remake next = clear_in_section(remake, field, section);
    next.automation.edit().settings.push_back({field, section, clamped(*row, value), {}});
    return next;
}

Remake clear_in_section(const Remake& remake, const FieldRef& field, SectionId section) {
    Remake next = remake;
    std::erase_if(next.automation.edit().settings, [&](const SectionSetting& s) { return s.field == field && s.section == section; });
    return next;
}

Remake set_curve(const Remake& remake, const FieldRef& field, SectionId section, std::vector<CurvePoint> points) {
    const Parameter* row = movable(remake, field, section);
    if (!row) return remake;
    std::stable_sort(points.begin(), points.end(), [](const CurvePoint& a, const CurvePoint& b) { return a.tick < b.tick; });
    // Of two points at one place the later drawn one counts.
    std::vector<CurvePoint> kept;
    for (CurvePoint& p : points) {
        p.value = clamped(*row, p.value);
        p.bend = std::clamp(p.bend, -1.0, 1.0);
        if (!kept.empty() && kept.back().tick == p.tick) kept.back() = p;
        else kept.push_back(p);
    }
    Remake next = remake;
    auto& curves = next.automation.edit().curves;
    const auto at = std::find_if(curves.begin(), curves.end(), [&](const Curve& c) { return c.field == field && c.section == section; });
    if (kept.empty()) {
        if (at != curves.end()) curves.erase(at);
    } else if (at != curves.end()) {
        at->points = std::move(kept);
    } else {
        curves.push_back({CurveId(next.next_id++), field, section, std::move(kept), {}});
    }
    return next;
}

const Curve* find_curve(const Remake& remake, const FieldRef& field, SectionId section) {
    for (const Curve& c : remake.automation->curves)
        if (c.field == field && c.section == section) return &c;
    return nullptr;
}

}  // namespace fw
