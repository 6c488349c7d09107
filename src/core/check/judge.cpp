// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/judge.hpp"

#include "analysis/network.hpp"
#include "base/ranks.hpp"
#include "model/drums.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace fw {

namespace {

constexpr double kSameOnset_s = 0.05, kSameStroke_s = 0.04;

double odds(double p) { return std::log((p + 0.002) / (1.002 - p)); }
double probability(double log_odds) { return 1.0 / (1.0 + std::exp(-log_odds)); }

struct Heard {
    double onset = 0.0, sounding = 0.0, level = 0.0;
};

/// The clearest onset of a pitch between two times.
double onset_between(const Evidence& e, double from_s, double to_s, int pitch) {
    if (pitch < Evidence::kLowestPitch || pitch >= Evidence::kLowestPitch + Evidence::kPitches || e.pitch_frames() == 0) return 0.0;
    const auto column = static_cast<std::size_t>(pitch - Evidence::kLowestPitch);
    const auto frames = static_cast<double>(e.pitch_frames() - 1);
    const auto frame = [&](double f) { return static_cast<std::size_t>(std::clamp(f, 0.0, frames)); };
    double best = 0.0;
    const std::size_t first = frame(std::floor(Evidence::pitch_frame(from_s))), last = frame(std::ceil(Evidence::pitch_frame(to_s)));
    for (std::size_t f = first; f <= last; ++f)
        best = std::max<double>(best, std::max({e.onset.at(f, column), e.bass_onset.at(f, column), e.lead_onset.at(f, column)}));
    return best;
}

Heard heard_at(const Evidence& e, const Written& n, int pitch) {
    if (pitch < Evidence::kLowestPitch || pitch >= Evidence::kLowestPitch + Evidence::kPitches || e.pitch_frames() == 0) return {};
    const double from = n.onset_s + 0.02, until = std::clamp(n.end_s, n.onset_s + 0.06, n.onset_s + 0.4);
    Heard h;
    h.onset = onset_between(e, n.onset_s - kSameOnset_s, n.onset_s + kSameOnset_s, pitch);
    h.sounding = std::max({e.mean(e.sounding, from, until, pitch), e.mean(e.bass_sounding, from, until, pitch), e.mean(e.lead_sounding, from, until, pitch)});
    h.level = e.mean(e.level, from, until, pitch);
    return h;
}

/// Sounds that are the same to a listener who is asked whether there was one: how far a hat was open is another question.
DrumKind family(DrumKind k) { return k == DrumKind::HatOpen ? DrumKind::HatClosed : k == DrumKind::Clap || k == DrumKind::Rim ? DrumKind::Snare : k; }

struct Stroke {
    double own = 0.0, any = 0.0;
};

/// The clearest stroke of a sound between two times, and of any.
Stroke stroke_between(const Evidence& e, double from_s, double to_s, const DrumSound* sound) {
    const auto first = static_cast<Eigen::Index>(std::floor(Evidence::pulse_frame(from_s))),
               last = static_cast<Eigen::Index>(std::ceil(Evidence::pulse_frame(to_s)));
    Stroke s;
    for (Eigen::Index f = std::max<Eigen::Index>(0, first); f <= std::min<Eigen::Index>(e.pulse.rows() - 1, last); ++f)
        for (int k = 0; k < kDrumKinds; ++k) {
            const auto kind = static_cast<DrumKind>(k);
            const double p = e.pulse(f, pulse_column(kind));
            s.any = std::max(s.any, p);
            if (sound && family(sound->kind) == family(kind)) s.own = std::max(s.own, p);
        }
    return s;
}

/// The middle of some values, drawn towards 1 where they are few.
double middle(std::vector<double> values) {
    constexpr double kUsual = 1.0, kFew = 4.0;
    const auto n = static_cast<double>(values.size());
    return values.empty() ? kUsual : (static_cast<double>(part_of(values, 2)) * n + kUsual * kFew) / (n + kFew);
}

/// Turns log-odds at even prior into probabilities, with the prior that makes itself true: as much is wrong as the probabilities say. Of right notes so
/// many look wrong, too; that share is taken off again.
std::vector<double> with_own_prior(const std::vector<double>& scores, double looks_wrong) {
    constexpr double kUsual = 0.01, kFew = 50.0;  // before anything is known of a part
    double prior = 0.05;
    std::vector<double> out(scores.size(), 0.0);
    for (int round = 0; round < 30; ++round) {
        double sum = 0.0;
        for (std::size_t i = 0; i < scores.size(); ++i) sum += out[i] = probability(scores[i] + odds(prior));
        prior = std::clamp((sum + kUsual * kFew) / (static_cast<double>(scores.size()) + kFew), 0.002, 0.95);
    }
    for (double& w : out) w *= std::max(0.0, 1.0 - looks_wrong / prior);
    return out;
}

template <std::size_t N>
double weighed(const std::array<double, N>& clues, const std::array<double, N + 1>& weights) {
    double sum = weights[N];
    for (std::size_t i = 0; i < N; ++i) sum += weights[i] * clues[i];
    return sum;
}

// Fitted by training/check.py on sixteen songs of the development corpus; see docs/accuracy.md for what they reach on the others.
constexpr std::array<double, 13> kNoteWeights{-0.427, -0.082, -0.304, 0.004, -0.082, 0.03, 0.211, -0.478, -0.041, -0.621, -0.089, -0.597, -1.703};
constexpr double kNotesLookWrong = 0.005, kHitsLookWrong = 0.002;
constexpr std::array<double, 5> kHitWeights{-0.492, -0.163, -0.132, -1.068, -2.56};

}  // namespace

