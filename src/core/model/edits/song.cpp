// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/song.hpp"

#include "model/limits.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

Remake set_key(const Remake& remake, std::size_t area, const Key& key) {
    Remake next = remake;
    auto& keys = next.song.edit().keys;
    if (keys.empty()) keys.push_back({});
    if (area >= keys.size()) return remake;
    KeyArea& k = keys[area];
    for (auto& alternative : k.alternatives)
        if (alternative.first == key) alternative = {k.key, k.confidence};
    k.key = key;
    k.confidence = 1.0;
    return next;
}

Remake add_key(const Remake& remake, int from_bar, const Key& key) {
    Remake next = remake;
    const Ticks at = remake.song->meter.tick_of_bar(from_bar);
    auto& keys = next.song.edit().keys;
    if (keys.empty() && from_bar > 1) keys.push_back({});
    const auto place = std::find_if(keys.begin(), keys.end(), [&](const KeyArea& k) { return k.start >= at; });
    if (place != keys.end() && place->start == at) place->key = key, place->confidence = 1.0;
    else keys.insert(place, {at, key, 1.0, {}, {}});
    return next;
}

Remake remove_key(const Remake& remake, std::size_t area) {
    if (remake.song->keys.size() < 2 || area >= remake.song->keys.size()) return remake;
    Remake next = remake;
    auto& keys = next.song.edit().keys;
    if (area == 0) keys[1].start = keys[0].start;
    keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(area));
    return next;
}

Remake set_at_440(const Remake& remake, bool at_440) {
    Remake next = remake;
    next.song.edit().at_440 = at_440;
    return next;
}

Remake set_tuning(const Remake& remake, double cents) {
    Remake next = remake;
    next.song.edit().tuning_cents = std::clamp(cents, -limits::kTuningCents, limits::kTuningCents);
    next.song.edit().tuning_confidence = 1.0;
    return next;
}

Remake set_chord(const Remake& remake, Ticks tick, const Chord& chord) {
    Remake next = remake;
    for (ChordEvent& c : next.song.edit().chords)
        if (tick >= c.start && tick < c.start + c.length) {
            std::erase_if(c.alternatives, [&](const auto& a) { return a.first == chord; });
            if (!(c.chord == chord)) c.alternatives.insert(c.alternatives.begin(), {c.chord, c.confidence});
            if (!(c.chord == chord)) c.voiced.clear();
            c.chord = chord;
            c.confidence = 1.0;
            c.origin = Origin::Drawn;
            return next;
        }
    const int bar = remake.song->meter.position(tick).bar;
    ChordEvent made{remake.song->meter.tick_of_bar(bar), 0, chord, 1.0, Origin::Drawn, {}};
    Ticks end = remake.song->meter.tick_of_bar(bar + 1);
    for (const ChordEvent& c : remake.song->chords) {
        if (c.start > tick) end = std::min(end, c.start);
        else made.start = std::max(made.start, c.start + c.length);
    }
    made.length = end - made.start;
    auto& chords = next.song.edit().chords;
    chords.insert(std::find_if(chords.begin(), chords.end(), [&](const ChordEvent& c) { return c.start > made.start; }), made);
    return next;
}

Remake voice_chord(const Remake& remake, Ticks tick, std::vector<int> pitches) {
    std::sort(pitches.begin(), pitches.end());
    pitches.erase(std::unique(pitches.begin(), pitches.end()), pitches.end());
    Remake next = remake;
    for (ChordEvent& c : next.song.edit().chords)
        if (tick >= c.start && tick < c.start + c.length) c.voiced = pitches;
    return next;
}

Remake split_chord(const Remake& remake, Ticks tick) {
    Remake next = remake;
    auto& chords = next.song.edit().chords;
    for (std::size_t i = 0; i < chords.size(); ++i) {
        ChordEvent& c = chords[i];
        if (tick <= c.start || tick >= c.start + c.length) continue;
        ChordEvent second = c;
        second.start = tick;
        second.length = c.start + c.length - tick;
        c.length = tick - c.start;
        chords.insert(chords.begin() + static_cast<std::ptrdiff_t>(i) + 1, std::move(second));
        return next;
    }
    return next;
}

namespace {

/// Chords with nothing left of them between two places.
std::vector<ChordEvent> chords_around(const std::vector<ChordEvent>& chords, Ticks start, Ticks end) {
    std::vector<ChordEvent> kept;
    for (const ChordEvent& c : chords) {
        if (c.start < start) {
            kept.push_back(c);
            kept.back().length = std::min(c.length, start - c.start);
        }
        if (c.start + c.length > end) {
            kept.push_back(c);
            kept.back().start = std::max(c.start, end);
            kept.back().length = c.start + c.length - kept.back().start;
        }
    }
    return kept;
}

/// Writes chords over a stretch, all of them within it.
Remake write_over(const Remake& remake, Ticks start, Ticks end, std::vector<ChordEvent> chords) {
    Remake next = remake;
    auto all = chords_around(remake.song->chords, start, end);
    std::move(chords.begin(), chords.end(), std::back_inserter(all));
    std::stable_sort(all.begin(), all.end(), [](const ChordEvent& a, const ChordEvent& b) { return a.start < b.start; });
    next.song.edit().chords = std::move(all);
    return next;
}

}  // namespace

Remake put_chord(const Remake& remake, Ticks start, Ticks length, const Chord& chord) {
    return write_over(remake, start, start + length, {ChordEvent{start, length, chord, 1.0, Origin::Drawn, {}, {}}});
}

Remake copy_chords(const Remake& remake, Ticks from, Ticks to, Ticks at, int times) {
    std::vector<ChordEvent> copies;
    for (int k = 0; k < times; ++k)
        for (const ChordEvent& c : remake.song->chords)
            if (c.start >= from && c.start < to)
                copies.push_back({c.start - from + at + k * (to - from), std::min(c.length, to - c.start), c.chord, 1.0, Origin::Drawn, {}, {}, c.voiced});
    return copies.empty() ? remake : write_over(remake, at, at + times * (to - from), std::move(copies));
}

}  // namespace fw
