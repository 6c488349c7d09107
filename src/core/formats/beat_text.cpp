// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/beat_text.hpp"

#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "formats/midi_file.hpp"
#include "formats/smf.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <optional>

namespace fw {

namespace {

constexpr std::uint64_t kMostBytes = 16ULL << 20;

struct Labelled {
    double time_s = 0.0;
    int beat = 0;  ///< of the bar, from 1; 0 where nothing is said
};

std::string_view next_word(std::string_view& line) {
    const auto from = line.find_first_not_of(" \t,;\r");
    if (from == std::string_view::npos) return line = {};
    line.remove_prefix(from);
    const auto end = std::min(line.find_first_of(" \t,;\r"), line.size());
    const std::string_view word = line.substr(0, end);
    line.remove_prefix(end);
    return word;
}

std::optional<double> number_of(std::string_view word) {
    double n = 0.0;
    const auto [end, bad] = std::from_chars(word.data(), word.data() + word.size(), n);
    if (bad != std::errc{} || end != word.data() + word.size() || !std::isfinite(n)) return std::nullopt;
    return n;
}

/// "5.1" and "1" are first beats; the beat stands behind the last point.
int beat_of(std::string_view label) {
    const auto dot = label.rfind('.');
    const std::string_view last = dot == std::string_view::npos ? label : label.substr(dot + 1);
    int beat = 0;
    const auto [end, bad] = std::from_chars(last.data(), last.data() + last.size(), beat);
    return bad == std::errc{} && end == last.data() + last.size() && beat >= 1 && beat <= 32 ? beat : 0;
}

Result<BeatMap> counted(const std::vector<Labelled>& beats, const std::string& name) {
    const auto unusable = [&](std::string why) { return Error{ErrorCode::BeatsUnusable, name, std::move(why)}; };
    if (beats.size() < 2) return unusable("it names fewer than two beats");
    if (beats.size() > limits::kAnchors) return unusable("it names more beats than any song has");
    // How many beats each bar has; the beats before the first "1" are an upbeat.
    std::vector<std::size_t> ones;
    for (std::size_t i = 0; i < beats.size(); ++i)
        if (beats[i].beat == 1) ones.push_back(i);
    std::vector<MeterMap::Change> meters;
    Ticks first_tick = 0;
    int bar = 1;
    if (ones.empty()) {
        meters.push_back({1, 4, 4});
    } else {
        const auto beats_in = [&](std::size_t k) { return static_cast<int>(k + 1 < ones.size() ? ones[k + 1] - ones[k] : 0); };
        const int usual = ones.size() > 1 ? beats_in(0) : 4;
        if (ones[0] > 0) {
            const auto upbeat = static_cast<int>(ones[0]);
            const int whole = std::max(usual, upbeat);
            meters.push_back({1, std::min(32, whole), 4});
            first_tick = (whole - upbeat) * kTicksPerQuarter;
            bar = 2;
        }
        for (std::size_t k = 0; k < ones.size(); ++k, ++bar) {
            const int n = k + 1 < ones.size() ? beats_in(k) : meters.empty() ? 4 : meters.back().numerator;
            if (n > 32) return unusable("a bar of more than 32 beats stands in it");
            if (meters.empty() || meters.back().numerator != n) meters.push_back({bar, n, 4});
        }
    }
    std::vector<TempoMap::Anchor> anchors;
    for (std::size_t i = 0; i < beats.size(); ++i) anchors.push_back({first_tick + static_cast<Ticks>(i) * kTicksPerQuarter, beats[i].time_s});
    return BeatMap{TempoMap(std::move(anchors)), MeterMap(std::move(meters))};
}

Result<BeatMap> from_midi(const std::vector<unsigned char>& bytes, const std::string& name) {
    auto smf = parse_smf(bytes, name);
    if (!smf) return smf.error();
    if (smf->ticks_per_quarter <= 0) return Error{ErrorCode::BeatsUnusable, name, "it counts time in frames and not in beats"};
    double start_s = 0.0;
    if (const auto song = parse_midi(bytes, name); song && song->start_s) start_s = *song->start_s;
    const Smf::Clock clock(*smf);
    std::int64_t end = 4 * smf->ticks_per_quarter;
    std::vector<std::int64_t> places{0};
    std::vector<MeterMap::Change> meters;
    std::vector<std::pair<std::int64_t, MeterMap::Change>> said;
    for (const SmfTrack& track : smf->tracks) {
        end = std::max(end, track.end_tick);
        for (const SmfEvent& e : track.events) {
            if (e.status != 0xFF) continue;
            if (e.first == 0x51) places.push_back(e.tick);
            if (const std::string& text = track.texts[e.text]; e.first == 0x58 && text.size() >= 2 && static_cast<unsigned char>(text[1]) <= 4)
                said.push_back({e.tick, {1, static_cast<unsigned char>(text[0]), 1 << static_cast<unsigned char>(text[1])}});
        }
    }
    places.push_back(end);
    std::sort(places.begin(), places.end());
    places.erase(std::unique(places.begin(), places.end()), places.end());
    const auto ticks = [&](std::int64_t t) { return static_cast<Ticks>(std::llround(static_cast<double>(t) * kTicksPerQuarter / smf->ticks_per_quarter)); };
    std::vector<TempoMap::Anchor> anchors;
    for (const std::int64_t t : places) anchors.push_back({ticks(t), start_s + clock.seconds(t)});
    std::stable_sort(said.begin(), said.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    meters.push_back({1, 4, 4});
    for (auto& [tick, meter] : said) {
        meter.bar = MeterMap(meters).position(ticks(tick)).bar;
        if (meters.back().bar == meter.bar) meters.back() = meter;
        else meters.push_back(meter);
    }
    return BeatMap{TempoMap(std::move(anchors)), MeterMap(std::move(meters))};
}

}  // namespace

std::string beat_text(const Song& song, double end_s) {
    std::string out;
    const Ticks first_beat = song.meter.at_bar(1).beat_ticks(), first = song.tempo.anchors().front().tick;
    for (Ticks t = (first + first_beat - 1) / first_beat * first_beat; song.tempo.seconds(t) <= end_s;) {
        const BarPosition p = song.meter.position(t);
        char line[96];
        const double s = song.tempo.seconds(t);
        std::snprintf(line, sizeof line, "%.6f\t%.6f\t%d.%d\n", s, s, p.bar, p.beat);
        out += line;
        t += song.meter.at_bar(p.bar).beat_ticks();
    }
    return out;
}

Status write_beat_text(const std::filesystem::path& path, const Song& song, double end_s) { return write_atomically(path, beat_text(song, end_s)); }

Result<BeatMap> parse_beat_text(std::string_view text, const std::string& name) {
    std::vector<Labelled> beats;
    std::size_t number = 0;
    while (!text.empty()) {
        ++number;
        const auto end = std::min(text.find('\n'), text.size());
        std::string_view line = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
        const std::string_view first = next_word(line);
        if (first.empty() || first.front() == '#') continue;
        const auto time_s = number_of(first);
        const auto where = "line " + std::to_string(number);
        if (!time_s) return Error{ErrorCode::BeatsUnusable, name, where + " begins with no number"};
        if (std::abs(*time_s) > kLongestRecording_s) return Error{ErrorCode::BeatsUnusable, name, where + " lies beyond any recording"};
        if (!beats.empty() && *time_s <= beats.back().time_s) return Error{ErrorCode::BeatsUnusable, name, where + " is not later than the beat before it"};
        // An end of the label, where there is one, is the same time again.
        std::string_view label = next_word(line);
        const std::string_view more = next_word(line);
        if (!more.empty() && number_of(label)) label = more;
        beats.push_back({*time_s, beat_of(label)});
    }
    return counted(beats, name);
}

Result<BeatMap> read_beat_map(const std::filesystem::path& path) {
    auto bytes = read_file(path, kMostBytes);
    if (!bytes) return bytes.error();
    if (bytes->size() >= 4 && std::equal(bytes->begin(), bytes->begin() + 4, "MThd")) return from_midi(*bytes, path.string());
    return parse_beat_text(std::string(bytes->begin(), bytes->end()), path.string());
}

Line beat_map_line(const BeatMap& map) {
    std::string beats, meters;
    for (const TempoMap::Anchor& a : map.tempo.anchors()) {
        char text[64];
        std::snprintf(text, sizeof text, "%lld %.6f ", static_cast<long long>(a.tick), a.time_s);
        beats += text;
    }
    for (const MeterMap::Change& c : map.meter.changes())
        meters += std::to_string(c.bar) + " " + std::to_string(c.numerator) + "/" + std::to_string(c.denominator) + " ";
    return Line("tempo.map").with("beats", beats).with("meters", meters);
}

}  // namespace fw
