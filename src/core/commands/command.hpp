// SPDX-License-Identifier: GPL-3.0-or-later
// Every edit as a named command with described arguments: what the window's keys, menus and gestures run, what a script holds, and what the window copies
// as text. A command is one row in the table of its subject (song_commands.cpp, …).
#pragma once

#include "base/result.hpp"
#include "model/remake.hpp"

#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace fw {

/// A command with its arguments as text: a line of a script.
class Line {
public:
    explicit Line(std::string command) : command_(std::move(command)) {}
    Line& with(std::string name, std::string value) {
        arguments_.emplace_back(std::move(name), std::move(value));
        return *this;
    }
    const std::string& command() const noexcept { return command_; }
    const std::vector<std::pair<std::string, std::string>>& arguments() const noexcept { return arguments_; }
    /// `part.add-layer part=Lead patch="Warm pad"`: what parse_line reads.
    std::string text() const;

private:
    std::string command_;
    std::vector<std::pair<std::string, std::string>> arguments_;
};

/// Reads one line; nothing for an empty one or a comment (#). The error is a clause: "a quotation does not end".
Result<std::optional<Line>> parse_line(std::string_view text);

/// An argument a command knows.
struct Argument {
    const char* name;
    const char* help;
    bool needed = true;
    std::string (*choices)() = nullptr;  ///< the words there are, where a table elsewhere has them
};

/// "what it is: this, that or another".
std::string help_text(const Argument& argument);

class Call;

struct Command {
    const char* id;         ///< "part.add-layer"
    const char* undo_text;  ///< "Add layer"
    const char* help;       ///< one sentence
    std::span<const Argument> arguments;
    bool takes_fields;  ///< further arguments are fields of what it makes or changes
    Remake (*run)(const Call& call);
};

/// All commands, by subject.
std::vector<const Command*> commands();
const Command* find_command(std::string_view id);

/// What became of a command.
struct Outcome {
    Remake remake;
    const Command* command = nullptr;
};

/// Runs one command. CommandRefused where it is none, an argument is missing, unknown or not what it should be, where there is nothing to do it to, and where
/// what comes out would not be a valid remake; the detail says which. Pure, thread-safe.
Result<Outcome> run_command(const Remake& remake, const Line& line);

/// Runs a script, one command a line. Stops at the first that cannot be done, whose number and reason the error tells. name stands for the script there.
Result<Remake> run_script(const Remake& remake, std::string_view script, const std::string& name);

/// The list of commands with their arguments and help, for people.
std::string command_list();

}  // namespace fw
