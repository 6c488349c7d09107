// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/fields.hpp"

#include <algorithm>

namespace fw {

namespace {

template <class... Rules>
struct Each : Rules... {
    using Rules::operator()...;
};
template <class... Rules>
Each(Rules...) -> Each<Rules...>;

void append(std::vector<const Parameter*>& all, std::span<const Parameter> table) {
    for (const Parameter& row : table) all.push_back(&row);
}

const Send* find_send(const Remake& r, const SendRef& ref) {
    const Part* part = r.part(ref.part);
    if (!part) return nullptr;
    const auto at = std::find_if(part->sends.begin(), part->sends.end(), [&](const Send& s) { return s.bus == ref.bus; });
    return at == part->sends.end() ? nullptr : &*at;
}

const Step* step_in(const std::vector<Step>& steps, StepId id) {
    const auto at = std::find_if(steps.begin(), steps.end(), [&](const Step& s) { return s.id == id; });
    return at == steps.end() ? nullptr : &*at;
}

double layer_value(const Layer& l, std::size_t field) {
    const std::array own{l.on, l.gain_db, l.pan, l.octave, l.low_key, l.high_key, l.offset_ms, l.low_velocity, l.high_velocity, l.tune_cents};
    return field < own.size() ? own[field] : l.value(field - own.size());
}

const char* kOrdinals[] = {"first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth"};

std::string layer_name(const Part& part, LayerId id) {
    for (std::size_t i = 0; i < part.layers.size(); ++i)
        if (part.layers[i].id == id) return part.name + ", " + (i < std::size(kOrdinals) ? kOrdinals[i] : std::to_string(i + 1) + "th") + " layer";
    return part.name;
}

std::string step_name(const Remake& r, StepId id) {
    const Step* step = find_step(r, id);
    if (!step) return {};
    std::string label = step->type->label;
    label[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(label[0])));
    if (const Part* part = part_with(r, id)) return part->name + ", " + label;
    for (const Bus& b : r.mixer->buses)
        if (step_in(b.steps, id)) return b.name + ", " + label;
    return "Master, " + label;
}

}  // namespace

const Part* part_with(const Remake& r, LayerId layer) {
    for (const auto& p : r.parts)
        if (std::any_of(p->layers.begin(), p->layers.end(), [&](const Layer& l) { return l.id == layer; })) return p.get();
    return nullptr;
}

const Part* part_with(const Remake& r, StepId step) {
    for (const auto& p : r.parts)
        if (step_in(p->steps, step)) return p.get();
    return nullptr;
}

PartId part_of(const Remake& r, const FieldOwner& owner) {
    if (const auto* part = std::get_if<PartId>(&owner)) return *part;
    if (const auto* send = std::get_if<SendRef>(&owner)) return send->part;
    const Part* part = nullptr;
    if (const auto* layer = std::get_if<LayerId>(&owner)) part = part_with(r, *layer);
    if (const auto* step = std::get_if<StepId>(&owner)) part = part_with(r, *step);
    return part ? part->id : PartId();
}

const Layer* find_layer(const Remake& r, LayerId layer) {
    for (const auto& p : r.parts)
        for (const Layer& l : p->layers)
            if (l.id == layer) return &l;
    return nullptr;
}

const Step* find_step(const Remake& r, StepId step) {
    for (const auto& p : r.parts)
        if (const Step* s = step_in(p->steps, step)) return s;
    for (const Bus& b : r.mixer->buses)
        if (const Step* s = step_in(b.steps, step)) return s;
    return step_in(r.mixer->master.steps, step);
}

std::vector<const Parameter*> fields_of(const Remake& r, const FieldOwner& owner) {
    std::vector<const Parameter*> all;
    std::visit(Each{[&](PartId id) {
                        if (r.part(id)) append(all, kPartFields);
                    },
                    [&](LayerId id) {
                        if (const Layer* l = find_layer(r, id)) append(all, kLayerFields), append(all, l->source->fields);
                    },
                    [&](StepId id) {
                        if (const Step* s = find_step(r, id)) append(all, kStepFields), append(all, s->type->fields);
                    },
                    [&](const SendRef& ref) {
                        if (find_send(r, ref)) append(all, kSendFields);
                    },
                    [&](BusId id) {
                        if (r.mixer->bus(id)) append(all, kBusFields);
                    },
                    [&](MasterRef) { append(all, kMasterFields); },
                    [&](MacroId id) {
                        if (r.automation->macro(id)) append(all, kMacroFields);
                    }},
               owner);
    return all;
}

const Parameter* find_field(const Remake& r, const FieldRef& ref) {
    for (const Parameter* row : fields_of(r, ref.owner))
        if (ref.field == row->id) return row;
    return nullptr;
}

std::optional<double> field_value(const Remake& r, const FieldRef& ref) {
    const auto all = fields_of(r, ref.owner);
    const auto row = std::find_if(all.begin(), all.end(), [&](const Parameter* p) { return ref.field == p->id; });
    if (row == all.end()) return std::nullopt;
    const auto i = static_cast<std::size_t>(row - all.begin());
    return std::visit(Each{[&](PartId id) {
                               return std::array{r.part(id)->gain_db, r.part(id)->pan, r.part(id)->early_ms}[i];
                           },
                           [&](LayerId id) { return layer_value(*find_layer(r, id), i); },
                           [&](StepId id) {
                               const Step& s = *find_step(r, id);
                               return i == 0 ? s.on : s.value(i - 1);
                           },
                           [&](const SendRef& s) { return i == 0 ? find_send(r, s)->level_db : find_send(r, s)->on; },
                           [&](BusId id) { return i == 0 ? r.mixer->bus(id)->gain_db : r.mixer->bus(id)->pan; },
                           [&](MasterRef) { return r.mixer->master.gain_db; }, [&](MacroId id) { return r.automation->macro(id)->amount; }},
                      ref.owner);
}

std::string owner_name(const Remake& r, const FieldOwner& owner) {
    return std::visit(
        Each{[&](PartId id) { return r.part(id) ? r.part(id)->name : std::string(); },
             [&](LayerId id) {
                 const Part* part = part_with(r, id);
                 return part ? layer_name(*part, id) : std::string();
             },
             [&](StepId id) { return step_name(r, id); },
             [&](const SendRef& s) {
                 const Part* part = r.part(s.part);
                 const Bus* bus = r.mixer->bus(s.bus);
                 return part && bus ? part->name + " to " + bus->name : std::string();
             },
             [&](BusId id) { return r.mixer->bus(id) ? r.mixer->bus(id)->name : std::string(); }, [&](MasterRef) { return std::string("Master"); },
             [&](MacroId id) { return r.automation->macro(id) ? r.automation->macro(id)->name : std::string(); }},
        owner);
}

}  // namespace fw
