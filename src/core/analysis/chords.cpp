// SPDX-License-Identifier: GPL-3.0-or-later
// Chords by a hidden Markov model over beats with chroma templates (Sheh & Ellis, ISMIR 2003; Bello & Pickens, ISMIR 2005), the
// chroma being that of the note evidence rather than of the spectrum, so that partials are already told from notes. A state is a
// chord within a scale (Catteau, Martens & Leman, "A probabilistic framework for audio-based tonal key and chord recognition",
// GfKl 2006): tones foreign to the scale that has held for a while must be heard more clearly to be believed.
#include "analysis/decoders.hpp"
#include "analysis/key_profiles.hpp"
#include "base/pitch.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

constexpr int kDecodedKinds = 13;  // ninths are offered for typing, not decoded: their tones are nearly those of two chords
constexpr std::array<double, kDecodedKinds> kRarity{0.0, 0.0, 0.045, 0.06, 0.04, 0.065, 0.065, 0.08, 0.105, 0.115, 0.1, 0.1, 0.13};
constexpr double kEvenness = 0.3;    // exponent on the chroma: one loud note must not drown the others
constexpr double kBassBonus = 0.05;  // for a chord whose root the bass plays
constexpr double kNoChord = 0.45, kSilence = 1.2;
constexpr double kSharpness = 20.0;  // how strongly a better fit outweighs a change
constexpr double kChange = 2.6, kChangeOffDownbeat = 1.2;
constexpr std::size_t kScales = 12;    // a major key and its relative minor share one
constexpr double kForeignTone = 0.04;  // taken off the fit for each tone the scale does not hold
constexpr double kScaleFit = 1.0, kScaleChange = 8.0;

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
        const double v = std::pow(static_cast<double>(m.all[c]), kEvenness);
        dot += v * t.weights[c];
        squares += v * v;
        bass += m.bass[c] * (static_cast<int>(c) == t.chord.root ? 1.0 : t.weights[c] > 0 ? 0.45 : 0.0);
        bass_sum += m.bass[c];
    }
    return dot / std::sqrt(squares) - (t.chord.kind < kDecodedKinds ? kRarity[static_cast<std::size_t>(t.chord.kind)] : 0.06) +
           kBassBonus * bass / std::max(0.35, bass_sum);
}

/// How many tones of a chord a scale (given by its major tonic) does not hold; the leading note of the relative minor belongs to its dominant.
int foreign_tones(const Chord& chord, int scale) {
    static const std::array<int, 7> kSteps = Key{0, Mode::Major}.scale();
    const int root = pitch_class(chord.root - scale);
    int foreign = 0;
    for (const int tone : chord.tones()) {
        const int step = pitch_class(tone - scale);
        foreign += std::find(kSteps.begin(), kSteps.end(), step) == kSteps.end() && !(step == 8 && (root == 4 || root == 8));
    }
    return foreign;
}

/// What each beat says for each chord and for each scale; the last chord is none.
struct Heard {
    std::size_t beats = 0, chords = 0;
    std::vector<Moment> moments;
    std::vector<double> ends;
    std::vector<double> chord_fits;  ///< beats × chords
    std::vector<double> scale_fits;  ///< beats × scales
};

Heard listen(const Evidence& evidence, const std::vector<Beat>& beats) {
    const auto& chords = templates();
    Heard h;
    h.beats = beats.size(), h.chords = chords.size() + 1;
    h.chord_fits.resize(h.beats * h.chords), h.scale_fits.resize(h.beats * kScales);
    float typical = 0.0F;
    for (std::size_t b = 0; b < h.beats; ++b) {
        h.ends.push_back(b + 1 < h.beats ? beats[b + 1].time_s : std::min(evidence.duration_s, 2 * beats[b].time_s - beats[b - 1].time_s));
        h.moments.push_back(moment_of(evidence, beats[b].time_s, h.ends[b]));
        typical += h.moments[b].energy / static_cast<float>(h.beats);
    }
    for (std::size_t b = 0; b < h.beats; ++b) {
        const Moment& m = h.moments[b];
        for (std::size_t c = 0; c < chords.size(); ++c) h.chord_fits[b * h.chords + c] = fit(m, chords[c]);
        h.chord_fits[b * h.chords + chords.size()] = m.energy < 0.12F * typical ? kSilence : kNoChord;
        PitchClassWeights tones{};
        std::copy(m.all.begin(), m.all.end(), tones.begin());
        for (std::size_t k = 0; k < kScales && m.energy > 0.12F * typical; ++k) {
            const auto tonic = static_cast<int>(k);
            h.scale_fits[b * kScales + k] = std::max(profile_fit(tones, kMajorProfile, tonic), profile_fit(tones, kMinorProfile, tonic + 9));
        }
    }
    return h;
}

