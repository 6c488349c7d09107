// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/faint.hpp"

#include "base/pitch.hpp"
#include "base/ranks.hpp"
#include "model/drums.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <map>

namespace fw {

namespace {

constexpr std::size_t kOctave = 12, kBands = 9;
constexpr std::size_t kMost = 24;
/// What the ear weighs at the middle of each octave from 26 Hz on, dB (IEC 61672-1, A).
constexpr std::array<double, kBands> kWeight_db{-36.0, -24.0, -14.0, -7.5, -2.5, 0.2, 1.3, 0.6, -3.5};

double power(double db) { return std::pow(10.0, db / 10.0); }
double decibels(double p) { return 10.0 * std::log10(std::max(p, 1e-12)); }
double hz_of(double semitone) { return 440.0 * std::exp2((semitone + SoundSummary::kLowestSemitone - 69.0) / 12.0); }
double semitone_of(double hz) { return 69.0 + 12.0 * std::log2(hz / 440.0) - SoundSummary::kLowestSemitone; }

/// Mean spectrum of the quietest frames, in dB a semitone, and how steady they are.
struct Quiet {
    std::array<double, SoundSummary::kSemitones> db{};
    double level_db = -200.0, spread_db = 99.0;
};
Quiet quietest(const SoundSummary& s) {
    Quiet q;
    std::vector<std::pair<double, std::size_t>> frames;
    for (std::size_t f = 0; f < s.semitones.frames(); ++f) {
        double sum = 0.0;
        for (std::size_t k = 0; k < SoundSummary::kSemitones; ++k)
            if (s.semitones.cells()[f * SoundSummary::kSemitones + k] > 0) sum += power(s.db_at(f, k));
        if (sum > 1e-10) frames.emplace_back(decibels(sum), f);
    }
    if (frames.size() < 40) return q;
    std::sort(frames.begin(), frames.end());
    frames.resize(std::max<std::size_t>(8, frames.size() / 20));
    std::array<double, SoundSummary::kSemitones> sum{};
    double mean = 0.0;
    std::array<std::vector<double>, kBands> bands;
    for (const auto& [db, f] : frames) {
        mean += power(db) / static_cast<double>(frames.size());
        for (std::size_t k = 0; k < SoundSummary::kSemitones; ++k) sum[k] += power(s.db_at(f, k)) / static_cast<double>(frames.size());
        for (std::size_t b = 0; b < kBands; ++b) {
            double p = 0.0;
            for (std::size_t k = b * kOctave; k < std::min<std::size_t>(SoundSummary::kSemitones, (b + 1) * kOctave); ++k) p += power(s.db_at(f, k));
            bands[b].push_back(decibels(p));
        }
    }
    for (std::size_t k = 0; k < SoundSummary::kSemitones; ++k) q.db[k] = decibels(sum[k]);
    q.level_db = decibels(mean);
    // Steady noise is steady in its loudest bands; what dies away is not.
    std::vector<double> spreads;
    for (std::size_t b = 2; b < kBands; ++b) {
        const double middle = median(bands[b]);
        std::vector<double> off;
        for (const double v : bands[b]) off.push_back(std::abs(v - middle));
        spreads.push_back(1.48 * median(off));
    }
    q.spread_db = median(spreads);
    return q;
}

/// By how much the multiples of a mains frequency stand out of what is beside them.
double hum(const Quiet& q, double mains_hz) {
    int standing = 0;
    double most = 0.0;
    for (int k = 1; k <= 4; ++k) {
        const auto at = static_cast<long>(std::lround(semitone_of(mains_hz * k)));
        std::vector<double> beside;
        for (const long by : {-4L, -3L, -2L, 2L, 3L, 4L})
            if (at + by >= 0 && at + by < static_cast<long>(SoundSummary::kSemitones)) beside.push_back(q.db[static_cast<std::size_t>(at + by)]);
        if (at < 0 || beside.size() < 4) continue;
        const double out = q.db[static_cast<std::size_t>(at)] - median(beside);
        standing += out > 8.0;
        most = std::max(most, out);
    }
    return standing >= 2 ? most : 0.0;
}

void tell_noise(const SoundSummary& s, std::vector<FaintFind>& found) {
    constexpr double kFaintest_db = -95.0, kSteady_db = 4.0;
    const Quiet q = quietest(s);
    if (q.level_db < kFaintest_db) return;
    FaintFind f;
    f.to_s = s.duration_s;
    f.below_db = q.level_db;
    f.bars = 0;
    if (std::max(hum(q, 50.0), hum(q, 60.0)) > 0.0) {
        const double mains = hum(q, 50.0) >= hum(q, 60.0) ? 50.0 : 60.0;
        f.kind = FaintKind::Hum;
        f.low_hz = 0.8 * mains, f.high_hz = 5.0 * mains;
        found.push_back(f);
        return;
    }
    if (q.spread_db > kSteady_db) return;
    // Noise fills all there is, and its neighbours evenly; notes stand out of them.
    std::vector<double> out;
    std::size_t filled = 0;
    for (std::size_t k = 24; k + 2 < SoundSummary::kSemitones; ++k) filled += q.db[k] > kFaintest_db;
    if (filled < (SoundSummary::kSemitones - 26) * 6 / 10) return;
    for (std::size_t k = 24; k + 2 < SoundSummary::kSemitones; ++k) out.push_back(q.db[k] - std::max(q.db[k - 2], q.db[k + 2]));
    std::sort(out.begin(), out.end());
    if (out[out.size() * 9 / 10] > 5.0) return;
    const auto mean_db = [&](double low, double high) {
        double sum = 0.0;
        int n = 0;
        for (auto k = static_cast<long>(std::lround(semitone_of(low))); k <= std::lround(semitone_of(high)) && k < static_cast<long>(SoundSummary::kSemitones);
             ++k, ++n)
            sum += q.db[static_cast<std::size_t>(std::max(0L, k))];
        return n ? sum / n : -200.0;
    };
    // Even noise gains 3 dB an octave in semitones: what does so is hiss, what falls is a room.
    if (mean_db(4000.0, 10000.0) > mean_db(300.0, 1000.0) - 2.0) f.kind = FaintKind::Hiss, f.low_hz = 3000.0, f.high_hz = 16000.0;
    else f.kind = FaintKind::Room, f.low_hz = 100.0, f.high_hz = 2500.0;
    found.push_back(f);
}

}  // namespace

std::vector<FaintFind> scan_faint(const Analysis& a, const Remake& remake, const SoundSummary& s) {
    constexpr double kNothing_db = -96.0, kAlways_db = 10.0, kFaint_db = -20.0, kFaintest_db = -58.0;
    std::vector<FaintFind> found;
    if (s.semitones.frames() == 0) return found;
    tell_noise(s, found);
    const Song& song = *remake.song;
    double whole = 0.0;
    for (std::size_t f = 0; f < s.semitones.frames(); ++f)
        for (std::size_t k = 0; k < SoundSummary::kSemitones; ++k)
            whole += power(s.db_at(f, k) + kWeight_db[std::min(k / kOctave, kBands - 1)]) / static_cast<double>(s.semitones.frames());
    if (whole <= 1e-10) return {};
    std::vector<FaintFind> music;
    for (const Section& section : song.sections) {
        const int bar = song.meter.position(section.start).bar, bars = std::max(1, song.meter.position(section.start + section.length - 1).bar - bar + 1);
        const double from_s = song.tempo.seconds(section.start), to_s = song.tempo.seconds(section.start + section.length);
        const auto [from, to] = s.frames_between(from_s, to_s);
        if (to < from + 20) continue;
        FaintFind place;
        place.from_s = from_s, place.to_s = to_s, place.bar = bar, place.bars = bars;
        for (std::size_t b = 0; b < kBands; ++b) {
            std::vector<double> levels;
            std::array<double, kOctave> of_pitch{};
            double mean = 0.0;
            for (std::size_t f = from; f < to; ++f) {
                double p = 0.0;
                for (std::size_t k = 0; k < kOctave && b * kOctave + k < SoundSummary::kSemitones; ++k) {
                    const double cell = power(s.db_at(f, b * kOctave + k));
                    p += cell, of_pitch[k] += cell;
                }
                levels.push_back(decibels(p));
                mean += p / static_cast<double>(to - from);
            }
            std::sort(levels.begin(), levels.end());
            const double middle = levels[levels.size() / 2], low = levels[levels.size() / 10];
            const double below = decibels(mean * power(kWeight_db[b]) / whole);
            // Always there, and softly; what strokes leave between them falls away and is no layer.
            if (middle < kNothing_db || middle - low > kAlways_db || below > kFaint_db || below < kFaintest_db) continue;
            FaintFind layer = place;
            layer.low_hz = hz_of(static_cast<double>(b * kOctave) - 0.5), layer.high_hz = hz_of(static_cast<double>((b + 1) * kOctave) - 0.5);
            layer.below_db = below;
            const auto most = std::max_element(of_pitch.begin(), of_pitch.end());
            double all = 0.0;
            for (const double p : of_pitch) all += p;
            if (*most > 0.4 * all)
                layer.pitch = SoundSummary::kLowestSemitone + static_cast<int>(b * kOctave + static_cast<std::size_t>(most - of_pitch.begin()));
            music.push_back(layer);
        }
        // Strokes that were not sure enough to be written, but come again and again.
        std::map<DrumKind, int> soft, sure;
        for (const Hit& h : a.faint_drums)
            if (h.time_s >= from_s && h.time_s < to_s) ++soft[h.kind];
        for (const Hit& h : a.drums)
            if (h.time_s >= from_s && h.time_s < to_s) ++sure[h.kind];
        for (const auto& [kind, count] : soft)
            if (sure[kind] == 0 && count >= 2 * bars && bars >= 2) {
                FaintFind drum = place;
                drum.kind = FaintKind::Drum;
                drum.drum = kind;
                drum.below_db = -40.0;
                const bool high = kind == DrumKind::HatClosed || kind == DrumKind::HatOpen || kind == DrumKind::Ride || kind == DrumKind::Crash;
                drum.low_hz = high ? 5000.0 : 60.0, drum.high_hz = high ? 16000.0 : 5000.0;
                music.push_back(drum);
            }
    }
    std::stable_sort(music.begin(), music.end(), [](const FaintFind& x, const FaintFind& y) { return x.below_db > y.below_db; });
    for (const FaintFind& f : music)
        if (found.size() < kMost) found.push_back(f);
    return found;
}

std::string faint_words(const FaintFind& f, bool flats) {
    char text[160];
    const auto hz = [](double v) {
        char t[32];
        if (v < 1000.0) std::snprintf(t, sizeof t, "%.0f Hz", std::round(v / 5.0) * 5.0);
        else std::snprintf(t, sizeof t, "%.1f kHz", v / 1000.0);
        return std::string(t);
    };
    const std::string where = f.bars > 1 ? "bars " + std::to_string(f.bar) + " to " + std::to_string(f.bar + f.bars - 1) : "bar " + std::to_string(f.bar);
    switch (f.kind) {
        case FaintKind::Hum: std::snprintf(text, sizeof text, "hum of the recording, %.0f dB: no music", f.below_db); return text;
        case FaintKind::Hiss: std::snprintf(text, sizeof text, "hiss of the recording, %.0f dB: no music", f.below_db); return text;
        case FaintKind::Room: std::snprintf(text, sizeof text, "noise of a room or crowd, %.0f dB: no music", f.below_db); return text;
        case FaintKind::Drum: return where + ", " + drum_sound(f.drum).name + ", too soft to be sure of";
        case FaintKind::Layer: break;
    }
    std::snprintf(text, sizeof text, ", %s to %s, %.0f dB below the whole", hz(f.low_hz).c_str(), hz(f.high_hz).c_str(), -f.below_db);
    return where + text + (f.pitch >= 0 ? ", around " + note_name(f.pitch, flats) : "");
}

}  // namespace fw
