// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/plug_ins/plug_ins.hpp"
#include "sound/plug_ins/wire.hpp"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>
#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <sstream>
#include <utility>

namespace fw {

namespace {

constexpr std::string_view kPrefix = "lv2:";
constexpr std::size_t kLongest = 1000;  // letters of an id; what a file makes longer is none
constexpr std::chrono::seconds kScanMost{30};
/// What commands and fields of the same sheet are called: a plug-in's field of that name gets a stroke behind it.
constexpr std::array kTaken{"on",   "level", "pan",  "octave", "low_key", "high_key", "offset_ms", "low_velocity", "high_velocity", "tune_cents",
                            "part", "layer", "step", "kind",   "at",      "by",       "sound",     "bus",          "master",        "macro",
                            "to",   "patch", "file", "source", "program", "send",     "section",   "field"};

std::string field_id(const std::string& symbol) {
    return std::any_of(kTaken.begin(), kTaken.end(), [&](const char* t) { return symbol == t; }) ? symbol + '_' : symbol;
}

/// One plug-in and the row made of it.
template <class Type>
struct Entry {
    PlugIn plug_in;
    std::unique_ptr<Type> type;
};

const std::vector<std::string>& no_patches() {
    static const std::vector<std::string> none;
    return none;
}

std::unique_ptr<StepType> step_row(const PlugIn& p) {
    auto row = std::make_unique<StepType>(StepType{p.id.c_str(), p.name.c_str(), p.help.c_str(), p.fields, false, nullptr});
    row->plug_in = &p;
    return row;
}
std::unique_ptr<SourceType> source_row(const PlugIn& p) {
    auto row = std::make_unique<SourceType>(SourceType{p.id.c_str(), p.name.c_str(), p.help.c_str(), p.fields, no_patches, nullptr, nullptr});
    row->plug_in = &p;
    return row;
}

/// What a program has written, and whether it came to its end by itself and in time.
struct Output {
    std::string text;
    bool whole = false;
};
Output output_of(const std::string& program, const std::string& first, const std::string& second = {}) {
    int ends[2];
    if (::pipe2(ends, O_CLOEXEC) != 0) return {};
    posix_spawn_file_actions_t actions;
    ::posix_spawn_file_actions_init(&actions);
    ::posix_spawn_file_actions_adddup2(&actions, ends[1], 1);
    ::posix_spawn_file_actions_addopen(&actions, 2, "/dev/null", O_WRONLY, 0);
    std::array<char*, 4> arguments{const_cast<char*>(program.c_str()), const_cast<char*>(first.c_str()),
                                   second.empty() ? nullptr : const_cast<char*>(second.c_str()), nullptr};
    pid_t child = 0;
    const bool runs = ::posix_spawn(&child, program.c_str(), &actions, nullptr, arguments.data(), environ) == 0;
    ::posix_spawn_file_actions_destroy(&actions);
    ::close(ends[1]);
    std::string all;
    const auto until = std::chrono::steady_clock::now() + kScanMost;
    while (runs) {
        const auto left = std::chrono::duration_cast<std::chrono::milliseconds>(until - std::chrono::steady_clock::now()).count();
        pollfd in{ends[0], POLLIN, 0};
        char piece[4096];
        if (left <= 0 || ::poll(&in, 1, static_cast<int>(left)) <= 0) {
            ::kill(child, SIGKILL);
            break;
        }
        const ssize_t got = ::read(ends[0], piece, sizeof piece);
        if (got <= 0) break;
        all.append(piece, static_cast<std::size_t>(got));
    }
    ::close(ends[0]);
    int status = -1;
    const bool ended = runs && ::waitpid(child, &status, 0) == child;
    return {std::move(all), ended && WIFEXITED(status) && WEXITSTATUS(status) == 0};
}

Unit unit_of(const std::string& name) {
    static const std::map<std::string, Unit> units{{"db", Unit::Decibels}, {"hz", Unit::Hertz},   {"ms", Unit::Milliseconds},
                                                   {"s", Unit::Seconds},   {"cent", Unit::Cents}, {"semitone12TET", Unit::Semitones},
                                                   {"oct", Unit::Octaves}};
    const auto found = units.find(name);
    return found == units.end() ? Unit::None : found->second;
}

std::vector<std::string> cells_of(const std::string& line) {
    std::vector<std::string> cells;
    std::istringstream in(line);
    for (std::string cell; std::getline(in, cell, '\t');) cells.push_back(cell);
    return cells;
}

double number_of(const std::string& text, double otherwise) {
    std::istringstream in(text);
    in.imbue(std::locale::classic());
    double value = otherwise;
    return in >> value && std::isfinite(value) ? value : otherwise;
}

/// Reads what the host has found; a line that is not whole ends it.
class Found {
public:
    explicit Found(const std::string& text) {
        std::istringstream in(text);
        for (std::string line; std::getline(in, line);) {
            const std::vector<std::string> c = cells_of(line);
            if (c.size() >= 5 && c[0] == "plug-in") begin(c);
            else if (c.size() >= 8 && c[0] == "field" && now_) field(c);
            else if (c.size() >= 2 && c[0] == "choice" && now_ && !now_->choices.empty()) choice(c[1]);
            else if (c.size() >= 1 && c[0] == "file" && now_) now_->takes_file = true;
            else if (c.size() >= 1 && c[0] == "end" && now_) end();
        }
    }
    std::vector<std::unique_ptr<Entry<StepType>>> effects;
    std::vector<std::unique_ptr<Entry<SourceType>>> instruments;

private:
    // plug-in, effect or instrument, URI, name, who made it
    void begin(const std::vector<std::string>& c) {
        now_ = std::make_unique<PlugIn>();
        instrument_ = c[1] == "instrument";
        now_->uri = c[2];
        now_->id = std::string(kPrefix) + c[2];
        now_->name = c[3];
        now_->help = c[4] == "." ? "A plug-in" : "A plug-in by " + c[4];
        now_->here = true;
    }
    // field, symbol, name, unit, lowest, highest, default, scale
    void field(const std::vector<std::string>& c) {
        std::string id = c[1];
        id = field_id(id);
        Parameter p{nullptr, nullptr};
        now_->words.push_back(id), now_->words.push_back(c[2]);
        now_->choices.emplace_back();
        p.unit = unit_of(c[3]);
        p.low = number_of(c[4], 0.0), p.high = std::max(p.low, number_of(c[5], 1.0));
        if (p.high <= p.low) p.high = p.low + 1.0;
        p.neutral = std::clamp(number_of(c[6], p.low), p.low, p.high);
        p.scale = c[7] == "switch" ? Scale::Switch : c[7] == "choice" ? Scale::Choice : c[7] == "whole" ? Scale::Whole : Scale::Linear;
        if (c[7] == "logarithmic" && p.low > 0.0) p.scale = Scale::Logarithmic;
        p.step = p.scale == Scale::Logarithmic ? 0.02 : p.scale == Scale::Linear ? (p.high - p.low) / 100.0 : 1.0;
        p.moves = p.scale == Scale::Linear || p.scale == Scale::Logarithmic;
        now_->fields.push_back(p);
    }
    void choice(const std::string& name) { now_->words.push_back(name), choice_at_.emplace_back(now_->fields.size() - 1, now_->words.size() - 1); }
    void end() {
        // Only now, with all of them there, do the texts stay where they are.
        PlugIn& p = *now_;
        for (const auto& [f, w] : choice_at_) p.choices[f].push_back(p.words[w].c_str());
        std::size_t w = 0;
        for (std::size_t f = 0; f < p.fields.size(); ++f) {
            Parameter& row = p.fields[f];
            row.id = p.words[w].c_str(), row.label = p.words[w + 1].c_str();
            row.help = row.label;
            row.choices = p.choices[f];
            w += 2 + p.choices[f].size();
            if (row.scale == Scale::Choice && row.choices.size() < 2) row.scale = Scale::Whole;
            if (row.scale == Scale::Choice)
                row.low = 0.0, row.high = static_cast<double>(row.choices.size() - 1), row.neutral = std::min(row.neutral, row.high);
        }
        choice_at_.clear();
        if (instrument_) instruments.push_back(std::make_unique<Entry<SourceType>>(Entry<SourceType>{std::move(p), nullptr}));
        else effects.push_back(std::make_unique<Entry<StepType>>(Entry<StepType>{std::move(p), nullptr}));
        now_.reset();
    }

