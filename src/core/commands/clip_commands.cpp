// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "model/describe.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cstdio>

namespace fw {

std::string marks_text(const std::vector<WarpMark>& marks) {
    std::string all;
    for (const WarpMark& m : marks) {
        char text[64];
        std::snprintf(text, sizeof text, "%s%.8g:%.8g", all.empty() ? "" : " ", m.from_ms, m.to_ms);
        all += text;
    }
    return all;
}

std::string recipe_text(const std::vector<RecipeEntry>& recipe) {
    std::string all;
    for (const RecipeEntry& e : recipe) {
        const TreatmentType& type = treatment_type(e.treatment);
        all += (all.empty() ? "" : ", ") + std::string(type.id);
        for (std::size_t i = 0; i < type.fields.size(); ++i) {
            char number[32];
            std::snprintf(number, sizeof number, " %.8g", i == 0 ? e.first : e.second);
            all += number;
        }
        if (!e.marks.empty()) all += " " + marks_text(e.marks);
        if (e.on < 0.5) all += " off";
    }
    return all;
}

namespace {

constexpr const char* kRecipeHelp =
    "what is done to it, in order: \"fade 5 20, reverse, gain -6, pitch -12, stretch 2, bars 2, stop 500, gate 4 50%, freeze 200 4000, clean 15, tune 100%, "
    "speed 0.94, even 100%, warp 250:240 480:500\"; \"off\" behind one passes it by";
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
                              {"origin", "file or recorded: whether it is of your own", false},
                              {"name", "what it is called", false},
                              {"ends", "on: it ends there instead of beginning", false},
                              {"recipe", kRecipeHelp, false},
                              {"level", "as -6dB", false},
                              {"bus", "where it goes; without it to the master", false}};
constexpr Argument kMove[] = {{"clip", "its name"}, {"to", "a place"}};
constexpr Argument kWarp[] = {
    {"clip", "its name"}, {"marks", "what sounds at one time is heard at another, in ms from its beginning: \"250:240 495:500\"; nothing takes the warp away"}};
constexpr Argument kRetime[] = {{"clip", "its name"},
                                {"hits", "what is moved, in ms from its beginning: \"250 495 740\""},
                                {"grid", "onto what: as 1/16, 1/8T for triplets", false},
                                {"groove", "or a groove, by name", false},
                                {"swing", "0.5 straight to 0.75", false},
                                {"strength", "0 to 1", false},
                                {"window", "what is farther off stays: as 1/32", false}};
constexpr Argument kTake[] = {{"clip", "its name"}, {"from", "a place; without it the whole clip", false}, {"to", "to before a place", false}};
constexpr Argument kRecipe[] = {{"clip", "its name"}, {"recipe", kRecipeHelp}};
constexpr Argument kKeep[] = {{"clip", "its name"}, {"on", "on or off"}};
constexpr Argument kClip[] = {{"clip", "its name"}};
constexpr Argument kLevel[] = {{"clip", "its name"}, {"level", "as -6dB"}};
constexpr Argument kOutput[] = {{"clip", "its name"}, {"bus", "the bus; without it the master", false}};
constexpr Argument kMute[] = {{"clip", "its name"}, {"on", "on or off"}};
constexpr Argument kChop[] = {{"clip", "its name"},
                              {"length", "of each piece: as 1/8", false},
                              {"hits", "or where it is cut, in ms from its beginning: \"250 495 740\"", false},
                              {"onto", "with hits: the grid its pieces go onto, as 1/16", false}};
std::string transition_kinds();
constexpr Argument kTransition[] = {{"kind", "what", true, transition_kinds},
                                    {"to", "where it is put: a place"},
                                    {"length", "as 2 bars"},
                                    {"ends", "off: it begins there; on: it ends there, as what rises does by itself", false},
                                    {"pitch", "what it is tuned to; without it the key, of a chord's swell the chord", false},
                                    {"name", "what it is called", false},
                                    {"recipe", kRecipeHelp, false},
                                    {"level", "as -6dB", false},
                                    {"bus", "where it goes; without it to the master", false}};
constexpr Argument kOther[] = {
    {"clip", "its name"}, {"kind", "what it is instead", false, transition_kinds}, {"length", "as 2 bars", false}, {"pitch", "what it is tuned to", false}};
constexpr Argument kFill[] = {{"from", "a place"}, {"to", "a place"}, {"alone", "on: what parts play there is muted", false}};

std::string treatments() {
    return either(kTreatmentTypes, [](const TreatmentType& t) { return t.id; });
}

constexpr Parameter kTime{"ms", "A time", Unit::Milliseconds, 0.0, 600'000.0, 0.0, Scale::Linear, 0.1, false, ""};

/// "250:240": what sounds there is heard here.
WarpMark mark_of(const std::string& word, const Call& c) {
    const auto colon = word.find(':');
    if (colon == std::string::npos) throw Refused{"\"" + word + "\" is no mark of a warp: say from and to in ms, as 250:240"};
    return {c.value(kTime, word.substr(0, colon)), c.value(kTime, word.substr(colon + 1)), {}};
}

/// Milliseconds with spaces between, as seconds.
std::vector<double> times_of(const std::string& text, const Call& c) {
    std::vector<double> times;
    for (const auto& words : entries_of(text))
        for (const std::string& word : words) times.push_back(c.value(kTime, word) / 1000.0);
    return times;
}

std::vector<RecipeEntry> recipe_of(const std::string& text, const Call& c) {
    std::vector<RecipeEntry> recipe;
    for (auto words : entries_of(text)) {
        const bool off = words.size() > 1 && words.back() == "off";
        if (off) words.pop_back();
        const auto type =
            std::find_if(kTreatmentTypes.begin(), kTreatmentTypes.end(), [&](const TreatmentType& t) { return !words.empty() && words[0] == t.id; });
        if (type == kTreatmentTypes.end())
            throw Refused{"\"" + (words.empty() ? std::string() : words[0]) + "\" is nothing that can be done to a sound: say " + treatments()};
        RecipeEntry entry;
        entry.treatment = type->treatment;
        entry.on = off ? 0.0 : 1.0;
        if (entry.treatment == Treatment::Warp) {
            for (std::size_t i = 1; i < words.size(); ++i) entry.marks.push_back(mark_of(words[i], c));
            words.resize(1);
        }
        if (words.size() > 1 + type->fields.size()) throw Refused{"\"" + words[0] + "\" takes fewer values"};
        entry.first = words.size() > 1 ? c.value(type->fields[0], words[1]) : type->fields.empty() ? 0.0 : type->fields[0].neutral;
        entry.second = words.size() > 2 ? c.value(type->fields[1], words[2]) : type->fields.size() < 2 ? 0.0 : type->fields[1].neutral;
        recipe.push_back(entry);
    }
    return recipe;
}

Remake placed(const Call& c, Asset asset, bool ends) {
    Clip clip;
    clip.name = asset.name;
    clip.start = c.place("to");
    clip.ends_here = ends;
    if (c.has("recipe")) clip.recipe = recipe_of(c.text("recipe"), c);
    if (c.has("level")) clip.gain_db = c.value(rows::kLevel, c.text("level"));
    if (c.has("bus")) clip.output = c.bus().id;
    return add_clip(c.remake, std::move(asset), std::move(clip));
}

std::string transition_kinds() {
    return either(std::span(names::kTransitions).subspan(1), [](const char* n) { return n; });
}

Transition transition_of(const Call& c) {
    const std::string kind = c.text("kind");
    for (std::size_t i = 1; i < names::kTransitions.size(); ++i)
        if (kind == names::kTransitions[i]) return static_cast<Transition>(i);
    throw Refused{"\"" + kind + "\" is no transition: say " + transition_kinds()};
}

/// The key there, about A3; of a chord's swell the chord that is struck there.
std::vector<int> tuned_to(const Remake& remake, Transition kind, Ticks at) {
    if (kind == Transition::ChordSwell)
        for (const ChordEvent& e : remake.song->chords)
            if (at >= e.start && at < e.start + e.length && e.chord.root >= 0) return laid_out(e.chord, Voicing::Close, 0);
    const Key* key = remake.song->key_at(at);
    return {51 + ((key ? key->tonic : 9) + 9) % 12};
}

/// What the arguments say of how it is made, and how long that is where its clip stands.
void made_as(const Call& c, const Clip& where, Asset& asset) {
    if (c.has("length")) {
        asset.made.beats = static_cast<double>(c.length("length")) / kTicksPerQuarter;
        if (asset.made.beats < 0.25 || asset.made.beats > limits::kTransitionBeats) throw Refused{"a transition lasts from a sixteenth to 64 bars"};
    }
    if (c.has("pitch")) asset.made.pitches = {c.pitch("pitch")};
    asset.end_s = made_seconds(*c.remake.song, asset.made, where);
}

Remake add_transition(const Call& c) {
    Asset asset;
    asset.origin = AssetOrigin::Made;
    asset.made.kind = transition_of(c);
    Clip where;
    where.start = c.place("to");
    where.ends_here = c.has("ends") ? c.on("ends") : leads_to_its_place(asset.made.kind);
    asset.made.pitches = tuned_to(c.remake, asset.made.kind, where.start);
    made_as(c, where, asset);
    std::string name = names::kTransitions[static_cast<std::size_t>(asset.made.kind)];
    std::replace(name.begin(), name.end(), '_', ' ');
    name[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(name[0])));
    asset.name = c.text("name", name + (where.ends_here ? " to " : " at ") + place_text(c.remake.song->meter, where.start));
    return placed(c, std::move(asset), where.ends_here);
}

Remake change_transition(const Call& c) {
    const Clip& clip = c.clip();
    const Asset* asset = c.remake.clips->asset(clip.asset);
    if (!asset || asset->made.kind == Transition::None) throw Refused{"\"" + clip.name + "\" is no transition"};
    Asset other = *asset;
    Clip where = clip;
    if (c.has("kind")) {
        other.made.kind = transition_of(c);
        // What struck there now leads to it, or the other way round; and a chord takes the place of a note.
        if (leads_to_its_place(other.made.kind) != leads_to_its_place(asset->made.kind)) where.ends_here = !where.ends_here;
        if ((other.made.kind == Transition::ChordSwell) != (asset->made.kind == Transition::ChordSwell))
            other.made.pitches = tuned_to(c.remake, other.made.kind, clip.start);
    }
    made_as(c, where, other);
    return change_asset(c.remake, clip.id, std::move(other), where.ends_here);
}

const Command kCommands[] = {
    {"transition.add", "Add transition", "Makes a sound that leads into a place, or out of one, tuned to the key and as long as told.", kTransition, false,
     add_transition},
    {"transition.change", "Change transition", "Makes a transition anew: of another kind, length or pitch.", kOther, false, change_transition},
    {"original.fill", "Fill with the original", "Lets the original itself stand where a stretch is not remade, marked as such.", kFill, false,
     [](const Call& c) {
         const Ticks from = c.place("from"), to = c.place("to");
         Remake next = to > from ? fill_with_original(c.remake, from, to, c.has("alone") && c.on("alone")) : c.remake;
         if (next == c.remake) throw Refused{"there is nothing of the original between these places"};
         return next;
     }},
    {"clip.level", "Change clip's level", "Says how loud a clip is.", kLevel, false,
     [](const Call& c) { return set_clip_level(c.remake, c.clip().id, c.value(rows::kLevel, c.text("level"))); }},
    {"clip.output", "Choose clip's output", "Says where a clip goes: to a bus with its steps, or to the master.", kOutput, false,
     [](const Call& c) { return set_clip_output(c.remake, c.clip().id, c.has("bus") ? c.bus().id : BusId()); }},
    {"clip.mute", "Mute clip", "Silences a clip or lets it sound.", kMute, false, [](const Call& c) { return mute_clip(c.remake, c.clip().id, c.on("on")); }},
    {"clip.chop", "Chop clip", "Cuts a clip into pieces of one length, each a clip of its own that can be moved, muted and treated.", kChop, false,
     [](const Call& c) {
         if (c.has("length") == c.has("hits")) throw Refused{"it does not say where: length= of each piece, or hits="};
         Remake next = c.has("hits") ? chop_clip_at(c.remake, c.clip().id, times_of(c.text("hits"), c), c.has("onto") ? c.length("onto") : 0)
                                     : chop_clip(c.remake, c.clip().id, c.length("length"));
         if (next == c.remake) throw Refused{"the clip is not longer than one piece, or longer than 256 of them"};
         return next;
     }},
    {"clip.choose-take", "Choose take", "Of takes that lie over each other only this one sounds, in a stretch or altogether; the others are kept.", kTake,
     false,
     [](const Call& c) {
         const Clip& clip = c.clip();
         if (c.has("from") != c.has("to")) throw Refused{"it says from or to only: say both, or neither for the whole clip"};
         const auto& tempo = c.remake.song->tempo;
         const Asset& asset = *c.remake.clips->asset(clip.asset);
         const double long_s = recipe_seconds(*c.remake.song, asset, clip), begins_s = clip_begins_s(*c.remake.song, asset, clip);
         const Ticks from = c.has("from") ? c.place("from") : tempo.nearest_tick(begins_s),
                     to = c.has("to") ? c.place("to") : tempo.nearest_tick(begins_s + long_s);
         if (to <= from) throw Refused{"the second place has to come after the first"};
         if (tempo.seconds(to) <= begins_s || tempo.seconds(from) >= begins_s + long_s) throw Refused{"the clip does not sound there"};
         return choose_take(c.remake, clip.id, from, to);
     }},
    {"clip.warp", "Warp clip", "Moves what sounds at some times in a clip to others; what lies between is stretched.", kWarp, false,
     [](const Call& c) {
         std::vector<WarpMark> marks;
         for (const auto& words : entries_of(c.text("marks")))
             for (const std::string& word : words) marks.push_back(mark_of(word, c));
         return warp_clip(c.remake, c.clip().id, std::move(marks));
     }},
    {"clip.retime", "Re-time clip", "Moves hits or notes in a clip onto a grid or a groove; what lies between is stretched.", kRetime, false,
     [](const Call& c) {
         auto marks = marks_onto(c.remake, c.clip().id, times_of(c.text("hits"), c), c.grid(), c.has("strength") ? c.number("strength", 0.0, 1.0) : 1.0,
                                 c.has("window") ? c.length("window") : 0);
         if (marks.empty()) throw Refused{"none of these times lies in the clip"};
         return warp_clip(c.remake, c.clip().id, std::move(marks));
     }},
    {"clip.from-original", "Cut from the original", "Puts a piece of the original into the song, marked as such.", kCut, false,
     [](const Call& c) {
         const Ticks from = c.place("from"), length = c.length("length");
         if (length < 1) throw Refused{"a piece has to have a length"};
         const auto& tempo = c.remake.song->tempo;
         return placed(
             c,
             from_original(c.remake, c.text("name", "Cut from " + place_text(c.remake.song->meter, from)), tempo.seconds(from), tempo.seconds(from + length)),
             c.has("ends") && c.on("ends"));
     }},
    {"clip.from-file", "Place sound", "Puts a sound file into the song.", kFile, false,
     [](const Call& c) {
         Asset asset;
         const std::string file = c.text("file");
         asset.name = c.text("name", file.substr(file.find_last_of('/') + 1));
         asset.path = file;
         asset.end_s = c.number("seconds", 0.001, limits::kAsset_s);
         if (c.has("origin")) {
             if (c.text("origin") != "file" && c.text("origin") != "recorded") throw Refused{"a sound file's origin is file or recorded"};
             asset.origin = c.text("origin") == "recorded" ? AssetOrigin::Recorded : AssetOrigin::File;
         }
         return placed(c, std::move(asset), c.has("ends") && c.on("ends"));
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
