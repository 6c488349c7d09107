// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/freed.hpp"

#include "base/pitch.hpp"
#include "check/share.hpp"
#include "dsp/fft.hpp"
#include "fit/moments.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

namespace fw {

namespace {

constexpr float kSilence = 1e-6F;

/// Magnitudes, frame by frame.
using Grid = std::vector<std::vector<float>>;

/// Short spectra of a sound and the way back, a quarter of a frame apart.
class Spectra {
public:
    Spectra(std::size_t frames, double rate)
        : size_(rate > 66'000.0 ? 8192 : 4096), hop_(size_ / 4), frames_(frames), there_(size_), back_(size_), window_(hann_window(size_)) {}
    std::size_t steps() const { return frames_ / hop_ + size_ / hop_; }
    std::size_t bins() const { return there_.bins(); }
    std::size_t size() const { return size_; }

    Grid magnitudes(const Audio& sound) {
        Grid grid;
        for (std::size_t s = 0; s < steps(); ++s) {
            auto& row = grid.emplace_back();
            for (const auto& bin : at(sound, s, [](const Audio&a, std::size_t i) { return a.samples[2 * i] + a.samples[2 * i + 1]; }))
                row.push_back(std::abs(bin) + kSilence);
        }
        return grid;
    }

    /// The sound with each place of its spectrum made softer by so much.
    Audio weighed(const Audio& sound, const Grid& weights) {
        Audio out = sound;
        std::fill(out.samples.begin(), out.samples.end(), 0.0F);
        // The square of the window, a quarter apart, sums to one and a half.
        const float scale = 1.0F / (1.5F * static_cast<float>(size_));
        for (std::size_t c = 0; c < 2; ++c)
            for (std::size_t s = 0; s < steps(); ++s) {
                const auto bins = at(sound, s, [c](const Audio& a, std::size_t i) { return a.samples[2 * i + c]; });
                for (std::size_t k = 0; k < bins.size(); ++k) back_.input()[k] = bins[k] * weights[s][k];
                const auto y = back_.transform();
                for (std::size_t i = 0; i < size_; ++i)
                    if (const auto frame = frame_at(s, i); frame < out.frames()) out.samples[2 * frame + c] += scale * window_[i] * y[i];
            }
        return out;
    }

private:
    /// Where a place of a frame lies in the sound; beyond its end where it lies before its beginning.
    std::size_t frame_at(std::size_t step, std::size_t i) const { return step * hop_ + i - (size_ - hop_); }
    template <class Sample>
    std::span<const std::complex<float>> at(const Audio& sound, std::size_t step, Sample sample) {
        const auto in = there_.input();
        for (std::size_t i = 0; i < size_; ++i) {
            const auto frame = frame_at(step, i);
            in[i] = frame < sound.frames() ? window_[i] * sample(sound, frame) : 0.0F;
        }
        return there_.transform();
    }

    std::size_t size_, hop_, frames_;
    RealFft there_;
    InverseRealFft back_;
    std::unique_ptr<float[]> window_;
};

/// Magnitudes as they would be at another pitch: the loudest within one bin and one frame.
Grid brought_to(const Grid& from, double ratio) {
    const std::size_t steps = from.size(), bins = from.front().size();
    Grid out(steps, std::vector<float>(bins, kSilence));
    for (std::size_t s = 0; s < steps; ++s)
        for (std::size_t k = 0; k < bins; ++k) {
            const double place = static_cast<double>(k) * ratio;
            const auto first = static_cast<std::size_t>(std::max(0.0, place - 1.0)), last = std::min(bins - 1, static_cast<std::size_t>(place) + 2);
            // What would lie beyond the spectrum is not known there.
            if (first >= bins) out[s][k] = 1e9F;
            for (std::size_t beside = s > 0 ? s - 1 : 0; beside <= std::min(steps - 1, s + 1); ++beside)
                for (std::size_t i = first; i <= last; ++i) out[s][k] = std::max(out[s][k], from[beside][i]);
        }
    return out;
}

/// How much louder another is: the middle of what places of it are, each as heavy as it is loud.
float level_against(const Grid& other, const Grid& own, const std::vector<std::size_t>& bins) {
    std::vector<std::pair<float, float>> ratios;
    float all = 0.0F, top = 0.0F;
    for (const auto& row : own)
        for (const std::size_t k : bins) top = std::max(top, row[k]);
    for (std::size_t s = 0; s < own.size(); ++s)
        for (const std::size_t k : bins)
            if (own[s][k] > 0.02F * top) ratios.emplace_back(other[s][k] / own[s][k], own[s][k]), all += own[s][k];
    std::sort(ratios.begin(), ratios.end());
    float sum = 0.0F;
    for (const auto& [ratio, weight] : ratios)
        if ((sum += weight) >= 0.5F * all) return ratio;
    return 1.0F;
}

/// How much of a frequency may be the sound's own, from what is known of its pitch.
float kept_at(double hz, double bin_hz, const InCommon& how) {
    constexpr double kEdge = 0.75, kSteep = 12.0, kAside = 0.03;
    constexpr float kBetween = 0.1F;
    if (how.hz <= 0.0) return 1.0F;
    const double below = how.cut_below ? 1.0 / std::sqrt(1.0 + std::pow(kEdge * how.hz / std::max(1.0, hz), kSteep)) : 1.0;
    const double nearest = how.hz * std::max(1.0, std::round(hz / how.hz));
    const bool partial = std::abs(hz - nearest) < std::max(2.0 * bin_hz, kAside * hz);
    return static_cast<float>(below) * (how.partials && !partial ? kBetween : 1.0F);
}

struct Played {
    double at_s = 0.0, confidence = 0.0;
    int pitch = -1;
};

constexpr std::size_t kMost = 24, kFew = 3;

std::vector<Played> surest(std::vector<Played> all) {
    std::stable_sort(all.begin(), all.end(), [](const Played& a, const Played& b) { return a.confidence > b.confidence; });
    if (all.size() > kMost) all.resize(kMost);
    return all;
}

}  // namespace

Audio in_common(const std::vector<Occurrence>& all, const InCommon& how) {
    const Audio& sound = all.front().sound;
    if (all.size() < 2 || sound.frames() == 0) return sound;
    const double rate = sound.sample_rate_hz;
    Spectra spectra(sound.frames(), rate);
    const Grid own = spectra.magnitudes(sound);
    std::vector<std::size_t> tell_level;
    constexpr int kPartials = 4;
    const double bin_hz = rate / static_cast<double>(spectra.size());
    for (int k = 1; k <= kPartials && how.hz > 0.0; ++k)
        tell_level.push_back(std::min(spectra.bins() - 1, static_cast<std::size_t>(std::lround(k * how.hz / bin_hz))));
    for (std::size_t k = 0; k < spectra.bins() && how.hz <= 0.0; ++k) tell_level.push_back(k);
    std::vector<Grid> others;
    for (std::size_t i = 1; i < all.size(); ++i) {
        Grid& other = others.emplace_back(brought_to(spectra.magnitudes(all[i].sound), all[i].ratio));
        const float louder = level_against(other, own, tell_level);
        for (auto& row : other)
            for (float& m : row) m /= louder;
    }
    const std::size_t least = std::min(how.spared, others.size() - 1);
    Grid weights(own.size(), std::vector<float>(spectra.bins()));
    std::vector<float> here(others.size());
    for (std::size_t k = 0; k < spectra.bins(); ++k) {
        const float most = kept_at(static_cast<double>(k) * bin_hz, bin_hz, how);
        for (std::size_t s = 0; s < own.size(); ++s) {
            for (std::size_t i = 0; i < others.size(); ++i) here[i] = others[i][s][k];
            std::nth_element(here.begin(), here.begin() + static_cast<std::ptrdiff_t>(least), here.end());
            weights[s][k] = most * std::min(1.0F, here[least] / own[s][k]);
        }
    }
    return spectra.weighed(sound, weights);
}

Audio freed(const Audio& recording, const Analysis& analysis, const Remake& remake, PartId part, const ClearMoment& moment, double end_s) {
    const Part* p = remake.part(part);
    const bool drums = moment.pitch < 0;
    std::vector<Played> others;
    bool together = false, lower = false;
    if (drums) {
        for (const Hit& h : analysis.drums)
            if (h.kind == moment.kind && std::abs(h.time_s - moment.start_s) > 0.05) others.push_back({h.time_s, h.confidence, -1});
    } else if (p) {
        constexpr int kNear = 5;
        constexpr double kSure = 0.5, kAsLong = 0.7, kTouches_s = 0.03;
        const double long_s = moment.end_s - moment.start_s;
        for (const HeardPart& heard : analysis.parts) {
            const bool own = heard.is_of(p->role, p->name);
            for (const HeardNote& n : heard.notes) {
                const bool beside = n.onset_s < moment.end_s - kTouches_s && n.onset_s + n.duration_s > moment.start_s + kTouches_s;
                lower = lower || (beside && n.pitch < moment.pitch);
                if (!own) continue;
                together = together || (beside && n.pitch != moment.pitch);
                if (std::abs(n.pitch - moment.pitch) <= kNear && std::abs(n.onset_s - moment.start_s) > 0.1 && n.duration_s > kAsLong * long_s &&
                    n.confidence > kSure)
                    others.push_back({n.onset_s, n.confidence, n.pitch});
            }
        }
    }
    others = surest(std::move(others));
    if (others.size() < kFew)
        return cut_out(recording, moment.start_s, end_s,
                       drums ? share_of_drum(analysis, moment.kind)
                       : p   ? share_of(analysis, remake, ElementId(part))
                             : nullptr);
    std::vector<Occurrence> all{{cut_out(recording, moment.start_s, end_s)}};
    for (const Played& o : others)
        all.push_back({cut_out(recording, o.at_s, o.at_s + end_s - moment.start_s), drums ? 1.0 : std::exp2((o.pitch - moment.pitch) / 12.0)});
    constexpr std::size_t kMany = 8;
    return in_common(all, {drums ? 0.0 : hertz_of(moment.pitch + analysis.tuning.cents / 100.0), others.size() >= kMany ? 1U : 0U, lower, together});
}

}  // namespace fw
