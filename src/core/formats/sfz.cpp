// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/sfz.hpp"

#include "audio/audio_file.hpp"
#include "base/files.hpp"
#include "model/edits/sound.hpp"
#include "model/limits.hpp"
#include "sound/catalogue.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace fw {

namespace {

constexpr std::uint64_t kMostBytes = 4ULL << 20;
constexpr int kUsualVelocity = 100;

using Opcodes = std::map<std::string, std::string>;

struct Region {
    std::filesystem::path sample;
    int low_key = 0, high_key = 127, root = 60, low_velocity = 1, high_velocity = 127;
    Opcodes all;

    double number(const char* name, double otherwise) const {
        const auto found = all.find(name);
        if (found == all.end()) return otherwise;
        const char* end = found->second.data() + found->second.size();
        double value = otherwise;
        const auto read = std::from_chars(found->second.data(), end, value);
        return read.ec == std::errc() && std::isfinite(value) ? value : otherwise;
    }
};

/// "60", "c4", "f#3", "eb5"; the format counts middle C as c4.
std::optional<int> key_of(const std::string& text) {
    int key = 0;
    const auto plain = std::from_chars(text.data(), text.data() + text.size(), key);
    if (plain.ec == std::errc() && plain.ptr == text.data() + text.size()) return key >= 0 && key <= 127 ? std::optional(key) : std::nullopt;
    constexpr int kClasses[] = {9, 11, 0, 2, 4, 5, 7};
    if (text.empty()) return {};
    const char letter = static_cast<char>(text[0] | 0x20);
    if (letter < 'a' || letter > 'g') return {};
    int pitch = kClasses[letter - 'a'];
    std::size_t at = 1;
    if (at < text.size() && text[at] == '#') ++pitch, ++at;
    else if (at < text.size() && (text[at] == 'b' || text[at] == 'B')) --pitch, ++at;
    int octave = 0;
    const auto rest = std::from_chars(text.data() + at, text.data() + text.size(), octave);
    if (rest.ec != std::errc() || rest.ptr != text.data() + text.size()) return {};
    key = pitch + 12 * (octave + 1);
    return key >= 0 && key <= 127 ? std::optional(key) : std::nullopt;
}

std::string without_comment(std::string_view line) {
    const auto comment = line.find("//");
    std::string text(line.substr(0, comment));
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.back()))) text.pop_back();
    return text;
}

/// Values may hold blanks: one ends where the next name and its = begin, or a header.
void read_opcodes(const std::string& line, std::size_t from, std::size_t to, Opcodes& into) {
    std::size_t at = from;
    while (at < to) {
        const auto equals = line.find('=', at);
        if (equals == std::string::npos || equals >= to) return;
        auto name_from = line.find_first_not_of(" \t", at);
        const std::string name = line.substr(name_from, equals - name_from);
        const auto next = std::min(to, line.find('=', equals + 1));
        std::size_t end = to;
        if (next < to) {
            end = line.find_last_of(" \t", next);
            if (end == std::string::npos || end <= equals) end = to;
        }
        std::string value = line.substr(equals + 1, end - equals - 1);
        while (!value.empty() && (value.back() == ' ' || value.back() == '\t')) value.pop_back();
        into[name] = value;
        at = end;
    }
}

/// All regions with what their groups say, in order; nothing where there is an include.
std::optional<std::vector<Opcodes>> regions_of(std::string_view text) {
    std::vector<Opcodes> regions;
    Opcodes control, global, master, group;
    Opcodes* now = nullptr;
    const auto begin = [&](const std::string& header) {
        if (header == "control") now = &control;
        else if (header == "global") global.clear(), master.clear(), group.clear(), now = &global;
        else if (header == "master") master.clear(), group.clear(), now = &master;
        else if (header == "group") group.clear(), now = &group;
        else if (header == "region") {
            Opcodes all = control;
            for (const Opcodes* more : {&global, &master, &group})
                for (const auto& [name, value] : *more) all[name] = value;
            regions.push_back(std::move(all));
            now = &regions.back();
        } else {
            now = nullptr;  // what bends curves or draws: nothing that is a sound
        }
    };
    while (!text.empty()) {
        const auto end = std::min(text.find('\n'), text.size());
        const std::string line = without_comment(text.substr(0, end));
        text.remove_prefix(std::min(end + 1, text.size()));
        if (line.starts_with("#include")) return {};
        for (std::size_t at = 0; at < line.size();) {
            const auto open = line.find('<', at), close = open == std::string::npos ? open : line.find('>', open);
            if (now) read_opcodes(line, at, std::min(open, line.size()), *now);
            if (close == std::string::npos) break;
            begin(line.substr(open + 1, close - open - 1));
            at = close + 1;
        }
    }
    return regions;
}