    std::unique_ptr<PlugIn> now_;
    bool instrument_ = false;
    std::vector<std::pair<std::size_t, std::size_t>> choice_at_;
};

/// All that were found, and all that were named and not found.
class Registry {
public:
    static Registry& get() {
        static Registry one;
        return one;
    }
    template <class Type>
    std::span<const Type* const> here() {
        std::call_once(once_, [&] { look(); });
        if constexpr (std::is_same_v<Type, StepType>) return steps_;
        else return sources_;
    }
    template <class Type>
    const Type& missing(std::string_view id, std::unique_ptr<Type> (*row)(const PlugIn&), std::map<std::string, std::unique_ptr<Entry<Type>>>& known) {
        const std::lock_guard lock(missing_);
        auto& entry = known[std::string(id)];
        if (!entry) {
            const std::string uri(id.substr(std::min(id.size(), kPrefix.size())));
            const auto word = uri.find_last_of("/#:");
            entry = std::make_unique<Entry<Type>>();
            entry->plug_in.uri = uri, entry->plug_in.id = std::string(id);
            entry->plug_in.name = (word == std::string::npos || word + 1 == uri.size() ? uri : uri.substr(word + 1)) + " (missing)";
            entry->plug_in.help = "The plug-in " + uri + " is not on this machine: it is left out, and what was set for it stays in the remake";
            entry->type = row(entry->plug_in);
        }
        return *entry->type;
    }
    bool whole() {
        std::call_once(once_, [&] { look(); });
        return whole_;
    }
    const std::vector<PlugInPreset>& presets(const PlugIn& plug_in) {
        const std::lock_guard lock(asked_);
        const auto [known, fresh] = presets_.try_emplace(plug_in.uri);
        if (fresh && plug_in.here) read_presets(output_of(plug_in_host(), "presets", plug_in.uri).text, {&plug_in});
        return known->second;
    }
    void know_all_presets() {
        std::vector<const PlugIn*> all;
        for (const StepType* t : here<StepType>()) all.push_back(t->plug_in);
        for (const SourceType* t : here<SourceType>()) all.push_back(t->plug_in);
        const std::lock_guard lock(asked_);
        // What was asked for before may be in use: it stays where it is.
        std::erase_if(all, [&](const PlugIn* p) { return !presets_.try_emplace(p->uri).second; });
        if (!all.empty()) read_presets(output_of(plug_in_host(), "presets").text, all);
    }
    std::map<std::string, std::unique_ptr<Entry<StepType>>> missing_steps;
    std::map<std::string, std::unique_ptr<Entry<SourceType>>> missing_sources;

private:
    void look() {
        const Output output = output_of(plug_in_host(), "scan");
        whole_ = output.whole;
        Found found(output.text);
        effects_ = std::move(found.effects), instruments_ = std::move(found.instruments);
        for (auto& e : effects_) e->type = step_row(e->plug_in), steps_.push_back(e->type.get());
        for (auto& e : instruments_) e->type = source_row(e->plug_in), sources_.push_back(e->type.get());
    }

