// SPDX-License-Identifier: GPL-3.0-or-later
// A song's own drums: most songs strike the same few sounds over and over, so a stroke in doubt is compared with the clear ones.
// The sound is the median of what rises at the clear strokes; how much of it a doubtful stroke can hold is a lower quantile of the
// ratio of what is heard to that sound. What else sounds only adds power, so a masked stroke keeps its ratio, while a stroke of
// something else lacks some of the bands. How hard it was struck is told in the same way by the middle of those ratios, over the bands
// where the drum stands out of the song. (Template adaptation after Yoshii, Goto & Okuno, "Drum sound recognition for polyphonic
// audio signals by adaptation and matching of spectrogram templates", IEEE TASLP 15(1), 2007, on the evidence of a network.)
#include "analysis/decoders.hpp"
#include "base/ranks.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace fw {

namespace {

constexpr std::size_t kBands = MelSpectra::kBands, kLength = 4;  // frames: with the long window's reach they hold what tells a stroke
constexpr std::size_t kCells = kBands * kLength;
constexpr float kFloor = 1e-3F;  // a power below the resolution of the spectra
constexpr float kClear = 0.8F;   // of the evidence that the clearest tenth reaches
constexpr std::size_t kLeastClear = 5, kMostClear = 300;
constexpr double kStretchFrames = 240.0 * kAnalysisRate / MelSpectra::kHop;  // a medley changes its drums
constexpr float kLeast = -4.0F, kMost = 2.0F;
using Cells = std::array<float, kCells>;

float power_of(float level) { return std::pow(10.0F, 4.0F * level) - 1.0F; }

/// What rises at a stroke above what sounded just before it: power per frame and band.
Cells risen(const ByteGrid& spectra, std::size_t frame) {
    Cells out{};
    for (std::size_t b = 0; b < kBands; ++b) {
        float before = frame < 2 ? 0.0F : 1.0F;
        for (std::size_t f = frame - std::min<std::size_t>(frame, 4); f + 1 < frame; ++f) before = std::min(before, spectra.at(f, b));
        for (std::size_t t = 0; t < kLength; ++t)
            out[t * kBands + b] = std::max(0.0F, power_of(spectra.at(std::min(frame + t, spectra.frames() - 1), b)) - power_of(before));
    }
    return out;
}

/// The sound of a drum in one song: how its power is spread over frames and bands.
class Sound {
public:
    /// clear: frames of clear strokes. A cell weighs by its power to the exponent `emphasis`.
    Sound(const ByteGrid& spectra, const std::vector<std::size_t>& clear, float emphasis) : spectra_(spectra) {
        for (std::size_t level = 0; level < log_power_of_.size(); ++level)
            log_power_of_[level] = std::log(power_of(static_cast<float>(level) / 255.0F) + kFloor);
        std::vector<Cells> logs;
        for (const std::size_t f : clear) {
            Cells cells = risen(spectra, f);
            const float sum = std::accumulate(cells.begin(), cells.end(), kFloor);
            for (float& c : cells) c = std::log(c + kFloor) - std::log(sum);
            logs.push_back(cells);
        }
        std::vector<float> column(logs.size());
        for (std::size_t c = 0; c < kCells; ++c) {
            for (std::size_t i = 0; i < logs.size(); ++i) column[i] = logs[i][c];
            log_power_[c] = median(column);
            weight_[c] = std::exp(emphasis * log_power_[c]);
        }
    }

    /// Makes every band weigh so many times what it did.
    template <typename F>
    void weigh(F times) {
        for (std::size_t c = 0; c < kCells; ++c) weight_[c] *= times(c % kBands);
    }

