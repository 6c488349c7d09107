// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/macros.hpp"

#include "model/edits/automation.hpp"
#include "model/edits/sound.hpp"
#include "model/fields.hpp"

#include <algorithm>

namespace fw {

namespace {

Macro* edited(Remake& remake, MacroId id) {
    if (!remake.automation->macro(id)) return nullptr;
    for (Macro& m : remake.automation.edit().macros)
        if (m.id == id) return &m;
    return nullptr;
}

}  // namespace

Remake add_macro(const Remake& remake, const std::string& name) {
    Remake next = remake;
    const MacroId id(next.next_id++);
    next.automation.edit().macros.push_back({id, name, 0.0, {}, {}});
    return next;
}

Remake remove_macro(const Remake& remake, MacroId macro) {
    if (!remake.automation->macro(macro)) return remake;
    Remake next = remake;
    Automation& a = next.automation.edit();
    std::erase_if(a.macros, [&](const Macro& m) { return m.id == macro; });
    std::erase_if(a.curves, [&](const Curve& c) { return c.field.owner == FieldOwner(macro); });
    std::erase_if(a.settings, [&](const SectionSetting& s) { return s.field.owner == FieldOwner(macro); });
    return next;
}

Remake set_target(const Remake& remake, MacroId macro, const FieldRef& field, double from, double to) {
    const Parameter* row = find_field(remake, field);
    if (!row || !row->moves || std::holds_alternative<MacroId>(field.owner)) return remake;
    Remake next = remake;
    Macro* m = edited(next, macro);
    if (!m) return remake;
    const auto at = std::find_if(m->targets.begin(), m->targets.end(), [&](const MacroTarget& t) { return t.field == field; });
    MacroTarget& target = at == m->targets.end() ? m->targets.emplace_back() : *at;
    target.field = field;
    target.from = clamped(*row, from);
    target.to = clamped(*row, to);
    return set_macro(next, macro, m->amount);
}

Remake remove_target(const Remake& remake, MacroId macro, const FieldRef& field) {
    Remake next = remake;
    if (Macro* m = edited(next, macro)) std::erase_if(m->targets, [&](const MacroTarget& t) { return t.field == field; });
    return next;
}

Remake set_macro(const Remake& remake, MacroId macro, double amount) {
    Remake next = remake;
    Macro* m = edited(next, macro);
    if (!m) return remake;
    m->amount = clamped(kMacroFields[0], amount);
    const Macro now = *m;
    for (const MacroTarget& t : now.targets) next = set_field(next, t.field, moved_by(next, t, now.amount));
    return next;
}

const Macro* macro_of(const Remake& remake, const FieldRef& field) {
    const auto* id = std::get_if<MacroId>(&field.owner);
    return id ? remake.automation->macro(*id) : nullptr;
}

double moved_by(const Remake& remake, const MacroTarget& target, double amount) {
    const Parameter* row = find_field(remake, target.field);
    if (!row) return 0.0;
    const double from = position_of(*row, target.from), to = position_of(*row, target.to);
    return value_at(*row, from + std::clamp(amount, 0.0, 1.0) * (to - from));
}

}  // namespace fw
