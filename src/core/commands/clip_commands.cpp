// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "model/limits.hpp"

#include <algorithm>
#include <charconv>
#include <cstdio>

namespace fw {

std::string recipe_text(const std::vector<RecipeEntry>& recipe) {
    std::string all;
    for (const RecipeEntry& e : recipe) {
        const TreatmentType& type = treatment_type(e.treatment);
        all += (all.empty() ? "" : ", ") + std::string(type.id);
        for (std::size_t i = 0; i < type.fields.size(); ++i) {
            char number[32];
            std::snprintf(number, sizeof number, " %.6g", i == 0 ? e.first : e.second);
            all += number;
        }
    }
    return all;
}

namespace {

constexpr const char* kRecipeHelp = "what is done to it, in order: \"fade 5 20, reverse, gain -6, pitch -12, stretch 2\"";
constexpr Argument kCut[] = {{"from", "where it begins in the original: a place"},
                             {"length", "as 1/8"},
                             {"to", "where it is put: a place"},
                             {"name", "what it is called", false},
                             {"ends", "on: it ends there instead of beginning", false},
                             {"recipe", kRecipeHelp, false},
                             {"level", "as -6dB", false},
                             {"bus", "where it goes; without it to the master", false}};
constexpr Argument kFile[] = {{"file", "a sound file"},
                              {"to", "where it is put: a place"},
                              {"seconds", "how much of it, from its beginning"},
                              {"name", "what it is called", false},
                              {"ends", "on: it ends there instead of beginning", false},
                              {"recipe", kRecipeHelp, false},
                              {"level", "as -6dB", false},
                              {"bus", "where it goes; without it to the master", false}};
constexpr Argument kMove[] = {{"clip", "its name"}, {"to", "a place"}};
constexpr Argument kRecipe[] = {{"clip", "its name"}, {"recipe", kRecipeHelp}};
constexpr Argument kKeep[] = {{"clip", "its name"}, {"on", "on or off"}};
constexpr Argument kClip[] = {{"clip", "its name"}};

std::string treatments() {
    return either(kTreatmentTypes, [](const TreatmentType& t) { return t.id; });
}

std::vector<RecipeEntry> recipe_of(const std::string& text, const Call& c) {
    std::vector<RecipeEntry> recipe;
    for (const auto& words : entries_of(text)) {
        const auto type =
            std::find_if(kTreatmentTypes.begin(), kTreatmentTypes.end(), [&](const TreatmentType& t) { return !words.empty() && words[0] == t.id; });
        if (type == kTreatmentTypes.end())
            throw Refused{"\"" + (words.empty() ? std::string() : words[0]) + "\" is nothing that can be done to a sound: say " + treatments()};
        if (words.size() > 1 + type->fields.size()) throw Refused{"\"" + words[0] + "\" takes fewer values"};
        RecipeEntry entry;
        entry.treatment = type->treatment;
        entry.first = words.size() > 1 ? c.value(type->fields[0], words[1]) : type->fields.empty() ? 0.0 : type->fields[0].neutral;
        entry.second = words.size() > 2 ? c.value(type->fields[1], words[2]) : type->fields.size() < 2 ? 0.0 : type->fields[1].neutral;
        recipe.push_back(entry);
    }
    return recipe;
}

Remake placed(const Call& c, Asset asset) {
    Clip clip;
    clip.name = asset.name;
    clip.start = c.place("to");
    clip.ends_here = c.has("ends") && c.on("ends");
    if (c.has("recipe")) clip.recipe = recipe_of(c.text("recipe"), c);
    if (c.has("level")) clip.gain_db = c.value(rows::kLevel, c.text("level"));
    if (c.has("bus")) clip.output = c.bus().id;
    return add_clip(c.remake, std::move(asset), std::move(clip));
}

const Command kCommands[] = {
    {"clip.from-original", "Cut from the original", "Puts a piece of the original into the song, marked as such.", kCut, false,
     [](const Call& c) {
         const Ticks from = c.place("from"), length = c.length("length");
         if (length < 1) throw Refused{"a piece has to have a length"};
         const auto& tempo = c.remake.song->tempo;
         return placed(c, from_original(c.remake, c.text("name", "Cut from " + place_text(c.remake.song->meter, from)), tempo.seconds(from),
                                        tempo.seconds(from + length)));
     }},
    {"clip.from-file", "Place sound", "Puts a sound file into the song.", kFile, false,
     [](const Call& c) {
         Asset asset;
         const std::string file = c.text("file");
         asset.name = c.text("name", file.substr(file.find_last_of('/') + 1));
         asset.path = file;
         asset.end_s = c.number("seconds", 0.001, limits::kAsset_s);
         return placed(c, std::move(asset));
     }},
    {"clip.move", "Move clip", "Puts a clip elsewhere.", kMove, false, [](const Call& c) { return move_clip(c.remake, c.clip().id, c.place("to")); }},
    {"clip.recipe", "Change recipe", "Says what is done to a clip's sound.", kRecipe, false,
     [](const Call& c) { return set_recipe(c.remake, c.clip().id, recipe_of(c.text("recipe"), c)); }},
    {"clip.keep", "Keep sound", "Says whether the remake file holds a clip's sound, too.", kKeep, false,
     [](const Call& c) {
         const Clip& clip = c.clip();
         const Asset* asset = c.remake.clips->asset(clip.asset);
         if (asset && asset->origin == AssetOrigin::Original)
             throw Refused{"\"" + clip.name + "\" is a piece of the original, which is not copied into remakes"};
         if (asset && !c.on("on") && !asset->bytes->empty())
             throw Refused{"the remake file's copy of \"" + clip.name + "\" may be the only one: remove the clip where it is not wanted"};
         return keep_sound(c.remake, clip.id, c.on("on"));
     }},
    {"clip.remove", "Remove clip", "Takes a clip away.", kClip, false, [](const Call& c) { return remove_clip(c.remake, c.clip().id); }},
    {"original.leave-out",
     "Leave the original out",
     "Takes away every sound from the original.",
     {},
     false,
     [](const Call& c) { return without_original(c.remake); }},
};

}  // namespace

std::span<const Command> clip_commands() { return kCommands; }

}  // namespace fw