/// The likeliest chord of every beat. Takes the foreign tones of the scale it lies in off the fits, which rank the alternatives.
std::vector<std::size_t> follow(Heard& h, const std::vector<Beat>& beats) {
    const auto& chords = templates();
    const std::size_t states = kScales * h.chords;
    std::vector<double> foreign(states, 0.0);
    for (std::size_t k = 0; k < kScales; ++k)
        for (std::size_t c = 0; c < chords.size(); ++c) foreign[k * h.chords + c] = kForeignTone * foreign_tones(chords[c].chord, static_cast<int>(k));
    // A state is reached from itself, from the best chord of its scale or from the best of all: a byte tells which.
    enum class From : std::uint8_t { Same, Scale, Any };
    struct Best {
        std::array<std::uint16_t, kScales> of_scale{};
        std::uint16_t of_all = 0;
    };
    std::vector<From> from(h.beats * states);
    std::vector<Best> best(h.beats);
    std::vector<double> score(states, 0.0), next(states);
    for (std::size_t b = 0; b < h.beats; ++b) {
        const double change = kChange + (beats[b].beat == 1 ? 0.0 : kChangeOffDownbeat);
        Best& top = best[b];
        for (std::size_t k = 0; k < kScales; ++k) {
            const auto first = score.begin() + static_cast<std::ptrdiff_t>(k * h.chords);
            top.of_scale[k] = static_cast<std::uint16_t>(std::max_element(first, first + static_cast<std::ptrdiff_t>(h.chords)) - score.begin());
            if (score[top.of_scale[k]] > score[top.of_all]) top.of_all = top.of_scale[k];
        }
        for (std::size_t k = 0; k < kScales; ++k)
            for (std::size_t c = 0; c < h.chords; ++c) {
                const std::size_t s = k * h.chords + c;
                const double scale = score[top.of_scale[k]] - change, any = score[top.of_all] - change - kScaleChange;
                const double so_far = std::max({score[s], scale, any});
                from[b * states + s] = so_far == score[s] ? From::Same : so_far == scale ? From::Scale : From::Any;
                next[s] = so_far + kSharpness * (h.chord_fits[b * h.chords + c] - foreign[s]) + kScaleFit * h.scale_fits[b * kScales + k];
            }
        score.swap(next);
    }
    std::vector<std::size_t> path(h.beats);
    auto state = static_cast<std::size_t>(std::max_element(score.begin(), score.end()) - score.begin());
    for (std::size_t b = h.beats; b-- > 0;) {
        path[b] = state % h.chords;
        const std::size_t scale = state / h.chords;
        for (std::size_t c = 0; c < h.chords; ++c) h.chord_fits[b * h.chords + c] -= foreign[scale * h.chords + c];
        const From source = from[b * states + state];
        if (source != From::Same) state = source == From::Scale ? best[b].of_scale[scale] : best[b].of_all;
    }
    return path;
}

/// A chord with the bass it stands on over some beats, where one of its tones holds the bass nearly alone.
Chord with_bass(const Heard& h, std::size_t chord, std::size_t begin, std::size_t end) {
    if (chord + 1 == h.chords) return Chord{};
    Chord named = templates()[chord].chord;
    Chroma bass{};
    float sum = 1e-6F;
    for (std::size_t b = begin; b < end; ++b)
        for (std::size_t c = 0; c < 12; ++c) bass[c] += h.moments[b].bass[c], sum += h.moments[b].bass[c];
    const auto low = static_cast<int>(std::max_element(bass.begin(), bass.end()) - bass.begin());
    const auto tones = named.tones();
    const bool alone = bass[static_cast<std::size_t>(low)] > 0.65F * sum && sum > 0.3F * static_cast<float>(end - begin);
    if (alone && std::find(tones.begin(), tones.end(), low) != tones.end()) named.bass = low;
    return named;
}

/// The chord held from one beat to another, with how sure it is and what else it could be.
ChordSpan span_of(const Heard& h, std::size_t chord, double start_s, std::size_t begin, std::size_t end) {
    ChordSpan span;
    span.start_s = start_s;
    span.end_s = h.ends[end - 1];
    std::vector<std::pair<double, std::size_t>> ranked;
    for (std::size_t c = 0; c < h.chords; ++c) {
        double sum = 0.0;
        for (std::size_t b = begin; b < end; ++b) sum += h.chord_fits[b * h.chords + c];
        ranked.emplace_back(sum / static_cast<double>(end - begin), c);
    }
    std::sort(ranked.begin(), ranked.end(), [](auto& x, auto& y) { return x.first > y.first; });
    const auto odds = [&](double value) { return std::exp(kSharpness * (value - ranked[0].first)); };
    double total = 0.0;
    for (const auto& r : ranked) total += odds(r.first);
    span.chord = with_bass(h, chord, begin, end);
    for (const auto& [value, c] : ranked) {
        if (c == chord) span.confidence = std::clamp(odds(value) / total * 1.6, 0.05, 1.0);
        else if (span.alternatives.size() < 3) span.alternatives.emplace_back(with_bass(h, c, begin, end), std::min(1.0, odds(value) / total * 1.6));
    }
    return span;
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
    // Where nothing pitched sounds only "no chord" agrees; it also does where less is left than half a clear note, as at the end of a song.
    constexpr float kNothing = 1e-3F, kHalfANote = 0.4F;
    if (m.energy < (chord.none() ? kHalfANote : kNothing)) {
        result.better = Chord{};
        result.agreement = chord.none() ? 1.0 : 0.0;
        return result;
    }
    const double own = chord.none() ? kNoChord : fit(m, template_of(chord));
    result.advantage = best - own;
    result.agreement = std::clamp(1.0 - 2.5 * std::max(0.0, best - own), 0.0, 1.0);
    if (!chord.none() && result.better.root == chord.root && result.better.kind == chord.kind) result.better = Chord{};
    return result;
}

std::vector<ChordSpan> decode_chords(const Evidence& evidence, const std::vector<Beat>& beats) {
    if (beats.size() < 2) return {};
    Heard heard = listen(evidence, beats);
    const std::vector<std::size_t> path = follow(heard, beats);
    std::vector<ChordSpan> spans;
    for (std::size_t b = 0; b < path.size();) {
        std::size_t end = b + 1;
        while (end < path.size() && path[end] == path[b]) ++end;
        ChordSpan span = span_of(heard, path[b], beats[b].time_s, b, end);
        if (!spans.empty() && spans.back().chord == span.chord) spans.back().end_s = span.end_s;
        else spans.push_back(std::move(span));
        b = end;
    }
    return spans;
}

}  // namespace fw
