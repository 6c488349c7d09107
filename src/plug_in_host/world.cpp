// SPDX-License-Identifier: GPL-3.0-or-later
#include "plug_in_host/world.hpp"

#include <lv2/atom/atom.h>
#include <lv2/buf-size/buf-size.h>
#include <lv2/core/lv2.h>
#include <lv2/options/options.h>
#include <lv2/patch/patch.h>
#include <lv2/state/state.h>
#include <lv2/worker/worker.h>
#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

namespace fw::host {

std::string taken(LilvNode* node) {
    std::string text = node ? lilv_node_as_string(node) : "";
    lilv_node_free(node);
    for (char& c : text)
        if (static_cast<unsigned char>(c) < ' ') c = ' ';
    return text.empty() ? "." : text;
}

std::vector<float> choices_of(World& w, const LilvPlugin* plugin, const LilvPort* port, std::vector<std::string>* names) {
    std::vector<std::pair<float, std::string>> all;
    if (!lilv_port_has_property(plugin, port, w(LV2_CORE__enumeration))) return {};
    LilvScalePoints* points = lilv_port_get_scale_points(plugin, port);
    LILV_FOREACH(scale_points, i, points) {
        const LilvScalePoint* p = lilv_scale_points_get(points, i);
        std::string name = lilv_node_as_string(lilv_scale_point_get_label(p));
        std::replace(name.begin(), name.end(), '\t', ' ');
        all.emplace_back(lilv_node_as_float(lilv_scale_point_get_value(p)), name);
    }
    lilv_scale_points_free(points);
    std::sort(all.begin(), all.end());
    std::vector<float> values;
    for (const auto& [value, name] : all) {
        values.push_back(value);
        if (names) names->push_back(name);
    }
    return values;
}

double nearest_choice(const std::vector<float>& choices, float value) {
    return static_cast<double>(std::min_element(choices.begin(), choices.end(), [&](float a, float b) { return std::abs(a - value) < std::abs(b - value); }) -
                               choices.begin());
}

std::vector<Port> ports_of(World& w, const LilvPlugin* plugin) {
    std::vector<Port> ports(lilv_plugin_get_num_ports(plugin));
    std::vector<float> low(ports.size()), high(ports.size()), start(ports.size());
    lilv_plugin_get_port_ranges_float(plugin, low.data(), high.data(), start.data());
    const LilvPort* enabled = lilv_plugin_get_port_by_designation(plugin, w(LV2_CORE__InputPort), w(LV2_CORE__enabled));
    const LilvPort* free_wheeling = lilv_plugin_get_port_by_designation(plugin, w(LV2_CORE__InputPort), w(LV2_CORE__freeWheeling));
    for (std::uint32_t i = 0; i < ports.size(); ++i) {
        const LilvPort* p = lilv_plugin_get_port_by_index(plugin, i);
        const auto is = [&](const char* what) { return lilv_port_is_a(plugin, p, w(what)); };
        const bool in = is(LV2_CORE__InputPort);
        Port& port = ports[i];
        port.index = i;
        port.value = std::isfinite(start[i]) ? start[i] : std::isfinite(low[i]) ? low[i] : 0.0F;
        using Kind = Port::Kind;
        if (is(LV2_CORE__AudioPort)) port.kind = in ? Kind::AudioIn : Kind::AudioOut;
        else if (is(LV2_CORE__ControlPort)) port.kind = !in ? Kind::ControlOut : p == enabled || p == free_wheeling ? Kind::ControlIn : Kind::Field;
        else if (is(LV2_ATOM__AtomPort)) port.kind = in ? Kind::EventsIn : Kind::EventsOut;
        else if (is(LV2_CORE__CVPort)) port.kind = Kind::Cv;
        if (p == enabled) port.value = 1.0F;
        if (p == free_wheeling) port.value = 0.0F;
        port.choices = choices_of(w, plugin, p);
    }
    return ports;
}

bool takes(World& w, const LilvPlugin* plugin, const Port& port, const char* event) {
    return port.kind == Port::Kind::EventsIn && lilv_port_supports_event(plugin, lilv_plugin_get_port_by_index(plugin, port.index), w(event));
}

const LilvNode* file_property(World& w, const LilvPlugin* plugin) {
    LilvNodes* writable = lilv_world_find_nodes(w.get(), lilv_plugin_get_uri(plugin), w(LV2_PATCH__writable), nullptr);
    std::string first;
    LILV_FOREACH(nodes, i, writable) {
        const LilvNode* property = lilv_nodes_get(writable, i);
        if (lilv_world_ask(w.get(), property, w("http://www.w3.org/2000/01/rdf-schema#range"), w(LV2_ATOM__Path)) && first.empty())
            first = lilv_node_as_uri(property);
    }
    lilv_nodes_free(writable);
    return first.empty() ? nullptr : w(first.c_str());
}

constexpr std::array kFeatures{
    LV2_URID__map,    LV2_URID__unmap,         LV2_OPTIONS__options,   LV2_BUF_SIZE__boundedBlockLength, LV2_WORKER__schedule, LV2_STATE__loadDefaultState,
    LV2_CORE__isLive, LV2_CORE__hardRTCapable, LV2_CORE__inPlaceBroken};

bool can_be_run(const LilvPlugin* plugin) {
    LilvNodes* needs = lilv_plugin_get_required_features(plugin);
    bool all = true;
    LILV_FOREACH(nodes, i, needs) {
        const char* uri = lilv_node_as_uri(lilv_nodes_get(needs, i));
        all = all && std::any_of(kFeatures.begin(), kFeatures.end(), [&](const char* f) { return std::strcmp(f, uri) == 0; });
    }
    lilv_nodes_free(needs);
    return all;
}

}  // namespace fw::host
