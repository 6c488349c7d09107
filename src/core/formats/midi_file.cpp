// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/midi_file.hpp"

#include "base/atomic_file.hpp"
#include "base/files.hpp"
#include "formats/smf.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <map>

namespace fw {

namespace {

constexpr double kUsualBendRange = 12.0;  // semitones
constexpr std::uint64_t kMostBytes = 16 << 20;
constexpr std::size_t kMostBending = 10'000'000;  // bends times the notes each of them bends
constexpr const char* kBegins = "Begins at this second of the recording: ";

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

/// Tempo events from the file's start on. Rounding to whole microseconds is made good at the next anchor, so that no drift adds up.
void write_tempo(SmfTrackWriter& track, const TempoMap& tempo, Ticks shift) {
    const auto& anchors = tempo.anchors();
    const double begin_s = tempo.seconds(-shift);
    Ticks from = 0;
    double at_s = 0.0;
    long last = 0;
    for (std::size_t i = 1; i < anchors.size(); ++i) {
        const Ticks to = anchors[i].tick + shift;
        if (to <= from) continue;
        const double quarters = static_cast<double>(to - from) / kTicksPerQuarter;
        const long micros = std::clamp(std::lround((anchors[i].time_s - begin_s - at_s) * 1e6 / quarters), 1L, 0xFFFFFFL);
        if (micros != last) track.meta(from, 0x51, {static_cast<char>(micros >> 16), static_cast<char>(micros >> 8 & 255), static_cast<char>(micros & 255)});
        last = micros;
        at_s += static_cast<double>(micros) * 1e-6 * quarters;
        from = to;
    }
}

SmfTrackWriter conductor_of(const Remake& r, Ticks shift) {
    SmfTrackWriter track;
    track.meta(0, 0x03, "Fakturwerk");
    char begins[32];
    std::snprintf(begins, sizeof begins, "%.6f", r.song->tempo.seconds(-shift));
    track.meta(0, 0x01, kBegins + std::string(begins));
    write_tempo(track, r.song->tempo, shift);
    for (const auto& m : r.song->meter.changes())
        track.meta(m.bar == 1 ? 0 : r.song->meter.tick_of_bar(m.bar) + shift, 0x58,
                   {static_cast<char>(m.numerator), static_cast<char>(std::lround(std::log2(m.denominator))), 24, 8});
    for (const KeyArea& k : r.song->keys) {
        const bool minor = k.key.mode == Mode::Minor || k.key.mode == Mode::Dorian || k.key.mode == Mode::Phrygian || k.key.mode == Mode::Locrian;
        track.meta(k.start + shift, 0x59, {static_cast<char>(sharps_of(k.key)), static_cast<char>(minor ? 1 : 0)});
    }
    for (const Section& s : r.song->sections) track.meta(s.start + shift, 0x06, s.name.empty() ? s.label : s.name);
    return track;
}

SmfTrackWriter track_of(const Part& part, const std::vector<PlacedNote>& notes, int channel, Ticks shift) {
    SmfTrackWriter track;
    track.meta(0, 0x03, part.name);
    if (channel != 9 && !part.layers.empty() && part.layers[0].source == &kSoundFont) track.message(0, 0xC0 | channel, part.layers[0].program);
    double widest = 0.0;
    bool bent = false;
    for (const PlacedNote& n : notes)
        for (const BendPoint& b : *n.note.bend) bent = true, widest = std::max(widest, std::abs(b.cents));
    const double range = std::max(kUsualBendRange, std::ceil(widest / 100.0));
    if (bent)
        for (const auto& [control, value] : {std::pair{101, 0}, {100, 0}, {6, static_cast<int>(range)}, {38, 0}})
            track.message(0, 0xB0 | channel, control, value);
    const auto bend = [&](Ticks tick, double cents) {
        const int value = std::clamp(static_cast<int>(std::lround(8192.0 + cents / 100.0 / range * 8192.0)), 0, 16383);
        track.message(tick, 0xE0 | channel, value & 127, value >> 7);
    };
    for (const PlacedNote& n : notes) {
        if (n.muted) continue;
        const Ticks start = n.note.start + shift, end = start + n.note.length;
        for (const BendPoint& b : *n.note.bend) bend(start + b.tick, b.cents);
        track.message(start, 0x90 | channel, n.note.pitch, n.note.velocity);
        track.message(end, 0x80 | channel, n.note.pitch, 64);
        if (!n.note.bend->empty()) bend(end, 0.0);
    }
    return track;
}

/// A channel of a track while it is read.
struct Channel {
    struct Open {
        std::int64_t tick;
        int velocity;
        std::vector<std::pair<std::int64_t, double>> bend;  // tick, cents
    };
    /// Notes of one key that sound, first struck first.
    struct Queue {
        std::vector<Open> notes;
        std::size_t next = 0;
        std::span<Open> waiting() { return std::span(notes).subspan(next); }
        Open take() {
            Open first = std::move(notes[next++]);
            if (next == notes.size()) notes.clear(), next = 0;
            return first;
        }
    };
    std::array<Queue, 128> open;  // by key
    int sounding = 0;
    double cents = 0.0, range = 2.0;  // semitones, as the MIDI specification has it until told otherwise
    int chosen = 0x3FFF;              // registered parameter
    int program = -1;
    GivenPart part;
};

class PartReader {
public:
    PartReader(const Smf& smf, const std::string& name) : smf_(smf), clock_(smf), name_(name) {}

