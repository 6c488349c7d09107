// SPDX-License-Identifier: GPL-3.0-or-later
// Keys by profile matching (Temperley, "What's key for key?", Music Perception 1999) with a Viterbi path for changes of key,
// which come at the starts of sections rather than elsewhere. The profiles of the modes are those of major and minor with the
// steps exchanged that tell them apart. Modes of one scale differ only in where the music rests: a step that carries the bass,
// the chords and the starts of phrases is the tonic.
#include "analysis/decoders.hpp"
#include "analysis/key_profiles.hpp"
#include "base/pitch.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

constexpr double kSharpness = 6.0;                        // how much a better fit of two bars counts
constexpr double kWholeSong = 2.0;                        // how much the fit to the whole song does
constexpr double kChange = 10.0, kChangeAtSection = 5.0;  // cost of another key
using Weights = PitchClassWeights;

double key_fit(const Weights& notes, const Weights& bass, int key) {
    const int tonic = key % 12;
    double sum = 1e-9;
    for (const double b : bass) sum += b;
    return profile_fit(notes, key < 12 ? kMajorProfile : kMinorProfile, tonic) + 0.18 * bass[static_cast<std::size_t>(tonic)] / sum;
}

Weights exchanged(Weights profile, std::size_t a, std::size_t b) {
    std::swap(profile[a], profile[b]);
    return profile;
}

struct ModeProfile {
    Mode mode;
    Weights profile;
    double rarity;
};
const std::array<ModeProfile, 6> kModes{{{Mode::Major, kMajorProfile, 0.0},
                                         {Mode::Minor, kMinorProfile, 0.0},
                                         {Mode::Mixolydian, exchanged(kMajorProfile, 11, 10), 0.2},
                                         {Mode::Dorian, exchanged(kMinorProfile, 8, 9), 0.2},
                                         {Mode::Lydian, exchanged(kMajorProfile, 5, 6), 0.33},
                                         {Mode::Phrygian, exchanged(kMinorProfile, 2, 1), 0.33}}};

struct Span {
    Weights notes{}, rest{}, starts{};  ///< rest: shares of the time the bass and the chord roots spend; starts: of phrases that begin there
};

bool is_minor(Mode mode) { return mode == Mode::Minor || mode == Mode::Dorian || mode == Mode::Phrygian; }

/// Share of the notes that are not in the scale. The leading tone of minor belongs to it.
double foreign(const Weights& notes, const Key& key) {
    double sum = 1e-9, foreign = 0.0;
    Weights left = notes;
    for (const double n : notes) sum += n;
    for (const int step : key.scale()) left[static_cast<std::size_t>(step)] = 0.0;
    if (key.mode == Mode::Minor) left[static_cast<std::size_t>(pitch_class(key.tonic + 11))] = 0.0;
    for (const double n : left) foreign += n;
    return foreign / sum;
}

double mode_fit(const Span& span, int tonic, const ModeProfile& mode) {
    // Profiles tell neighbouring keys by how often the common steps sound; a step that only one of them has tells more. Which mode of
    // minor or of major it is, is decided once the tonic is settled: the one that fits best speaks for all.
    double strange = 1.0;
    for (const ModeProfile& m : kModes)
        if (is_minor(m.mode) == is_minor(mode.mode)) strange = std::min(strange, 1.5 * foreign(span.notes, Key{tonic, m.mode}) + 0.2 * m.rarity);
    return profile_fit(span.notes, mode.profile, tonic) + 0.1 * span.rest[static_cast<std::size_t>(tonic)] - 0.8 * mode.rarity - strange;
}

/// The mode on a tonic that is settled: rarity counts little once only one step is in question.
Key mode_of(const Key& chosen, const Span& span) {
    Key best = chosen;
    double best_fit = -1e9;
    for (const ModeProfile& m : kModes) {
        if (is_minor(m.mode) != is_minor(chosen.mode)) continue;
        const double fit = profile_fit(span.notes, m.profile, chosen.tonic) - 0.3 * m.rarity;
        if (fit > best_fit) best_fit = fit, best.mode = m.mode;
    }
    return best;
}

