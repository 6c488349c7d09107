// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/parts.hpp"

#include "model/fields.hpp"

#include <algorithm>
#include <set>

namespace fw {

Remake with_part(const Remake& remake, PartId part, const std::function<void(Part&)>& change) {
    Remake next = remake;
    for (auto& shared : next.parts)
        if (shared->id == part) {
            change(shared.edit());
            break;
        }
    return next;
}

Remake add_part(const Remake& remake, const std::string& name, PartRole role, Layer layer) {
    Remake next = remake;
    Part part;
    part.id = PartId(next.next_id++);
    part.name = name;
    part.role = role;
    layer.id = LayerId(next.next_id++);
    part.layers.push_back(std::move(layer));
    next.notebook.edit().elements[part.id].state = State::Draft;
    next.parts.emplace_back(std::move(part));
    return next;
}

Remake only_part(const Remake& remake, PartId id, const std::vector<NoteRef>& notes) {
    Remake next = remake;
    std::erase_if(next.parts, [&](const auto& p) { return p->id != id; });
    if (notes.empty() || next.parts.empty()) return without_loose_ends(std::move(next));
    const std::set<NoteRef> wanted(notes.begin(), notes.end());
    Pattern some;
    std::vector<Note> kept;
    for (const PlacedNote& n : placed_notes(*next.parts.front()))
        if (wanted.contains(n.ref())) {
            kept.push_back(n.note);
            kept.back().own = kAllOwn;
            kept.back().muted = n.muted;
        }
    Part& part = next.parts.front().edit();
    some.id = PatternId(part.next_id++);
    some.letter = "A";
    some.length = std::max<Ticks>(kTicksPerQuarter, next.end_tick());
    for (Note& n : kept) n.id = NoteId(part.next_id++);
    some.notes = std::move(kept);
    part.patterns = {std::move(some)};
    part.placements = {{part.patterns.front()->id, 0, false, PlacementId(part.next_id++), {}}};
    return without_loose_ends(std::move(next));
}

Remake remove_part(const Remake& remake, PartId part) {
    Remake next = remake;
    std::erase_if(next.parts, [&](const auto& p) { return p->id == part; });
    return without_loose_ends(std::move(next));
}

Remake mute_cell(const Remake& remake, PartId part, SectionId section, bool muted) {
    const Section* s = remake.song->section(section);
    if (!s) return remake;
    return with_part(remake, part, [&](Part& p) {
        for (Placement& x : p.placements)
            if (x.start < s->start + s->length && x.start >= s->start) x.muted = muted;
    });
}

Remake clear_mutes_and_solos(const Remake& remake) {
    Remake next = remake;
    for (auto& shared : next.parts)
        if (shared->mute || shared->solo) shared.edit().mute = shared.edit().solo = false;
    return next;
}

Remake add_rival(const Remake& remake, PartId part, const std::string& name) {
    return with_part(remake, part, [&](Part& p) {
        p.rivals.emplace_back(PartVersion(p));
        if (p.rivals.back()->version_name.empty()) p.rivals.back().edit().version_name = "first";
        p.version_name = name;
    });
}

Remake choose_rival(const Remake& remake, PartId part, std::size_t rival) {
    return without_loose_ends(with_part(remake, part, [&](Part& p) {
        if (rival >= p.rivals.size()) return;
        PartVersion chosen = *p.rivals[rival];
        p.rivals[rival] = Shared<PartVersion>(PartVersion(p));
        static_cast<PartVersion&>(p) = std::move(chosen);
    }));
}

Remake remove_rival(const Remake& remake, PartId part, std::size_t rival) {
    return without_loose_ends(with_part(remake, part, [&](Part& p) {
        if (rival < p.rivals.size()) p.rivals.erase(p.rivals.begin() + static_cast<std::ptrdiff_t>(rival));
    }));
}

Remake without_loose_ends(Remake remake) {
    std::set<int> in_rivals;
    std::set<SectionId> sections;
    for (const Section& s : remake.song->sections) sections.insert(s.id);
    for (const auto& p : remake.parts)
        for (const auto& r : p->rivals) {
            for (const Layer& l : r->layers) in_rivals.insert(l.id.number);
            for (const Step& s : r->steps) in_rivals.insert(s.id.number);
        }
    const auto loose = [&](const FieldRef& f, SectionId section) {
        if (section && !sections.contains(section)) return true;
        if (find_field(remake, f)) return false;
        const auto* layer = std::get_if<LayerId>(&f.owner);
        const auto* step = std::get_if<StepId>(&f.owner);
        return !in_rivals.contains(layer ? layer->number : step ? step->number : 0);
    };
    const auto& moving = *remake.automation;
    if (std::any_of(moving.curves.begin(), moving.curves.end(), [&](const Curve& c) { return loose(c.field, c.section); }) ||
        std::any_of(moving.settings.begin(), moving.settings.end(), [&](const SectionSetting& s) { return loose(s.field, s.section); }) ||
        std::any_of(moving.by_notes.begin(), moving.by_notes.end(), [&](const NoteMove& m) { return loose(m.field, {}) || !remake.part(m.by); }) ||
        std::any_of(moving.macros.begin(), moving.macros.end(), [&](const Macro& m) {
            return std::any_of(m.targets.begin(), m.targets.end(), [&](const MacroTarget& t) { return loose(t.field, {}); });
        })) {
        Automation& a = remake.automation.edit();
        std::erase_if(a.curves, [&](const Curve& c) { return loose(c.field, c.section); });
        std::erase_if(a.settings, [&](const SectionSetting& s) { return loose(s.field, s.section); });
        std::erase_if(a.by_notes, [&](const NoteMove& m) { return loose(m.field, {}) || !remake.part(m.by); });
        for (Macro& m : a.macros) std::erase_if(m.targets, [&](const MacroTarget& t) { return loose(t.field, {}); });
    }
    const auto gone = [&](BusId bus) { return bus && !remake.mixer->bus(bus); };
    const auto tidy = [&](const PartVersion& v) {
        return gone(v.output) || std::any_of(v.sends.begin(), v.sends.end(), [&](const Send& s) { return gone(s.bus); }) ||
               std::any_of(v.steps.begin(), v.steps.end(), [&](const Step& s) { return s.trigger.part && !remake.part(s.trigger.part); });
    };
    const auto mend = [&](PartVersion& v) {
        if (gone(v.output)) v.output = {};
        std::erase_if(v.sends, [&](const Send& s) { return gone(s.bus); });
        for (Step& s : v.steps)
            if (s.trigger.part && !remake.part(s.trigger.part)) s.trigger = {};
    };
    for (auto& shared : remake.parts) {
        if (tidy(*shared)) mend(shared.edit());
        for (std::size_t i = 0; i < shared->rivals.size(); ++i)
            if (tidy(*shared->rivals[i])) mend(shared.edit().rivals[i].edit());
    }
    const auto orphaned = [&](const Step& s) { return s.trigger.part && !remake.part(s.trigger.part); };
    const auto chains = [&](auto&& each) {
        Mixer& m = remake.mixer.edit();
        for (Bus& b : m.buses) each(b.steps);
        each(m.master.steps);
    };
    const auto any_orphan = [&](const std::vector<Step>& steps) { return std::any_of(steps.begin(), steps.end(), orphaned); };
    if (any_orphan(remake.mixer->master.steps) ||
        std::any_of(remake.mixer->buses.begin(), remake.mixer->buses.end(), [&](const Bus& b) { return any_orphan(b.steps); }))
        chains([&](std::vector<Step>& steps) {
            for (Step& s : steps)
                if (orphaned(s)) s.trigger = {};
        });
    if (std::any_of(remake.clips->clips.begin(), remake.clips->clips.end(), [&](const Clip& c) { return gone(c.output); }))
        for (Clip& c : remake.clips.edit().clips)
            if (gone(c.output)) c.output = {};
    if (std::any_of(remake.mixer->buses.begin(), remake.mixer->buses.end(), [&](const Bus& b) { return gone(b.output); }))
        for (Bus& b : remake.mixer.edit().buses)
            if (gone(b.output)) b.output = {};
    const auto ids = remake.element_ids();
    const std::set<ElementId> known(ids.begin(), ids.end());
    const Notebook& notes = *remake.notebook;
    if (std::any_of(notes.elements.begin(), notes.elements.end(), [&](const auto& e) { return !known.contains(e.first); }) ||
        std::any_of(notes.remarks.begin(), notes.remarks.end(), [&](const Remark& m) { return !known.contains(m.element); })) {
        Notebook& n = remake.notebook.edit();
        std::erase_if(n.elements, [&](const auto& e) { return !known.contains(e.first); });
        std::erase_if(n.remarks, [&](const Remark& m) { return !known.contains(m.element); });
    }
    return remake;
}

void drop_unplayed(PartVersion& part) {
    std::set<PatternId> used;
    for (const Placement& p : part.placements) used.insert(p.pattern);
    for (const auto& p : part.patterns)
        if (p->parent && used.contains(p->id)) used.insert(p->parent);
    std::erase_if(part.patterns, [&](const Shared<Pattern>& p) { return !used.contains(p->id); });
}

}  // namespace fw
