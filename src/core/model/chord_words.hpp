// SPDX-License-Identifier: GPL-3.0-or-later
// Chords as they are typed, named from notes, altered and followed.
#pragma once

#include "model/song.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace fw {

/// Reads what parse_chord does, and degrees of a key: "ii7", "V/B", "bVII", "IVmaj7"; a small numeral is minor unless a sign says otherwise.
std::optional<Chord> parse_chord_in(const Key& key, std::string_view text);
/// "ii7" in a key; empty for no chord.
std::string degree_name(const Key& key, const Chord& chord);

/// The names a beginning may become, those of the key's scale first; at most `most`.
std::vector<std::string> chord_completions(const Key& key, std::string_view begun, std::size_t most = 12);

/// What a set of pitches may be called, best first, each with how well it fits, 0..1. The lowest pitch is taken for the bass. Less than two pitch classes are
/// no chord. By the share of tones explained and missing, plain kinds and root positions before others.
std::vector<std::pair<Chord, double>> chords_of_notes(const std::vector<int>& pitches, std::size_t most = 4);

/// One third more on top (up), or one fewer: C, C7 or Cmaj7 by the key's scale, C9; the same chord where there is no more.
Chord extended(const Key& key, const Chord& chord, bool up);

/// Chords likely to follow one, best first with their share, 0..1: by what follows it in the song, and by the key: its own triads, the fall of a fifth first.
std::vector<std::pair<Chord, double>> likely_next(const Song& song, Ticks at, std::size_t most = 6);

}  // namespace fw
