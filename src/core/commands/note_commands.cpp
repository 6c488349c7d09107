// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

namespace fw {

namespace {

constexpr const char* kWhich = "which notes, by place and pitch: 5.3.12/F2,5.4/G2";
constexpr Argument kAdd[] = {{"part", "which"},
                             {"at", "a place"},
                             {"pitch", "a note (C4) or a drum sound"},
                             {"length", "as 1/8", false},
                             {"velocity", "1 to 127", false},
                             {"reach", "everywhere its pattern plays, or here", false}};
constexpr Argument kSome[] = {{"part", "which"},
                              {"notes", kWhich, false},
                              {"from", "or all from a place on", false},
                              {"to", "to before a place", false},
                              {"pitch", "of those only this pitch", false},
                              {"reach", "everywhere, or here", false}};
constexpr Argument kChange[] = {{"part", "which"},
                                {"notes", kWhich, false},
                                {"from", "or all from a place on", false},
                                {"to", "to before a place", false},
                                {"pitch", "of those only this pitch", false},
                                {"move", "later by a length; negative earlier", false},
                                {"semitones", "up; negative down", false},
                                {"lengthen", "by a length; negative shorter", false},
                                {"velocity", "harder by so much; negative softer", false},
                                {"reach", "everywhere, or here", false}};
constexpr Argument kQuantise[] = {{"part", "which"},
                                  {"notes", kWhich, false},
                                  {"from", "or all from a place on", false},
                                  {"to", "to before a place", false},
                                  {"pitch", "of those only this pitch", false},
                                  {"grid", "as 1/16"},
                                  {"strength", "0 to 1", false},
                                  {"reach", "everywhere, or here", false}};

const Command kCommands[] = {
    {"note.add", "Draw note", "Adds a note.", kAdd, false,
     [](const Call& c) {
         Note n;
         n.start = c.place("at");
         n.pitch = c.pitch("pitch");
         n.length = c.has("length") ? c.length("length") : kTicksPerQuarter / 4;
         n.velocity = c.has("velocity") ? c.whole("velocity", 1, 127) : n.velocity;
         if (n.length < 1) throw Refused{"a note has to have a length"};
         return add_note(c.remake, c.part().id, n, c.reach());
     }},
    {"note.remove", "Delete notes", "Takes notes away.", kSome, false,
     [](const Call& c) { return remove_notes(c.remake, c.part().id, c.notes(c.part()), c.reach()); }},
    {"note.change", "Change notes", "Moves, transposes, lengthens notes and plays them harder or softer.", kChange, false,
     [](const Call& c) {
         NoteChange by;
         if (c.has("move")) by.move = c.length("move");
         if (c.has("semitones")) by.semitones = c.whole("semitones", -127, 127);
         if (c.has("lengthen")) by.lengthen = c.length("lengthen");
         if (c.has("velocity")) by.velocity = c.whole("velocity", -126, 126);
         return change_notes(c.remake, c.part().id, c.notes(c.part()), by, c.reach());
     }},
    {"note.quantise", "Quantise notes", "Moves notes onto a grid.", kQuantise, false,
     [](const Call& c) {
         const Ticks grid = c.length("grid");
         if (grid < 1) throw Refused{"a grid has to have a length"};
         return quantise_notes(c.remake, c.part().id, c.notes(c.part()), grid, c.has("strength") ? c.number("strength", 0.0, 1.0) : 1.0, c.reach());
     }},
    {"note.straighten", "Straighten pitch", "Takes the bends off notes.", kSome, false,
     [](const Call& c) { return straighten_notes(c.remake, c.part().id, c.notes(c.part()), c.reach()); }},
};

}  // namespace

std::span<const Command> note_commands() { return kCommands; }

}  // namespace fw
