// SPDX-License-Identifier: GPL-3.0-or-later
// Values as bytes for a cache on this machine: one description of each type's members writes and reads it. Not a format to keep or to exchange.
#pragma once

#include "analysis/analysis.hpp"
#include "audio/peaks.hpp"

#include <cstring>
#include <span>
#include <string>
#include <tuple>
#include <type_traits>

namespace fw::archive {

// The members of each type that is kept. A structured binding counts them: a member that is added without being named here does not compile.
// clang-format off
#define FW_KEPT(Type, ...) template <class V, std::enable_if_t<std::is_same_v<std::remove_const_t<V>, Type>, int> = 0> auto members(V& v) { auto& [__VA_ARGS__] = v; return std::tie(__VA_ARGS__); }
FW_KEPT(Tuning, cents, confidence, drift_cents)
FW_KEPT(Beat, time_s, bar, beat)
FW_KEPT(TempoCandidate, bpm, confidence)
FW_KEPT(TempoSegment, start_s, end_s, bpm)
FW_KEPT(TempoEstimate, bpm, error_bpm, steady, confidence, alternatives, segments, free_time)
FW_KEPT(MeterChange, bar, numerator, denominator)
FW_KEPT(Swing, ratio, subdivision, confidence)
FW_KEPT(StepFeel, step, count, offset_ms, spread_ms, velocity)
FW_KEPT(DrumFeel, kind, steps)
FW_KEPT(Feel, steps_per_bar, steps_per_beat, drums)
FW_KEPT(Key, tonic, mode)
FW_KEPT(KeySpan, start_s, end_s, key, confidence, alternatives)
FW_KEPT(Chord, root, kind, bass)
FW_KEPT(ChordSpan, start_s, end_s, chord, confidence, alternatives)
FW_KEPT(BarDifference, bar, of_bar, start_s, end_s, element, missing, added, up, from, to)
FW_KEPT(Presence, element, start_bar, bars, start_s, end_s)
FW_KEPT(SectionSpan, start_s, end_s, start_bar, bars, label, name, repeat_of, confidence, differences, up)
FW_KEPT(HeardBend, offset_s, cents)
FW_KEPT(HeardNote, onset_s, duration_s, pitch, velocity, confidence, bend)
FW_KEPT(Hit, time_s, kind, velocity, confidence)
FW_KEPT(HeardPart, role, name, notes)
FW_KEPT(Evidence, tuning, duration_s, pulse, bands, spectra, sounding, onset, bass_sounding, bass_onset, lead_sounding, lead_onset, level)
#undef FW_KEPT
// clang-format on

/// All decisions; the evidence they were made from is kept by itself.
template <class V, std::enable_if_t<std::is_same_v<std::remove_const_t<V>, Analysis>, int> = 0>
auto members(V& v) {
    auto& [path, duration, rate, channels, lufs, hash, remarks, tuning, tempo, meter, beats, swing, keys, chords, sections, presence, parts, notes, drums,
           faint_notes, faint_drums, feel, evidence] = v;
    (void)evidence;
    return std::tie(path, duration, rate, channels, lufs, hash, remarks, tuning, tempo, meter, beats, swing, keys, chords, sections, presence, parts, notes,
                    drums, faint_notes, faint_drums, feel);
}

template <class T>
concept Plain = std::is_arithmetic_v<T> || std::is_enum_v<T>;

class Writer {
public:
    std::string bytes;

    template <Plain T>
    void put(const T& v) {
        raw(&v, sizeof v);
    }
    void put(const std::string& v) { put(v.size()), raw(v.data(), v.size()); }
    template <class T>
    void put(const std::vector<T>& all) {
        put(all.size());
        for (const T& v : all) put(v);
    }
    template <class A, class B>
    void put(const std::pair<A, B>& v) {
        put(v.first), put(v.second);
    }
    void put(const Frames& f) { put(f.rows()), put(f.cols()), raw(f.data(), static_cast<std::size_t>(f.size()) * sizeof(float)); }
    void put(const ByteGrid& g) { put(g.frames()), put(g.columns()), raw(g.cells().data(), g.cells().size()); }
    void put(const Peaks& p) { put(p.sample_rate_hz()), put(p.frames()), put(p.cells()); }
    template <class T>
    requires(!Plain<T>) void put(const T& v) {
        std::apply([&](const auto&... m) { (put(m), ...); }, members(v));
    }

private:
    void raw(const void* from, std::size_t count) { bytes.append(static_cast<const char*>(from), count); }
};

/// What it reads of damaged bytes is nonsense of no more than their size; false from the first that does not fit on.
class Reader {
public:
    explicit Reader(std::span<const unsigned char> bytes) : bytes_(bytes) {}
    bool ended() const { return bytes_.empty(); }

    template <Plain T>
    bool get(T& v) {
        return raw(&v, sizeof v);
    }
    bool get(std::string& v) {
        std::size_t size = 0;
        if (!get(size) || size > bytes_.size()) return false;
        v.resize(size);
        return raw(v.data(), size);
    }
    template <class T>
    bool get(std::vector<T>& all) {
        std::size_t size = 0;
        if (!get(size) || size > bytes_.size()) return false;  // nothing takes less than a byte
        all.resize(size);
        for (T& v : all)
            if (!get(v)) return false;
        return true;
    }
    template <class A, class B>
    bool get(std::pair<A, B>& v) {
        return get(v.first) && get(v.second);
    }
    bool get(Frames& f) {
        Eigen::Index rows = 0, columns = 0;
        if (!get(rows) || !get(columns) || !fits(static_cast<std::uint64_t>(rows), static_cast<std::uint64_t>(columns), sizeof(float))) return false;
        f.resize(rows, columns);
        return raw(f.data(), static_cast<std::size_t>(f.size()) * sizeof(float));
    }
    bool get(ByteGrid& g) {
        std::size_t rows = 0, columns = 0;
        if (!get(rows) || !get(columns) || !fits(rows, columns, 1)) return false;
        g = ByteGrid(rows, columns);
        return raw(g.cells().data(), g.cells().size());
    }
    bool get(Peaks& p) {
        int rate = 0;
        std::size_t frames = 0;
        std::vector<Peaks::Cell> cells;
        if (!get(rate) || !get(frames) || !get(cells) || cells.size() != (frames + Peaks::kFrames - 1) / Peaks::kFrames) return false;
        p = Peaks(rate, frames, std::move(cells));
        return true;
    }
    template <class T>
    requires(!Plain<T>) bool get(T& v) {
        return std::apply([&](auto&... m) { return (get(m) && ...); }, members(v));
    }

private:
    /// Whether so many cells, of so many bytes each, are there.
    bool fits(std::uint64_t rows, std::uint64_t columns, std::size_t cell) const {
        return columns <= 4096 && (columns == 0 ? rows == 0 : rows <= bytes_.size() / cell / columns);
    }
    bool raw(void* into, std::size_t count) {
        if (bytes_.size() < count) return false;
        if (count) std::memcpy(into, bytes_.data(), count);
        bytes_ = bytes_.subspan(count);
        return true;
    }
    std::span<const unsigned char> bytes_;
};

}  // namespace fw::archive
