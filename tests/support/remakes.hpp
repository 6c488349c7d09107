// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <string>
#include <utility>
#include <vector>

namespace fw::test {

inline constexpr PartId kBass{1}, kDrums{2};

/// A pattern with an id and no parent.
inline Pattern pattern(int id, std::string letter, Ticks length, std::vector<Note> notes = {}) {
    Pattern p;
    p.id = PatternId(id);
    p.letter = std::move(letter);
    p.length = length;
    p.notes = std::move(notes);
    return p;
}

/// A step of a kind with its neutral values.
inline Step step(const StepType& type) {
    Step s;
    s.type = &type;
    return s;
}

/// Eight bars of 4/4 at 120 BPM from 0.5 s: two sections, four chords, a bass (kBass) whose pattern plays twice, and drums (kDrums).
inline Remake small_remake() {
    Remake r;
    r.reference = {"/nowhere/song.wav", 0x1234abcd5678ef01ULL, 17.0, -14.0};
    Song& song = r.song.edit();
    std::vector<TempoMap::Anchor> anchors;
    for (int b = 0; b <= 32; ++b) anchors.push_back({b * kTicksPerQuarter, 0.5 + 0.5 * b});
    song.tempo = TempoMap(anchors);
    song.tempo_candidates = {{60.0, 0.4}, {240.0, 0.1}};
    song.keys = {{0, {2, Mode::Dorian}, 0.8, {{{9, Mode::Minor}, 0.4}}}};
    song.sections = {{0, 4 * 3840, "A", "verse", {}, 0.9, SectionId(3)}, {4 * 3840, 4 * 3840, "A", "verse", SectionId(3), 0.9, SectionId(4)}};
    for (int c = 0; c < 4; ++c)
        song.chords.push_back({c * 2 * 3840, 2 * 3840, Chord{c % 2 ? 7 : 2, c % 2 ? 0 : 4, c % 2 ? 7 : 2}, 0.7, Origin::Heard, {{Chord{5, 0, 5}, 0.3}}});
    Part bass;
    bass.id = kBass;
    bass.name = "Bass";
    bass.role = PartRole::Bass;
    bass.layers = {{&kSynth, "Round bass"}};
    Pattern a = pattern(1, "A", 4 * 3840);
    for (int b = 0; b < 16; ++b) a.notes.push_back({b * 960 + (b % 3) * 7, 700, 38 + (b % 4), 90 + b, 0.8, Origin::Heard, {}});
    bass.patterns = {a};
    bass.placements = {{PatternId(1), 0}, {PatternId(1), 4 * 3840}};
    Part drums;
    drums.id = kDrums;
    drums.name = "Drums";
    drums.role = PartRole::Drums;
    drums.layers = {{&kDrumKit, "Brushed room"}};
    Pattern d = pattern(1, "A", 8 * 3840);
    for (int b = 0; b < 32; ++b) d.notes.push_back({b * 960, 100, b % 2 ? 38 : 36, 100, 0.9, Origin::Heard, {}});
    drums.patterns = {d};
    drums.placements = {{PatternId(1), 0}};
    r.parts = {bass, drums};
    r.number_all();
    for (const ElementId id : r.element_ids()) r.notebook.edit().elements[id].state = State::Draft;
    return r;
}

/// All notes of a part in seconds and pitch: what must not move when only the reading of time changes.
inline std::vector<std::pair<double, int>> sounding(const Remake& r, PartId part) {
    std::vector<std::pair<double, int>> out;
    for (const PlacedNote& n : placed_notes(*r.part(part)))
        if (!n.muted) out.emplace_back(r.song->tempo.seconds(n.note.start), n.note.pitch);
    return out;
}

/// The notes of a part with these places among all its placed notes.
inline std::vector<NoteRef> refs(const Remake& r, PartId part, const std::vector<std::size_t>& places) {
    const auto notes = placed_notes(*r.part(part));
    std::vector<NoteRef> out;
    for (const std::size_t i : places) out.push_back(notes.at(i).ref());
    return out;
}

}  // namespace fw::test
