// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/sound.hpp"

#include "model/edits/macros.hpp"
#include "model/edits/parts.hpp"

#include <algorithm>
#include <functional>

namespace fw {

namespace {

Remake with_mixer(const Remake& remake, const std::function<void(Mixer&)>& change) {
    Remake next = remake;
    change(next.mixer.edit());
    return next;
}

Remake with_steps(const Remake& remake, const Chain& chain, const std::function<void(std::vector<Step>&)>& change) {
    if (!steps_of(remake, chain)) return remake;
    if (const auto* part = std::get_if<PartId>(&chain)) return with_part(remake, *part, [&](Part& p) { change(p.steps); });
    return with_mixer(remake, [&](Mixer& m) {
        if (std::holds_alternative<MasterRef>(chain)) return change(m.master.steps);
        for (Bus& b : m.buses)
            if (b.id == std::get<BusId>(chain)) change(b.steps);
    });
}

std::optional<Chain> chain_of(const Remake& remake, StepId step) {
    const auto has = [&](const std::vector<Step>& steps) { return std::any_of(steps.begin(), steps.end(), [&](const Step& s) { return s.id == step; }); };
    if (const Part* part = part_with(remake, step)) return Chain(part->id);
    for (const Bus& b : remake.mixer->buses)
        if (has(b.steps)) return Chain(b.id);
    if (has(remake.mixer->master.steps)) return Chain(MasterRef{});
    return std::nullopt;
}

Remake with_step(const Remake& remake, StepId step, const std::function<void(Step&)>& change) {
    const auto chain = chain_of(remake, step);
    if (!chain) return remake;
    return with_steps(remake, *chain, [&](std::vector<Step>& steps) {
        for (Step& s : steps)
            if (s.id == step) change(s);
    });
}

Remake with_layer(const Remake& remake, LayerId layer, const std::function<void(Layer&)>& change) {
    const Part* part = part_with(remake, layer);
    if (!part) return remake;
    return with_part(remake, part->id, [&](Part& p) {
        for (Layer& l : p.layers)
            if (l.id == layer) change(l);
    });
}

double& layer_member(Layer& l, std::size_t field) {
    double* const members[] = {&l.on, &l.gain_db, &l.pan, &l.octave, &l.low_key, &l.high_key, &l.offset_ms, &l.low_velocity, &l.high_velocity, &l.tune_cents};
    static_assert(std::size(members) == kLayerFields.size());
    return *members[field];
}

/// Sets a field, or takes its setting back where there is no value.
Remake put_field(const Remake& remake, const FieldRef& ref, std::optional<double> wanted) {
    const auto all = fields_of(remake, ref.owner);
    const auto row = std::find_if(all.begin(), all.end(), [&](const Parameter* p) { return ref.field == p->id; });
    if (row == all.end()) return remake;
    const auto i = static_cast<std::size_t>(row - all.begin());
    const double value = wanted ? clamped(**row, *wanted) : (*row)->neutral;
    const auto settings = [&](Settings& s, std::size_t field) { wanted ? s.set(field, value) : s.clear(field); };
    if (const auto* part = std::get_if<PartId>(&ref.owner))
        return with_part(remake, *part, [&](Part& p) { *std::array{&p.gain_db, &p.pan, &p.early_ms}[i] = value; });
    if (const auto* layer = std::get_if<LayerId>(&ref.owner))
        return with_layer(remake, *layer, [&](Layer& l) {
            if (i < kLayerFields.size()) layer_member(l, i) = value;
            else settings(l.settings, i - kLayerFields.size());
        });
    if (const auto* step = std::get_if<StepId>(&ref.owner))
        return with_step(remake, *step, [&](Step& s) {
            if (i < kStepFields.size()) s.on = value;
            else settings(s.settings, i - kStepFields.size());
        });
    if (const auto* send = std::get_if<SendRef>(&ref.owner))
        return with_part(remake, send->part, [&](Part& p) {
            for (Send& s : p.sends)
                if (s.bus == send->bus) (i == 0 ? s.level_db : s.on) = value;
        });
    if (const auto* macro = std::get_if<MacroId>(&ref.owner)) return set_macro(remake, *macro, value);
    return with_mixer(remake, [&](Mixer& m) {
        if (std::holds_alternative<MasterRef>(ref.owner)) m.master.gain_db = value;
        else
            for (Bus& b : m.buses)
                if (b.id == std::get<BusId>(ref.owner)) (i == 0 ? b.gain_db : b.pan) = value;
    });
}

}  // namespace

const std::vector<Step>* steps_of(const Remake& remake, const Chain& chain) {
    if (const auto* part = std::get_if<PartId>(&chain)) return remake.part(*part) ? &remake.part(*part)->steps : nullptr;
    if (const auto* bus = std::get_if<BusId>(&chain)) return remake.mixer->bus(*bus) ? &remake.mixer->bus(*bus)->steps : nullptr;
    return &remake.mixer->master.steps;
}

Remake set_field(const Remake& remake, const FieldRef& field, double value) { return put_field(remake, field, value); }
Remake reset_field(const Remake& remake, const FieldRef& field) { return put_field(remake, field, std::nullopt); }

Remake add_layer(const Remake& remake, PartId part, Layer layer) {
    if (!remake.part(part)) return remake;
    Remake next = remake;
    layer.id = LayerId(next.next_id++);
    return with_part(next, part, [&](Part& p) { p.layers.push_back(std::move(layer)); });
}

Remake remove_layer(const Remake& remake, LayerId layer) {
    const Part* part = part_with(remake, layer);
    if (!part) return remake;
    return without_loose_ends(with_part(remake, part->id, [&](Part& p) { std::erase_if(p.layers, [&](const Layer& l) { return l.id == layer; }); }));
}

Remake set_source(const Remake& remake, LayerId layer, const SourceType& source, const std::string& patch, int program, const std::string& file) {
    return without_loose_ends(with_layer(remake, layer, [&](Layer& l) {
        l.source = &source;
        l.patch = patch;
        l.program = program;
        l.file = file;
        l.asset = {};
        l.state.clear();
        l.settings = {};
    }));
}

Remake set_preset(const Remake& remake, LayerId layer, const Settings& settings, const std::string& state) {
    return with_layer(remake, layer, [&](Layer& l) { l.settings = settings, l.state = state; });
}
Remake set_preset(const Remake& remake, StepId step, const Settings& settings, const std::string& state) {
    return with_step(remake, step, [&](Step& s) { s.settings = settings, s.state = state; });
}
Remake set_own(const Remake& remake, LayerId layer, const std::string& state, const std::string& file) {
    return with_layer(remake, layer, [&](Layer& l) { l.state = state, l.file = file; });
}
Remake set_own(const Remake& remake, StepId step, const std::string& state, const std::string& file) {
    return with_step(remake, step, [&](Step& s) { s.state = state, s.file = file; });
}

Remake copy_sheet(const Remake& remake, PartId from, PartId to, const SheetPieces& pieces) {
    const Part* given = remake.part(from);
    if (!given || !remake.part(to) || from == to) return remake;
    Remake next = remake;
    const Part source = *given;
    int id = next.next_id;
    next = with_part(next, to, [&](Part& p) {
        if (pieces.layers) {
            p.layers = source.layers;
            for (Layer& l : p.layers) l.id = LayerId(id++);
        }
        if (pieces.steps) {
            p.steps = source.steps;
            for (Step& s : p.steps) s.id = StepId(id++);
        }
        if (pieces.place) p.gain_db = source.gain_db, p.pan = source.pan, p.early_ms = source.early_ms, p.sends = source.sends, p.output = source.output;
        if (pieces.notes) p.patterns = source.patterns, p.placements = source.placements, p.next_id = source.next_id, p.derived = source.derived;
    });
    next.next_id = id;
    return without_loose_ends(std::move(next));
}

Remake add_step(const Remake& remake, const Chain& chain, Step step, std::size_t place) {
    if (!steps_of(remake, chain)) return remake;
    Remake next = remake;
    step.id = StepId(next.next_id++);
    return with_steps(next, chain, [&](std::vector<Step>& steps) {
        steps.insert(steps.begin() + static_cast<std::ptrdiff_t>(std::min(place, steps.size())), std::move(step));
    });
}

Remake remove_step(const Remake& remake, StepId step) {
    const auto chain = chain_of(remake, step);
    if (!chain) return remake;
    return without_loose_ends(with_steps(remake, *chain, [&](std::vector<Step>& steps) { std::erase_if(steps, [&](const Step& s) { return s.id == step; }); }));
}

Remake move_step(const Remake& remake, StepId step, std::size_t place) {
    const auto chain = chain_of(remake, step);
    if (!chain) return remake;
    return with_steps(remake, *chain, [&](std::vector<Step>& steps) {
        const auto at = std::find_if(steps.begin(), steps.end(), [&](const Step& s) { return s.id == step; });
        Step moved = std::move(*at);
        steps.erase(at);
        steps.insert(steps.begin() + static_cast<std::ptrdiff_t>(std::min(place, steps.size())), std::move(moved));
    });
}

Remake set_trigger(const Remake& remake, StepId step, const Trigger& trigger) {
    if (trigger.part && !remake.part(trigger.part)) return remake;
    return with_step(remake, step, [&](Step& s) { s.trigger = trigger; });
}

Remake switch_steps(const Remake& remake, const Chain& chain, bool on) {
    return with_steps(remake, chain, [&](std::vector<Step>& steps) {
        for (Step& s : steps) s.on = on ? 1.0 : 0.0;
    });
}

Remake add_bus(const Remake& remake, const std::string& name) {
    Remake next = remake;
    Bus bus;
    bus.id = BusId(next.next_id++);
    bus.name = name;
    next.mixer.edit().buses.push_back(std::move(bus));
    return next;
}

Remake remove_bus(const Remake& remake, BusId bus) {
    if (!remake.mixer->bus(bus)) return remake;
    return without_loose_ends(with_mixer(remake, [&](Mixer& m) { std::erase_if(m.buses, [&](const Bus& b) { return b.id == bus; }); }));
}

Remake rename_bus(const Remake& remake, BusId bus, const std::string& name) {
    if (!remake.mixer->bus(bus)) return remake;
    return with_mixer(remake, [&](Mixer& m) {
        for (Bus& b : m.buses)
            if (b.id == bus) b.name = name;
    });
}

Remake add_send(const Remake& remake, PartId part, BusId bus, double level_db) {
    if (!remake.mixer->bus(bus)) return remake;
    return with_part(remake, part, [&](Part& p) {
        for (Send& s : p.sends)
            if (s.bus == bus) {
                s.level_db = clamped(kSendFields[0], level_db);
                return;
            }
        p.sends.push_back({bus, clamped(kSendFields[0], level_db), 1.0, {}});
    });
}

Remake remove_send(const Remake& remake, PartId part, BusId bus) {
    return without_loose_ends(with_part(remake, part, [&](Part& p) { std::erase_if(p.sends, [&](const Send& s) { return s.bus == bus; }); }));
}

Remake set_output(const Remake& remake, PartId part, BusId bus) {
    if (bus && !remake.mixer->bus(bus)) return remake;
    return with_part(remake, part, [&](Part& p) { p.output = bus; });
}

Remake set_bus_output(const Remake& remake, BusId bus, BusId to) {
    if (!remake.mixer->bus(bus) || (to && (!remake.mixer->bus(to) || remake.mixer->leads(to, bus)))) return remake;
    return with_mixer(remake, [&](Mixer& m) {
        for (Bus& b : m.buses)
            if (b.id == bus) b.output = to;
    });
}

}  // namespace fw
