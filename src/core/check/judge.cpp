// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/judge.hpp"

#include "check/judge_weights.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

double log_odds_of(double p) { return std::log(p / (1.0 - p)); }
double probability(double log_odds) { return 1.0 / (1.0 + std::exp(-log_odds)); }

template <std::size_t N>
double weighed(const Clues<N>& clues, const std::array<double, N + 1>& weights) {
    double sum = weights[N];
    for (std::size_t i = 0; i < N; ++i) sum += weights[i] * clues[i];
    return sum;
}

/// The prior that makes itself true of log-odds at even prior: as much is real as the probabilities say. Few say little against what is usual.
double own_prior(const std::vector<double>& scores, double usual, double few) {
    double prior = std::max(0.02, usual);
    for (int round = 0; round < 40; ++round) {
        double sum = usual * few;
        for (const double s : scores) sum += probability(s + log_odds_of(prior));
        prior = std::clamp(sum / (static_cast<double>(scores.size()) + few), 0.001, 0.95);
    }
    return prior;
}

/// Probabilities of scores that come in groups: the song says what to expect of a group, the group what to expect of its members.
class Priors {
public:
    Priors(const std::vector<std::vector<double>>& groups, const JudgeFit& fit) : fit_(fit) {
        constexpr double kFewInSong = 50.0, kFewInGroup = 60.0;
        std::vector<double> all;
        for (const auto& g : groups) all.insert(all.end(), g.begin(), g.end());
        const double song = own_prior(all, fit.looks_so, kFewInSong);
        for (const auto& g : groups) of_.push_back(own_prior(g, song, kFewInGroup));
    }
    double operator()(std::size_t group, double score) const { return probability(fit_.scale * (score + log_odds_of(of_[group])) + fit_.offset); }

private:
    JudgeFit fit_;
    std::vector<double> of_;
};

template <std::size_t N>
std::vector<Unwritten> judged(const std::vector<Heard>& heard, const std::vector<Clues<N>>& looks, const std::array<double, N + 1>& weights,
                              const JudgeFit& fit) {
    std::vector<double> scores;
    for (const auto& l : looks) scores.push_back(weighed<N>(l, weights));
    const Priors prior({scores}, fit);
    std::vector<Unwritten> out;
    for (std::size_t i = 0; i < heard.size(); ++i) out.push_back({heard[i], prior(0, scores[i])});
    return out;
}

}  // namespace

Judgement judge(const Hearing& hearing, const Score& score) {
    Judgement out;
    const std::size_t parts = score.parts().size();
    std::vector<std::vector<double>> notes(parts), strokes(parts), timed_notes(parts), timed_strokes(parts);
    std::vector<std::vector<std::size_t>> judged_strokes(parts);
    for (std::size_t p = 0; p < parts; ++p) {
        out.written.emplace_back(score.parts()[p].notes.size());
        if (score.parts()[p].drums) {
            const auto looks = stroke_looks(hearing, score, p);
            for (std::size_t i = 0; i < looks.size(); ++i)
                if (looks[i]) strokes[p].push_back(weighed<kStrokeLooks>(*looks[i], kStrokeWeights)), judged_strokes[p].push_back(i);
        } else {
            for (const auto& l : note_looks(hearing, score, p)) notes[p].push_back(weighed<kNoteLooks>(l, kNoteWeights));
        }
    }
    const Priors of_notes(notes, kNoteFit), of_strokes(strokes, kStrokeFit);
    for (std::size_t p = 0; p < parts; ++p) {
        for (std::size_t i = 0; i < notes[p].size(); ++i) out.written[p][i].wrong = of_notes(p, notes[p][i]);
        for (std::size_t k = 0; k < strokes[p].size(); ++k) out.written[p][judged_strokes[p][k]].wrong = of_strokes(p, strokes[p][k]);
    }
    const auto twins = find_twins(hearing, score);
    const auto usual = usual_offsets(score, twins);
    const auto timing = timing_looks(hearing, score, twins);
    for (std::size_t i = 0; i < twins.size(); ++i) {
        const bool drums = score.parts()[twins[i].part].drums;
        (drums ? timed_strokes : timed_notes)[twins[i].part].push_back(weighed<kTimingLooks>(timing[i], drums ? kStrokeTimingWeights : kNoteTimingWeights));
    }
    const Priors of_timed_notes(timed_notes, kNoteTimingFit), of_timed_strokes(timed_strokes, kStrokeTimingFit);
    std::vector<std::size_t> next(parts, 0);
    for (const Twin& t : twins) {
        const bool drums = score.parts()[t.part].drums;
        Verdict& v = out.written[t.part][t.note];
        v.untimely = (drums ? of_timed_strokes : of_timed_notes)(t.part, (drums ? timed_strokes : timed_notes)[t.part][next[t.part]++]);
        v.late_s = t.off_s - usual[t.part];
    }
    const auto unheard_notes = unwritten(hearing, score, false), unheard_strokes = unwritten(hearing, score, true);
    out.notes = judged<kUnwrittenNoteLooks>(unheard_notes, unwritten_note_looks(hearing, score, unheard_notes), kUnwrittenNoteWeights, kUnwrittenNoteFit);
    out.strokes =
        judged<kUnwrittenStrokeLooks>(unheard_strokes, unwritten_stroke_looks(hearing, score, unheard_strokes), kUnwrittenStrokeWeights, kUnwrittenStrokeFit);
    return out;
}

double suspicion(const Hearing& hearing, const Score& score, std::size_t part) {
    constexpr double kMost = 4.0;
    double sum = 0.0, count = 0.0;
    const auto add = [&](double s) { sum += std::clamp(s, -kMost, kMost), count += 1.0; };
    if (score.parts()[part].drums)
        for (const Written& n : score.parts()[part].notes) add(-stroke_heard(hearing.evidence, n).own);
    else
        for (const auto& l : note_looks(hearing, score, part)) add(weighed<kNoteLooks>(l, kNoteWeights));
    return count > 0.0 ? sum / count : 0.0;
}

double heard_above_chance(const Evidence& e, const WrittenPart& part) {
    const auto heard = [&](double later_s) {
        double count = 0.0;
        for (Written n : part.notes) {
            const double length = n.end_s - n.onset_s;
            if (later_s > 0.0) n.onset_s = std::fmod(n.onset_s + later_s, std::max(1.0, e.duration_s));
            n.end_s = n.onset_s + length;
            count += (part.drums ? stroke_heard(e, n).own : pitch_heard(e, n, n.pitch).clarity()) > 0.0;
        }
        return count / static_cast<double>(std::max<std::size_t>(1, part.notes.size()));
    };
    double chance = 0.0;
    for (const double turn : {0.31, 0.53, 0.77}) chance += heard(turn * e.duration_s + 0.17) / 3.0;
    return std::clamp((heard(0.0) - chance) / std::max(0.1, 0.9 - chance), 0.0, 1.0);
}

}  // namespace fw
