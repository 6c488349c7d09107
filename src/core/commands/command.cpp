// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/command.hpp"

#include "base/guard.hpp"
#include "commands/call.hpp"
#include "model/validate.hpp"

#include <algorithm>

namespace fw {

namespace {

bool is_plain(std::string_view value) {
    return !value.empty() && std::none_of(value.begin(), value.end(), [](unsigned char c) { return c <= ' ' || c == '"' || c == '\\'; });
}

Error refusal(const std::string& what, std::string why) { return {ErrorCode::CommandRefused, what, std::move(why)}; }

}  // namespace

std::string Line::text() const {
    std::string out = command_;
    for (const auto& [name, value] : arguments_) {
        out += " " + name + "=";
        if (is_plain(value)) {
            out += value;
            continue;
        }
        out += '"';
        for (const char c : value) {
            if (c == '"' || c == '\\') out += '\\';
            out += static_cast<unsigned char>(c) < ' ' ? ' ' : c;
        }
        out += '"';
    }
    return out;
}

Result<std::optional<Line>> parse_line(std::string_view text) {
    const auto bad = [](const char* why) { return refusal("The line", why); };
    std::size_t at = 0;
    const auto skip = [&] {
        while (at < text.size() && (text[at] == ' ' || text[at] == '\t' || text[at] == '\r')) ++at;
        return at < text.size() && text[at] != '#';
    };
    if (!skip()) return std::optional<Line>();
    const auto word_end = [&](std::string_view ends) {
        std::size_t e = at;
        while (e < text.size() && ends.find(text[e]) == std::string_view::npos) ++e;
        return e;
    };
    const std::size_t command_end = word_end(" \t\r");
    Line line{std::string(text.substr(at, command_end - at))};
    if (line.command().find('=') != std::string::npos) return bad("it begins with an argument instead of a command");
    at = command_end;
    while (skip()) {
        const std::size_t equals = word_end("= \t\r");
        if (equals >= text.size() || text[equals] != '=') return bad("an argument is not written as name=value");
        std::string name(text.substr(at, equals - at)), value;
        at = equals + 1;
        if (at < text.size() && text[at] == '"') {
            ++at;
            bool ended = false;
            for (; at < text.size() && !ended; ++at) {
                if (text[at] == '\\' && at + 1 < text.size()) value += text[++at];
                else if (text[at] == '"') ended = true;
                else value += text[at];
            }
            if (!ended) return bad("a quotation does not end");
        } else {
            const std::size_t end = word_end(" \t\r");
            value = text.substr(at, end - at);
            at = end;
        }
        line.with(std::move(name), std::move(value));
    }
    return std::optional<Line>(std::move(line));
}

std::string help_text(const Argument& a) { return a.choices ? std::string(a.help) + ": " + a.choices() : a.help; }

std::vector<const Command*> commands() {
    std::vector<const Command*> all;
    for (const auto subject :
         {time_commands(), section_commands(), song_commands(), notebook_commands(), part_commands(), note_commands(), sound_commands(), clip_commands()})
        for (const Command& c : subject) all.push_back(&c);
    return all;
}

const Command* find_command(std::string_view id) {
    for (const Command* c : commands())
        if (id == c->id) return c;
    return nullptr;
}

Result<Outcome> run_command(const Remake& remake, const Line& line) {
    const Command* command = find_command(line.command());
    if (!command) return refusal(line.command(), "there is no such command (see: fakturwerk-cli commands)");
    return guarded(line.command(), [&]() -> Result<Outcome> {
        try {
            Remake next = follow_chords(remake, command->run(Call(remake, line, *command)));
            // What was wrong before is no reason to refuse: nobody is locked out of a document by its fault.
            if (const auto wrong = what_is_wrong(next); wrong && !what_is_wrong(remake)) return refusal(command->undo_text, "afterwards " + *wrong);
            return Outcome{std::move(next), command};
        } catch (const Refused& refused) {
            return refusal(command->undo_text, refused.why);
        }
    });
}

Result<Remake> run_script(const Remake& remake, std::string_view script, const std::string& name) {
    Remake now = remake;
    std::size_t number = 0;
    while (!script.empty()) {
        ++number;
        const auto end = std::min(script.find('\n'), script.size());
        const auto where = [&](const std::string& what) { return name + ", line " + std::to_string(number) + " (" + what + ")"; };
        const auto line = parse_line(script.substr(0, end));
        if (!line) return refusal(where("not understood"), line.error().detail);
        if (*line) {
            auto done = run_command(now, **line);
            if (!done) {
                if (done.error().code != ErrorCode::CommandRefused) return done.error();
                return refusal(where((*line)->command()), done.error().detail);
            }
            now = std::move(done->remake);
        }
        script.remove_prefix(std::min(end + 1, script.size()));
    }
    return now;
}

std::string command_list() {
    std::string out;
    for (const Command* c : commands()) {
        out += std::string(c->id) + "\n    " + c->help + "\n";
        for (const Argument& a : c->arguments) out += "    " + std::string(a.name) + (a.needed ? "" : " (may be left out)") + ": " + help_text(a) + "\n";
        if (c->takes_fields) out += "    and any field, as NAME=VALUE\n";
    }
    return out;
}

}  // namespace fw