    /// How loud (natural logarithm of the power) the sound can be in what is heard at a frame: all but a share of its weight lies under it.
    float room(std::size_t frame, float share) const {
        std::array<std::pair<float, float>, kCells> ratios;
        for (std::size_t t = 0; t < kLength; ++t)
            for (std::size_t b = 0; b < kBands; ++b) {
                const float level = spectra_.at(std::min(frame + t, spectra_.frames() - 1), b);
                const std::size_t c = t * kBands + b;
                ratios[c] = {log_power_of_[static_cast<std::size_t>(level * 255.0F + 0.5F)] - log_power_[c], weight_[c]};
            }
        std::sort(ratios.begin(), ratios.end());
        const float all = std::accumulate(weight_.begin(), weight_.end(), 0.0F);
        float sum = 0.0F;
        for (const auto& [ratio, w] : ratios)
            if ((sum += w) >= share * all) return ratio;
        return ratios.back().first;
    }

private:
    const ByteGrid& spectra_;
    std::array<float, 256> log_power_of_{};
    Cells log_power_{}, weight_{};
};

/// Calls per_stretch(begin, end) for the strokes of every stretch of four minutes: a medley changes its drums.
template <typename F>
void by_stretch(const std::vector<Stroke>& strokes, F per_stretch) {
    for (std::size_t begin = 0, end = 0; begin < strokes.size(); begin = end) {
        const double last = static_cast<double>(strokes[begin].frame) + kStretchFrames;
        while (end < strokes.size() && static_cast<double>(strokes[end].frame) < last) ++end;
        per_stretch(begin, end);
    }
}

/// The frames of strokes begin .. end that reach an evidence, at most kMostClear of them.
std::vector<std::size_t> clear_ones(const std::vector<Stroke>& strokes, std::size_t begin, std::size_t end, float least) {
    std::vector<std::size_t> clear;
    for (std::size_t i = begin; i < end; ++i)
        if (strokes[i].evidence >= least) clear.push_back(strokes[i].frame);
    if (clear.size() > kMostClear) {
        for (std::size_t i = 0; i < kMostClear; ++i) clear[i] = clear[i * clear.size() / kMostClear];
        clear.resize(kMostClear);
    }
    return clear;
}

}  // namespace

std::vector<float> likeness(const ByteGrid& spectra, const std::vector<Stroke>& strokes, float clearest, const DrumLikeness& how) {
    std::vector<float> out;
    bool known = false;
    if (spectra.frames() == 0) return out;
    by_stretch(strokes, [&](std::size_t begin, std::size_t end) {
        out.resize(strokes.size(), -how.softer);
        const auto clear = clear_ones(strokes, begin, end, kClear * clearest);
        if (clear.size() < kLeastClear) return;
        known = true;
        const Sound sound(spectra, clear, how.power);
        std::vector<float> loud;
        for (const std::size_t f : clear) loud.push_back(sound.room(f, how.lacking));
        const float usual = median(loud);
        for (std::size_t i = begin; i < end; ++i) out[i] = std::clamp(sound.room(strokes[i].frame, how.lacking) - usual, kLeast, kMost);
    });
    if (!known) out.clear();
    return out;
}

std::vector<float> loudness(const ByteGrid& spectra, const std::vector<Stroke>& strokes, bool bright) {
    constexpr std::size_t kBright = 44;               // from about 4.5 kHz, where kicks and snares cover a hat least
    constexpr float kMiddle = 0.5F, kLoudest = 0.8F;  // beyond that it is mostly something else beside the stroke
    std::vector<float> out(strokes.size(), 0.0F);
    if (spectra.frames() == 0) return out;
    by_stretch(strokes, [&](std::size_t begin, std::size_t end) {
        std::vector<float> evidence;
        for (std::size_t i = begin; i < end; ++i) evidence.push_back(strokes[i].evidence);
        const auto clear = clear_ones(strokes, begin, end, median(evidence));
        if (clear.size() < kLeastClear) return;
        Sound sound(spectra, clear, bright ? 0.5F : 1.5F);
        if (bright) {
            sound.weigh([](std::size_t band) { return band < kBright ? 0.0F : 1.0F; });
        } else {
            // Against the mean power the song has in each band, seen every few frames; a band that is nearly empty is not told by its steps.
            std::array<float, kBands> usual{};
            float seen = 0.0F;
            for (std::size_t f = strokes[begin].frame; f < std::min(strokes[end - 1].frame + kLength, spectra.frames()); f += kLength, seen += 1.0F)
                for (std::size_t b = 0; b < kBands; ++b) usual[b] += power_of(spectra.at(f, b));
            sound.weigh([&](std::size_t band) { return 1.0F / (usual[band] / seen + power_of(2.0F / 255.0F)); });
        }
        std::vector<float> loud;
        for (std::size_t i = begin; i < end; ++i) loud.push_back(sound.room(strokes[i].frame, kMiddle));
        const float middle = median(loud);
        for (std::size_t i = begin; i < end; ++i) out[i] = std::min(kLoudest, loud[i - begin] - middle);
    });
    return out;
}

}  // namespace fw
