// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/whole_part.hpp"

#include "check/judge.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

/// By how much more right, in mean log-odds, so many notes must look elsewhere: few may by chance.
double clearly_righter(std::size_t notes) { return 0.3 * (1.0 + 20.0 / static_cast<double>(notes)); }

std::vector<Written> moved(std::vector<Written> notes, int up, double later_s) {
    for (Written& n : notes) n.pitch += up, n.onset_s += later_s, n.end_s += later_s;
    return notes;
}

/// Enough of the notes to tell.
std::vector<Written> some_of(const std::vector<Written>& notes) {
    constexpr std::size_t kEnough = 150;
    const std::size_t every = std::max<std::size_t>(1, notes.size() / kEnough);
    std::vector<Written> out;
    for (std::size_t i = 0; i < notes.size(); i += every) out.push_back(notes[i]);
    return out;
}

/// Tries a part at other pitches.
void transpose(const Hearing& hearing, const Score& score, std::size_t part, const std::vector<Written>& notes, double here, WholePart& whole) {
    constexpr std::array kIntervals{-12, 12, -1, 1, -2, 2, -7, 7, -5, 5, -3, 3, -4, 4};
    // At a glance: how much more is heard at the other pitches. Those for which most speaks are asked about in earnest.
    constexpr std::size_t kInEarnest = 6;
    std::array<std::pair<double, int>, kIntervals.size()> heard;
    for (std::size_t k = 0; k < kIntervals.size(); ++k) {
        double sum = 0.0;
        for (const Written& n : notes)
            if (!score.pitched().count(n.pitch + kIntervals[k], n.onset_s - 0.05, n.onset_s + 0.05))
                sum += pitch_heard(hearing.evidence, n, n.pitch + kIntervals[k]).both() + 5.0;
        heard[k] = {-sum, kIntervals[k]};
    }
    std::sort(heard.begin(), heard.end());
    for (std::size_t k = 0; k < kInEarnest; ++k) {
        const double righter = here - suspicion(hearing, score.with(part, moved(notes, heard[k].second, 0.0)), part);
        if (righter > std::max(clearly_righter(notes.size()), whole.righter)) whole = {-heard[k].second, {}, righter};
    }
}

/// Tries it at other times.
void shift(const Hearing& hearing, const Score& score, std::size_t part, const std::vector<Written>& notes, double here, WholePart& whole) {
    constexpr double kReach_s = 0.75, kStep_s = 0.01, kWithin_s = 0.015, kLeast_s = 0.025;
    constexpr double kSharper = 0.8;  // log-odds: so much more of the onsets' evidence lies there, though the notes may be believed at both places
    constexpr double kSharperAtAll = 0.15;
    const bool drums = score.parts()[part].drums;
    const auto mean_at = [&](double late_s) {
        double sum = 0.0, count = 0.0;
        for (const Written& n : notes) {
            if (drums && !drum_sound_of_key(n.pitch)) continue;
            sum += clearest_between(hearing.evidence, drums, n.pitch, n.onset_s - late_s - kWithin_s, n.onset_s - late_s + kWithin_s);
            count += 1.0;
        }
        return count > 0 ? sum / count : 0.0;
    };
    const double sharp = mean_at(0.0);
    double best = -1e9, at = 0.0;
    for (double late = -kReach_s; late <= kReach_s + 1e-9; late += kStep_s)
        if (const double v = mean_at(late); v > best && std::abs(late) > kLeast_s) best = v, at = late;
    const double righter = here - suspicion(hearing, score.with(part, moved(notes, 0, -at)), part);
    if (best - sharp >= kSharper) whole = {{}, at, std::max(righter, clearly_righter(notes.size()))};
    else if (best - sharp >= kSharperAtAll && righter > clearly_righter(notes.size())) whole = {{}, at, righter};
}

}  // namespace

WholePart wrong_as_a_whole(const Hearing& hearing, const Score& score, std::size_t part) {
    constexpr double kBeyondDoubt = -3.75;
    const auto notes = some_of(score.parts()[part].notes);
    if (notes.size() < 12) return {};
    const double here = suspicion(hearing, score.with(part, notes), part);
    WholePart whole;
    if (here < kBeyondDoubt) return whole;
    shift(hearing, score, part, notes, here, whole);
    if (!score.parts()[part].drums) transpose(hearing, score, part, notes, here, whole);
    return whole;
}

std::vector<WholePart> wrong_as_a_whole(const Hearing& hearing, const Score& score) {
    std::vector<WholePart> out(score.parts().size());
    std::vector<std::pair<double, std::size_t>> wrong;
    for (std::size_t p = 0; p < out.size(); ++p)
        if (const WholePart w = wrong_as_a_whole(hearing, score, p); w.wrong()) wrong.emplace_back(-w.righter, p);
    std::sort(wrong.begin(), wrong.end());
    Score mended = score;
    for (const auto& [righter, p] : wrong) {
        out[p] = wrong_as_a_whole(hearing, mended, p);
        if (out[p].wrong()) mended = mended.with(p, moved(score.parts()[p].notes, -out[p].up.value_or(0), -out[p].late_s.value_or(0.0)));
    }
    return out;
}

}  // namespace fw