std::array<double, kWrittenClues> written_clues(const Evidence& e, const Written& n) {
    const Heard here = heard_at(e, n, n.pitch), below = heard_at(e, n, n.pitch - 12), above = heard_at(e, n, n.pitch + 12);
    return {odds(here.onset),
            odds(here.sounding),
            10.0 * here.level,
            odds(std::max(below.onset, below.sounding)),
            odds(std::max(above.onset, above.sounding)),
            10.0 * (here.level - std::max(below.level, above.level))};
}

double clarity(const std::array<double, kWrittenClues>& clues) { return std::max(clues[0], clues[1]); }

std::array<double, kHitClues> hit_clues(const Evidence& e, const Written& hit) {
    const Stroke s = stroke_between(e, hit.onset_s - kSameStroke_s, hit.onset_s + kSameStroke_s, drum_sound_of_key(hit.pitch));
    return {odds(s.own), odds(s.any)};
}

namespace {

std::vector<double> notes_probably_wrong(const Evidence& e, std::span<const Written> notes) {
    std::vector<std::array<double, kWrittenClues>> clues;
    std::vector<double> clear, scores;
    for (const Written& n : notes) clues.push_back(written_clues(e, n)), clear.push_back(clarity(clues.back()));
    const double usual = middle(clear);
    std::map<int, std::pair<double, double>> at_pitch;  // the sum of clarities of a pitch, and how many
    for (std::size_t i = 0; i < notes.size(); ++i) at_pitch[notes[i].pitch].first += clear[i], at_pitch[notes[i].pitch].second += 1.0;
    for (std::size_t i = 0; i < notes.size(); ++i) {
        const auto& c = clues[i];
        // What the part's other notes of this pitch are like: a voice that is masked is masked again and again.
        const auto& [sum, count] = at_pitch[notes[i].pitch];
        const double alike = (sum - clear[i] + 2.0 * usual) / (count - 1.0 + 2.0);
        scores.push_back(weighed<12>(
            {c[0], c[1], c[2], c[3], c[4], c[5], clear[i], c[0] * c[1] / 10.0, usual, std::min(0.0, clear[i] - usual), alike, std::min(0.0, clear[i] - alike)},
            kNoteWeights));
    }
    return with_own_prior(scores, kNotesLookWrong);
}

std::vector<std::optional<double>> hits_probably_wrong(const Evidence& e, std::span<const Written> hits) {
    constexpr double kMostlyHeard = 0.8;
    std::vector<std::optional<double>> out(hits.size());
    std::map<DrumKind, std::vector<std::size_t>> by_sound;
    for (std::size_t i = 0; i < hits.size(); ++i)
        if (const DrumSound* sound = drum_sound_of_key(hits[i].pitch)) by_sound[family(sound->kind)].push_back(i);
    for (const auto& [kind, those] : by_sound) {
        std::vector<std::array<double, kHitClues>> clues;
        std::vector<double> own, scores;
        for (const std::size_t i : those) clues.push_back(hit_clues(e, hits[i])), own.push_back(clues.back()[0]);
        const auto heard = static_cast<double>(std::count_if(own.begin(), own.end(), [](double o) { return o > -1.0; }));
        if (heard < kMostlyHeard * static_cast<double>(own.size())) continue;
        const double usual = middle(own);
        for (const auto& c : clues) scores.push_back(weighed<4>({c[0], c[1], usual, std::min(0.0, c[0] - usual)}, kHitWeights));
        const auto wrong = with_own_prior(scores, kHitsLookWrong);
        for (std::size_t i = 0; i < those.size(); ++i) out[those[i]] = wrong[i];
    }
    return out;
}

}  // namespace

