// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/midi_file.hpp"

#include "base/atomic_file.hpp"

#include <glib.h>
#include <smf.h>
#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <fstream>
#include <map>
#include <memory>
#include <span>

namespace fw {

namespace {

constexpr double kBendRange = 12.0;  // semitones

using Smf = std::unique_ptr<smf_t, decltype(&smf_delete)>;

void quiet(const gchar*, GLogLevelFlags, const gchar*, gpointer) {}

/// libsmf tells its troubles through GLib's log; an error value tells ours, so the log is silenced while it works.
struct QuietLog {
    QuietLog() : previous(g_log_set_default_handler(quiet, nullptr)) {}
    ~QuietLog() { g_log_set_default_handler(previous, nullptr); }
    GLogFunc previous;
};

/// Whether a track's bytes are events to the end and end as a track must. libsmf stops the program on much that is not, so
/// nothing reaches it that has not been walked through here.
bool is_whole_track(std::span<const unsigned char> t) {
    std::size_t at = 0;
    unsigned char status = 0;
    const auto number = [&](std::size_t& value) {  // variable-length quantity, at most four bytes
        value = 0;
        for (int i = 0; i < 4 && at < t.size(); ++i) {
            const unsigned char byte = t[at++];
            value = value << 7 | (byte & 127U);
            if (byte < 128) return true;
        }
        return false;
    };
    std::size_t length = 0;
    while (at < t.size()) {
        if (!number(length) || at >= t.size()) return false;
        const bool running = t[at] < 128;
        if (running && status == 0) return false;
        const unsigned char now = running ? status : t[at++];
        if (now == 0xFF) {
            if (at >= t.size() || t[at] > 127) return false;
            const unsigned char kind = t[at++];
            if (!number(length) || length > t.size() - at) return false;
            if ((kind == 0x51 && length != 3) || (kind == 0x58 && length != 4) || (kind == 0x59 && length != 2)) return false;
            at += length;
            if (kind == 0x2F) return length == 0 && at == t.size();
            status = 0;
        } else if (now == 0xF0 || now == 0xF7) {
            if (!number(length) || length == 0 || length > t.size() - at || t[at + length - 1] != 0xF7) return false;
            at += length;
            status = 0;
        } else if (now >= 0x80 && now < 0xF0) {
            const std::size_t data = (now & 0xF0) == 0xC0 || (now & 0xF0) == 0xD0 ? 1 : 2;
            if (t.size() - at < data) return false;
            for (std::size_t i = 0; i < data; ++i)
                if (t[at + i] > 127) return false;
            at += data;
            status = now;
        } else {
            return false;
        }
    }
    return false;
}

void add(smf_track_t* track, Ticks tick, std::vector<unsigned char> bytes) {
    smf_event_t* event = smf_event_new_from_pointer(bytes.data(), static_cast<int>(bytes.size()));
    smf_track_add_event_pulses(track, event, static_cast<int>(std::max<Ticks>(0, tick)));
}

void add_text(smf_track_t* track, Ticks tick, unsigned char kind, const std::string& text) {
    std::vector<unsigned char> bytes{0xFF, kind};
    const std::string cut = text.substr(0, 127);
    bytes.push_back(static_cast<unsigned char>(cut.size()));
    bytes.insert(bytes.end(), cut.begin(), cut.end());
    add(track, tick, bytes);
}

void add_bend(smf_track_t* track, Ticks tick, int channel, double cents) {
    const int value = std::clamp(static_cast<int>(std::lround(8192.0 + cents / 100.0 / kBendRange * 8192.0)), 0, 16383);
    add(track, tick, {static_cast<unsigned char>(0xE0 | channel), static_cast<unsigned char>(value & 127), static_cast<unsigned char>(value >> 7)});
}

int sharps_of(const Key& key) {
    // Position on the circle of fifths of the relative major.
    const auto scale = key.scale();
    for (int tonic = 0; tonic < 12; ++tonic) {
        const auto major = Key{tonic, Mode::Major}.scale();
        if (std::is_permutation(major.begin(), major.end(), scale.begin())) {
            const int fifths = (tonic * 7) % 12;
            return fifths > 6 ? fifths - 12 : fifths;
        }
    }
    return 0;
}

void write_conductor(smf_track_t* track, const Remake& r) {
    add_text(track, 0, 0x03, "Fakturwerk");
    const auto& anchors = r.tempo.anchors();
    // Time before the first anchor and everything up to it runs at the first stretch's tempo.
    long last = 0;
    for (std::size_t i = 0; i + 1 < anchors.size(); ++i) {
        const long micros =
            std::lround((anchors[i + 1].time_s - anchors[i].time_s) * 1e6 * kTicksPerQuarter / static_cast<double>(anchors[i + 1].tick - anchors[i].tick));
        if (micros == last || micros <= 0 || micros > 0xFFFFFF) continue;
        last = micros;
        add(track, i == 0 ? 0 : anchors[i].tick,
            {0xFF, 0x51, 3, static_cast<unsigned char>(micros >> 16), static_cast<unsigned char>(micros >> 8), static_cast<unsigned char>(micros)});
    }
    for (const auto& m : r.meter.changes())
        add(track, r.meter.tick_of_bar(m.bar),
            {0xFF, 0x58, 4, static_cast<unsigned char>(m.numerator), static_cast<unsigned char>(std::lround(std::log2(m.denominator))), 24, 8});
    for (const KeyArea& k : r.keys) {
        const bool minor = k.key.mode == Mode::Minor || k.key.mode == Mode::Dorian || k.key.mode == Mode::Phrygian || k.key.mode == Mode::Locrian;
        add(track, k.start, {0xFF, 0x59, 2, static_cast<unsigned char>(sharps_of(k.key)), static_cast<unsigned char>(minor)});
    }
    for (const Section& s : r.sections) add_text(track, s.start, 0x06, s.name.empty() ? s.label : s.name);
}

}  // namespace

Status write_midi(const std::filesystem::path& path, const Remake& remake) {
    const QuietLog quiet_log;
    const Smf smf(smf_new(), smf_delete);
    if (smf_set_ppqn(smf.get(), static_cast<int>(kTicksPerQuarter)) != 0) return Error{ErrorCode::FolderUnwritable, path.string(), "ppqn"};
    smf_track_t* conductor = smf_track_new();
    smf_add_track(smf.get(), conductor);
    write_conductor(conductor, remake);
    int next_channel = 0;
    for (const auto& part : remake.parts) {
        smf_track_t* track = smf_track_new();
        smf_add_track(smf.get(), track);
        const bool drums = part->role == PartRole::Drums;
        const int channel = drums ? 9 : next_channel;
        if (!drums) next_channel = next_channel == 8 ? 10 : next_channel == 15 ? 0 : next_channel + 1;
        const auto status = [&](int kind) { return static_cast<unsigned char>(kind | channel); };
        add_text(track, 0, 0x03, part->name);
        if (!drums && !part->layers.empty() && part->layers[0].kind == InstrumentKind::SoundFont)
            add(track, 0, {status(0xC0), static_cast<unsigned char>(part->layers[0].program & 127)});
        const auto notes = placed_notes(*part);
        if (std::any_of(notes.begin(), notes.end(), [](const PlacedNote& n) { return !n.note.bend.empty(); })) {
            for (const auto& [control, value] : {std::pair{101, 0}, {100, 0}, {6, static_cast<int>(kBendRange)}, {38, 0}})
                add(track, 0, {status(0xB0), static_cast<unsigned char>(control), static_cast<unsigned char>(value)});
        }
        for (const PlacedNote& n : notes) {
            if (n.muted || n.note.start + n.note.length <= 0) continue;
            const auto key = static_cast<unsigned char>(std::clamp(n.note.pitch, 0, 127));
            for (const BendPoint& b : n.note.bend) add_bend(track, n.note.start + b.tick, channel, b.cents);
            add(track, n.note.start, {status(0x90), key, static_cast<unsigned char>(std::clamp(n.note.velocity, 1, 127))});
            add(track, n.note.start + n.note.length, {status(0x80), key, 64});
            if (!n.note.bend.empty()) add_bend(track, n.note.start + n.note.length, channel, 0.0);
        }
    }
    return write_atomically(path, [&](const std::filesystem::path& part) { return smf_save(smf.get(), part.string().c_str()) == 0; });
}

Result<std::vector<GivenPart>> read_midi(const std::filesystem::path& path, double offset_s) {
    const std::string name = path.string();
    std::error_code ec;
    if (!std::filesystem::exists(path, ec)) return Error{ErrorCode::FileMissing, name, {}};
    std::ifstream in(path, std::ios::binary);
    const std::vector<unsigned char> bytes((std::istreambuf_iterator<char>(in)), std::istreambuf_iterator<char>());
    const auto u32 = [&](std::size_t at) {
        return (std::uint32_t{bytes[at]} << 24) | (std::uint32_t{bytes[at + 1]} << 16) | (std::uint32_t{bytes[at + 2]} << 8) | bytes[at + 3];
    };
    if (bytes.size() < 14 || std::memcmp(bytes.data(), "MThd", 4) != 0 || u32(4) != 6) return Error{ErrorCode::MidiDamaged, name, "no header"};
    const int tracks = bytes[10] * 256 + bytes[11];
    std::size_t at = 14;
    for (int t = 0; t < tracks; ++t) {
        if (at + 8 > bytes.size() || at + 8 + u32(at + 4) > bytes.size()) return Error{ErrorCode::MidiDamaged, name, "track cut short"};
        if (std::memcmp(&bytes[at], "MTrk", 4) != 0 || !is_whole_track(std::span(bytes).subspan(at + 8, u32(at + 4))))
            return Error{ErrorCode::MidiDamaged, name, "track damaged"};
        at += 8 + u32(at + 4);
    }
    const int division = bytes[12] * 256 + bytes[13];
    if (tracks < 1 || at != bytes.size() || bytes[8] != 0 || bytes[9] > 1 || division < 1 || division > 0x7FFF)
        return Error{ErrorCode::MidiDamaged, name, "header"};
    const QuietLog quiet_log;
    const Smf smf(smf_load_from_memory(const_cast<unsigned char*>(bytes.data()), static_cast<int>(bytes.size())), [](smf_t* s) {
        if (s) smf_delete(s);
    });
    if (!smf) return Error{ErrorCode::MidiDamaged, name, "not readable"};
    std::map<std::pair<int, int>, GivenPart> parts;
    std::map<int, std::string> names;
    std::map<std::array<int, 3>, std::pair<double, int>> open;  // (track, channel, key) -> onset, velocity
    std::array<int, 16> program{};
    program.fill(-1);
    smf_rewind(smf.get());
    while (smf_event_t* e = smf_get_next_event(smf.get())) {
        const unsigned char* m = e->midi_buffer;
        if (e->midi_buffer_length < 2) continue;
        const double time = e->time_seconds + offset_s;
        if (m[0] == 0xFF) {
            if (m[1] == 0x03)
                if (char* text = smf_event_extract_text(e)) {
                    names[e->track_number] = text;
                    std::free(text);
                }
            continue;
        }
        const int kind = m[0] & 0xF0, channel = m[0] & 0x0F;
        if (kind == 0xC0) program[static_cast<std::size_t>(channel)] = m[1];
        if ((kind != 0x90 && kind != 0x80) || e->midi_buffer_length < 3) continue;
        const std::array<int, 3> id{e->track_number, channel, m[1]};
        if (const auto was = open.find(id); was != open.end()) {
            GivenPart& part = parts[{e->track_number, channel}];
            part.program = program[static_cast<std::size_t>(channel)];
            part.drums = channel == 9;
            part.notes.push_back({was->second.first, std::max(0.02, time - was->second.first), m[1], was->second.second, 1.0});
            open.erase(was);
        }
        if (kind == 0x90 && m[2] > 0) open[id] = {time, m[2]};
    }
    if (parts.empty()) return Error{ErrorCode::MidiEmpty, name, {}};
    std::vector<GivenPart> out;
    for (auto& [id, part] : parts) {
        const auto named = names.find(id.first);
        part.name = named != names.end() && !named->second.empty() ? named->second : part.drums ? "Drums" : "Part " + std::to_string(out.size() + 1);
        std::stable_sort(part.notes.begin(), part.notes.end(), [](const HeardNote& a, const HeardNote& b) { return a.onset_s < b.onset_s; });
        out.push_back(std::move(part));
    }
    return out;
}

}  // namespace fw
