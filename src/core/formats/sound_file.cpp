// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/sound_file.hpp"

#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "base/pitch.hpp"
#include "commands/command.hpp"
#include "model/edits/sound.hpp"
#include "model/fields.hpp"
#include "model/places.hpp"
#include "sound/plug_ins/plug_ins.hpp"

#include <algorithm>
#include <array>
#include <cstdio>
#include <string_view>

namespace fw {

namespace {

constexpr std::uint64_t kMostBytes = 1 << 20;
constexpr const char* kAnyPart = "*";

/// Sets the fields of what a line adds; those that are called as one of the line's own arguments are set by lines behind it. number: its place among its kind.
std::string with_fields(const Remake& remake, const FieldOwner& owner, std::span<const Parameter> own, Line line, const char* what, std::size_t number) {
    std::string behind;
    const Command* command = find_command(line.command());
    for (const Parameter* p : fields_of(remake, owner)) {
        const auto now = field_value(remake, {owner, p->id});
        // Of what a patch gives everything is said: another version of the program may have another patch.
        const bool of_source = p >= own.data() && p < own.data() + own.size();
        if (!now || (!of_source && *now == p->neutral)) continue;
        const bool taken =
            std::any_of(command->arguments.begin(), command->arguments.end(), [&](const Argument& a) { return std::string_view(a.name) == p->id; });
        if (taken)
            behind +=
                Line("field.set").with("part", kAnyPart).with(what, std::to_string(number)).with("field", p->id).with("value", exact_text(*p, *now)).text() +
                "\n";
        else line.with(p->id, exact_text(*p, *now));
    }
    return line.text() + "\n" + behind;
}

}  // namespace

std::string exact_text(const Parameter& row, double value) {
    if (row.scale == Scale::Choice || row.scale == Scale::Switch) return value_text(row, value);
    char text[40];
    std::snprintf(text, sizeof text, "%.9g", row.unit == Unit::Share ? 100.0 * value : value);
    return std::string(text) + (row.unit == Unit::Share ? "%" : "");
}

std::string sound_text(const Remake& remake, PartId id, const std::map<LayerId, std::string>& files) {
    std::string out = "# a sound: recalled for any part\n";
    const Part* part = remake.part(id);
    if (!part) return out;
    std::size_t layer = 0;
    for (const Layer& l : part->layers) {
        if (l.asset) {
            out += "# a layer plays a sound that only the remake has: left out\n";
            continue;
        }
        Line line("part.add-layer");
        line.with("part", kAnyPart).with("source", l.source->id);
        if (!l.patch.empty()) line.with("patch", l.patch);
        if (l.source == &kSoundFont) line.with("program", std::to_string(l.program));
        const auto beside = files.find(l.id);
        if (!l.file.empty()) line.with("file", beside == files.end() ? l.file : beside->second);
        out += with_fields(remake, l.id, l.source->fields, std::move(line), "layer", ++layer);
        if (!l.state.empty())
            out += Line("layer.own").with("part", kAnyPart).with("layer", std::to_string(layer)).with("state", state_line(l.state)).text() + "\n";
    }
    for (std::size_t i = 0; i < part->steps.size(); ++i) {
        const Step& s = part->steps[i];
        Line line("step.add");
        line.with("part", kAnyPart).with("kind", s.type->id);
        out += with_fields(remake, s.id, s.type->fields, std::move(line), "step", i + 1);
        if (s.state.empty() && s.file.empty()) continue;
        Line own("step.own");
        own.with("part", kAnyPart).with("step", std::to_string(i + 1));
        if (!s.state.empty()) own.with("state", state_line(s.state));
        if (!s.file.empty()) own.with("file", s.file);
        out += own.text() + "\n";
    }
    return out;
}

Status write_sound(const std::filesystem::path& path, const Remake& remake, PartId part) { return write_atomically(path, sound_text(remake, part)); }

Status write_sound_with_samples(const std::filesystem::path& path, const Remake& remake, PartId id) {
    constexpr std::uint64_t kMostSample = 512ULL << 20;
    const std::string name = path.filename().string();
    const std::filesystem::path folder = name.substr(0, name.find('.')) + " samples";
    std::map<LayerId, std::string> files;
    std::map<std::string, std::string> came_from;  // by their names in the folder
    std::string keys;
    const Part* part = remake.part(id);
    for (std::size_t i = 0; part && i < part->layers.size(); ++i) {
        const Layer& l = part->layers[i];
        const bool copied = l.source == &kSampler && !l.file.empty();
        const int low = static_cast<int>(l.low_key), high = static_cast<int>(l.high_key);
        keys += "# layer " + std::to_string(i + 1) + ", keys " + note_name(low, false) + (high > low ? " to " + note_name(high, false) : std::string()) + ": " +
                (copied            ? std::filesystem::path(l.file).filename().string() + ", from " + l.file
                 : l.patch.empty() ? l.source->label
                                   : l.patch) +
                "\n";
        if (!copied) continue;
        // Two samples of one name from two places stay two.
        const std::filesystem::path file = l.file;
        std::string called = file.filename().string();
        for (int n = 2; came_from.contains(called) && came_from[called] != l.file; ++n)
            called = file.stem().string() + " " + std::to_string(n) + file.extension().string();
        files[l.id] = (folder / called).string();
        if (!came_from.emplace(called, l.file).second) continue;
        const auto bytes = read_file(file, kMostSample);
        if (!bytes) return bytes.error();
        std::error_code ec;
        std::filesystem::create_directories(path.parent_path() / folder, ec);
        if (const auto done = write_atomically(path.parent_path() / folder / called, std::string(bytes->begin(), bytes->end())); !done) return done.error();
    }
    return write_atomically(path, keys + sound_text(remake, id, files));
}

Result<Remake> read_sound(const std::filesystem::path& path, const Remake& remake, PartId id) {
    const auto bytes = read_file(path, kMostBytes);
    if (!bytes) return bytes.error();
    const std::string all(bytes->begin(), bytes->end());
    const auto bad = [&](std::size_t number, const std::string& why) {
        return Error{ErrorCode::SoundUnusable, path.string(), (number > 0 ? "in line " + std::to_string(number) + " " : std::string()) + why};
    };
    const Part* part = remake.part(id);
    if (!part) return bad(0, "there is no part to give it to");
    Remake next = remake;
    for (const Layer& l : part->layers) next = remove_layer(next, l.id);
    for (const Step& s : part->steps) next = remove_step(next, s.id);
    std::string_view text = all;
    bool any = false;
    for (std::size_t number = 1; !text.empty(); ++number) {
        const auto end = std::min(text.find('\n'), text.size());
        const auto line = parse_line(text.substr(0, end));
        text.remove_prefix(std::min(end + 1, text.size()));
        if (!line) return bad(number, line.error().detail);
        if (!*line) continue;
        const Line& given = **line;
        constexpr std::array kOfSounds{"part.add-layer", "step.add", "field.set", "layer.own", "step.own"};
        if (std::find(kOfSounds.begin(), kOfSounds.end(), given.command()) == kOfSounds.end())
            return bad(number, "stands something that is no layer and no step");
        Line mine(given.command());
        for (const auto& [name, value] : given.arguments())
            mine.with(name, name == "part" && value == kAnyPart                                              ? part_text(remake, id)
                            : name == "file" && !value.empty() && std::filesystem::path(value).is_relative() ? (path.parent_path() / value).string()
                                                                                                             : value);
        auto with = run_command(next, mine);
        if (!with) return bad(number, with.error().detail);
        next = std::move(with->remake);
        any = true;
    }
    if (!any) return bad(0, "it holds neither layers nor steps");
    return next;
}

}  // namespace fw