    Result<MidiSong> read() {
        MidiSong song;
        for (const SmfTrack& track : smf_.tracks) {
            std::map<int, Channel> channels;
            std::string title;
            for (const SmfEvent& e : track.events) {
                if (e.status != 0xFF) {
                    if (!play(channels[e.channel()], e)) return too_many();
                    continue;
                }
                const std::string& text = track.texts[e.text];
                if (e.first == 0x03 && title.empty()) title = to_utf8(text.substr(0, limits::kTextBytes));
                if (e.first == 0x01 && text.starts_with(kBegins)) song.start_s = second_in(text);
            }
            for (auto& [number, channel] : channels) {
                for (int key = 0; key < 128 && channel.sounding > 0; ++key)
                    while (!channel.open[static_cast<std::size_t>(key)].waiting().empty()) let_go(channel, key, track.end_tick);
                if (channel.program >= 0) programs_.emplace(number, channel.program);
                if (channel.part.notes.empty()) continue;
                channel.part.drums = number == 9;
                channel.part.name = title;
                std::stable_sort(channel.part.notes.begin(), channel.part.notes.end(),
                                 [](const HeardNote& a, const HeardNote& b) { return a.onset_s < b.onset_s; });
                song.parts.push_back(std::move(channel.part));
                numbers_.push_back({number, channel.program});
            }
        }
        if (song.parts.empty()) return Error{ErrorCode::MidiEmpty, name_, {}};
        for (std::size_t i = 0; i < song.parts.size(); ++i) {
            GivenPart& part = song.parts[i];
            // A program may be chosen in another track than the one that plays.
            const auto chosen = programs_.find(numbers_[i].first);
            part.program = numbers_[i].second >= 0 ? numbers_[i].second : chosen != programs_.end() ? chosen->second : -1;
            if (part.name.empty()) part.name = part.drums ? "Drums" : "Part " + std::to_string(i + 1);
        }
        return song;
    }

private:
    Error too_many() const {
        return {ErrorCode::MidiUnusable, name_, "it holds more than " + std::to_string(limits::kSoundingNotes) + " notes or as many bends"};
    }

    static std::optional<double> second_in(const std::string& text) {
        char* end = nullptr;
        const double value = std::strtod(text.c_str() + std::string(kBegins).size(), &end);
        return end && *end == 0 && std::isfinite(value) ? std::optional(value) : std::nullopt;
    }

