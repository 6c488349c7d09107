// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include <algorithm>

namespace fw {

namespace {

constexpr Argument kAt[] = {{"at", "a place: 5, 5.3, verse 2 or 12.5s"}};
constexpr Argument kSection[] = {{"section", "which"}};
constexpr Argument kStart[] = {{"section", "which"}, {"to", "a place: the bar line nearest to it"}};
constexpr Argument kRepeat[] = {{"section", "which"}, {"of", "an earlier one, or none"}};
constexpr Argument kRename[] = {{"section", "which"}, {"name", "its new name"}};
constexpr Argument kCondense[] = {{"section", "which"}, {"on", "on: left out; off: taken in again"}};
constexpr Argument kCopy[] = {{"section", "which"}, {"to", "where the copy begins: a place"}};

const Command kCommands[] = {
    {"section.rename", "Rename section", "Gives a section another name.", kRename, false,
     [](const Call& c) { return rename_section(c.remake, c.section().id, c.text("name")); }},
    {"section.copy", "Copy section", "Plays what a section plays once more, with its clips, curves and settings, in the place of what is there.", kCopy, false,
     [](const Call& c) { return copy_section(c.remake, c.section().id, c.place("to")); }},
    {"section.condense", "Condense", "Leaves a section out of the condensed version, which is rendered and handed off besides the whole.", kCondense, false,
     [](const Call& c) {
         Remake next = leave_out_of_condensed(c.remake, c.section().id, c.on("on"));
         const auto& all = next.song->sections;
         if (std::all_of(all.begin(), all.end(), [](const Section& s) { return s.condensed_out; })) throw Refused{"nothing would be left"};
         return next;
     }},
    {"section.split", "Split section", "Cuts a section in two at a bar line; where there is none, one begins there.", kAt, false,
     [](const Call& c) {
         Remake next = split_section(c.remake, c.place("at"));
         if (next == c.remake) throw Refused{"a section begins there already"};
         return next;
     }},
    {"section.merge", "Merge sections", "Makes one of a section and the one behind it.", kSection, false,
     [](const Call& c) {
         Remake next = merge_section(c.remake, c.section().id);
         if (next == c.remake) throw Refused{"it is the last one"};
         return next;
     }},
    {"section.start", "Move section's start", "Moves where a section begins to a bar line; the one before it goes on as far.", kStart, false,
     [](const Call& c) { return move_section_start(c.remake, c.section().id, c.place("to")); }},
    {"section.repeat", "Set repeat", "Says which earlier section this one repeats, or none.", kRepeat, false,
     [](const Call& c) {
         const SectionId of = c.text("of") == "none" ? SectionId() : c.section("of").id;
         if (of && c.remake.song->section(of)->start >= c.section().start) throw Refused{"a section repeats one before it"};
         return set_repeat(c.remake, c.section().id, of);
     }},
};

}  // namespace

std::span<const Command> section_commands() { return kCommands; }

}  // namespace fw
