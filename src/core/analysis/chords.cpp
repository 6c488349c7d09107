// SPDX-License-Identifier: GPL-3.0-or-later
// Chords by a hidden Markov model over beats with chroma templates (Sheh & Ellis, ISMIR 2003; Bello & Pickens, ISMIR 2005), the
// chroma being that of the note evidence rather than of the spectrum, so that partials are already told from notes.
#include "analysis/decoders.hpp"
#include "base/pitch.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

constexpr int kDecodedKinds = 13;            // ninths are offered for typing, not decoded: their tones are nearly those of two chords
constexpr std::array<double, kDecodedKinds> kRarity{0.0, 0.0, 0.035, 0.045, 0.03, 0.05, 0.05, 0.06, 0.08, 0.09, 0.075, 0.075, 0.10};
constexpr double kSharpness = 16.0;          // how strongly a better fit outweighs a change
constexpr double kChange = 3.2, kChangeOffDownbeat = 1.6;

using Chroma = std::array<float, 12>;

struct Moment {
    Chroma all{}, bass{};
    float energy = 0.0F;
};

Moment moment_of(const Evidence& e, double start_s, double end_s) {
    Moment m;
    if (e.pitch_frames() == 0) return m;
    const auto last = static_cast<double>(e.pitch_frames() - 1);
    const auto a = static_cast<std::size_t>(std::clamp(std::round(Evidence::pitch_frame(start_s)), 0.0, last));
    const auto b = static_cast<std::size_t>(std::clamp(std::round(Evidence::pitch_frame(end_s)), static_cast<double>(a), last));
    for (std::size_t f = a; f <= b; ++f)
        for (std::size_t p = 0; p < Evidence::kPitches; ++p) {
            const float v = e.sounding.at(f, p);
            if (v > 0.1F) m.all[(p + Evidence::kLowestPitch) % 12] += v * (0.4F + e.level.at(f, p));
            const float low = e.bass_sounding.at(f, p);
            if (low > 0.15F) m.bass[(p + Evidence::kLowestPitch) % 12] += low;
        }
    const auto frames = static_cast<float>(b - a + 1);
    for (std::size_t c = 0; c < 12; ++c) m.all[c] /= frames, m.bass[c] = std::min(1.0F, m.bass[c] / frames), m.energy += m.all[c];
    return m;
}

struct Template {
    Chord chord;
    Chroma weights{};
};

Template template_of(const Chord& chord) {
    Template t{chord, {}};
    float squares = 0.0F;
    const auto tones = chord_kinds()[static_cast<std::size_t>(chord.kind)].tones();
    for (std::size_t i = 0; i < tones.size(); ++i) {
        const float w = i == 0 ? 1.0F : i == 1 ? 0.95F : i == 2 ? 0.85F : 0.7F;
        t.weights[static_cast<std::size_t>(pitch_class(chord.root + tones[i]))] = w;
        squares += w * w;
    }
    for (float& w : t.weights) w /= std::sqrt(squares);
    return t;
}

const std::vector<Template>& templates() {
    static const auto list = [] {
        std::vector<Template> out;
        for (int kind = 0; kind < kDecodedKinds; ++kind)
            for (int root = 0; root < 12; ++root) out.push_back(template_of({root, kind, root}));
        return out;
    }();
    return list;
}

/// Cosine of the chroma's angle to a template, with a bonus for a root (or another tone) in the bass.
double fit(const Moment& m, const Template& t) {
    double dot = 0.0, squares = 1e-9, bass = 0.0, bass_sum = 1e-9;
    for (std::size_t c = 0; c < 12; ++c) {
        const double v = std::sqrt(m.all[c]);  // one loud note must not drown the others
        dot += v * t.weights[c];
        squares += v * v;
        bass += m.bass[c] * (static_cast<int>(c) == t.chord.root ? 1.0 : t.weights[c] > 0 ? 0.45 : 0.0);
        bass_sum += m.bass[c];
    }
    return dot / std::sqrt(squares) - (t.chord.kind < kDecodedKinds ? kRarity[static_cast<std::size_t>(t.chord.kind)] : 0.06) + 0.12 * bass / std::max(0.35, bass_sum);
}

}  // namespace

std::array<float, 12> chroma_of(const Evidence& evidence, double start_s, double end_s) {
    Chroma c = moment_of(evidence, start_s, end_s).all;
    const float top = std::max(1e-6F, *std::max_element(c.begin(), c.end()));
    for (float& v : c) v = std::min(1.0F, v / top);
    return c;
}

