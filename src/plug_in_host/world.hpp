// SPDX-License-Identifier: GPL-3.0-or-later
// What both looking through plug-ins and running one need of lilv.
#pragma once

#include <lilv/lilv.h>
#include <lv2/urid/urid.h>
#include <cstdint>
#include <map>
#include <string>
#include <vector>

namespace fw::host {

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

/// A node's text, without what would break a line; "." for none. Frees it.
std::string taken(LilvNode* node);

/// What a port is to us.
struct Port {
    enum class Kind { AudioIn, AudioOut, Field, ControlIn, ControlOut, EventsIn, EventsOut, Cv, Left } kind = Kind::Left;
    std::uint32_t index = 0;
    float value = 0.0F;          ///< what a control stands at
    std::vector<float> choices;  ///< a field's values where it is one of few
};

/// The values of a port that is one of few, ascending, and what they are called.
std::vector<float> choices_of(World& w, const LilvPlugin* plugin, const LilvPort* port, std::vector<std::string>* names = nullptr);
/// The place of the choice that a value is, or is nearest to.
double nearest_choice(const std::vector<float>& choices, float value);
std::vector<Port> ports_of(World& w, const LilvPlugin* plugin);
/// Whether a port takes events of a kind.
bool takes(World& w, const LilvPlugin* plugin, const Port& port, const char* event);
/// What of its own is a file the user can choose, such as a sample; null where nothing is. The first where there are several.
const LilvNode* file_property(World& w, const LilvPlugin* plugin);
/// Whether all that it needs of a host is here.
bool can_be_run(const LilvPlugin* plugin);

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

// --- what this program does ---

/// Writes what there is, a line each with tabs between its cells.
void scan();
/// Writes the presets of one, or of all where uri is null, the same way. Not 0 where there is no such plug-in.
int presets(const char* uri);
/// Runs one for as long as a process lives. state, file: what it is given besides its fields. Not 0 where it cannot be run.
int run(const char* uri, double rate, pid_t program, const std::string& state, const std::string& file);

}  // namespace fw::host