std::vector<std::optional<double>> probably_wrong(const Evidence& e, std::span<const Written> notes, bool drums) {
    if (drums) return hits_probably_wrong(e, notes);
    const auto wrong = notes_probably_wrong(e, notes);
    return {wrong.begin(), wrong.end()};
}

double heard_above_chance(const Evidence& e, std::span<const Written> notes, bool drums) {
    const auto heard = [&](double later_s) {
        double count = 0.0;
        for (Written n : notes) {
            const double length = n.end_s - n.onset_s;
            if (later_s > 0.0) n.onset_s = std::fmod(n.onset_s + later_s, std::max(1.0, e.duration_s));
            n.end_s = n.onset_s + length;
            count += drums ? hit_clues(e, n)[0] > 0.0 : clarity(written_clues(e, n)) > 0.0;
        }
        return count / static_cast<double>(std::max<std::size_t>(1, notes.size()));
    };
    double chance = 0.0;
    for (const double turn : {0.31, 0.53, 0.77}) chance += heard(turn * e.duration_s + 0.17) / 3.0;
    return std::clamp((heard(0.0) - chance) / std::max(0.1, 0.9 - chance), 0.0, 1.0);
}

std::optional<int> transposed_by(const Evidence& e, std::span<const Written> notes) {
    constexpr std::array kIntervals{-12, 12, -1, 1, -2, 2, -24, 24, -7, 7, -5, 5, -3, 3, -4, 4, -6, 6};
    constexpr double kShare = 0.18;
    if (notes.size() < 12) return std::nullopt;
    std::map<int, double> instead;
    for (const Written& n : notes) {
        if (clarity(written_clues(e, n)) > -1.0) continue;
        for (const int k : kIntervals) {
            Written there = n;
            there.pitch += k;
            if (const auto c = written_clues(e, there); c[0] > 0.5) instead[k] += 1.0;
        }
    }
    const auto best = std::max_element(instead.begin(), instead.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
    const auto all = static_cast<double>(notes.size());
    if (best == instead.end() || best->second < kShare * all) return std::nullopt;
    return -best->first;
}

std::optional<double> shifted_by(const Evidence& e, std::span<const Written> notes, bool drums) {
    constexpr double kReach_s = 0.75, kStep_s = 0.01, kWithin_s = 0.015, kClearer = 0.8;
    if (notes.size() < 12) return std::nullopt;
    const std::size_t every = std::max<std::size_t>(1, notes.size() / 300);
    const auto mean_at = [&](double late_s) {
        double sum = 0.0, count = 0.0;
        for (std::size_t i = 0; i < notes.size(); i += every) {
            const double at = notes[i].onset_s - late_s;
            const DrumSound* sound = drums ? drum_sound_of_key(notes[i].pitch) : nullptr;
            if (drums && !sound) continue;
            sum +=
                odds(drums ? stroke_between(e, at - kWithin_s, at + kWithin_s, sound).own : onset_between(e, at - kWithin_s, at + kWithin_s, notes[i].pitch));
            count += 1.0;
        }
        return count > 0 ? sum / count : 0.0;
    };
    const double here = mean_at(0.0);
    double best = here, at = 0.0;
    for (double late = -kReach_s; late <= kReach_s + 1e-9; late += kStep_s)
        if (const double v = mean_at(late); v > best) best = v, at = late;
    if (std::abs(at) < 0.025 || best - here < kClearer) return std::nullopt;
    return at;
}

}  // namespace fw