    /// False where there are too many notes or bends.
    bool play(Channel& c, const SmfEvent& e) {
        switch (e.kind()) {
            case 0x90:
                if (e.second > 0) {
                    Channel::Open note{e.tick, e.second, {}};
                    if (c.cents != 0.0) note.bend.emplace_back(e.tick, c.cents), ++bends_;
                    c.open[e.first].notes.push_back(std::move(note));
                    ++c.sounding;
                    return ++begun_ <= limits::kSoundingNotes;
                }
                [[fallthrough]];
            case 0x80: let_go(c, e.first, e.tick); return true;
            case 0xB0:
                if (e.first == 101) c.chosen = (c.chosen & 127) | e.second << 7;
                else if (e.first == 100) c.chosen = (c.chosen & 0x3F80) | e.second;
                else if (e.first == 6 && c.chosen == 0) c.range = e.second;
                else if (e.first == 38 && c.chosen == 0) c.range = std::floor(c.range) + e.second / 100.0;
                return true;
            case 0xC0:
                if (c.program < 0) c.program = e.first;
                return true;
            case 0xE0: {
                c.cents = std::clamp(((e.second << 7 | e.first) - 8192) / 8192.0 * c.range * 100.0, -limits::kBendCents, limits::kBendCents);
                for (auto& key : c.open)
                    for (Channel::Open& note : key.waiting()) {
                        if (++bent_ > kMostBending) return false;
                        // Of several bends at one place the last one holds.
                        if (!note.bend.empty() && note.bend.back().first == e.tick) note.bend.back().second = c.cents;
                        else if (++bends_ > limits::kSoundingNotes || note.bend.size() >= limits::kBendsANote) return false;
                        else note.bend.emplace_back(e.tick, c.cents);
                    }
                return true;
            }
            default: return true;
        }
    }

    void let_go(Channel& c, int key, std::int64_t tick) {
        Channel::Queue& open = c.open[static_cast<std::size_t>(key)];
        if (open.waiting().empty()) return;
        const Channel::Open note = open.take();
        --c.sounding;
        const double onset = clock_.seconds(note.tick);
        HeardNote heard{onset, clock_.seconds(tick) - onset, key, note.velocity, 1.0, {}};
        for (const auto& [at, cents] : note.bend) heard.bend.push_back({clock_.seconds(at) - onset, cents});
        c.part.notes.push_back(std::move(heard));
    }

    const Smf& smf_;
    Smf::Clock clock_;
    const std::string& name_;
    std::map<int, int> programs_;               // by channel, the first chosen
    std::vector<std::pair<int, int>> numbers_;  // channel and own program of each part
    std::size_t begun_ = 0, bends_ = 0, bent_ = 0;
};

}  // namespace

Status write_midi(const std::filesystem::path& path, const Remake& remake) {
    std::vector<std::vector<PlacedNote>> notes;
    Ticks first = 0;
    for (const auto& part : remake.parts) {
        notes.push_back(struck_notes(*part));
        for (const PlacedNote& n : notes.back())
            if (!n.muted) first = std::min({first, n.note.start, n.note.bend->empty() ? n.note.start : n.note.start + n.note.bend->front().tick});
    }
    const Ticks bar = remake.song->meter.at_bar(1).bar_ticks();
    const Ticks shift = (-first + bar - 1) / bar * bar;
    std::vector<SmfTrackWriter> tracks{conductor_of(remake, shift)};
    int next_channel = 0;
    for (std::size_t p = 0; p < remake.parts.size(); ++p) {
        const bool drums = remake.parts[p]->role == PartRole::Drums;
        tracks.push_back(track_of(*remake.parts[p], notes[p], drums ? 9 : next_channel, shift));
        if (!drums) next_channel = next_channel == 8 ? 10 : next_channel == 15 ? 0 : next_channel + 1;
    }
    return write_atomically(path, smf_file(tracks));
}

Result<MidiSong> parse_midi(std::span<const unsigned char> bytes, const std::string& name) {
    auto smf = parse_smf(bytes, name);
    if (!smf) return smf.error();
    return PartReader(*smf, name).read();
}

Result<MidiSong> read_midi(const std::filesystem::path& path) {
    auto bytes = read_file(path, kMostBytes);
    if (!bytes) return bytes.error();
    return parse_midi(*bytes, path.string());
}

}  // namespace fw
