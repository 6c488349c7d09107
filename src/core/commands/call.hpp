// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "commands/command.hpp"
#include "model/edits.hpp"
#include "model/places.hpp"

#include <array>
#include <span>
#include <string>
#include <vector>

namespace fw {

/// Thrown by a command that cannot be done: a clause that goes on from "because"; caught in run_command.
struct Refused {
    std::string why;
};

/// A command being run: its arguments as what they mean. Each getter throws Refused where the text means nothing here.
class Call {
public:
    Call(const Remake& document, const Line& line, const Command& command);

    const Remake& remake;

    bool has(std::string_view name) const { return find(name) != nullptr; }
    std::string text(std::string_view name) const;
    std::string text(std::string_view name, std::string otherwise) const { return has(name) ? text(name) : std::move(otherwise); }
    const Part& part(std::string_view name = "part") const;
    const Bus& bus(std::string_view name = "bus") const;
    const Macro& macro(std::string_view name = "macro") const;
    const Section& section(std::string_view name = "section") const;
    const Clip& clip(std::string_view name = "clip") const;
    Ticks place(std::string_view name) const;
    Ticks length(std::string_view name) const;
    double number(std::string_view name, double low, double high) const;
    int whole(std::string_view name, int low, int high) const;
    bool on(std::string_view name) const;
    int pitch(std::string_view name) const { return pitch_of(text(name)); }
    /// What a text names: a note (C4), a key or a drum sound.
    int pitch_of(const std::string& text) const;
    Reach reach() const;
    /// What "grid" and "swing", or "groove" name.
    Grid grid() const;
    ElementId element() const;
    /// A layer or step of what "part", "bus" or "master" name, by its number from 1, a step also by its kind.
    const Layer& layer(const Part& of) const;
    const Step& step() const;
    Chain chain() const;
    /// What owns a field: "send", "layer" or "step" of a part, a part, a bus, the master.
    FieldOwner owner() const;
    /// The owner's field called by the argument "field".
    FieldRef field() const;
    const Parameter& row(const FieldRef& field) const;
    double value(const Parameter& row, std::string_view text) const;
    /// The notes meant: "notes" by place and pitch, or all of a part from "from" to before "to".
    std::vector<NoteRef> notes(const Part& of) const;
    /// Sets the fields named by further arguments on an owner in a document.
    Remake with_fields(Remake next, const FieldOwner& owner) const;

private:
    const std::string* find(std::string_view name) const;
    const Line& line_;
    const Command& command_;
};

/// "this, that or another".
template <class List, class Name>
std::string either(const List& items, Name&& name) {
    std::string all;
    std::size_t left = std::size(items);
    for (const auto& item : items) all += std::string(name(item)) + (--left > 1 ? ", " : left == 1 ? " or " : "");
    return all;
}

/// The index of an argument's word in a list; the list's first ones may be none to choose.
template <std::size_t N>
int word_of(const Call& c, const char* argument, const std::array<const char*, N>& words, std::size_t first = 0) {
    for (std::size_t i = first; i < N; ++i)
        if (c.text(argument) == words[i]) return static_cast<int>(i);
    throw Refused{"\"" + c.text(argument) + "\" for " + argument + " is not known: say " +
                  either(std::span(words).subspan(first), [](const char* word) { return word; })};
}

/// "a 1, b 2 3" → {a, 1}, {b, 2, 3}: entries between commas, each of words.
std::vector<std::vector<std::string>> entries_of(std::string_view text);

/// "120:-50": ticks from a note's start and cents.
BendPoint bend_point(const std::string& word);
/// Notes as an argument has them: "0 F2 240 96, 240 G2 240 90", counted from a place.
std::vector<Note> notes_written(const Call& call, const char* argument, Ticks from, Origin origin);

/// The layer that source=, patch=, program= and file= name.
Layer new_layer(const Call& call, const SourceType& otherwise);

// How the window says what it means.
std::string note_text(const Remake& remake, const PlacedNote& note);  ///< "5.3.12/F2"
std::string notes_text(const Remake& remake, const Part& part, const std::vector<NoteRef>& notes);
/// Adds what names an owner: part=…, layer=…, …
Line& name_owner(Line& line, const Remake& remake, const FieldOwner& owner);
Line& name_chain(Line& line, const Remake& remake, const Chain& chain);
/// A curve's points as curve.set reads them; start: of the section, or 0.
std::string points_text(const Remake& remake, const Parameter& row, Ticks start, const std::vector<CurvePoint>& points);
/// Marks of a warp: "120:125 480:500".
std::string marks_text(const std::vector<WarpMark>& marks);
/// A recipe as clip.recipe reads it: "fade 2 20, reverse".
std::string recipe_text(const std::vector<RecipeEntry>& recipe);
std::string element_text(const Remake& remake, ElementId element);
const char* reach_text(Reach reach);
/// Notes in song time as note.write reads them, counted from a place.
std::string written_text(const std::vector<Note>& notes, Ticks from);

std::span<const Command> time_commands();
std::span<const Command> section_commands();
std::span<const Command> song_commands();
std::span<const Command> notebook_commands();
std::span<const Command> note_commands();
std::span<const Command> part_commands();
std::span<const Command> sound_commands();
std::span<const Command> clip_commands();

}  // namespace fw
