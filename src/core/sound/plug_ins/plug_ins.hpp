// SPDX-License-Identifier: GPL-3.0-or-later
// Plug-ins by the open LV2 standard as kinds of steps and sources. Both looking through them and running them happens in processes of their own
// (src/plug_in_host): one that crashes or hangs takes nothing along.
#pragma once

#include "sound/catalogue.hpp"

#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace fw {

/// What the rows of a plug-in are made from. Lives as long as the program.
struct PlugIn {
    std::string uri, id, name, help;
    bool here = false;        ///< on this machine
    bool takes_file = false;  ///< a file can be given to it, such as a sample
    std::vector<Parameter> fields{};
    std::vector<std::string> words{};  ///< what the fields' texts point into
    std::vector<std::vector<const char*>> choices{};
};

/// "lv2:" and the plug-in's URI, as files and commands name it.
bool is_plug_in(std::string_view id);

/// Those of this machine that can be used here, by name. The first call looks through them, which takes a second or so. Thread-safe.
/// LV2_PATH says where they lie, as the standard has it.
std::span<const StepType* const> plug_in_steps();
std::span<const SourceType* const> plug_in_sources();

/// Whether they could be looked through: else the two lists above end where it broke off. Looks through them as the above.
bool plug_ins_looked_through();

/// By id; null where this machine has none. Looks through them as the above.
const StepType* find_plug_in_step(std::string_view id);
const SourceType* find_plug_in_source(std::string_view id);
/// For a remake that names one which is not here: without fields, passes on what it hears. The same object for the same id. Thread-safe.
const StepType& missing_plug_in_step(std::string_view id);
const SourceType& missing_plug_in_source(std::string_view id);

/// What a plug-in comes with: values of its fields, by their places, and what it keeps besides them, in the words LV2 has for it (Turtle).
struct PlugInPreset {
    std::string name;
    std::vector<std::pair<std::size_t, double>> fields{};
    std::string state{};
};
/// The presets of one of this machine's, by name. The first call asks a process of its own, which takes a moment; none where that fails. Thread-safe.
const std::vector<PlugInPreset>& presets_of(const PlugIn& plug_in);
/// Asks for those of all of them at once, which is far less than asking for one after the other.
void know_all_presets();

/// A state on one line, for commands, and back.
std::string state_line(const std::string& state);
std::string state_of_line(const std::string& line);

/// Runs one in a process of its own. effect: it is given what it replaces. state: what it keeps besides its fields, as a preset has it; file: what it is given
/// to play; empty for none. Errors: PlugInMissing, PlugInUnusable, FileMissing.
Result<std::unique_ptr<Processor>> start_plug_in(const PlugIn& plug_in, bool effect, double sample_rate_hz, const std::string& state = {},
                                                 const std::string& file = {});

/// The program that looks through plug-ins and runs them: beside this one, or where it is installed. Environment FAKTURWERK_PLUG_IN_HOST names another.
std::string plug_in_host();

}  // namespace fw