bool same_scale(const Key& a, const Key& b) {
    const auto x = a.scale(), y = b.scale();
    return std::is_permutation(x.begin(), x.end(), y.begin());
}

/// Keys of one scale differ only in where they rest. The best fit stands unless another step of its scale carries bass, chords
/// and the starts of phrases far more than its tonic does.
Key resting_key(const Key& chosen, const Span& span) {
    const auto scale = chosen.scale();
    int tonic = chosen.tonic;
    for (const int step : scale)
        if (span.rest[static_cast<std::size_t>(step)] > span.rest[static_cast<std::size_t>(tonic)]) tonic = step;
    const double share = span.rest[static_cast<std::size_t>(tonic)];
    if (tonic == chosen.tonic || share < 0.28 || share < 1.5 * span.rest[static_cast<std::size_t>(chosen.tonic)] ||
        span.starts[static_cast<std::size_t>(tonic)] < 0.7)
        return chosen;
    for (const ModeProfile& m : kModes) {
        const Key key{tonic, m.mode};
        // Rare modes ask for more.
        if (same_scale(key, chosen) && (m.rarity < 0.25 || share > 0.7)) return key;
    }
    return chosen;
}

void add(Weights& w, const HeardNote& n, double start, double end) {
    const double shared = std::min(end, n.onset_s + n.duration_s) - std::max(start, n.onset_s);
    if (shared > 0) w[static_cast<std::size_t>(pitch_class(n.pitch))] += std::min(shared, 2.0) * std::min(1.0, 0.2 + n.confidence);
}

/// A section that comes again in another key is heard as the same music transposed: where a short span repeats a section of a
/// longer one and its scale allows, it rests on the step the longer one rests on.
void transpose_repeats(std::vector<KeySpan>& spans, const std::vector<SectionSpan>& sections) {
    const auto letter_in = [&](const KeySpan& span, char letter) {
        return std::any_of(sections.begin(), sections.end(),
                           [&](const SectionSpan& s) { return s.label[0] == letter && s.start_s > span.start_s - 1.0 && s.end_s < span.end_s + 1.0; });
    };
    for (KeySpan& span : spans)
        for (const KeySpan& longer : spans) {
            if (longer.end_s - longer.start_s <= span.end_s - span.start_s) continue;
            const bool repeats = std::any_of(sections.begin(), sections.end(), [&](const SectionSpan& s) {
                return !s.label.empty() && letter_in(span, s.label[0]) && letter_in(longer, s.label[0]);
            });
            if (!repeats || same_scale(span.key, longer.key)) continue;
            for (int up = 1; up < 12; ++up)
                if (const Key moved{pitch_class(longer.key.tonic + up), longer.key.mode}; same_scale(moved, span.key)) span.key = moved;
        }
}

/// Divides by the sum, where there is one.
Weights shares(Weights w) {
    double sum = 0.0;
    for (const double v : w) sum += v;
    if (sum > 0)
        for (double& v : w) v /= sum;
    return w;
}

}  // namespace

