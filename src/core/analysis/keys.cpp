// SPDX-License-Identifier: GPL-3.0-or-later
// Keys by profile matching (Temperley, "What's key for key?", Music Perception 1999) with a Viterbi path for changes of key,
// then the mode by which of the steps that tell modes apart is played more, and the tonic among modes of one scale by where the
// bass and the chords rest.
#include "analysis/decoders.hpp"
#include "base/pitch.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

constexpr std::array<double, 12> kMajor{5, 2, 3.5, 2, 4.5, 4, 2, 4.5, 2, 3.5, 1.5, 4};
constexpr std::array<double, 12> kMinor{5, 2, 3.5, 4.5, 2, 4, 2, 4.5, 3.5, 2, 1.5, 4};
using Weights = std::array<double, 12>;

double correlation(const Weights& w, const std::array<double, 12>& profile, int tonic) {
    double mw = 0, mp = 0;
    for (std::size_t i = 0; i < 12; ++i) mw += w[i] / 12, mp += profile[i] / 12;
    double ww = 1e-12, pp = 1e-12, wp = 0;
    for (int i = 0; i < 12; ++i) {
        const double a = w[static_cast<std::size_t>(pitch_class(i + tonic))] - mw, b = profile[static_cast<std::size_t>(i)] - mp;
        ww += a * a, pp += b * b, wp += a * b;
    }
    return wp / std::sqrt(ww * pp);
}

double key_fit(const Weights& notes, const Weights& bass, int key) {
    const int tonic = key % 12;
    double sum = 1e-9;
    for (const double b : bass) sum += b;
    return correlation(notes, key < 12 ? kMajor : kMinor, tonic) + 0.18 * bass[static_cast<std::size_t>(tonic)] / sum;
}

Mode mode_of(const Weights& w, int key) {
    const int tonic = key % 12;
    const auto at = [&](int step) { return w[static_cast<std::size_t>(pitch_class(tonic + step))]; };
    if (key < 12) {
        if (at(10) > 1.5 * at(11)) return Mode::Mixolydian;
        if (at(6) > 1.5 * at(5)) return Mode::Lydian;
        return Mode::Major;
    }
    if (at(6) > 2.0 * at(7) && at(1) > at(2)) return Mode::Locrian;
    if (at(1) > 1.5 * at(2)) return Mode::Phrygian;
    if (at(9) > 1.5 * at(8)) return Mode::Dorian;
    return Mode::Minor;
}

/// Keys of one scale differ only in where they rest. The profile's choice stands unless another step of its scale carries the
/// bass and the chords far more often.
Key resting_key(const Key& chosen, const Weights& rest) {
    const auto scale = chosen.scale();
    double total = 1e-9;
    for (const double r : rest) total += r;
    int tonic = chosen.tonic;
    for (const int step : scale)
        if (rest[static_cast<std::size_t>(step)] > rest[static_cast<std::size_t>(tonic)]) tonic = step;
    const double share = rest[static_cast<std::size_t>(tonic)] / total;
    if (tonic == chosen.tonic || share < 0.34 || rest[static_cast<std::size_t>(tonic)] < 2.5 * rest[static_cast<std::size_t>(chosen.tonic)]) return chosen;
    for (int m = 0; m < 7; ++m) {
        const Key key{tonic, static_cast<Mode>(m)};
        const auto other = key.scale();
        if (std::is_permutation(other.begin(), other.end(), scale.begin()) && key.mode != Mode::Locrian) return key;
    }
    return chosen;
}

void add(Weights& w, const HeardNote& n, double start, double end) {
    const double shared = std::min(end, n.onset_s + n.duration_s) - std::max(start, n.onset_s);
    if (shared > 0) w[static_cast<std::size_t>(pitch_class(n.pitch))] += std::min(shared, 2.0) * std::min(1.0, 0.2 + n.confidence);
}

}  // namespace

