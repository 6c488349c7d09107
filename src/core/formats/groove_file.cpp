// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/groove_file.hpp"

#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "formats/beat_text.hpp"
#include "formats/midi_file.hpp"
#include "model/groove.hpp"
#include "model/places.hpp"

#include <string_view>

namespace fw {

namespace {

constexpr std::uint64_t kMostBytes = 1 << 20;
constexpr std::string_view kMidi = "MThd";

Line line_of(const Groove& g) {
    return std::move(Line("groove.add").with("name", g.name).with("step", length_text(g.step)).with("steps", groove_steps_text(g)));
}

Result<std::vector<Line>> from_midi(const std::filesystem::path& path) {
    const auto song = read_midi(path);
    if (!song) return song.error();
    const auto time = read_beat_map(path);
    if (!time) return time.error();
    std::vector<Line> out;
    for (const GivenPart& part : song->parts) {
        std::vector<Struck> strokes;
        for (const HeardNote& n : part.notes) strokes.push_back({time->tempo.nearest_tick(n.onset_s), n.velocity});
        constexpr int kSixteenth = kTicksPerQuarter / 4;
        out.push_back(line_of(take_groove(part.name.empty() ? path.stem().string() : part.name, strokes, time->meter, kSixteenth)));
    }
    return out;
}

}  // namespace

std::string groove_text(const std::vector<Groove>& grooves) {
    std::string out = "# grooves: ticks off the grid, 960 to the quarter, and velocity of each step\n";
    for (const Groove& g : grooves) out += line_of(g).text() + "\n";
    return out;
}

Status write_grooves(const std::filesystem::path& path, const std::vector<Groove>& grooves) { return write_atomically(path, groove_text(grooves)); }

Result<std::vector<Line>> read_grooves(const std::filesystem::path& path) {
    const auto bytes = read_file(path, kMostBytes);
    if (!bytes) return bytes.error();
    const std::string all(bytes->begin(), bytes->end());
    if (all.starts_with(kMidi)) return from_midi(path);
    std::vector<Line> out;
    const auto bad = [&](const std::string& why) { return Error{ErrorCode::GrooveUnusable, path.string(), why}; };
    std::string_view text = all;
    for (std::size_t number = 1; !text.empty(); ++number) {
        const auto end = std::min(text.find('\n'), text.size());
        const auto line = parse_line(text.substr(0, end));
        text.remove_prefix(std::min(end + 1, text.size()));
        const std::string where = "line " + std::to_string(number);
        if (!line) return bad("in " + where + " " + line.error().detail);
        if (!*line) continue;
        if ((*line)->command() != "groove.add") return bad(where + " is none");
        out.push_back(std::move(**line));
    }
    if (out.empty()) return bad("there is none in it");
    return out;
}

}  // namespace fw