std::vector<KeySpan> decode_keys(const std::vector<HeardNote>& notes, const std::vector<HeardPart>& parts, const std::vector<ChordSpan>& chords,
                                 const std::vector<SectionSpan>& sections, const std::vector<Beat>& beats, double duration_s) {
    if (notes.empty()) return {};
    static const std::vector<HeardNote> nothing;
    const auto bass_part = std::find_if(parts.begin(), parts.end(), [](const HeardPart& p) { return p.role == PartRole::Bass; });
    const std::vector<HeardNote>& bass_notes = bass_part == parts.end() ? nothing : bass_part->notes;
    // Two bars at a time, counted from the start of each section; or four seconds where there are no bars.
    const auto section_at = [&](int bar) {
        return std::find_if(sections.begin(), sections.end(), [&](const SectionSpan& s) { return bar >= s.start_bar && bar < s.start_bar + s.bars; });
    };
    std::vector<double> edges{0.0};
    std::vector<char> opens{1};  // whether a section starts at the edge
    std::vector<double> phrase_starts;
    for (const Beat& b : beats) {
        if (b.beat != 1) continue;
        const auto section = section_at(b.bar);
        const int inside = b.bar - (section == sections.end() ? 1 : section->start_bar);
        if (section != sections.end() && inside % 4 == 0) phrase_starts.push_back(b.time_s);
        if (inside % 2 != 0 || b.time_s <= edges.back() + 1.0) continue;
        edges.push_back(b.time_s);
        opens.push_back(section != sections.end() && inside == 0);
    }
    if (beats.empty())
        for (double t = 4.0; t < duration_s; t += 4.0) edges.push_back(t), opens.push_back(0);
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
    std::vector<std::array<int, 24>> from(n);
    std::array<double, 24> score{}, next{};
    const Weights song_notes = total(note_weights, 0, n), song_bass = total(bass_weights, 0, n);
    for (std::size_t i = 0; i < n; ++i) {
        const double change = opens[i] ? kChangeAtSection : kChange;
        const std::size_t a = i == 0 || opens[i] ? i : i - 1, b = i + 1 < n && !opens[i + 1] ? i + 2 : i + 1;
        const Weights w = total(note_weights, a, b), l = total(bass_weights, a, b);
        const auto best = static_cast<int>(std::max_element(score.begin(), score.end()) - score.begin());
        for (int k = 0; k < 24; ++k) {
            const auto at = static_cast<std::size_t>(k);
            const bool stay = score[at] >= score[static_cast<std::size_t>(best)] - change;
            from[i][at] = stay ? k : best;
            next[at] = (stay ? score[at] : score[static_cast<std::size_t>(best)] - change) + kSharpness * key_fit(w, l, k) +
                       kWholeSong * key_fit(song_notes, song_bass, k);
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
        KeySpan span;
        span.start_s = edges[a];
        span.end_s = std::min(duration_s, edges[b]);
        Span seen;
        seen.notes = total(note_weights, a, b);
        const Weights bass = shares(total(bass_weights, a, b));
        Weights roots{};
        for (const ChordSpan& c : chords) {
            const double shared = std::min(edges[b], c.end_s) - std::max(edges[a], c.start_s);
            if (c.chord.none() || shared <= 0) continue;
            roots[static_cast<std::size_t>(c.chord.root)] += shared;
            for (const double t : phrase_starts)
                if (t >= edges[a] && t < edges[b] && t + 0.3 >= c.start_s && t + 0.3 < c.end_s) ++seen.starts[static_cast<std::size_t>(c.chord.root)];
        }
        roots = shares(roots);
        seen.starts = shares(seen.starts);
        for (std::size_t c = 0; c < 12; ++c) seen.rest[c] = 0.5 * (bass[c] + roots[c]);
        std::vector<std::pair<double, Key>> ranked;
        for (int tonic = 0; tonic < 12; ++tonic)
            for (const ModeProfile& m : kModes) ranked.emplace_back(mode_fit(seen, tonic, m), Key{tonic, m.mode});
        std::stable_sort(ranked.begin(), ranked.end(), [](const auto& x, const auto& y) { return x.first > y.first; });
        span.key = resting_key(mode_of(ranked[0].second, seen), seen);
        double sum = 0.0;
        for (const auto& r : ranked) sum += std::exp(12.0 * (r.first - ranked[0].first));
        for (const auto& [value, key] : ranked) {
            const double share = std::exp(12.0 * (value - ranked[0].first)) / sum;
            if (key == ranked[0].second) span.confidence = std::min(1.0, share * 1.5);
            if (!(key == span.key) && span.alternatives.size() < 3) span.alternatives.push_back({key, std::min(1.0, share * 1.5)});
        }
        if (!spans.empty() && spans.back().key == span.key) spans.back().end_s = span.end_s;
        else spans.push_back(std::move(span));
        a = b;
    }
    transpose_repeats(spans, sections);
    return spans;
}

}  // namespace fw