ChordComparison compare_chord(const Evidence& evidence, double start_s, double end_s, const Chord& chord) {
    const Moment m = moment_of(evidence, start_s, end_s);
    ChordComparison result;
    double best = -1.0;
    for (const Template& t : templates()) {
        const double v = fit(m, t);
        if (v > best) best = v, result.better = t.chord;
    }
    if (m.energy < 1e-3F) {  // nothing pitched sounds here: only "no chord" agrees
        result.better = Chord{};
        result.agreement = chord.none() ? 1.0 : 0.0;
        return result;
    }
    const double own = chord.none() ? 0.45 : fit(m, template_of(chord));
    result.advantage = best - own;
    result.agreement = std::clamp(1.0 - 2.5 * std::max(0.0, best - own), 0.0, 1.0);
    if (!chord.none() && result.better.root == chord.root && result.better.kind == chord.kind) result.better = Chord{};
    return result;
}

std::vector<ChordSpan> decode_chords(const Evidence& evidence, const std::vector<Beat>& beats) {
    if (beats.size() < 2) return {};
    const auto& chords = templates();
    const std::size_t n = beats.size(), count = chords.size() + 1, none = chords.size();
    std::vector<Moment> moments(n);
    std::vector<double> ends(n);
    float typical = 0.0F;
    for (std::size_t b = 0; b < n; ++b) {
        ends[b] = b + 1 < n ? beats[b + 1].time_s : std::min(evidence.duration_s, 2 * beats[b].time_s - beats[b - 1].time_s);
        moments[b] = moment_of(evidence, beats[b].time_s, ends[b]);
        typical += moments[b].energy / static_cast<float>(n);
    }
    std::vector<double> fits(n * count), score(count), next(count);
    for (std::size_t b = 0; b < n; ++b) {
        for (std::size_t c = 0; c < chords.size(); ++c) fits[b * count + c] = fit(moments[b], chords[c]);
        fits[b * count + none] = moments[b].energy < 0.12F * typical ? 1.2 : 0.45;
    }
    std::vector<std::uint16_t> from(n * count);
    for (std::size_t b = 0; b < n; ++b) {
        const auto best = static_cast<std::size_t>(std::max_element(score.begin(), score.end()) - score.begin());
        const double change = kChange + (beats[b].beat == 1 ? 0.0 : kChangeOffDownbeat);
        for (std::size_t c = 0; c < count; ++c) {
            const bool stay = score[c] >= score[best] - change;
            from[b * count + c] = static_cast<std::uint16_t>(stay ? c : best);
            next[c] = (stay ? score[c] : score[best] - change) + kSharpness * fits[b * count + c];
        }
        score.swap(next);
    }
    std::vector<std::size_t> path(n);
    auto state = static_cast<std::size_t>(std::max_element(score.begin(), score.end()) - score.begin());
    for (std::size_t b = n; b-- > 0;) {
        path[b] = state;
        state = from[b * count + state];
    }
    std::vector<ChordSpan> spans;
    for (std::size_t b = 0; b < n;) {
        std::size_t e = b + 1;
        while (e < n && path[e] == path[b]) ++e;
        ChordSpan span;
        span.start_s = beats[b].time_s;
        span.end_s = ends[e - 1];
        std::vector<std::pair<double, std::size_t>> ranked;
        for (std::size_t c = 0; c < count; ++c) {
            double sum = 0.0;
            for (std::size_t i = b; i < e; ++i) sum += fits[i * count + c];
            ranked.emplace_back(sum / static_cast<double>(e - b), c);
        }
        std::sort(ranked.begin(), ranked.end(), [](auto& x, auto& y) { return x.first > y.first; });
        double total = 0.0;
        for (const auto& r : ranked) total += std::exp(kSharpness * (r.first - ranked[0].first));
        const auto share = [&](double value) { return std::exp(kSharpness * (value - ranked[0].first)) / total; };
        const auto named = [&](std::size_t c) {
            if (c == none) return Chord{};
            Chord chord = chords[c].chord;
            Chroma bass{};
            float sum = 1e-6F;
            for (std::size_t i = b; i < e; ++i)
                for (std::size_t k = 0; k < 12; ++k) bass[k] += moments[i].bass[k], sum += moments[i].bass[k];
            const auto low = static_cast<int>(std::max_element(bass.begin(), bass.end()) - bass.begin());
            const auto tones = chord.tones();
            if (bass[static_cast<std::size_t>(low)] > 0.65F * sum && sum > 0.3F * static_cast<float>(e - b) && std::find(tones.begin(), tones.end(), low) != tones.end()) chord.bass = low;
            return chord;
        };
        span.chord = named(path[b]);
        for (const auto& [value, c] : ranked) {
            if (c == path[b]) span.confidence = std::clamp(share(value) * 1.6, 0.05, 1.0);
            else if (span.alternatives.size() < 3) span.alternatives.emplace_back(named(c), std::min(1.0, share(value) * 1.6));
        }
        if (!spans.empty() && spans.back().chord == span.chord) spans.back().end_s = span.end_s;
        else spans.push_back(std::move(span));
        b = e;
    }
    return spans;
}

}  // namespace fw
