// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/smf.hpp"

#include <algorithm>
#include <cstring>

namespace fw {

namespace {

constexpr std::int64_t kLongestDelta = (1 << 28) - 1;  // what a variable-length quantity can hold

/// Bytes with a place in them; nothing is read beyond their end.
class Bytes {
public:
    explicit Bytes(std::span<const unsigned char> bytes) : bytes_(bytes) {}
    std::size_t left() const { return bytes_.size() - at_; }
    std::optional<std::uint8_t> byte() {
        if (left() == 0) return std::nullopt;
        return bytes_[at_++];
    }
    std::optional<std::uint8_t> peek() const {
        if (left() == 0) return std::nullopt;
        return bytes_[at_];
    }
    std::optional<std::uint32_t> number(std::size_t count) {
        if (left() < count) return std::nullopt;
        std::uint32_t value = 0;
        for (std::size_t i = 0; i < count; ++i) value = value << 8 | bytes_[at_++];
        return value;
    }
    std::optional<std::uint32_t> variable() {
        std::uint32_t value = 0;
        for (int i = 0; i < 4; ++i) {
            const auto b = byte();
            if (!b) return std::nullopt;
            value = value << 7 | (*b & 127U);
            if (*b < 128) return value;
        }
        return std::nullopt;
    }
    std::optional<std::span<const unsigned char>> take(std::size_t count) {
        if (left() < count) return std::nullopt;
        const auto taken = bytes_.subspan(at_, count);
        at_ += count;
        return taken;
    }

private:
    std::span<const unsigned char> bytes_;
    std::size_t at_ = 0;
};

std::size_t data_bytes(std::uint8_t status) {
    if (status >= 0xF0) return status == 0xF2 ? 2 : status == 0xF1 || status == 0xF3 ? 1 : 0;
    return (status & 0xF0) == 0xC0 || (status & 0xF0) == 0xD0 ? 1 : 2;
}

/// False where the bytes are no track.
bool read_track(Bytes bytes, SmfTrack& track) {
    std::int64_t tick = 0;
    std::uint8_t running = 0;
    while (bytes.left() > 0) {
        const auto delta = bytes.variable();
        if (!delta || !bytes.peek()) return false;
        tick += *delta;
        track.end_tick = tick;
        std::uint8_t status = running;
        if (*bytes.peek() >= 0x80) status = *bytes.byte();
        if (status == 0) return false;  // a message without a status before any had one
        if (status == 0xFF) {
            const auto kind = bytes.byte();
            const auto length = bytes.variable();
            if (!kind || !length) return false;
            const auto content = bytes.take(*length);
            if (!content) return false;
            if (*kind == 0x2F) return true;
            track.events.push_back({tick, 0xFF, *kind, 0, static_cast<std::uint32_t>(track.texts.size())});
            track.texts.emplace_back(content->begin(), content->end());
            continue;
        }
        if (status == 0xF0 || status == 0xF7) {
            const auto length = bytes.variable();
            if (!length || !bytes.take(*length)) return false;
            continue;
        }
        const auto data = bytes.take(data_bytes(status));
        if (!data) return false;
        for (const unsigned char b : *data)
            if (b > 127) return false;
        if (status >= 0xF0) continue;
        running = status;
        track.events.push_back({tick, status, (*data)[0], data->size() > 1 ? (*data)[1] : std::uint8_t{0}, 0});
    }
    return true;
}

void put_number(std::string& out, std::uint32_t value, int count) {
    for (int i = count - 1; i >= 0; --i) out += static_cast<char>(value >> (8 * i) & 255U);
}

void put_variable(std::string& out, std::uint32_t value) {
    for (int shift = 21; shift > 0; shift -= 7)
        if (value >> shift) out += static_cast<char>((value >> shift & 127U) | 128U);
    out += static_cast<char>(value & 127U);
}

}  // namespace

Result<Smf> parse_smf(std::span<const unsigned char> content, const std::string& name) {
    const auto damaged = [&](const char* why) { return Error{ErrorCode::MidiDamaged, name, why}; };
    Bytes bytes(content);
    const auto magic = bytes.take(4);
    const auto header = bytes.number(4);
    if (!magic || std::memcmp(magic->data(), "MThd", 4) != 0 || !header || *header < 6 || bytes.left() < *header) return damaged("no header");
    const auto format = *bytes.number(2), tracks = *bytes.number(2), division = *bytes.number(2);
    bytes.take(*header - 6);
    if (format == 2) return Error{ErrorCode::MidiUnusable, name, "it holds several songs side by side (format 2)"};
    if (format > 2 || division == 0) return damaged("header");
    Smf smf;
    if (division & 0x8000U) {
        // In frames: the upper byte is the negative of frames a second, 29 standing for 30 000/1001; the lower the ticks of a frame.
        const int frames = 256 - static_cast<int>(division >> 8), ticks = static_cast<int>(division & 255U);
        if (ticks == 0) return damaged("header");
        smf.ticks_per_second = (frames == 29 ? 30000.0 / 1001.0 : frames) * ticks;
    } else {
        smf.ticks_per_quarter = static_cast<int>(division);
    }
    while (smf.tracks.size() < tracks) {
        const auto chunk = bytes.take(4);
        const auto length = bytes.number(4);
        if (!chunk || !length) return damaged("tracks are missing");
        const auto body = bytes.take(*length);
        if (!body) return damaged("track cut short");
        if (std::memcmp(chunk->data(), "MTrk", 4) != 0) continue;
        if (!read_track(Bytes(*body), smf.tracks.emplace_back())) return damaged("track damaged");
    }
    return smf;
}

Smf::Clock::Clock(const Smf& smf) {
    if (smf.ticks_per_quarter <= 0) {
        points_.push_back({0, 0.0, 1.0 / smf.ticks_per_second});
        return;
    }
    std::vector<std::pair<std::int64_t, std::uint32_t>> tempos;  // tick, microseconds a quarter
    for (const SmfTrack& t : smf.tracks)
        for (const SmfEvent& e : t.events)
            if (e.status == 0xFF && e.first == 0x51 && t.texts[e.text].size() == 3) {
                std::uint32_t micros = 0;
                for (const char c : t.texts[e.text]) micros = micros << 8 | static_cast<unsigned char>(c);
                if (micros > 0) tempos.emplace_back(e.tick, micros);  // a tempo without duration would heap up all that follows
            }
    std::stable_sort(tempos.begin(), tempos.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    points_.push_back({0, 0.0, 0.5 / smf.ticks_per_quarter});  // 120 BPM until told otherwise
    for (const auto& [tick, micros] : tempos) {
        const double now = seconds(tick);
        points_.push_back({tick, now, micros * 1e-6 / smf.ticks_per_quarter});
    }
}

double Smf::Clock::seconds(std::int64_t tick) const {
    const auto next = std::upper_bound(points_.begin() + 1, points_.end(), tick, [](std::int64_t t, const Point& p) { return t < p.tick; });
    const Point& p = *(next - 1);
    return p.time_s + static_cast<double>(tick - p.tick) * p.seconds_per_tick;
}

void SmfTrackWriter::meta(std::int64_t tick, std::uint8_t kind, const std::string& bytes) {
    entries_.push_back({std::max<std::int64_t>(0, tick), 0, 0xFF, kind, 0, static_cast<std::uint32_t>(texts_.size())});
    texts_.push_back(bytes);
}

void SmfTrackWriter::message(std::int64_t tick, int status, int first, int second) {
    const int order = (status & 0xF0) == 0x80 ? 1 : (status & 0xF0) == 0x90 ? 3 : 2;
    entries_.push_back({std::max<std::int64_t>(0, tick), order, static_cast<std::uint8_t>(status), static_cast<std::uint8_t>(first & 127),
                        static_cast<std::uint8_t>(second & 127), 0});
}

std::string SmfTrackWriter::chunk() const {
    std::vector<Entry> sorted = entries_;
    std::stable_sort(sorted.begin(), sorted.end(), [](const Entry& a, const Entry& b) { return a.tick != b.tick ? a.tick < b.tick : a.order < b.order; });
    std::string body;
    std::int64_t now = 0;
    for (const Entry& e : sorted) {
        // A gap longer than a delta can say is bridged by texts that say nothing.
        for (; e.tick - now > kLongestDelta; now += kLongestDelta) {
            put_variable(body, static_cast<std::uint32_t>(kLongestDelta));
            body += std::string("\xFF\x01\x00", 3);
        }
        put_variable(body, static_cast<std::uint32_t>(e.tick - now));
        now = e.tick;
        body += static_cast<char>(e.status);
        body += static_cast<char>(e.first);
        if (e.status == 0xFF) {
            put_variable(body, static_cast<std::uint32_t>(texts_[e.text].size()));
            body += texts_[e.text];
        } else if (data_bytes(e.status) == 2) {
            body += static_cast<char>(e.second);
        }
    }
    body += std::string("\x00\xFF\x2F\x00", 4);
    std::string out = "MTrk";
    put_number(out, static_cast<std::uint32_t>(body.size()), 4);
    return out + body;
}

std::string smf_file(const std::vector<SmfTrackWriter>& tracks) {
    std::string out = "MThd";
    put_number(out, 6, 4);
    put_number(out, 1, 2);
    put_number(out, static_cast<std::uint32_t>(tracks.size()), 2);
    put_number(out, static_cast<std::uint32_t>(kTicksPerQuarter), 2);
    for (const SmfTrackWriter& t : tracks) out += t.chunk();
    return out;
}

}  // namespace fw
