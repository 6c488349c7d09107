// SPDX-License-Identifier: GPL-3.0-or-later
// Drum hits by peak picking on the evidence of each sound (Böck, Krebs & Schedl, "Evaluating the online capabilities of onset
// detection methods", ISMIR 2012), weighed by repetition: drummers play patterns, so a faint stroke where the bars around have
// one is likelier than a faint stroke anywhere (the idea of Paulus & Klapuri's pattern models, 2003, without training).
#include "analysis/decoders.hpp"
#include "analysis/network.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

/// Power is taken to grow with this power of velocity: synthesisers and SoundFonts follow the fourth; a little more keeps what is uncertain
/// about a stroke's loudness out of its velocity.
constexpr float kPowerOfVelocity = 5.0F, kMiddleVelocity = 100.0F;

/// Whether a bass note begins at a pulse frame.
bool bass_begins(const Evidence& e, Eigen::Index pulse_frame) {
    const auto f = static_cast<std::size_t>(std::lround(Evidence::pitch_frame(Evidence::pulse_time(static_cast<double>(pulse_frame)))));
    for (std::size_t g = f > 0 ? f - 1 : 0; g <= f + 1 && g < e.bass_onset.frames(); ++g)
        for (std::size_t p = 0; p < Evidence::kPitches; ++p)
            if (e.bass_onset.at(g, p) > 0.3F) return true;
    return false;
}

/// Mean evidence of a sound at the same place of up to eight bars on each side; negative where there are too few.
float elsewhere(const std::vector<float>& evidence, const std::vector<Beat>& beats, double time_s) {
    const auto next = std::upper_bound(beats.begin(), beats.end(), time_s + 0.03, [](double t, const Beat& b) { return t < b.time_s; });
    if (next == beats.begin() || next == beats.end()) return -1.0F;
    const auto i = static_cast<std::ptrdiff_t>(next - beats.begin()) - 1;
    const double share = (time_s - beats[static_cast<std::size_t>(i)].time_s) / (next->time_s - beats[static_cast<std::size_t>(i)].time_s);
    int per_bar = 0;
    for (std::ptrdiff_t j = std::max<std::ptrdiff_t>(0, i - 8); j < std::min<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(beats.size()), i + 9); ++j)
        per_bar = std::max(per_bar, beats[static_cast<std::size_t>(j)].beat);
    float sum = 0.0F;
    int count = 0;
    for (int k = -8; k <= 8; ++k) {
        const std::ptrdiff_t j = i + k * per_bar;
        if (k == 0 || j < 0 || j + 1 >= static_cast<std::ptrdiff_t>(beats.size())) continue;
        const double t =
            beats[static_cast<std::size_t>(j)].time_s + share * (beats[static_cast<std::size_t>(j + 1)].time_s - beats[static_cast<std::size_t>(j)].time_s);
        const std::ptrdiff_t f = std::lround(Evidence::pulse_frame(t));
        if (f < 2 || f + 2 >= static_cast<std::ptrdiff_t>(evidence.size())) continue;
        sum += *std::max_element(evidence.begin() + f - 2, evidence.begin() + f + 3);
        ++count;
    }
    return count >= 4 ? sum / static_cast<float>(count) : -1.0F;
}

/// Sounds that resemble one another answer for one stroke together: the likeliest is kept, and others only where they are sure as well,
/// as a clap laid over a snare is.
void settle(std::vector<Hit>& hits) {
    constexpr double kTogether = 0.03, kSure = 0.6;
    const auto family = [](DrumKind kind) {
        switch (kind) {
            case DrumKind::Snare:
            case DrumKind::Clap:
            case DrumKind::Rim: return 1;
            case DrumKind::HatClosed:
            case DrumKind::HatOpen:
            case DrumKind::Ride:
            case DrumKind::Percussion: return 2;
            default: return 0;
        }
    };
    std::vector<char> drop(hits.size(), 0);
    for (std::size_t i = 0; i < hits.size(); ++i)
        for (std::size_t j = i + 1; j < hits.size() && hits[j].time_s - hits[i].time_s < kTogether; ++j) {
            if (family(hits[i].kind) == 0 || family(hits[i].kind) != family(hits[j].kind) || hits[i].kind == hits[j].kind) continue;
            const std::size_t fainter = hits[j].confidence <= hits[i].confidence ? j : i;
            drop[fainter] |= hits[fainter].confidence < kSure;
        }
    std::size_t kept = 0;
    for (std::size_t i = 0; i < hits.size(); ++i)
        if (!drop[i]) hits[kept++] = hits[i];
    hits.resize(kept);
}

}  // namespace

