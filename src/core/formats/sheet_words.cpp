// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/sheet_words.hpp"

#include "model/fields.hpp"
#include "model/places.hpp"
#include "sound/sources/soundfont.hpp"

#include <algorithm>
#include <cctype>
#include <filesystem>

namespace fw {

namespace {

std::string lower(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

/// With what a plug-in has besides its fields.
std::string plug_in_in_words(std::string name, const std::string& state, const std::string& file) {
    if (!state.empty()) name += " with a state of its own";
    if (!file.empty()) name += " playing " + std::filesystem::path(file).filename().string();
    return name;
}

}  // namespace

std::string layer_in_words(const Remake& remake, const Layer& l) {
    if (const Asset* asset = remake.clips->asset(l.asset)) return asset->name;
    if (l.source == &kSoundFont) {
        const auto& names = general_midi_names();
        return names[static_cast<std::size_t>(std::clamp(l.program, 0, static_cast<int>(names.size()) - 1))];
    }
    if (l.source == &kSampler) return l.file.empty() ? "Struck bar" : std::filesystem::path(l.file).filename().string();
    if (l.source->plug_in) return plug_in_in_words(l.source->label, l.state, l.file);
    return l.patch;
}

std::string fields_in_words(const Remake& r, const FieldOwner& owner, bool set_only) {
    const auto* id = std::get_if<LayerId>(&owner);
    const Layer* layer = id && set_only ? find_layer(r, *id) : nullptr;
    std::string text;
    for (const Parameter* p : fields_of(r, owner)) {
        const double now = *field_value(r, {owner, p->id});
        const auto of_source = layer ? index_of_field(layer->source->fields, p->id) : std::nullopt;
        const bool brought = of_source && p == &layer->source->fields[*of_source] && !layer->settings.find(*of_source);
        const std::string label = lower(p->label);
        if (now != p->neutral && !brought) text += ", " + label + " " + value_text(*p, now);
        for (const SectionSetting& s : r.automation->settings)
            if (s.field == FieldRef{owner, p->id}) text += ", in " + section_text(r, s.section) + " " + label + " " + value_text(*p, s.value);
        if (const NoteMove* m = r.automation->note_move({owner, p->id}); m && r.part(m->by))
            text += ", " + label + " to " + value_text(*p, m->to) + " with each note of " + r.part(m->by)->name;
        for (const Curve& c : r.automation->curves)
            if (c.field == FieldRef{owner, p->id}) text += ", " + label + " moves in " + (c.section ? section_text(r, c.section) : std::string("the song"));
    }
    return text;
}

std::string sheet_in_words(const Remake& r, PartId id) {
    const Part* part = r.part(id);
    if (!part) return {};
    std::string text = part->name + "\nLayers\n";
    const auto put = [&](const std::string& name, const FieldOwner& owner) { text += "  " + name + fields_in_words(r, owner) + "\n"; };
    for (const Layer& l : part->layers) put(layer_in_words(r, l), l.id);
    text += "Steps\n";
    for (const Step& s : part->steps) put(plug_in_in_words(s.type->label, s.state, s.file), s.id);
    const Bus* out = r.mixer->bus(part->output);
    text += "Where it goes\n";
    put(out ? "to " + out->name : "to the master", part->id);
    for (const Send& s : part->sends)
        if (const Bus* b = r.mixer->bus(s.bus)) put("and to " + b->name, SendRef{part->id, s.bus});
    return text;
}

}  // namespace fw