std::vector<KeySpan> decode_keys(const std::vector<HeardNote>& notes, const std::vector<HeardPart>& parts, const std::vector<ChordSpan>& chords, const std::vector<Beat>& beats, double duration_s) {
    if (notes.empty()) return {};
    static const std::vector<HeardNote> nothing;
    const auto bass_part = std::find_if(parts.begin(), parts.end(), [](const HeardPart& p) { return p.role == Role::Bass; });
    const std::vector<HeardNote>& bass_notes = bass_part == parts.end() ? nothing : bass_part->notes;
    // Two bars at a time, or four seconds where there are no bars.
    std::vector<double> edges{0.0};
    for (const Beat& b : beats)
        if (b.beat == 1 && b.bar % 2 == 1 && b.time_s > edges.back() + 1.0) edges.push_back(b.time_s);
    if (beats.empty())
        for (double t = 4.0; t < duration_s; t += 4.0) edges.push_back(t);
    edges.push_back(duration_s + 1.0);
    const std::size_t n = edges.size() - 1;
    std::vector<Weights> note_weights(n, Weights{}), bass_weights(n, Weights{});
    const auto collect = [&](const std::vector<HeardNote>& from, std::vector<Weights>& into) {
        for (const HeardNote& note : from) {
            auto i = static_cast<std::size_t>(std::upper_bound(edges.begin(), edges.end(), note.onset_s) - edges.begin());
            for (i = i == 0 ? 0 : i - 1; i < n && edges[i] < note.onset_s + note.duration_s; ++i) add(into[i], note, edges[i], edges[i + 1]);
        }
    };
    collect(notes, note_weights);
    collect(bass_notes, bass_weights);
    const auto total = [](const std::vector<Weights>& all, std::size_t a, std::size_t b) {
        Weights w{};
        for (std::size_t i = a; i < b; ++i)
            for (std::size_t c = 0; c < 12; ++c) w[c] += all[i][c];
        return w;
    };
    // A change must pay for itself over some bars: a borrowed chord is not a new key.
    constexpr double kSharpness = 6.0, kChange = 7.0;
    std::vector<std::array<int, 24>> from(n);
    std::array<double, 24> score{}, next{};
    const Weights song_notes = total(note_weights, 0, n), song_bass = total(bass_weights, 0, n);
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t a = i == 0 ? 0 : i - 1, b = std::min(n, i + 2);
        const Weights w = total(note_weights, a, b), l = total(bass_weights, a, b);
        const auto best = static_cast<int>(std::max_element(score.begin(), score.end()) - score.begin());
        for (int k = 0; k < 24; ++k) {
            const auto at = static_cast<std::size_t>(k);
            const bool stay = score[at] >= score[static_cast<std::size_t>(best)] - kChange;
            from[i][at] = stay ? k : best;
            next[at] = (stay ? score[at] : score[static_cast<std::size_t>(best)] - kChange) + kSharpness * key_fit(w, l, k) + 3.0 * key_fit(song_notes, song_bass, k);
        }
        score = next;
    }
    std::vector<int> path(n);
    int state = static_cast<int>(std::max_element(score.begin(), score.end()) - score.begin());
    for (std::size_t i = n; i-- > 0;) {
        path[i] = state;
        state = from[i][static_cast<std::size_t>(state)];
    }
    std::vector<KeySpan> spans;
    for (std::size_t a = 0; a < n;) {
        std::size_t b = a + 1;
        while (b < n && path[b] == path[a]) ++b;
        const Weights w = total(note_weights, a, b), l = total(bass_weights, a, b);
        KeySpan span;
        span.start_s = edges[a];
        span.end_s = std::min(duration_s, edges[b]);
        // Where the music rests: bass notes by their time, chord roots by theirs.
        Weights rest = l;
        double bass_time = 1e-9, chord_time = 1e-9;
        for (const double b_time : l) bass_time += b_time;
        Weights roots{};
        for (const ChordSpan& c : chords) {
            const double shared = std::min(edges[b], c.end_s) - std::max(edges[a], c.start_s);
            if (!c.chord.none() && shared > 0) roots[static_cast<std::size_t>(c.chord.root)] += shared, chord_time += shared;
        }
        for (std::size_t c = 0; c < 12; ++c) rest[c] = rest[c] / bass_time + roots[c] / chord_time;
        span.key = resting_key({path[a] % 12, mode_of(w, path[a])}, rest);
        std::vector<std::pair<double, int>> ranked;
        for (int k = 0; k < 24; ++k) ranked.emplace_back(key_fit(w, l, k), k);
        std::sort(ranked.rbegin(), ranked.rend());
        double sum = 0.0;
        for (const auto& r : ranked) sum += std::exp(12.0 * (r.first - ranked[0].first));
        for (const auto& [value, k] : ranked) {
            const double share = std::exp(12.0 * (value - ranked[0].first)) / sum;
            const Key key{k % 12, mode_of(w, k)};
            if (k == path[a]) span.confidence = std::min(1.0, share * 1.5);
            if (!(key == span.key) && span.alternatives.size() < 3) span.alternatives.push_back({key, std::min(1.0, share * 1.5)});
        }
        spans.push_back(std::move(span));
        a = b;
    }
    return spans;
}

}  // namespace fw
