// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

namespace fw {

namespace {

constexpr Argument kAdd[] = {
    {"name", "what it is called"},           {"role", "bass, lead, chords, drums or other", false}, {"source", "synth, drum_kit or soundfont", false},
    {"patch", "one of the source's", false}, {"program", "of a SoundFont, 0 to 127", false},        {"file", "a SoundFont", false}};
constexpr Argument kPart[] = {{"part", "which"}};
constexpr Argument kRename[] = {{"part", "which"}, {"name", "its new name"}};
constexpr Argument kSwitch[] = {{"part", "which"}, {"on", "on or off"}};
constexpr Argument kCell[] = {{"part", "which"}, {"section", "where"}, {"on", "on or off"}};
constexpr Argument kNewRival[] = {{"part", "which"}, {"name", "what the part goes on as"}};
constexpr Argument kRival[] = {{"part", "which"}, {"rival", "its name, or its number from 1"}};

std::size_t rival_of(const Call& c) {
    const Part& p = c.part();
    const std::string wanted = c.text("rival");
    for (std::size_t i = 0; i < p.rivals.size(); ++i)
        if (same_words(p.rivals[i]->version_name, wanted) || wanted == std::to_string(i + 1)) return i;
    throw Refused{p.rivals.empty() ? "the part \"" + p.name + "\" has no rival" : "there is no rival \"" + wanted + "\" of the part \"" + p.name + "\""};
}

Remake switched(const Call& c, bool Part::*member) {
    return with_part(c.remake, c.part().id, [&](Part& p) { p.*member = c.on("on"); });
}

const Command kCommands[] = {
    {"part.add", "Add part", "Adds a part with one layer and nothing to play yet.", kAdd, false,
     [](const Call& c) {
         PartRole role = PartRole::Other;
         if (c.has("role")) {
             int i = 0;
             while (i < kPartRoles && c.text("role") != part_role_name(static_cast<PartRole>(i))) ++i;
             if (i == kPartRoles) throw Refused{"\"" + c.text("role") + "\" is no role: say bass, lead, chords, drums or other"};
             role = static_cast<PartRole>(i);
         }
         return add_part(c.remake, c.text("name"), role, new_layer(c, role == PartRole::Drums ? kDrumKit : kSynth));
     }},
    {"part.remove", "Remove part", "Takes a part out.", kPart, false, [](const Call& c) { return remove_part(c.remake, c.part().id); }},
    {"part.rename", "Rename part", "Gives a part another name.", kRename, false,
     [](const Call& c) {
         if (c.text("name").empty()) throw Refused{"a part has to have a name"};
         return with_part(c.remake, c.part().id, [&](Part& p) { p.name = c.text("name"); });
     }},
    {"part.mute", "Mute part", "Mutes a part or lets it sound.", kSwitch, false, [](const Call& c) { return switched(c, &Part::mute); }},
    {"part.solo", "Solo part", "Lets only this part (and others that are soloed) sound.", kSwitch, false,
     [](const Call& c) { return switched(c, &Part::solo); }},
    {"part.mute-in", "Mute in section", "Mutes what a part plays in one section, or lets it sound.", kCell, false,
     [](const Call& c) { return mute_cell(c.remake, c.part().id, c.section().id, c.on("on")); }},
    {"parts.clear-mutes", "Clear solos and mutes", "Lets all parts sound.", {}, false, [](const Call& c) { return clear_mutes_and_solos(c.remake); }},
    {"rival.add", "Keep a rival", "Keeps the part as it is as a rival and goes on with a copy of it.", kNewRival, false,
     [](const Call& c) { return add_rival(c.remake, c.part().id, c.text("name")); }},
    {"rival.choose", "Choose rival", "Lets a rival be the part; what was the part becomes a rival.", kRival, false,
     [](const Call& c) { return choose_rival(c.remake, c.part().id, rival_of(c)); }},
    {"rival.remove", "Remove rival", "Gives up a rival.", kRival, false, [](const Call& c) { return remove_rival(c.remake, c.part().id, rival_of(c)); }},
};

}  // namespace

std::span<const Command> part_commands() { return kCommands; }

}  // namespace fw