/// Whether it sounds as a key goes down, whatever else is pressed.
bool plays(const Opcodes& all) {
    const auto is = [&](const char* name, const char* value) {
        const auto found = all.find(name);
        return found != all.end() && found->second == value;
    };
    const auto value = [&](const char* name) {
        const auto found = all.find(name);
        return found == all.end() ? std::string() : found->second;
    };
    if (!value("trigger").empty() && !is("trigger", "attack") && !is("trigger", "first")) return false;
    if (!value("seq_position").empty() && !is("seq_position", "1")) return false;
    if (!value("lorand").empty() && !is("lorand", "0") && !is("lorand", "0.0")) return false;
    if (!value("sw_last").empty() && value("sw_last") != value("sw_default")) return false;
    return !value("sample").empty() && value("sample")[0] != '*';
}

std::optional<Region> region_of(const Opcodes& all, const std::filesystem::path& beside) {
    Region r;
    r.all = all;
    const auto text = [&](const char* name) {
        const auto found = all.find(name);
        return found == all.end() ? std::string() : found->second;
    };
    const auto key = [&](const char* name, int otherwise) { return text(name).empty() ? otherwise : key_of(text(name)).value_or(otherwise); };
    const int one = key("key", -1);
    r.low_key = key("lokey", one >= 0 ? one : 0), r.high_key = key("hikey", one >= 0 ? one : 127);
    r.root = key("pitch_keycenter", one >= 0 ? one : 60);
    r.low_velocity = std::clamp(static_cast<int>(r.number("lovel", 1)), 1, 127), r.high_velocity = std::clamp(static_cast<int>(r.number("hivel", 127)), 1, 127);
    if (r.low_key > r.high_key || r.low_velocity > r.high_velocity || text("lokey") == "-1") return {};
    std::string name = text("default_path") + text("sample");
    std::replace(name.begin(), name.end(), '\\', '/');
    r.sample = (beside / name).lexically_normal();
    return r;
}

/// No more than fit: first by velocity, then every so many.
std::vector<Region> thinned(std::vector<Region> all, std::size_t most) {
    const auto fit = [&] { return all.size() <= most; };
    if (fit()) return all;
    std::erase_if(all, [](const Region& r) { return r.low_velocity > kUsualVelocity || r.high_velocity < kUsualVelocity; });
    for (Region& r : all) r.low_velocity = 1, r.high_velocity = 127;
    if (fit()) return all;
    std::stable_sort(all.begin(), all.end(), [](const Region& a, const Region& b) { return a.root < b.root; });
    const int lowest = std::min_element(all.begin(), all.end(), [](const Region& a, const Region& b) { return a.low_key < b.low_key; })->low_key;
    const int highest = std::max_element(all.begin(), all.end(), [](const Region& a, const Region& b) { return a.high_key < b.high_key; })->high_key;
    std::vector<Region> kept;
    for (std::size_t i = 0; i < most; ++i) {
        const Region& r = all[(2 * i + 1) * all.size() / (2 * most)];
        if (kept.empty() || kept.back().root != r.root) kept.push_back(r);
    }
    for (std::size_t i = 0; i < kept.size(); ++i) {
        kept[i].low_key = i == 0 ? lowest : kept[i - 1].high_key + 1;
        kept[i].high_key = i + 1 == kept.size() ? highest : std::max(kept[i].low_key, (kept[i].root + kept[i + 1].root) / 2);
    }
    return kept;
}

