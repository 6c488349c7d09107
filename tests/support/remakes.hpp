// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <memory>

namespace fw::test {

/// Eight bars of 4/4 at 120 BPM from 0.5 s: two sections, four chords, a bass and drums.
inline Remake small_remake() {
    Remake r;
    r.reference = {"/nowhere/song.wav", 0x1234abcd5678ef01ULL, 17.0, -14.0};
    std::vector<TempoMap::Anchor> anchors;
    for (int b = 0; b <= 32; ++b) anchors.push_back({b * kTicksPerQuarter, 0.5 + 0.5 * b});
    r.tempo = TempoMap(anchors);
    r.tempo_candidates = {{60.0, 0.4}, {240.0, 0.1}};
    r.keys = {{0, {2, Mode::Dorian}, 0.8, {{{9, Mode::Minor}, 0.4}}}};
    r.sections = {{0, 4 * 3840, "A", "verse", -1, 0.9}, {4 * 3840, 4 * 3840, "A", "verse", 0, 0.9}};
    for (int c = 0; c < 4; ++c)
        r.chords.push_back({c * 2 * 3840, 2 * 3840, Chord{c % 2 ? 7 : 2, c % 2 ? 0 : 4, c % 2 ? 7 : 2}, 0.7, Origin::Heard, {{Chord{5, 0, 5}, 0.3}}});
    Part bass;
    bass.id = 1;
    bass.name = "Bass";
    bass.role = PartRole::Bass;
    bass.layers = {{InstrumentKind::Synth, "Round bass", 0, {}, 0.0, 0}};
    Pattern a{1, "A", 0, 4 * 3840, {}};
    for (int b = 0; b < 16; ++b) a.notes.push_back({b * 960 + (b % 3) * 7, 700, 38 + (b % 4), 90 + b, 0.8, Origin::Heard, {}});
    bass.patterns = {a};
    bass.placements = {{1, 0, false}, {1, 4 * 3840, false}};
    Part drums;
    drums.id = 2;
    drums.name = "Drums";
    drums.role = PartRole::Drums;
    drums.layers = {{InstrumentKind::DrumKit, "Brushed room", 0, {}, 0.0, 0}};
    Pattern d{1, "A", 0, 8 * 3840, {}};
    for (int b = 0; b < 32; ++b) d.notes.push_back({b * 960, 100, b % 2 ? 38 : 36, 100, 0.9, Origin::Heard, {}});
    drums.patterns = {d};
    drums.placements = {{1, 0, false}};
    r.parts = {std::make_shared<const Part>(bass), std::make_shared<const Part>(drums)};
    for (const auto& id : r.element_ids()) r.elements[id].state = State::Draft;
    return r;
}

/// All notes of a part in seconds and pitch: what must not move when only the reading of time changes.
inline std::vector<std::pair<double, int>> sounding(const Remake& r, int part) {
    std::vector<std::pair<double, int>> out;
    for (const PlacedNote& n : placed_notes(*r.part(part)))
        if (!n.muted) out.emplace_back(r.tempo.seconds(n.note.start), n.note.pitch);
    return out;
}

}  // namespace fw::test
