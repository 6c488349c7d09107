// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/manners.hpp"

#include "fit/sound_curves.hpp"

#include "audio/mono.hpp"
#include "base/pitch.hpp"
#include "dsp/probe.hpp"
#include "engine/offline.hpp"
#include "model/edits/parts.hpp"
#include "sound/svf.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace fw {

namespace {

constexpr double kRate = 44100.0, kLead_s = 0.25, kHeld_s = 1.6;

/// A remake of the part alone, playing some notes at a steady tempo from 0.25 s on: a tick is a thousandth of a second.
Remake alone(const Remake& remake, const Part& part, std::vector<Note> notes) {
    Remake r;
    r.reference = remake.reference;
    r.reference.duration_s = 60.0;
    r.song.edit().tuning_cents = remake.song->tuning_cents;
    r.song.edit().at_440 = remake.song->at_440;
    r.song.edit().tempo = TempoMap({{0, 0.0}, {60'000, 60.0}});
    r.clips.edit().assets = remake.clips->assets;
    Part p;
    static_cast<PartVersion&>(p) = part;
    p.id = part.id;
    p.name = part.name;
    p.role = part.role;
    p.early_ms = 0.0;
    p.patterns.clear();
    p.placements.clear();
    p.sends.clear();
    p.output = {};
    p.derived = {};
    p.rivals.clear();
    // What a part of another sets off stays silent: nobody else plays here.
    std::erase_if(p.steps, [&](const Step& s) { return s.trigger.part && s.trigger.part != part.id; });
    Pattern pattern;
    pattern.id = PatternId(1);
    pattern.letter = "A";
    pattern.length = 60'000;
    pattern.notes = std::move(notes);
    p.patterns = {pattern};
    p.placements = {{PatternId(1), 0}};
    p.next_id = 2;
    p.number_all();
    r.parts = {p};
    return r;
}

Note at_ms(Ticks ms, Ticks length, int pitch, int velocity) {
    Note n;
    n.start = ms, n.length = length, n.pitch = pitch, n.velocity = velocity;
    return n;
}

/// The middle pitch a part plays, of drums the key it plays most.
std::optional<int> usual_key(const Part& part) {
    std::vector<int> keys;
    for (const PlacedNote& n : placed_notes(part))
        if (!n.muted) keys.push_back(n.note.pitch);
    if (keys.empty()) return std::nullopt;
    if (part.role == PartRole::Drums) {
        std::map<int, int> count;
        for (const int k : keys) ++count[k];
        return std::max_element(count.begin(), count.end(), [](const auto& a, const auto& b) { return a.second < b.second; })->first;
    }
    std::nth_element(keys.begin(), keys.begin() + static_cast<std::ptrdiff_t>(keys.size() / 2), keys.end());
    return keys[keys.size() / 2];
}

std::optional<Audio> play(const Remake& alone, double seconds, const AssetLoader& assets) {
    const auto plan = compile_plan(alone, {kRate, assets});
    const auto audio = render_offline(*plan, {{}, 0, static_cast<std::int64_t>(seconds * kRate)});
    if (!audio) return std::nullopt;
    return *audio;
}

double energy(std::span<const float> x) {
    double sum = 0.0;
    for (const float s : x) sum += static_cast<double>(s) * static_cast<double>(s);
    return sum;
}

}  // namespace

SoundManners manners_of(const Audio& sound, double hz) {
    SoundManners m;
    const double rate = sound.sample_rate_hz;
    const std::size_t frames = sound.frames();
    const std::vector<float> mono = mono_of(sound);
    if (sound.channels == 2) {
        std::vector<float> side(frames), low = mono;
        double both = 0.0;
        for (std::size_t i = 0; i < frames; ++i) {
            const float l = sound.samples[2 * i], r = sound.samples[2 * i + 1];
            side[i] = 0.5F * (l - r);
            both += 0.5 * (static_cast<double>(l) * static_cast<double>(l) + static_cast<double>(r) * static_cast<double>(r));
        }
        if (const double one = energy(mono); both > 0.0) m.mono_db = 10.0 * std::log10(both / std::max(one, 1e-9 * both));
        constexpr double kLow_hz = 150.0;
        Svf first, second;
        for (Svf* f : {&first, &second}) {
            f->low_pass(kLow_hz, 0.7071, rate);
            f->process({std::span(low), std::span(side)});
        }
        // Of a sound that is hardly there below nothing is told.
        const double there = energy(low) + energy(side);
        m.lows_off = there > 1e-3 * both ? energy(side) / there : 0.0;
    }
    // Level over a period of the lowest pitch there is, or 3 ms where the note is high.
    const double window_s = hz > 0.0 ? std::clamp(1.5 / hz, 0.003, 0.04) : 0.004;
    const auto window = static_cast<std::size_t>(window_s * rate), hop = std::max<std::size_t>(1, static_cast<std::size_t>(0.001 * rate));
    std::vector<double> level;
    for (std::size_t at = 0; at + window <= frames; at += hop)
        level.push_back(std::sqrt(energy(std::span(mono).subspan(at, window)) / static_cast<double>(window)));
    if (level.empty()) return m;
    const double hops_s = static_cast<double>(hop) / rate;
    const auto within = std::min(level.size(), static_cast<std::size_t>(1.0 / hops_s));
    const double top = *std::max_element(level.begin(), level.begin() + static_cast<std::ptrdiff_t>(within));
    if (top < 1e-6) return m;
    const auto half = std::find_if(level.begin(), level.end(), [&](double l) { return l >= 0.5 * top; });
    // A window is half full in its middle; a sound that is there at once has its half as soon as it has begun.
    m.speaks_ms = std::max(0.0, 1000.0 * (static_cast<double>(half - level.begin()) * hops_s + (half == level.begin() ? 0.0 : 0.5 * window_s)));
    if (hz > 0.0) {
        const auto probe = [&](double from_s, double to_s) -> std::optional<double> {
            const auto a = std::min(frames, static_cast<std::size_t>(from_s * rate)), b = std::min(frames, static_cast<std::size_t>(to_s * rate));
            const auto p = probe_pitch(std::span(mono).subspan(a, b - a), rate, std::max(25.0, hz / 2.8), std::min(4200.0, hz * 2.8));
            return p ? std::optional(1200.0 * std::log2(p->hz / hz)) : std::nullopt;
        };
        const double last_s = static_cast<double>(frames) / rate;
        m.cents = probe(std::min(0.4 * last_s, 0.5), std::min(last_s, 1.4));
        if (m.cents) {
            constexpr double kNear_cents = 20.0, kStep_s = 0.025;
            const double piece_s = std::max(0.05, 9.0 / hz);
            for (double at = 0.0; at + piece_s < std::min(last_s, 1.2); at += kStep_s)
                if (const auto here = probe(at, at + piece_s); here && std::abs(*here - *m.cents) > kNear_cents) m.settles_ms = 1000.0 * (at + 0.5 * piece_s);
        }
    }
    // Dips of the held level against its own slope.
    const auto from = std::min(level.size(), static_cast<std::size_t>(0.25 / hops_s)), to = std::min(level.size(), static_cast<std::size_t>(1.5 / hops_s));
    if (to > from + 400) {
        std::vector<double> db;
        for (std::size_t i = from; i < to; ++i) db.push_back(20.0 * std::log10(std::max(1e-9, level[i] / top)));
        const double n = static_cast<double>(db.size());
        double sx = 0, sy = 0, sxx = 0, sxy = 0;
        for (std::size_t i = 0; i < db.size(); ++i) {
            const double x = static_cast<double>(i);
            sx += x, sy += db[i], sxx += x * x, sxy += x * db[i];
        }
        const double slope = (n * sxy - sx * sy) / (n * sxx - sx * sx), base = (sy - slope * sx) / n;
        double low = 0, high = 0;
        int crossings = 0;
        bool above = true;
        for (std::size_t i = 0; i < db.size(); ++i) {
            const double d = db[i] - base - slope * static_cast<double>(i);
            low = std::min(low, d), high = std::max(high, d);
            if (d < -0.5 && above) above = false, ++crossings;
            if (d > 0.5) above = true;
        }
        const bool dies = slope * n < -40.0;
        if (!dies && high - low > 3.0 && crossings >= 2) m.beats_db = high - low, m.beats_hz = crossings / (n * hops_s);
    }
    return m;
}

std::optional<SoundManners> measure_manners(const Remake& remake, PartId id, const AssetLoader& assets) {
    const Part* part = remake.part(id);
    const auto key = part ? usual_key(*part) : std::nullopt;
    if (!key) return std::nullopt;
    const bool drums = part->role == PartRole::Drums;
    const auto audio =
        play(alone(remake, *part, {at_ms(static_cast<Ticks>(1000 * kLead_s), static_cast<Ticks>(1000 * kHeld_s), *key, 100)}), kLead_s + kHeld_s, assets);
    if (!audio || energy(audio->samples) < 1e-6) return std::nullopt;
    // From where the stroke is meant to be heard: what the plan delays for its steps is not the sound's fault and is made good by the plan.
    Audio from = *audio;
    const auto first = static_cast<std::ptrdiff_t>(kLead_s * kRate) * 2;
    from.samples.erase(from.samples.begin(), from.samples.begin() + std::min<std::ptrdiff_t>(first, static_cast<std::ptrdiff_t>(from.samples.size())));
    const double tuning = remake.song->rebuild_tuning_cents();
    // Layers an octave away are the part's own choice: the nearest octave of the key is what it is measured against.
    double octave = 0.0;
    for (const Layer& l : part->layers)
        if (l.on >= 0.5) {
            octave = l.octave;
            break;
        }
    SoundManners m = manners_of(from, drums ? 0.0 : hertz_of(*key + 12.0 * octave + tuning / 100.0));
    m.key = *key;
    if (drums) m.beats_db = m.beats_hz = 0.0;  // a drum's wires and skins are no voices that beat
    if (m.cents) *m.cents -= 1200.0 * std::round(*m.cents / 1200.0);
    return m;
}

std::optional<std::vector<float>> played_alone(const Remake& remake, PartId id, int key, int velocity, double held_s, double length_s,
                                               const AssetLoader& assets, LayerId only) {
    const Part* part = remake.part(id);
    if (!part) return std::nullopt;
    Remake one = alone(remake, *part, {at_ms(static_cast<Ticks>(1000 * kLead_s), static_cast<Ticks>(1000 * held_s), key, velocity)});
    if (only)
        for (Layer& l : one.parts.front().edit().layers) l.on = l.id == only ? l.on : 0.0;
    const auto audio = play(one, kLead_s + length_s, assets);
    if (!audio || energy(audio->samples) < 1e-7) return std::nullopt;
    std::vector<float> mono = mono_of(*audio);
    mono.erase(mono.begin(), mono.begin() + std::min<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(kLead_s * kRate), static_cast<std::ptrdiff_t>(mono.size())));
    return mono;
}

std::vector<std::pair<LayerId, double>> layer_shares(const Remake& remake, PartId id, const AssetLoader& assets) {
    const Part* part = remake.part(id);
    const auto key = part ? usual_key(*part) : std::nullopt;
    if (!key || std::count_if(part->layers.begin(), part->layers.end(), [](const Layer& l) { return l.on >= 0.5; }) < 2) return {};
    std::vector<std::pair<LayerId, double>> shares;
    double all = 0.0;
    for (const Layer& l : part->layers) {
        if (l.on < 0.5) continue;
        const auto sound = played_alone(remake, id, *key, 100, 0.8, 1.4, assets, l.id);
        shares.emplace_back(l.id, sound ? energy(*sound) : 0.0);
        all += shares.back().second;
    }
    if (all <= 0.0) return {};
    for (auto& [layer, share] : shares) share /= all;
    return shares;
}

int notes_cut_short(const Part& part, const Layer& l, const TempoMap& tempo, double sound_s) {
    if (l.source != &kSampler || l.on < 0.5 || part.role == PartRole::Drums) return 0;
    const auto value = [&](const char* field) { return l.value(*index_of_field(kSampler.fields, field)); };
    if (value("loop") >= 0.5 || value("one_shot") >= 0.5) return 0;
    const double start = value("start"), played_s = sound_s * (1.0 - start) * value("length"), root = value("root") - 12.0 * l.octave;
    int count = 0;
    for (const PlacedNote& n : placed_notes(part)) {
        if (n.muted || n.note.pitch < l.low_key || n.note.pitch > l.high_key) continue;
        const double held_s = tempo.seconds(n.note.start + n.note.length) - tempo.seconds(n.note.start);
        count += held_s > 1.05 * played_s * std::exp2((root - n.note.pitch) / 12.0);
    }
    return count;
}

std::optional<double> heard_db(const Remake& remake, PartId id, StepId step, const AssetLoader& assets) {
    const Part* part = remake.part(id);
    const auto key = part ? usual_key(*part) : std::nullopt;
    if (!key) return std::nullopt;
    std::vector<Note> notes;
    for (int i = 0; i < 3; ++i) notes.push_back(at_ms(static_cast<Ticks>(1000 * kLead_s) + 700 * i, 500, *key, 70 + 25 * i));
    Remake with = alone(remake, *part, notes);
    const auto sounded = play(with, 3.5, assets);
    for (Step& s : with.parts.front().edit().steps)
        if (s.id == step) s.on = 0.0;
    const auto without = play(with, 3.5, assets);
    if (!sounded || !without || energy(sounded->samples) < 1e-6) return std::nullopt;
    std::vector<float> apart = sounded->samples;
    for (std::size_t i = 0; i < std::min(apart.size(), without->samples.size()); ++i) apart[i] -= without->samples[i];
    return 10.0 * std::log10(std::max(1e-12, energy(apart) / energy(sounded->samples)));
}

}  // namespace fw