std::vector<Hit> decode_drums(const Evidence& e, const std::vector<Beat>& beats, const DrumOptions& options) {
    std::vector<Hit> hits;
    const Frames& pulse = e.pulse;
    for (int column = 0; column < kDrumKinds; ++column) {
        const auto kind = static_cast<DrumKind>(column);
        std::vector<Hit> found;
        std::vector<Stroke> strokes;
        std::vector<Stroke> peaks;
        std::vector<float> clear;
        for (Eigen::Index f = 0; f < pulse.rows(); ++f) {
            const float v = pulse(f, column);
            if (v < 0.04F) continue;
            bool peak = true;
            for (Eigen::Index g = std::max<Eigen::Index>(0, f - 2); g <= std::min(f + 2, pulse.rows() - 1); ++g)
                peak &= g == f || (g < f ? pulse(g, column) < v : pulse(g, column) <= v);
            if (!peak) continue;
            peaks.push_back({static_cast<std::size_t>(f), v});
            if (v > 0.15F) clear.push_back(v);
        }
        float least = options.threshold[static_cast<std::size_t>(column)], least_with_bass = least;
        std::vector<float> odds;
        for (const Stroke& peak : peaks) odds.push_back(log_odds(peak.evidence));
        if (clear.size() >= 8) {
            const auto at = clear.begin() + static_cast<std::ptrdiff_t>(clear.size() * 9 / 10);
            std::nth_element(clear.begin(), at, clear.end());
            // What is heard faintly beside clear strokes may be something else that resembles the drum: its sound tells.
            const DrumLikeness& how = options.likeness[static_cast<std::size_t>(column)];
            const auto alike = how.weight > 0.0F ? likeness(e.spectra, peaks, *at, how) : std::vector<float>{};
            for (std::size_t i = 0; i < alike.size(); ++i) odds[i] += how.weight * (alike[i] + how.softer);
            if (alike.empty()) least = std::max(least, options.relative[static_cast<std::size_t>(column)] * *at);
            if (kind == DrumKind::Kick) least_with_bass = std::max(least, options.kick_with_bass * *at);
        }
        std::vector<float> judged(static_cast<std::size_t>(pulse.rows()));
        for (std::size_t f = 0; f < judged.size(); ++f) judged[f] = pulse(static_cast<Eigen::Index>(f), column);
        for (std::size_t i = 0; i < peaks.size(); ++i) {
            const std::size_t f = peaks[i].frame;
            for (std::size_t g = f - std::min<std::size_t>(f, 2); g <= f + 2 && g < judged.size(); ++g) judged[g] = std::min(judged[g], sigmoid(odds[i]));
            judged[f] = sigmoid(odds[i]);
        }
        for (std::size_t i = 0; i < peaks.size(); ++i) {
            const auto f = static_cast<Eigen::Index>(peaks[i].frame);
            const float threshold = kind == DrumKind::Kick && bass_begins(e, f) ? least_with_bass : least;
            double sum = 0.0, weight = 0.0;
            for (Eigen::Index g = std::max<Eigen::Index>(0, f - 1); g <= std::min(f + 1, pulse.rows() - 1); ++g)
                sum += static_cast<double>(g) * pulse(g, column), weight += pulse(g, column);
            const double time = Evidence::pulse_time(sum / weight);
            const float others = beats.empty() || options.repetition == 0.0F ? -1.0F : elsewhere(judged, beats, time);
            const float sure = odds[i] + (others < 0.0F ? 0.0F : options.repetition * (log_odds(others) - log_odds(threshold)));
            if (sure < log_odds(threshold) - options.slack) continue;
            found.push_back({time, kind, 0, sigmoid(sure)});
            strokes.push_back({peaks[i].frame, peaks[i].evidence});
        }
        // Told against the same sound's other strokes, since a mix says nothing of the player's absolute force.
        const auto loud = loudness(e.spectra, strokes, kind == DrumKind::HatClosed || kind == DrumKind::HatOpen);
        for (std::size_t i = 0; i < found.size(); ++i) {
            found[i].velocity = std::clamp(static_cast<int>(std::lround(kMiddleVelocity * std::exp(loud[i] / kPowerOfVelocity))), 12, 127);
            hits.push_back(found[i]);
        }
    }
    std::sort(hits.begin(), hits.end(), [](const Hit& a, const Hit& b) { return a.time_s != b.time_s ? a.time_s < b.time_s : a.kind < b.kind; });
    settle(hits);
    return hits;
}

}  // namespace fw
