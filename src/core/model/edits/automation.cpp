// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/automation.hpp"

#include "model/edits/macros.hpp"
#include "model/edits/sound.hpp"
#include "model/fields.hpp"
#include "model/note_move.hpp"

#include <algorithm>

namespace fw {

namespace {
const Section* section_at(const Remake& remake, Ticks at) {
    const int i = remake.song->section_at(at);
    return i < 0 ? nullptr : &remake.song->sections[static_cast<std::size_t>(i)];
}

/// The field's row where it can be moved in that section; else null.
const Parameter* movable(const Remake& remake, const FieldRef& field, SectionId section) {
    const Parameter* row = find_field(remake, field);
    return row && row->moves && (!section || remake.song->section(section)) ? row : nullptr;
}

/// What moves a field in a stretch of the song that begins at a tick, counted from there, as points; one point where nothing does.
std::vector<CurvePoint> moved_in(const Remake& remake, const FieldRef& field, SectionId section, Ticks start, Ticks end) {
    if (const Curve* own = section ? find_curve(remake, field, section) : nullptr) return own->points;
    const Curve* song = find_curve(remake, field, {});
    const bool held = std::any_of(remake.automation->settings.begin(), remake.automation->settings.end(),
                                  [&](const SectionSetting& s) { return s.field == field && s.section == section; });
    std::vector<CurvePoint> points{{0, value_moved(remake, field, start)}};
    if (!song || (section && held)) return points;
    if (!section) return song->points;
    for (const CurvePoint& p : song->points) {
        if (p.tick <= start) points.front().shape = p.shape, points.front().bend = p.bend;
        else if (p.tick < end) points.push_back({p.tick - start, p.value, p.shape, p.bend});
    }
    points.push_back({end - start - 1, song->at(static_cast<double>(end - 1))});
    return points;
}

/// Points (counted like those of the curve) in the place of what a curve does from one tick to before another.
std::vector<CurvePoint> laid_over(const std::vector<CurvePoint>& under, Ticks from, Ticks to, Ticks end, const std::vector<CurvePoint>& over) {
    const Curve was{{}, {}, {}, under, {}};
    std::vector<CurvePoint> points;
    for (const CurvePoint& p : under)
        if (p.tick < from - 1) points.push_back(p);
    if (from > 0) points.push_back({from - 1, was.at(static_cast<double>(from - 1))});
    points.insert(points.end(), over.begin(), over.end());
    if (to >= end) return points;
    if (!over.empty() && over.back().tick < to - 1) points.push_back({to - 1, over.back().value});
    CurvePoint back{to, was.at(static_cast<double>(to))};
    for (const CurvePoint& p : under)
        if (p.tick <= to) back.shape = p.shape, back.bend = p.bend;
    points.push_back(back);
    for (const CurvePoint& p : under)
        if (p.tick > to) points.push_back(p);
    return points;
}
}  // namespace

Remake set_in_section(const Remake& remake, const FieldRef& field, SectionId section, double value) {
    const Parameter* row = section ? movable(remake, field, section) : nullptr;
    if (!row) return remake;
    Remake next = clear_in_section(remake, field, section);
    next.automation.edit().settings.push_back({field, section, clamped(*row, value), {}});
    if (const Macro* m = macro_of(remake, field))
        for (const MacroTarget& t : m->targets) next = set_in_section(next, t.field, section, moved_by(next, t, value));
    return next;
}

Remake clear_in_section(const Remake& remake, const FieldRef& field, SectionId section) {
    Remake next = remake;
    std::erase_if(next.automation.edit().settings, [&](const SectionSetting& s) { return s.field == field && s.section == section; });
    if (const Macro* m = macro_of(remake, field))
        for (const MacroTarget& t : m->targets) next = clear_in_section(next, t.field, section);
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
    if (const Macro* m = macro_of(remake, field))
        for (const MacroTarget& t : m->targets) {
            std::vector<CurvePoint> moved = kept;
            for (CurvePoint& p : moved) p.value = moved_by(next, t, p.value);
            next = set_curve(next, t.field, section, std::move(moved));
        }
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

double value_moved(const Remake& remake, const FieldRef& field, Ticks at) {
    if (const Section* section = section_at(remake, at)) {
        if (const Curve* own = find_curve(remake, field, section->id)) return own->at(static_cast<double>(at - section->start));
        for (const SectionSetting& s : remake.automation->settings)
            if (s.field == field && s.section == section->id) return s.value;
    }
    if (const Curve* song = find_curve(remake, field, {})) return song->at(static_cast<double>(std::max<Ticks>(0, at)));
    return field_value(remake, field).value_or(0.0);
}

Remake changed_everywhere(const Remake& remake, const FieldRef& field, const std::function<double(double)>& change) {
    const Parameter* row = find_field(remake, field);
    if (!row) return remake;
    Remake next = set_field(remake, field, clamped(*row, change(*field_value(remake, field))));
    Automation& automation = next.automation.edit();
    for (SectionSetting& s : automation.settings)
        if (s.field == field) s.value = clamped(*row, change(s.value));
    for (Curve& c : automation.curves)
        if (c.field == field)
            for (CurvePoint& p : c.points) p.value = clamped(*row, change(p.value));
    for (NoteMove& m : automation.by_notes)
        if (m.field == field) m.to = clamped(*row, change(m.to));
    return next;
}

Remake lay_over(const Remake& remake, const FieldRef& field, Ticks from, Ticks to, const std::vector<CurvePoint>& points) {
    if (from >= to || !movable(remake, field, {})) return remake;
    Remake next = remake;
    const auto lay = [&](SectionId section, Ticks start, Ticks end, Ticks first, Ticks last) {
        std::vector<CurvePoint> over;
        for (CurvePoint p : points)
            if (p.tick >= first && p.tick < last) p.tick -= start, over.push_back(p);
        // A stretch that begins or ends between two points begins and ends where they lead.
        const Curve line{{}, {}, {}, points, {}};
        if (!points.empty()) {
            if (over.empty() || over.front().tick > first - start) over.insert(over.begin(), {first - start, line.at(static_cast<double>(first))});
            if (over.back().tick < last - 1 - start) over.push_back({last - 1 - start, line.at(static_cast<double>(last - 1))});
        }
        next = set_curve(next, field, section, laid_over(moved_in(next, field, section, start, end), first - start, last - start, end - start, over));
    };
    // What no section holds moves with the song.
    const auto lay_outside = [&](Ticks first, Ticks last) {
        if (first = std::max<Ticks>(0, first); first < last) lay({}, 0, std::max(last, remake.end_tick() + 1), first, last);
    };
    Ticks at = from;
    for (const Section& s : remake.song->sections) {
        const Ticks first = std::max(at, s.start), last = std::min(to, s.start + s.length);
        if (first >= last) continue;
        lay_outside(at, first);
        lay(s.id, s.start, s.start + s.length, first, last);
        at = last;
    }
    lay_outside(at, to);
    return next;
}

Remake reuse_curve(const Remake& remake, const FieldRef& field, SectionId id) {
    const Curve* curve = find_curve(remake, field, id);
    const Section* from = remake.song->section(id);
    if (!curve || !from) return remake;
    Remake next = remake;
    for (const Section& s : remake.song->sections) {
        const bool alike =
            s.repeat_of == id || from->repeat_of == s.id || (from->repeat_of && s.repeat_of == from->repeat_of) || (!s.label.empty() && s.label == from->label);
        if (s.id == id || !alike) continue;
        std::vector<CurvePoint> points = curve->points;
        std::erase_if(points, [&](const CurvePoint& p) { return p.tick >= s.length; });
        if (!points.empty()) next = set_curve(next, field, s.id, std::move(points));
    }
    return next;
}

Remake throw_notes(const Remake& remake, PartId part, BusId bus, const std::vector<NoteRef>& notes, double level_db) {
    const Part* p = remake.part(part);
    if (!p || !remake.mixer->bus(bus)) return remake;
    constexpr double kClosed_db = kSendFields[0].low;
    const bool sent = std::any_of(p->sends.begin(), p->sends.end(), [&](const Send& s) { return s.bus == bus; });
    Remake next = sent ? remake : add_send(remake, part, bus, kClosed_db);
    const FieldRef level{SendRef{part, bus}, kSendFields[0].id};
    for (const PlacedNote& n : placed_notes(*p)) {
        if (std::find(notes.begin(), notes.end(), n.ref()) == notes.end()) continue;
        // Where the send was not moved yet it is closed but for what is thrown.
        if (const Section* s = section_at(next, n.note.start); s && !find_curve(next, level, s->id))
            next = set_curve(next, level, s->id, {{0, kClosed_db, Shape::Hold}});
        const Ticks from = std::max<Ticks>(0, n.note.start);
        next = lay_over(next, level, from, n.note.start + std::max<Ticks>(2, n.note.length), {{from, level_db, Shape::Hold}});
    }
    return next;
}

const Curve* find_curve(const Remake& remake, const FieldRef& field, SectionId section) {
    for (const Curve& c : remake.automation->curves)
        if (c.field == field && c.section == section) return &c;
    return nullptr;
}

Remake move_by_notes(const Remake& remake, NoteMove move) {
    const Parameter* row = movable(remake, move.field, {});
    if (!row || !remake.part(move.by) || std::holds_alternative<MacroId>(move.field.owner)) return remake;
    move.to = clamped(*row, move.to);
    for (std::size_t f = 0; f < kNoteMoveFields.size(); ++f) {
        double& value = move.*kNoteMoveMembers[f];
        value = clamped(kNoteMoveFields[f], value);
    }
    Remake next = remake;
    auto& all = next.automation.edit().by_notes;
    const auto was = std::find_if(all.begin(), all.end(), [&](const NoteMove& m) { return m.field == move.field; });
    was == all.end() ? all.push_back(std::move(move)) : void(*was = std::move(move));
    return next;
}

Remake move_by_no_notes(const Remake& remake, const FieldRef& field) {
    Remake next = remake;
    std::erase_if(next.automation.edit().by_notes, [&](const NoteMove& m) { return m.field == field; });
    return next;
}

}  // namespace fw
