// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/hum.hpp"

#include "base/pitch.hpp"
#include "dsp/probe.hpp"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace fw {

namespace {

constexpr double kHop_s = 0.01;

struct Frame {
    double pitch = 0.0;   ///< MIDI, with its fraction
    double clear = 0.0;   ///< 0: no voice
    double level = -120;  ///< dB
};

std::vector<Frame> followed(std::span<const float> mono, double rate) {
    constexpr double kLow_hz = 70.0, kHigh_hz = 1400.0, kClear = 0.75;
    const auto hop = static_cast<std::size_t>(kHop_s * rate), reach = static_cast<std::size_t>(0.03 * rate);
    std::vector<Frame> frames;
    double loudest = -120.0;
    for (std::size_t at = 0; at + 1 < mono.size(); at += hop) {
        Frame f;
        double power = 0.0;
        const std::size_t end = std::min(mono.size(), at + hop);
        for (std::size_t i = at; i < end; ++i) power += static_cast<double>(mono[i]) * mono[i];
        f.level = 10.0 * std::log10(power / static_cast<double>(end - at) + 1e-12);
        loudest = std::max(loudest, f.level);
        frames.push_back(f);
    }
    for (std::size_t k = 0; k < frames.size(); ++k) {
        if (frames[k].level < std::max(-70.0, loudest - 45.0)) continue;
        const std::size_t middle = k * hop + hop / 2, from = middle > reach ? middle - reach : 0, to = std::min(mono.size(), middle + reach);
        const auto found = probe_pitch(mono.subspan(from, to - from), rate, kLow_hz, kHigh_hz);
        if (!found || found->clear < kClear) continue;
        frames[k].pitch = pitch_of(found->hz);
        frames[k].clear = found->clear;
    }
    // Single frames an octave off among their neighbours are mistakes.
    for (std::size_t k = 1; k + 1 < frames.size(); ++k) {
        const Frame &a = frames[k - 1], &b = frames[k + 1];
        if (frames[k].clear > 0 && a.clear > 0 && b.clear > 0 && std::abs(a.pitch - b.pitch) < 1.0 && std::abs(frames[k].pitch - a.pitch) > 6.0)
            frames[k].pitch = 0.5 * (a.pitch + b.pitch);
    }
    return frames;
}

/// How far the voice lies above the nearest semitones: a circular mean, in semitones.
double sharpness(const std::vector<Frame>& frames) {
    std::complex<double> sum = 0.0;
    for (const Frame& f : frames)
        if (f.clear > 0) sum += std::polar(f.clear, 2.0 * std::numbers::pi * f.pitch);
    return std::abs(sum) > 1e-9 ? std::arg(sum) / (2.0 * std::numbers::pi) : 0.0;
}

}  // namespace

Hummed notes_of_voice(std::span<const float> mono, double rate, const std::optional<Key>& key) {
    Hummed out;
    if (mono.empty() || rate < 8000.0) return out;
    auto frames = followed(mono, rate);
    const double sharp = sharpness(frames);
    int low = 127, high = 0;
    for (Frame& f : frames) {
        if (f.clear <= 0) continue;
        f.pitch -= sharp;
        low = std::min(low, static_cast<int>(std::floor(f.pitch)) - 1), high = std::max(high, static_cast<int>(std::ceil(f.pitch)) + 1);
    }
    if (high < low) return out;
    out.sharp_cents = 100.0 * sharp;
    std::vector<int> tones;
    const auto scale = key ? key->scale() : std::array<int, 7>{};
    for (int p = low; p <= high; ++p)
        if (!key || std::find(scale.begin(), scale.end(), pitch_class(p)) != scale.end()) tones.push_back(p);
    if (tones.empty()) return out;

    // Costs: a tone half a semitone off costs as much as leaving it, spread over the shortest note that is believed.
    constexpr double kSigma = 0.45, kLeave = 9.0, kFarOff = 6.0, kSilentTone = 2.0, kVoicedSilence = 2.5;
    const std::size_t states = tones.size() + 1;  // the last: silence
    std::vector<double> cost(states, 0.0), next(states);
    std::vector<std::vector<std::uint16_t>> from(frames.size(), std::vector<std::uint16_t>(states));
    for (std::size_t k = 0; k < frames.size(); ++k) {
        const auto best = static_cast<std::size_t>(std::min_element(cost.begin(), cost.end()) - cost.begin());
        for (std::size_t s = 0; s < states; ++s) {
            const bool leaves = cost[best] + kLeave < cost[s];
            from[k][s] = static_cast<std::uint16_t>(leaves ? best : s);
            const bool silence = s + 1 == states;
            double here = 0.0;
            if (frames[k].clear <= 0) here = silence ? 0.0 : kSilentTone;
            else if (silence) here = kVoicedSilence;
            else {
                const double off = (frames[k].pitch - tones[s]) / kSigma;
                here = std::min(kFarOff, 0.5 * off * off);
            }
            next[s] = (leaves ? cost[best] + kLeave : cost[s]) + here;
        }
        std::swap(cost, next);
    }
    std::vector<std::size_t> way(frames.size());
    auto at = static_cast<std::size_t>(std::min_element(cost.begin(), cost.end()) - cost.begin());
    for (std::size_t k = frames.size(); k-- > 0;) way[k] = at, at = from[k][at];

    double loudest = -120.0;
    for (const Frame& f : frames) loudest = std::max(loudest, f.level);
    constexpr double kDip_db = 7.0, kShortest_s = 0.07;
    const auto end_note = [&](std::size_t a, std::size_t b) {
        if (static_cast<double>(b - a) * kHop_s < kShortest_s) return;
        double level = -120.0, clear = 0.0;
        for (std::size_t k = a; k < b; ++k) level = std::max(level, frames[k].level), clear += frames[k].clear / static_cast<double>(b - a);
        HeardNote n;
        n.onset_s = static_cast<double>(a) * kHop_s;
        n.duration_s = static_cast<double>(b - a) * kHop_s;
        n.pitch = tones[way[a]];
        n.velocity = std::clamp(static_cast<int>(std::lround(104.0 + 1.6 * (level - loudest))), 24, 127);
        n.confidence = std::clamp(clear, 0.0, 1.0);
        out.notes.push_back(n);
    };
    for (std::size_t k = 0; k < way.size();) {
        std::size_t end = k + 1;
        while (end < way.size() && way[end] == way[k]) ++end;
        if (way[k] + 1 < states) {
            // Within one tone a dip of the level and its rise again are another stroke.
            std::size_t begin = k;
            double peak = frames[k].level, dip = 1e9;
            std::size_t lowest = k;
            for (std::size_t i = k; i < end; ++i) {
                if (frames[i].level < dip) dip = frames[i].level, lowest = i;
                if (dip < peak - kDip_db && frames[i].level > dip + kDip_db && lowest > begin) {
                    end_note(begin, lowest);
                    begin = lowest, peak = frames[i].level, dip = frames[i].level;
                }
                if (frames[i].level > peak) peak = frames[i].level, dip = peak, lowest = i;
            }
            end_note(begin, end);
        }
        k = end;
    }
    return out;
}

}  // namespace fw
