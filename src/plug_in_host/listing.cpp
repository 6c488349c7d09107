// SPDX-License-Identifier: GPL-3.0-or-later
// What plug-ins there are, and what each of them comes with.
#include "plug_in_host/world.hpp"
#include "sound/plug_ins/wire.hpp"

#include <lv2/atom/atom.h>
#include <lv2/core/lv2.h>
#include <lv2/midi/midi.h>
#include <lv2/port-props/port-props.h>
#include <lv2/presets/presets.h>
#include <lv2/units/units.h>
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <utility>

namespace fw::host {

namespace {

void write_field(World& w, const LilvPlugin* plugin, const Port& port, float low, float high) {
    const LilvPort* p = lilv_plugin_get_port_by_index(plugin, port.index);
    const auto has = [&](const char* property) { return lilv_port_has_property(plugin, p, w(property)); };
    std::string unit = taken(lilv_port_get(plugin, p, w(LV2_UNITS__unit)));
    unit = unit.substr(unit.find_last_of('#') + 1);
    std::vector<std::string> names;
    const auto choices = choices_of(w, plugin, p, &names);
    const char* scale = has(LV2_CORE__toggled)             ? "switch"
                        : choices.size() > 1               ? "choice"
                        : has(LV2_CORE__integer)           ? "whole"
                        : has(LV2_PORT_PROPS__logarithmic) ? "logarithmic"
                                                           : "linear";
    float start = port.value;
    if (choices.size() > 1) start = static_cast<float>(nearest_choice(choices, port.value));
    std::printf("field\t%s\t%s\t%s\t%.9g\t%.9g\t%.9g\t%s\n", lilv_node_as_string(lilv_port_get_symbol(plugin, p)), taken(lilv_port_get_name(plugin, p)).c_str(),
                unit.c_str(), static_cast<double>(low), static_cast<double>(high), static_cast<double>(start), scale);
    if (choices.size() > 1)
        for (const std::string& n : names) std::printf("choice\t%s\n", n.empty() ? "." : n.c_str());
}

void write_presets(World& w, Numbers& numbers, const LilvPlugin* plugin) {
    std::printf("of\t%s\n", lilv_node_as_uri(lilv_plugin_get_uri(plugin)));
    std::vector<std::pair<std::string, LilvState*>> all;
    LilvNodes* nodes = lilv_plugin_get_related(plugin, w(LV2_PRESETS__Preset));
    LILV_FOREACH(nodes, i, nodes) {
        const LilvNode* preset = lilv_nodes_get(nodes, i);
        lilv_world_load_resource(w.get(), preset);
        LilvState* state = lilv_state_new_from_world(w.get(), numbers.mapper(), preset);
        if (!state) continue;
        const char* label = lilv_state_get_label(state);
        std::string name = label ? label : lilv_node_as_string(preset);
        for (char& c : name)
            if (static_cast<unsigned char>(c) < ' ') c = ' ';
        all.emplace_back(name, state);
    }
    lilv_nodes_free(nodes);
    std::sort(all.begin(), all.end());
    struct Names {
        Numbers& numbers;
        std::map<std::string, std::vector<float>> choices;
    } known{numbers, {}};
    for (const Port& port : ports_of(w, plugin))
        if (port.kind == Port::Kind::Field)
            known.choices[lilv_node_as_string(lilv_port_get_symbol(plugin, lilv_plugin_get_port_by_index(plugin, port.index)))] = port.choices;
    for (const auto& [name, state] : all) {
        std::printf("preset\t%s\n", name.c_str());
        lilv_state_emit_port_values(
            state,
            [](const char* symbol, void* names, const void* value, std::uint32_t size, std::uint32_t type) {
                auto& of = *static_cast<Names*>(names);
                const auto field = of.choices.find(symbol);
                if (field == of.choices.end()) return;
                const auto is = [&](const char* what, std::size_t bytes) { return type == of.numbers.map(what) && size == bytes; };
                double v = 0.0;
                if (is(LV2_ATOM__Float, sizeof(float))) v = static_cast<double>(*static_cast<const float*>(value));
                else if (is(LV2_ATOM__Double, sizeof(double))) v = *static_cast<const double*>(value);
                else if (is(LV2_ATOM__Int, 4) || is(LV2_ATOM__Bool, 4)) v = *static_cast<const std::int32_t*>(value);
                else if (is(LV2_ATOM__Long, 8)) v = static_cast<double>(*static_cast<const std::int64_t*>(value));
                else return;
                if (field->second.size() > 1) v = nearest_choice(field->second, static_cast<float>(v));
                std::printf("value\t%s\t%.9g\n", symbol, v);
            },
            &known);
        if (lilv_state_get_num_properties(state) > 0)
            if (char* text = lilv_state_to_string(w.get(), numbers.mapper(), numbers.unmapper(), state, PlugInWire::kStateUri, nullptr)) {
                std::printf("state\t%s\n", fw::on_one_line(text).c_str());
                lilv_free(text);
            }
        std::printf("end\n");
        lilv_state_free(state);
    }
}

}  // namespace

void scan() {
    World w;
    std::vector<std::pair<std::string, const LilvPlugin*>> by_name;
    const LilvPlugins* all = lilv_world_get_all_plugins(w.get());
    LILV_FOREACH(plugins, i, all) {
        const LilvPlugin* p = lilv_plugins_get(all, i);
        if (lilv_plugin_verify(p) && can_be_run(p)) by_name.emplace_back(taken(lilv_plugin_get_name(p)), p);
    }
    std::sort(by_name.begin(), by_name.end());
    for (const auto& [name, plugin] : by_name) {
        const auto ports = ports_of(w, plugin);
        const auto count = [&](Port::Kind k) { return std::count_if(ports.begin(), ports.end(), [&](const Port& p) { return p.kind == k; }); };
        const bool midi = std::any_of(ports.begin(), ports.end(), [&](const Port& p) { return takes(w, plugin, p, LV2_MIDI__MidiEvent); });
        const bool hears = count(Port::Kind::AudioIn) > 0;
        if (count(Port::Kind::AudioOut) == 0 || (!hears && !midi) || count(Port::Kind::Field) > static_cast<std::ptrdiff_t>(PlugInWire::kMostFields)) continue;
        std::printf("plug-in\t%s\t%s\t%s\t%s\n", hears ? "effect" : "instrument", lilv_node_as_uri(lilv_plugin_get_uri(plugin)), name.c_str(),
                    taken(lilv_plugin_get_author_name(plugin)).c_str());
        std::vector<float> low(ports.size()), high(ports.size()), start(ports.size());
        lilv_plugin_get_port_ranges_float(plugin, low.data(), high.data(), start.data());
        for (const Port& p : ports)
            if (p.kind == Port::Kind::Field) write_field(w, plugin, p, low[p.index], high[p.index]);
        if (file_property(w, plugin)) std::printf("file\n");
        std::printf("end\n");
    }
}

int presets(const char* uri) {
    World w;
    Numbers numbers;
    const LilvPlugins* all = lilv_world_get_all_plugins(w.get());
    if (!uri) {
        LILV_FOREACH(plugins, i, all) write_presets(w, numbers, lilv_plugins_get(all, i));
        return 0;
    }
    const LilvPlugin* plugin = lilv_plugins_get_by_uri(all, w(uri));
    if (!plugin) return 1;
    write_presets(w, numbers, plugin);
    return 0;
}

}  // namespace fw::host
