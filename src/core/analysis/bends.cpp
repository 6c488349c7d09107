// SPDX-License-Identifier: GPL-3.0-or-later
// Bend curves of single lines: the fundamental is followed through short spectra by the strength of its partials (harmonic
// summation after Hermes, "Measurement of pitch by subharmonic summation", JASA 1988), the smoothest strong path found by
// Viterbi, and a curve kept only where it explains the sound better than the best straight pitch does.
#include "analysis/decoders.hpp"
#include "base/parallel.hpp"
#include "base/ranks.hpp"
#include "dsp/fft.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

namespace fw {

namespace {

constexpr std::size_t kStep = 256;              // samples between spectra, 11.6 ms
constexpr double kGrid = 10.0, kReach = 300.0;  // cents
constexpr int kStates = 2 * static_cast<int>(kReach / kGrid) + 1, kCentre = kStates / 2;
constexpr int kFastest = 6;                              // states a frame: a whole tone in 40 ms
constexpr float kMoveCost = 0.030F;                      // per state, in shares of a frame's best strength
constexpr double kLeastClear = 0.6;                      // mean share of a moment's best strength along a way that is heard
constexpr double kLeastRange = 35.0, kLeastGain = 0.05;  // of a curve worth writing down: cents, mean share of strength
constexpr double kTolerance = 12.0;                      // cents a simplified curve may be off
constexpr int kPartials = 5;

/// Spectra of a stretch around a note, zero-padded twofold so that strengths between bins can be read off by a straight line.
class Spectra {
public:
    explicit Spectra(std::size_t window) : window_(window), shape_(hann_window(window)), fft_(2 * window), magnitude_(fft_.bins()) {}
    void look(const MonoSignal& signal, std::ptrdiff_t centre) {
        auto in = fft_.input();
        std::fill(in.begin(), in.end(), 0.0F);
        signal.copy(centre - static_cast<std::ptrdiff_t>(window_ / 2), in.first(window_));
        for (std::size_t i = 0; i < window_; ++i) in[i] *= shape_[i];
        const auto spectrum = fft_.transform();
        // The root of the magnitude lets quiet partials speak beside loud ones.
        for (std::size_t k = 0; k < magnitude_.size(); ++k) magnitude_[k] = std::sqrt(std::abs(spectrum[k]));
    }
    float at(double hz) const {
        const double bin = hz * static_cast<double>(fft_.size()) / kAnalysisRate;
        const auto k = static_cast<std::size_t>(bin);
        if (k + 1 >= magnitude_.size()) return 0.0F;
        const auto share = static_cast<float>(bin - static_cast<double>(k));
        return magnitude_[k] * (1.0F - share) + magnitude_[k + 1] * share;
    }

private:
    std::size_t window_;
    std::unique_ptr<float[]> shape_;
    RealFft fft_;
    std::vector<float> magnitude_;
};

using Strengths = std::vector<std::array<float, kStates>>;

Strengths strengths_of(const MonoSignal& signal, Spectra& spectra, double f0, double begin_s, std::size_t frames) {
    Strengths out(frames);
    for (std::size_t f = 0; f < frames; ++f) {
        spectra.look(signal, static_cast<std::ptrdiff_t>(std::lround(begin_s * kAnalysisRate)) + static_cast<std::ptrdiff_t>(f * kStep));
        float top = 1e-9F;
        for (int s = 0; s < kStates; ++s) {
            const double hz = f0 * std::exp2((s - kCentre) * kGrid / 1200.0);
            float sum = 0.0F;
            for (int k = 1; k <= kPartials; ++k) sum += spectra.at(hz * k) / std::sqrt(static_cast<float>(k));
            out[f][static_cast<std::size_t>(s)] = sum;
            top = std::max(top, sum);
        }
        for (float& v : out[f]) v /= top;
    }
    return out;
}

/// The path of states that gathers most strength for its movement.
std::vector<int> follow(const Strengths& strength) {
    const std::size_t n = strength.size();
    std::vector<std::array<std::int8_t, kStates>> from(n);
    std::array<float, kStates> score = strength[0], next{};
    for (std::size_t f = 1; f < n; ++f) {
        for (int s = 0; s < kStates; ++s) {
            float best = -1e30F;
            for (int d = -kFastest; d <= kFastest; ++d) {
                const int p = s + d;
                if (p < 0 || p >= kStates) continue;
                const float v = score[static_cast<std::size_t>(p)] - kMoveCost * static_cast<float>(std::abs(d));
                if (v > best) best = v, from[f][static_cast<std::size_t>(s)] = static_cast<std::int8_t>(d);
            }
            next[static_cast<std::size_t>(s)] = best + strength[f][static_cast<std::size_t>(s)];
        }
        score = next;
    }
    std::vector<int> path(n);
    int s = static_cast<int>(std::max_element(score.begin(), score.end()) - score.begin());
    for (std::size_t f = n; f-- > 0;) {
        path[f] = s;
        s += from[f][static_cast<std::size_t>(s)];
    }
    return path;
}

/// Keeps the points a curve needs to stay within kTolerance of itself (Ramer 1972, Douglas & Peucker 1973).
void simplify(const std::vector<HeardBend>& curve, std::size_t a, std::size_t b, std::vector<char>& keep) {
    double worst = kTolerance;
    std::size_t at = a;
    for (std::size_t i = a + 1; i < b; ++i) {
        const double share = (curve[i].offset_s - curve[a].offset_s) / (curve[b].offset_s - curve[a].offset_s);
        const double off = std::abs(curve[i].cents - curve[a].cents - share * (curve[b].cents - curve[a].cents));
        if (off > worst) worst = off, at = i;
    }
    if (at == a) return;
    keep[at] = 1;
    simplify(curve, a, at, keep);
    simplify(curve, at, b, keep);
}

/// The way a note's pitch goes, ends left out, and how well it is heard there.
struct Course {
    std::vector<HeardBend> curve;
    double range_cents = 0.0;
    double clear = 0.0;       ///< the mean share of a moment's best strength along the way
    double stands_out = 0.0;  ///< by how much that is more than what lies around
    double gain = 0.0;        ///< over the best straight pitch, where it moves
    bool home = false;        ///< mostly within 70 cents of the note: else it is another note
};

std::optional<Course> course_of(const MonoSignal& signal, Spectra& spectra, const HeardNote& note, double tuning_cents) {
    // The ends of a note share their spectra with its neighbours and tell nothing of its own pitch.
    const double begin = note.onset_s + 0.02, end = note.onset_s + note.duration_s - 0.035;
    const auto frames = static_cast<std::size_t>(std::max(0.0, std::floor((end - begin) * kAnalysisRate / kStep)));
    if (frames < 10) return std::nullopt;
    const double f0 = 440.0 * std::exp2((note.pitch - 69) / 12.0 + tuning_cents / 1200.0);
    const Strengths strength = strengths_of(signal, spectra, f0, begin, frames);
    const std::vector<int> path = follow(strength);
    Course out;
    const auto [low, high] = std::minmax_element(path.begin(), path.end());
    out.range_cents = (*high - *low) * kGrid;
    float along = 0.0F, straight = 0.0F, all = 0.0F;
    for (std::size_t f = 0; f < frames; ++f) along += strength[f][static_cast<std::size_t>(path[f])];
    for (int s = 0; s < kStates; ++s) {
        float sum = 0.0F;
        for (std::size_t f = 0; f < frames; ++f) sum += strength[f][static_cast<std::size_t>(s)];
        straight = std::max(straight, sum);
        all += sum;
    }
    const auto count = static_cast<double>(frames);
    out.clear = along / count;
    out.stands_out = (along - all / kStates) / count;
    // The gain is made where the pitch moves, which may be a small share of a long note: it is counted over a fifth of a second at least.
    out.gain = (along - straight) / std::clamp(count, 1.0, 17.0);
    const auto home = std::count_if(path.begin(), path.end(), [](int s) { return std::abs(s - kCentre) * kGrid <= 70.0; });
    out.home = home >= static_cast<std::ptrdiff_t>(frames) * 2 / 5;
    for (std::size_t f = 0; f < frames; ++f) {
        // A point between grid lines, from the three strengths around the path.
        const int s = path[f];
        double cents = (s - kCentre) * kGrid;
        if (s > 0 && s + 1 < kStates) {
            const auto at = [&](int k) { return static_cast<double>(strength[f][static_cast<std::size_t>(k)]); };
            const double curvature = at(s - 1) - 2 * at(s) + at(s + 1);
            if (curvature < -1e-6) cents += kGrid * std::clamp(0.5 * (at(s - 1) - at(s + 1)) / curvature, -0.5, 0.5);
        }
        out.curve.push_back({0.02 + static_cast<double>(f * kStep) / kAnalysisRate, cents});
    }
    return out;
}

double usual_cents(const std::vector<HeardBend>& curve) {
    std::vector<double> cents;
    for (const HeardBend& b : curve) cents.push_back(b.cents);
    return median(cents);
}

/// The few points that tell a curve, from the note's onset on.
std::vector<HeardBend> few_points(std::vector<HeardBend> curve) {
    curve.front().offset_s = 0.0;
    std::vector<char> keep(curve.size(), 0);
    keep.front() = keep.back() = 1;
    simplify(curve, 0, curve.size() - 1, keep);
    std::vector<HeardBend> out;
    for (std::size_t i = 0; i < curve.size(); ++i)
        if (keep[i]) out.push_back({curve[i].offset_s, std::round(curve[i].cents)});
    return out;
}

std::vector<HeardBend> bend_of(const MonoSignal& signal, Spectra& spectra, const HeardNote& note, double tuning_cents) {
    auto course = course_of(signal, spectra, note, tuning_cents);
    if (!course || course->range_cents < kLeastRange || course->gain < kLeastGain || course->clear < kLeastClear || !course->home) return {};
    // An instrument a few cents beside the recording's tuning is no bend.
    const double usual = usual_cents(course->curve);
    if (std::abs(usual) < 25.0)
        for (HeardBend& b : course->curve) b.cents -= usual;
    return few_points(std::move(course->curve));
}

/// Below about 110 Hz the partials lie too close for the short window.
constexpr std::size_t kShort = 2048, kLong = 4096;
constexpr int kLowest = 45;

}  // namespace

void hear_bends(const MonoSignal& signal, double tuning_cents, std::vector<HeardNote>& line, const Progress& progress) {
    constexpr std::size_t kPiece = 64;
    parallel_for((line.size() + kPiece - 1) / kPiece, [&](std::size_t piece) {
        Spectra high(kShort), low(kLong);
        for (std::size_t i = piece * kPiece; i < std::min(line.size(), (piece + 1) * kPiece); ++i) {
            progress.checkpoint();
            line[i].bend = bend_of(signal, line[i].pitch < kLowest ? low : high, line[i], tuning_cents);
        }
    });
}

std::optional<std::vector<HeardBend>> hear_pitch(const MonoSignal& signal, double tuning_cents, const HeardNote& note) {
    constexpr double kLeastStandsOut = 0.2, kInTune_cents = 8.0;
    Spectra spectra(note.pitch < kLowest ? kLong : kShort);
    auto course = course_of(signal, spectra, note, tuning_cents);
    if (!course || course->clear < kLeastClear || course->stands_out < kLeastStandsOut || !course->home) return std::nullopt;
    if (course->range_cents >= kLeastRange && course->gain >= kLeastGain) return few_points(std::move(course->curve));
    const double usual = usual_cents(course->curve);
    if (std::abs(usual) < kInTune_cents) return std::vector<HeardBend>();
    return std::vector<HeardBend>{{0.0, std::round(usual)}};
}

}  // namespace fw