Layer layer_of(const Region& r, double frames) {
    Layer layer;
    layer.source = &kSampler;
    layer.file = r.sample.string();
    layer.low_key = r.low_key, layer.high_key = r.high_key;
    layer.low_velocity = r.low_velocity, layer.high_velocity = r.high_velocity;
    const auto set = [&](const char* field, double value) {
        const std::size_t i = *index_of_field(kSampler.fields, field);
        layer.settings.set(i, clamped(kSampler.fields[i], value));
    };
    layer.gain_db = std::clamp(r.number("volume", 0.0), -96.0, 24.0);
    layer.pan = std::clamp(r.number("pan", 0.0) / 100.0, -1.0, 1.0);
    // The format transposes what sounds: a key plays so many semitones above what its root says.
    layer.tune_cents = std::clamp(100.0 * r.number("transpose", 0.0), -2400.0, 2400.0);
    set("root", r.root);
    set("tune", r.number("tune", r.number("pitch", 0.0)));
    const auto envelope = [&](const char* opcode, const char* field, double scale) {
        if (r.all.contains(opcode)) set(field, scale * r.number(opcode, 0.0));
    };
    envelope("ampeg_attack", "attack_ms", 1000.0), envelope("ampeg_decay", "decay_ms", 1000.0);
    envelope("ampeg_sustain", "sustain", 0.01), envelope("ampeg_release", "release_ms", 1000.0);
    if (const auto cutoff = r.number("cutoff", 0.0); cutoff > 0.0) set("cutoff", cutoff);
    const auto mode = r.all.find("loop_mode");
    if (mode != r.all.end() && mode->second == "one_shot") set("one_shot", 1.0);
    if (frames <= 0.0) return layer;
    const double start = std::clamp(r.number("offset", 0.0) / frames, 0.0, 0.99);
    set("start", start);
    double ends = r.number("end", frames);
    if (mode != r.all.end() && (mode->second == "loop_continuous" || mode->second == "loop_sustain")) {
        // The round ends where the sound does; what comes behind it is left out.
        ends = std::min(ends, r.number("loop_end", frames - 1.0) + 1.0);
        set("loop", 1.0);
        set("loop_start", std::clamp((r.number("loop_start", 0.0) / frames - start) / std::max(1e-6, ends / frames - start), 0.0, 0.99));
        set("crossfade", 0.0);
    }
    set("length", std::clamp((ends / frames - start) / (1.0 - start), 0.01, 1.0));
    return layer;
}

}  // namespace

Result<Sampled> read_sfz(const std::filesystem::path& path, const Remake& remake, PartId id) {
    const auto bytes = read_file(path, kMostBytes);
    if (!bytes) return bytes.error();
    const auto bad = [&](const std::string& why) { return Error{ErrorCode::SoundUnusable, path.string(), why}; };
    const Part* part = remake.part(id);
    if (!part) return bad("there is no part to give it to");
    const auto all = regions_of({reinterpret_cast<const char*>(bytes->data()), bytes->size()});
    if (!all) return bad("it includes other files");
    std::vector<Region> regions;
    for (const Opcodes& o : *all)
        if (plays(o))
            if (auto r = region_of(o, path.parent_path())) regions.push_back(std::move(*r));
    if (regions.empty()) return bad("no region of it names a sample");
    Sampled sampled{remake, regions.size(), 0};
    std::size_t others = 0;
    for (const auto& p : remake.parts)
        if (p->id != id) others += p->layers.size();
    regions = thinned(std::move(regions), std::min(limits::kLayersAPart, limits::kLayers - std::min(limits::kLayers - 1, others)));
    for (const Layer& l : part->layers) sampled.remake = remove_layer(sampled.remake, l.id);
    std::map<std::string, double> lengths;
    for (const Region& r : regions) {
        const auto known = lengths.find(r.sample.string());
        if (known == lengths.end()) {
            const auto reader = AudioReader::open(r.sample);
            if (!reader) return bad("its sample " + r.sample.filename().string() + " cannot be read");
            lengths[r.sample.string()] = static_cast<double>((*reader)->stated_frames());
        }
        sampled.remake = add_layer(sampled.remake, id, layer_of(r, lengths[r.sample.string()]));
        ++sampled.used;
    }
    return sampled;
}

}  // namespace fw
