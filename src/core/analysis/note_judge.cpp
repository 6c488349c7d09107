// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/note_judge.hpp"

#include "analysis/network.hpp"
#include "analysis/weights.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

constexpr float kLeastOnset = 0.04F, kLeastSounding = 0.2F;
constexpr float kLikely = 0.25F;  // onset evidence of the entries a song's clarity is told by
// Semitones to what an entry may be a partial of, and to what may be a partial of it.
constexpr std::array<int, 8> kRelatives{-12, -19, -24, -28, -31, 12, 19, 24};
// No clue says more than this, so that a judgement of music unlike any that was learnt from (one voice alone, say) stays within reason.
constexpr float kMostOdds = 4.0F, kMostLevel = 3.0F;

/// A grid around one frame, with its first and last frames held beyond its ends and nothing beyond its pitches.
struct Around {
    const ByteGrid& grid;
    std::ptrdiff_t frame;
    std::ptrdiff_t pitch;

    float at(std::ptrdiff_t shift) const {
        if (pitch < 0 || pitch >= Evidence::kPitches) return 0.0F;
        const auto f = std::clamp<std::ptrdiff_t>(frame + shift, 0, static_cast<std::ptrdiff_t>(grid.frames()) - 1);
        return grid.at(static_cast<std::size_t>(f), static_cast<std::size_t>(pitch));
    }
    float top(std::ptrdiff_t from, std::ptrdiff_t to) const {
        float best = 0.0F;
        for (std::ptrdiff_t s = from; s <= to; ++s) best = std::max(best, at(s));
        return best;
    }
    float mean(std::ptrdiff_t from, std::ptrdiff_t to) const {
        float sum = 0.0F;
        for (std::ptrdiff_t s = from; s <= to; ++s) sum += at(s);
        return sum / static_cast<float>(to - from + 1);
    }
};

}  // namespace

std::vector<NoteEntry> note_entries(const Evidence& e) {
    std::vector<NoteEntry> entries;
    const ByteGrid& onset = e.onset;
    for (std::size_t p = 0; p < Evidence::kPitches; ++p)
        for (std::size_t f = 0; f < onset.frames(); ++f) {
            const float o = onset.at(f, p);
            if (o < kLeastOnset || (f > 0 && o < onset.at(f - 1, p)) || (f + 1 < onset.frames() && o <= onset.at(f + 1, p))) continue;
            if (Around{e.sounding, static_cast<std::ptrdiff_t>(f), static_cast<std::ptrdiff_t>(p)}.top(0, 2) >= kLeastSounding) entries.push_back({f, p});
        }
    return entries;
}

SongClarity song_clarity(const Evidence& e, std::span<const NoteEntry> entries) {
    constexpr std::size_t kEnoughToTell = 8;
    std::vector<float> onset, level;
    std::array<float, Evidence::kPitches> played{};
    std::array<float, 12> played_class{};
    float all = 1.0F;
    for (const auto& [f, p] : entries) {
        const float o = e.onset.at(f, p);
        if (o <= kLikely) continue;
        onset.push_back(log_odds(o));
        level.push_back(Around{e.level, static_cast<std::ptrdiff_t>(f), static_cast<std::ptrdiff_t>(p)}.top(0, 2));
        played[p] += o;
        played_class[p % 12] += o;
        all += o;
    }
    SongClarity song;
    if (onset.size() >= kEnoughToTell) song.onset = part_of(onset, 3), song.level = part_of(level, 3);
    for (std::size_t p = 0; p < played.size(); ++p) {
        song.pitch[p] = std::log(played[p] / all + 1e-3F);
        song.pitch_class[p] = std::log(played_class[p % 12] / all + 1e-3F);
        float near = 1.0F;
        for (std::size_t q = p - std::min<std::size_t>(p, 2); q <= p + 2 && q < played.size(); ++q) near += played[q];
        song.among_neighbours[p] = std::log((played[p] + 0.5F) / near);
    }
    return song;
}

Frames note_clues(const Evidence& e, std::span<const NoteEntry> entries, const SongClarity& song) {
    Frames clues(kNoteClues, static_cast<Eigen::Index>(entries.size()));
    for (std::size_t i = 0; i < entries.size(); ++i) {
        const auto f = static_cast<std::ptrdiff_t>(entries[i].frame), p = static_cast<std::ptrdiff_t>(entries[i].pitch);
        Eigen::Index row = 0;
        const auto tell = [&](float clue, float most) { clues(row++, static_cast<Eigen::Index>(i)) = std::clamp(clue, -most, most); };
        const auto tell_odds = [&](float probability) { tell(log_odds(probability), kMostOdds); };
        const Around onset{e.onset, f, p}, sounding{e.sounding, f, p}, level{e.level, f, p};
        const float loud = level.top(0, 2);
        tell_odds(onset.at(0));
        tell_odds(sounding.top(0, 2));
        tell_odds(sounding.mean(-6, -2));
        tell(10.0F * (loud - level.mean(-3, -1)), kMostLevel);
        tell(10.0F * (level.mean(3, 8) - loud), kMostLevel);
        float struck = 0.0F;
        for (std::ptrdiff_t g = std::max<std::ptrdiff_t>(0, 2 * f - 2); g <= 2 * f + 3 && g < e.pulse.rows(); ++g)
            struck = std::max(struck, e.pulse(g, kPitchedOnset));
        tell_odds(struck);
        tell_odds(Around{e.bass_onset, f, p}.top(-1, 1));
        tell_odds(Around{e.bass_sounding, f, p}.top(0, 2));
        tell_odds(Around{e.lead_onset, f, p}.top(-1, 1));
        for (const int semitones : kRelatives) {
            tell_odds(Around{e.onset, f, p + semitones}.top(-1, 1));
            tell_odds(Around{e.sounding, f, p + semitones}.top(0, 2));
            tell(10.0F * (loud - Around{e.level, f, p + semitones}.top(0, 2)), kMostLevel);
        }
        tell(log_odds(onset.at(0)) - song.onset, kMostOdds);
        tell(10.0F * (loud - song.level), kMostLevel);
        tell(song.pitch[entries[i].pitch], kMostOdds);
        tell(song.pitch_class[entries[i].pitch], kMostOdds);
        tell(song.among_neighbours[entries[i].pitch], kMostOdds);
    }
    return clues;
}

std::vector<float> judge_entries(const Evidence& e, std::span<const NoteEntry> entries) {
    static const auto network = load_network(judge_weights());
    constexpr std::size_t kAtOnce = 4096;  // so that the clues of an evening need not lie in memory
    const SongClarity song = song_clarity(e, entries);
    std::vector<float> probability;
    for (std::size_t begin = 0; begin < entries.size(); begin += kAtOnce) {
        const auto some = entries.subspan(begin, std::min(kAtOnce, entries.size() - begin));
        Tensor clues(kNoteClues, 1, 0);
        clues.rows = note_clues(e, some, song);
        const Tensor odds = convolve(network.front(), clues, {1, 0, 1, false});
        for (Eigen::Index i = 0; i < odds.frames(); ++i) probability.push_back(sigmoid(odds.rows(0, i)));
    }
    return probability;
}

}  // namespace fw