    /// What the host has written, of these alone.
    void read_presets(const std::string& text, const std::vector<const PlugIn*>& of) {
        const PlugIn* plug_in = nullptr;
        std::optional<PlugInPreset> now;
        std::istringstream in(text);
        for (std::string line; std::getline(in, line);) {
            const std::vector<std::string> c = cells_of(line);
            if (c.size() == 2 && c[0] == "of") {
                const auto at = std::find_if(of.begin(), of.end(), [&](const PlugIn* p) { return p->uri == c[1]; });
                plug_in = at == of.end() ? nullptr : *at;
                now.reset();
            }
            if (c.size() == 2 && c[0] == "preset" && plug_in) now = PlugInPreset{c[1]};
            if (c.empty() || !now) continue;
            if (c.size() == 2 && c[0] == "state") now->state = state_of_line(c[1]);
            if (c.size() == 3 && c[0] == "value")
                if (const auto field = index_of_field(plug_in->fields, field_id(c[1]))) {
                    const Parameter& row = plug_in->fields[*field];
                    now->fields.emplace_back(*field, clamped(row, number_of(c[2], row.neutral)));
                }
            if (c[0] == "end") presets_[plug_in->uri].push_back(*std::exchange(now, {}));
        }
    }

    std::mutex asked_;
    std::map<std::string, std::vector<PlugInPreset>> presets_;
    std::once_flag once_;
    bool whole_ = false;
    std::mutex missing_;
    std::vector<std::unique_ptr<Entry<StepType>>> effects_;
    std::vector<std::unique_ptr<Entry<SourceType>>> instruments_;
    std::vector<const StepType*> steps_;
    std::vector<const SourceType*> sources_;
};

template <class Type>
const Type* find(std::span<const Type* const> all, std::string_view id) {
    const auto found = std::find_if(all.begin(), all.end(), [&](const Type* t) { return id == t->id; });
    return found == all.end() ? nullptr : *found;
}

}  // namespace

bool is_plug_in(std::string_view id) { return id.substr(0, kPrefix.size()) == kPrefix && id.size() <= kLongest; }

std::span<const StepType* const> plug_in_steps() { return Registry::get().here<StepType>(); }
std::span<const SourceType* const> plug_in_sources() { return Registry::get().here<SourceType>(); }
bool plug_ins_looked_through() { return Registry::get().whole(); }
const std::vector<PlugInPreset>& presets_of(const PlugIn& plug_in) { return Registry::get().presets(plug_in); }
void know_all_presets() { Registry::get().know_all_presets(); }

std::string state_line(const std::string& state) { return on_one_line(state); }

std::string state_of_line(const std::string& line) {
    std::string text;
    for (std::size_t i = 0; i < line.size(); ++i) {
        if (line[i] != '\\' || i + 1 == line.size()) {
            text += line[i];
            continue;
        }
        const char c = line[++i];
        text += c == 'n' ? '\n' : c == 't' ? '\t' : c == 'r' ? '\r' : c;
    }
    return text;
}

const StepType* find_plug_in_step(std::string_view id) { return find(plug_in_steps(), id); }
const SourceType* find_plug_in_source(std::string_view id) { return find(plug_in_sources(), id); }
const StepType& missing_plug_in_step(std::string_view id) { return Registry::get().missing(id, step_row, Registry::get().missing_steps); }
const SourceType& missing_plug_in_source(std::string_view id) { return Registry::get().missing(id, source_row, Registry::get().missing_sources); }

std::string plug_in_host() {
    if (const char* named = std::getenv("FAKTURWERK_PLUG_IN_HOST")) return named;
    std::error_code ec;
    const auto here = std::filesystem::read_symlink("/proc/self/exe", ec).parent_path();
    for (const auto& place : {here, here / ".." / "src", here / ".." / "libexec"})
        if (const auto path = place / "fakturwerk-plug-in-host"; std::filesystem::exists(path, ec)) return path;
    return (here / "fakturwerk-plug-in-host").string();
}

}  // namespace fw
