// SPDX-License-Identifier: GPL-3.0-or-later
// The process in which LV2 plug-ins are looked through and run: what crashes or hangs here leaves the program that asked as it was.
//   fakturwerk-plug-in-host scan            writes what there is, a line each with tabs between its cells
//   fakturwerk-plug-in-host presets URI     writes the presets of one, the same way
//   fakturwerk-plug-in-host run URI RATE PROGRAM STATE FILE    runs one on the memory under descriptor 3 for as long as the process PROGRAM lives
//       (sound/plug_ins/wire.hpp); STATE: "state" where a state of its own lies under descriptor 4, else "-"; FILE: a file it is given to play, or "-"
#include "sound/no_denormals.hpp"
#include "sound/plug_ins/wire.hpp"

#include <lilv/lilv.h>
#include <lv2/atom/atom.h>
#include <lv2/atom/forge.h>
#include <lv2/atom/util.h>
#include <lv2/buf-size/buf-size.h>
#include <lv2/core/lv2.h>
#include <lv2/midi/midi.h>
#include <lv2/options/options.h>
#include <lv2/patch/patch.h>
#include <lv2/port-props/port-props.h>
#include <lv2/presets/presets.h>
#include <lv2/state/state.h>
#include <lv2/time/time.h>
#include <lv2/units/units.h>
#include <lv2/urid/urid.h>
#include <lv2/worker/worker.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace {

using fw::PlugInWire;

/// What is known of the world of plug-ins, with the words asked for again and again.
class World {
public:
    World() : world_(lilv_world_new()) { lilv_world_load_all(world_); }
    ~World() {
        for (auto& [uri, node] : nodes_) lilv_node_free(node);
        lilv_world_free(world_);
    }
    World(const World&) = delete;
    World& operator=(const World&) = delete;
    LilvWorld* get() const { return world_; }
    const LilvNode* operator()(const char* uri) {
        LilvNode*& node = nodes_[uri];
        if (!node) node = lilv_new_uri(world_, uri);
        return node;
    }

private:
    LilvWorld* world_;
    std::map<std::string, LilvNode*> nodes_;
};

std::string taken(LilvNode* node) {  // its text, without what would break a line
    std::string text = node ? lilv_node_as_string(node) : "";
    lilv_node_free(node);
    for (char& c : text)
        if (static_cast<unsigned char>(c) < ' ') c = ' ';
    return text.empty() ? "." : text;
}

/// What a port is to us.
struct Port {
    enum class Kind { AudioIn, AudioOut, Field, ControlIn, ControlOut, EventsIn, EventsOut, Cv, Left } kind = Kind::Left;
    std::uint32_t index = 0;
    float value = 0.0F;          ///< what a control stands at
    std::vector<float> choices;  ///< a field's values where it is one of few
};

std::vector<float> choices_of(World& w, const LilvPlugin* plugin, const LilvPort* port, std::vector<std::string>* names = nullptr) {
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

/// What of its own is a file the user can choose, such as a sample; null where nothing is. The first where there are several.
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

/// The place of the choice that a value is, or is nearest to.
double nearest_choice(const std::vector<float>& choices, float value) {
    return static_cast<double>(std::min_element(choices.begin(), choices.end(), [&](float a, float b) { return std::abs(a - value) < std::abs(b - value); }) -
                               choices.begin());
}

// --- looking through them ---

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

// --- what both presets and running need ---

/// Numbers for URIs.
class Numbers {
public:
    LV2_URID_Map* mapper() { return &map_; }
    LV2_URID_Unmap* unmapper() { return &unmap_; }
    LV2_URID map(const char* uri) {
        const auto [at, fresh] = known_.try_emplace(uri, static_cast<LV2_URID>(known_.size() + 1));
        if (fresh) names_.push_back(&at->first);
        return at->second;
    }
    const char* unmap(LV2_URID number) const { return number >= 1 && number <= names_.size() ? names_[number - 1]->c_str() : nullptr; }

private:
    std::map<std::string, LV2_URID> known_;
    std::vector<const std::string*> names_;
    LV2_URID_Map map_{this, [](void* n, const char* uri) { return static_cast<Numbers*>(n)->map(uri); }};
    LV2_URID_Unmap unmap_{this, [](void* n, LV2_URID u) { return static_cast<const Numbers*>(n)->unmap(u); }};
};

// --- presets ---

int presets(const char* uri) {
    World w;
    Numbers numbers;
    const LilvPlugin* plugin = lilv_plugins_get_by_uri(lilv_world_get_all_plugins(w.get()), w(uri));
    if (!plugin) return 1;
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
    return 0;
}

// --- running one ---

constexpr std::uint32_t kEventBytes = 65536;

/// One instance with its buffers. Work it puts off is done at once: here nobody hears it wait.
class Instance {
public:
    Instance(World& w, const LilvPlugin* plugin, double rate, Numbers& numbers, const std::string& own_state, const std::string& file)
        : ports_(ports_of(w, plugin)), numbers_(numbers) {
        static const std::int32_t most = fw::kSlice, least = 1, events = kEventBytes;
        static const float rate_hz = static_cast<float>(rate);
        const LV2_URID whole = numbers.map(LV2_ATOM__Int), real = numbers.map(LV2_ATOM__Float);
        options_ = {{LV2_OPTIONS_INSTANCE, 0, numbers.map(LV2_BUF_SIZE__maxBlockLength), sizeof most, whole, &most},
                    {LV2_OPTIONS_INSTANCE, 0, numbers.map(LV2_BUF_SIZE__minBlockLength), sizeof least, whole, &least},
                    {LV2_OPTIONS_INSTANCE, 0, numbers.map(LV2_BUF_SIZE__sequenceSize), sizeof events, whole, &events},
                    {LV2_OPTIONS_INSTANCE, 0, numbers.map("http://lv2plug.in/ns/ext/parameters#sampleRate"), sizeof rate_hz, real, &rate_hz},
                    {LV2_OPTIONS_INSTANCE, 0, 0, 0, 0, nullptr}};
        schedule_ = {this, [](void* self, std::uint32_t size, const void* data) { return static_cast<Instance*>(self)->work(size, data); }};
        features_ = {LV2_Feature{LV2_URID__map, numbers.mapper()},
                     LV2_Feature{LV2_URID__unmap, numbers.unmapper()},
                     LV2_Feature{LV2_OPTIONS__options, options_.data()},
                     LV2_Feature{LV2_WORKER__schedule, &schedule_},
                     LV2_Feature{LV2_BUF_SIZE__boundedBlockLength, nullptr},
                     LV2_Feature{LV2_STATE__loadDefaultState, nullptr},
                     LV2_Feature{LV2_CORE__isLive, nullptr}};
        std::vector<const LV2_Feature*> pointers;
        for (const LV2_Feature& f : features_) pointers.push_back(&f);
        pointers.push_back(nullptr);
        instance_ = lilv_plugin_instantiate(plugin, rate, pointers.data());
        if (!instance_) return;
        worker_ = static_cast<const LV2_Worker_Interface*>(lilv_instance_get_extension_data(instance_, LV2_WORKER__interface));
        for (const Port& p : ports_) {
            void* buffer = nullptr;
            using Kind = Port::Kind;
            switch (p.kind) {
                case Kind::AudioIn:
                case Kind::AudioOut:
                case Kind::Cv: buffer = (sounds_[p.index] = std::vector<float>(fw::kSlice)).data(); break;
                case Kind::Field:
                case Kind::ControlIn:
                case Kind::ControlOut: buffer = &(controls_[p.index] = p.value); break;
                case Kind::EventsIn:
                case Kind::EventsOut: buffer = (events_[p.index] = std::vector<std::uint64_t>(kEventBytes / 8)).data(); break;
                case Kind::Left: break;
            }
            lilv_instance_connect_port(instance_, p.index, buffer);
            if (takes(w, plugin, p, LV2_MIDI__MidiEvent) && midi_ < 0) midi_ = static_cast<int>(p.index);
            if (takes(w, plugin, p, LV2_TIME__Position) && time_ < 0) time_ = static_cast<int>(p.index);
            if (takes(w, plugin, p, LV2_PATCH__Message) && told_ < 0) told_ = static_cast<int>(p.index);
        }
        if (const LilvPort* l = lilv_plugin_has_latency(plugin) ? lilv_plugin_get_port_by_index(plugin, lilv_plugin_get_latency_port_index(plugin)) : nullptr)
            latency_ = static_cast<int>(lilv_port_get_index(plugin, l));
        // What it stands at by itself, and over it what the remake keeps.
        for (LilvState* state : {lilv_state_new_from_world(w.get(), numbers.mapper(), lilv_plugin_get_uri(plugin)),
                                 own_state.empty() ? nullptr : lilv_state_new_from_string(w.get(), numbers.mapper(), own_state.c_str())}) {
            if (!state) continue;
            lilv_state_restore(state, instance_, nullptr, nullptr, 0, pointers.data());
            lilv_state_free(state);
        }
        if (const LilvNode* property = file.empty() ? nullptr : file_property(w, plugin)) tell_file(lilv_node_as_uri(property), file);
        lilv_instance_activate(instance_);
    }
    ~Instance() {
        if (!instance_) return;
        lilv_instance_deactivate(instance_);
        lilv_instance_free(instance_);
    }
    Instance(const Instance&) = delete;
    Instance& operator=(const Instance&) = delete;

    bool usable() const { return instance_; }
    bool wants_time() const { return time_ >= 0; }
    std::uint32_t latency() const { return latency_ < 0 ? 0 : static_cast<std::uint32_t>(std::max(0.0F, controls_.at(static_cast<std::uint32_t>(latency_)))); }
    void reset() {
        lilv_instance_deactivate(instance_);
        lilv_instance_activate(instance_);
    }
    std::vector<std::uint32_t> of(Port::Kind kind) const {
        std::vector<std::uint32_t> some;
        for (const Port& p : ports_)
            if (p.kind == kind) some.push_back(p.index);
        return some;
    }
    std::vector<float>& sound(std::uint32_t port) { return sounds_.at(port); }
    void set_fields(const float* values) {
        std::size_t f = 0;
        for (const Port& p : ports_)
            if (p.kind == Port::Kind::Field) {
                const float v = values[f++];
                const auto chosen = static_cast<std::size_t>(std::max(0L, std::lround(v)));
                controls_[p.index] = p.choices.size() > 1 ? p.choices[std::min(chosen, p.choices.size() - 1)] : v;
            }
    }
    void run(std::uint32_t frames, const PlugInWire& wire) {
        for (auto& [port, buffer] : events_) {
            auto* sequence = reinterpret_cast<LV2_Atom_Sequence*>(buffer.data());
            const bool in = ports_[port].kind == Port::Kind::EventsIn;
            sequence->atom.type = numbers_.map(in ? LV2_ATOM__Sequence : LV2_ATOM__Chunk);
            sequence->atom.size = in ? sizeof(LV2_Atom_Sequence_Body) : kEventBytes - sizeof(LV2_Atom);
            sequence->body = {};
            const auto append = [&, to = sequence](const std::vector<std::uint64_t>& event) {
                lv2_atom_sequence_append_event(to, kEventBytes - sizeof(LV2_Atom_Sequence), reinterpret_cast<const LV2_Atom_Event*>(event.data()));
            };
            if (static_cast<int>(port) == told_ && !message_.empty()) append(std::exchange(message_, {}));
            if (static_cast<int>(port) == time_ && wire.bpm > 0.0) append(place_in_time(wire));
            if (static_cast<int>(port) != midi_) continue;
            struct {
                LV2_Atom_Event event;
                std::uint8_t bytes[3];
            } one{};
            one.event.body = {3, numbers_.map(LV2_MIDI__MidiEvent)};
            for (std::uint32_t e = 0; e < std::min<std::uint32_t>(wire.event_count, PlugInWire::kMostEvents); ++e) {
                std::copy_n(wire.events[e].bytes, 3, reinterpret_cast<std::uint8_t*>(&one.event + 1));
                lv2_atom_sequence_append_event(sequence, kEventBytes - sizeof(LV2_Atom_Sequence), &one.event);
            }
        }
        lilv_instance_run(instance_, frames);
        if (!worker_) return;
        for (const auto& answer : answers_)
            if (worker_->work_response) worker_->work_response(lilv_instance_get_handle(instance_), static_cast<std::uint32_t>(answer.size()), answer.data());
        answers_.clear();
        if (worker_->end_run) worker_->end_run(lilv_instance_get_handle(instance_));
    }

private:
    /// An event made by a forge: what write does to one goes behind the time it comes at.
    template <class Write>
    std::vector<std::uint64_t> event_of(Write write) {
        std::vector<std::uint64_t> event(1024);
        LV2_Atom_Forge forge;
        lv2_atom_forge_init(&forge, numbers_.mapper());
        // The time, in frames, stands before the atom and is 0.
        lv2_atom_forge_set_buffer(&forge, reinterpret_cast<std::uint8_t*>(event.data() + 1), (event.size() - 1) * sizeof event[0]);
        write(forge);
        return event;
    }
    void tell_file(const char* property, const std::string& file) {
        if (told_ < 0 || file.size() > 4000) return;
        message_ = event_of([&](LV2_Atom_Forge& f) {
            LV2_Atom_Forge_Frame frame;
            lv2_atom_forge_object(&f, &frame, 0, numbers_.map(LV2_PATCH__Set));
            lv2_atom_forge_key(&f, numbers_.map(LV2_PATCH__property));
            lv2_atom_forge_urid(&f, numbers_.map(property));
            lv2_atom_forge_key(&f, numbers_.map(LV2_PATCH__value));
            lv2_atom_forge_path(&f, file.c_str(), static_cast<std::uint32_t>(file.size()));
            lv2_atom_forge_pop(&f, &frame);
        });
    }
    std::vector<std::uint64_t> place_in_time(const PlugInWire& wire) {
        return event_of([&](LV2_Atom_Forge& f) {
            LV2_Atom_Forge_Frame frame;
            lv2_atom_forge_object(&f, &frame, 0, numbers_.map(LV2_TIME__Position));
            const auto real = [&](const char* key, double value) {
                lv2_atom_forge_key(&f, numbers_.map(key));
                lv2_atom_forge_float(&f, static_cast<float>(value));
            };
            lv2_atom_forge_key(&f, numbers_.map(LV2_TIME__frame));
            lv2_atom_forge_long(&f, wire.frame);
            real(LV2_TIME__speed, 1.0);
            real(LV2_TIME__beatsPerMinute, wire.bpm);
            lv2_atom_forge_key(&f, numbers_.map(LV2_TIME__bar));
            lv2_atom_forge_long(&f, wire.bar);
            real(LV2_TIME__barBeat, wire.bar_beat);
            real(LV2_TIME__beatsPerBar, wire.beats_per_bar);
            lv2_atom_forge_key(&f, numbers_.map(LV2_TIME__beatUnit));
            lv2_atom_forge_int(&f, wire.beat_unit);
            lv2_atom_forge_pop(&f, &frame);
        });
    }
    LV2_Worker_Status work(std::uint32_t size, const void* data) {
        if (!worker_ || !worker_->work) return LV2_WORKER_ERR_UNKNOWN;
        const auto respond = [](LV2_Worker_Respond_Handle self, std::uint32_t bytes, const void* what) {
            const auto* from = static_cast<const std::uint8_t*>(what);
            static_cast<Instance*>(self)->answers_.emplace_back(from, from + bytes);
            return LV2_WORKER_SUCCESS;
        };
        return worker_->work(lilv_instance_get_handle(instance_), respond, this, size, data);
    }

    std::vector<Port> ports_;
    Numbers& numbers_;
    std::vector<LV2_Options_Option> options_;
    LV2_Worker_Schedule schedule_{};
    std::array<LV2_Feature, 7> features_{};
    const LV2_Worker_Interface* worker_ = nullptr;
    LilvInstance* instance_ = nullptr;
    std::map<std::uint32_t, std::vector<float>> sounds_;
    std::map<std::uint32_t, float> controls_;
    std::map<std::uint32_t, std::vector<std::uint64_t>> events_;
    std::vector<std::vector<std::uint8_t>> answers_;
    std::vector<std::uint64_t> message_;  ///< to be told with the next stretch
    int midi_ = -1, time_ = -1, told_ = -1, latency_ = -1;
};

/// Both sides through one plug-in, or through two where it has a single channel.
class Pair {
public:
    Pair(World& w, const LilvPlugin* plugin, double rate, Numbers& numbers, const std::string& state, const std::string& file) {
        all_.push_back(std::make_unique<Instance>(w, plugin, rate, numbers, state, file));
        if (!usable()) return;
        in_ = all_[0]->of(Port::Kind::AudioIn), out_ = all_[0]->of(Port::Kind::AudioOut);
        if (in_.size() == 1 && out_.size() == 1) all_.push_back(std::make_unique<Instance>(w, plugin, rate, numbers, state, file));
    }
    bool usable() const {
        return std::all_of(all_.begin(), all_.end(), [](const auto& i) { return i->usable(); });
    }
    std::uint32_t latency() const { return all_[0]->latency(); }
    bool wants_time() const { return all_[0]->wants_time(); }
    void reset() {
        for (auto& i : all_) i->reset();
    }
    void run(PlugInWire& wire) {
        const std::uint32_t frames = std::min<std::uint32_t>(wire.frames, fw::kSlice);
        for (std::size_t side = 0; side < all_.size(); ++side) {
            Instance& one = *all_[side];
            one.set_fields(wire.fields);
            for (std::size_t i = 0; i < in_.size(); ++i) {
                auto& to = one.sound(in_[i]);
                for (std::uint32_t f = 0; f < frames; ++f) {
                    const float left = wire.left[f], right = wire.right[f];
                    if (all_.size() == 2) to[f] = side == 0 ? left : right;
                    else if (in_.size() == 1) to[f] = 0.5F * (left + right);
                    else to[f] = i == 0 ? left : i == 1 ? right : 0.0F;  // further inputs are side chains: silent
                }
            }
            one.run(frames, wire);
        }
        const auto& left = all_[0]->sound(out_[0]);
        const auto& right = all_.size() == 2 ? all_[1]->sound(out_[0]) : all_[0]->sound(out_[out_.size() > 1 ? 1 : 0]);
        std::copy_n(left.begin(), frames, wire.left);
        std::copy_n(right.begin(), frames, wire.right);
    }

private:
    std::vector<std::unique_ptr<Instance>> all_;
    std::vector<std::uint32_t> in_, out_;
};

/// All of what lies under the descriptor a state is handed over by.
std::string handed_state() {
    struct stat about {};
    if (::fstat(PlugInWire::kStateDescriptor, &about) != 0 || about.st_size <= 0 || about.st_size > static_cast<off_t>(PlugInWire::kMostState)) return {};
    std::string text(static_cast<std::size_t>(about.st_size), ' ');
    return ::pread(PlugInWire::kStateDescriptor, text.data(), text.size(), 0) == about.st_size ? text : std::string();
}

int run(const char* uri, double rate, pid_t program, const std::string& state, const std::string& file) {
    void* seen = ::mmap(nullptr, sizeof(PlugInWire), PROT_READ | PROT_WRITE, MAP_SHARED, PlugInWire::kDescriptor, 0);
    if (seen == MAP_FAILED) return 1;
    auto& wire = *static_cast<PlugInWire*>(seen);
    const fw::NoDenormals small_is_nothing;
    World w;
    Numbers numbers;
    const LilvPlugin* plugin = lilv_plugins_get_by_uri(lilv_world_get_all_plugins(w.get()), w(uri));
    std::unique_ptr<Pair> pair;
    if (plugin && can_be_run(plugin)) pair = std::make_unique<Pair>(w, plugin, rate, numbers, state, file);
    if (!pair || !pair->usable()) {
        wire.state = PlugInWire::State::Unusable;
        return 1;
    }
    // Its delay is known once it has run; what that left behind is cleared.
    wire.frames = fw::kSlice;
    pair->run(wire);
    pair->reset();
    wire.wants_time = pair->wants_time();
    wire.latency = std::min<std::uint32_t>(pair->latency(), static_cast<std::uint32_t>(10.0 * rate));
    wire.state = PlugInWire::State::Ready;
    for (std::uint32_t done = 0;;) {
        for (int i = 0; i < 2000 && wire.asked.load() == done; ++i) {
#if defined(__x86_64__)
            __builtin_ia32_pause();
#endif
        }
        while (wire.asked.load() == done) {
            fw::sleep_while(wire.asked, done, 1000);
            if (::getppid() != program) return 0;  // whoever asked is gone
        }
        done = wire.asked.load();
        if (wire.task == PlugInWire::Task::Run) pair->run(wire);
        else if (wire.task == PlugInWire::Task::Reset) pair->reset();
        wire.answered.store(done, std::memory_order_release);
        fw::wake(wire.answered);
        if (wire.task == PlugInWire::Task::Leave) return 0;
    }
}

}  // namespace

int main(int argc, char** argv) {
    if (argc == 2 && std::strcmp(argv[1], "scan") == 0) {
        scan();
        return 0;
    }
    if (argc == 3 && std::strcmp(argv[1], "presets") == 0) return presets(argv[2]);
    if (argc == 7 && std::strcmp(argv[1], "run") == 0)
        return run(argv[2], std::atof(argv[3]), static_cast<pid_t>(std::atol(argv[4])), std::strcmp(argv[5], "state") == 0 ? handed_state() : std::string(),
                   std::strcmp(argv[6], "-") == 0 ? std::string() : std::string(argv[6]));
    std::fputs("fakturwerk-plug-in-host is started by Fakturwerk itself: fakturwerk-plug-in-host scan | presets URI | run URI RATE PROGRAM STATE FILE\n",
               stderr);
    return 2;
}
