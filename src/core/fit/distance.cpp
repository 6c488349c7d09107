// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/distance.hpp"

#include "dsp/probe.hpp"
#include "fit/planned_fft.hpp"
#include "sound/approximations.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <utility>

namespace fw {

namespace {

constexpr std::array<std::size_t, 3> kSizes{512, 2048, 8192};
constexpr double kLowest_hz = 30.0, kPerOctave = 6.0, kFloor_db = 60.0;

/// Which bins are which band, for one size.
struct Bands {
    std::vector<std::pair<std::size_t, std::size_t>> bins;  ///< from … to before
};

Bands bands_of(std::size_t size, double rate, double per_octave) {
    Bands b;
    const double bin = rate / static_cast<double>(size), top = 0.45 * rate;
    std::size_t from = std::max<std::size_t>(1, static_cast<std::size_t>(std::lround(kLowest_hz / bin)));
    for (double edge = kLowest_hz; edge < top;) {
        edge *= std::exp2(1.0 / per_octave);
        const auto to = static_cast<std::size_t>(std::lround(std::min(edge, top) / bin));
        if (to <= from) continue;  // narrower than a bin: the next edge
        b.bins.emplace_back(from, to);
        from = to;
    }
    return b;
}

/// The bands of a size, put together once.
const Bands& bands_of_size(std::size_t size) {
    thread_local std::map<std::size_t, Bands> all;
    auto& one = all[size];
    if (one.bins.empty()) one = bands_of(size, SoundTarget::kRate, kPerOctave);
    return one;
}

/// In eight sums at a time, in the same order wherever the numbers lie: a search is to go the same way each time.
float sum_of(std::span<const float> x) {
    constexpr std::size_t kLanes = 8;
    std::array<float, kLanes> sums{};
    std::size_t i = 0;
    for (; i + kLanes <= x.size(); i += kLanes)
        for (std::size_t lane = 0; lane < kLanes; ++lane) sums[lane] += x[i + lane];
    for (std::size_t lane = 0; i < x.size(); ++i, ++lane) sums[lane] += x[i];
    return ((sums[0] + sums[4]) + (sums[1] + sums[5])) + ((sums[2] + sums[6]) + (sums[3] + sums[7]));
}

/// What is louder than the floor, of powers against the loudest of them, in decibels above it.
void above_floor(std::vector<float>& powers) {
    float loudest = 1e-12F;
    for (const float p : powers) loudest = std::max(loudest, p);
    const float scale = 1.0F / loudest;
    for (float& p : powers) p = std::max(0.0F, 3.01029996F * fast_log2(std::max(scale * p, 1e-12F)) + static_cast<float>(kFloor_db));
}

}  // namespace

struct SoundTarget::Look {
    std::array<std::vector<float>, kSizes.size()> bands;  ///< dB above the floor, frame by frame
    std::vector<float> level;                             ///< dB above the floor, 10 ms by 10 ms
    std::optional<double> hz;
    std::size_t frames = 0;
};

SoundTarget::Look SoundTarget::look_at(std::span<const float> mono, std::size_t frames, double near_hz) {
    Look look;
    look.frames = frames;
    // With silence before and behind it, so that every frame is whole.
    constexpr std::size_t kBefore = kSizes.back() / 2;
    thread_local std::vector<float> x, power;
    x.assign(kBefore + frames + kSizes.back(), 0.0F);
    std::copy_n(mono.begin(), std::min(frames, mono.size()), x.begin() + kBefore);
    for (std::size_t s = 0; s < kSizes.size(); ++s) {
        PlannedFft& p = PlannedFft::of(kSizes[s]);
        const Bands& bands = bands_of_size(kSizes[s]);
        const std::size_t size = kSizes[s], hop = size / 2;
        auto& out = look.bands[s];
        const std::span<float> in = p.fft.input();
        power.resize(p.fft.bins());
        for (std::size_t middle = 0; middle < frames; middle += hop) {
            const float* from = x.data() + kBefore + middle - hop;
            for (std::size_t i = 0; i < size; ++i) in[i] = from[i] * p.window[i];
            const auto bins = p.fft.transform();
            for (std::size_t k = 0; k < bins.size(); ++k) power[k] = bins[k].real() * bins[k].real() + bins[k].imag() * bins[k].imag();
            for (const auto& [a, b] : bands.bins) out.push_back(sum_of(std::span(power).subspan(a, b - a)));
        }
        above_floor(out);
    }
    constexpr std::size_t kStep = static_cast<std::size_t>(kRate / 100.0);
    for (std::size_t at = 0; at < frames; at += kStep) {
        float sum = 0.0F;
        for (std::size_t i = at; i < std::min(frames, at + kStep); ++i) sum += x[kBefore + i] * x[kBefore + i];
        look.level.push_back(sum);
    }
    above_floor(look.level);
    // In what is held, and no longer than a pitch needs.
    const std::size_t known = std::min(frames, mono.size()), skipped = std::min(known / 4, static_cast<std::size_t>(0.06 * kRate));
    const auto held = mono.subspan(skipped, std::min(known - skipped, static_cast<std::size_t>(0.3 * kRate)));
    // Near the pitch it is to have: another octave is another pitch all the same.
    if (const auto pitch = near_hz > 0.0 ? probe_pitch(held, kRate, std::max(25.0, near_hz / 2.6), std::min(4200.0, near_hz * 2.6)) : probe_pitch(held, kRate))
        look.hz = pitch->hz;
    return look;
}

SoundTarget::SoundTarget(std::span<const float> mono) : look_(std::make_unique<const Look>(look_at(mono, mono.size(), 0.0))) {}
SoundTarget::~SoundTarget() = default;
SoundTarget::SoundTarget(SoundTarget&&) noexcept = default;
SoundTarget& SoundTarget::operator=(SoundTarget&&) noexcept = default;

std::size_t SoundTarget::frames() const noexcept { return look_->frames; }
std::optional<double> SoundTarget::pitch_hz() const noexcept { return look_->hz; }

SoundDistance SoundTarget::distance_to(std::span<const float> mono) const {
    const Look other = look_at(mono, look_->frames, look_->hz.value_or(0.0));
    const auto apart = [](const std::vector<float>& a, const std::vector<float>& b) {
        double sum = 0.0, weight = 1e-9;
        for (std::size_t i = 0; i < std::min(a.size(), b.size()); ++i) {
            const double w = static_cast<double>(std::max(a[i], b[i])) / kFloor_db;
            sum += w * static_cast<double>(std::abs(a[i] - b[i]));
            weight += w;
        }
        return sum / weight;
    };
    SoundDistance d;
    for (std::size_t s = 0; s < kSizes.size(); ++s) d.tone += apart(look_->bands[s], other.bands[s]) / static_cast<double>(kSizes.size());
    d.envelope = apart(look_->level, other.level);
    constexpr double kSemitone = 4.0, kMost = 12.0;
    if (look_->hz && other.hz) d.pitch = std::min(kMost, kSemitone * 12.0 * std::abs(std::log2(*other.hz / *look_->hz)));
    else if (look_->hz || other.hz) d.pitch = 0.5 * kSemitone;  // one has a pitch, the other none that is clear
    return d;
}

std::vector<WantedGain> tone_asked(std::span<const float> sound, std::span<const float> target, double rate) {
    constexpr std::size_t kSize = 8192;
    constexpr double kHasEnergy_db = 40.0;
    const Bands bands = bands_of(kSize, rate, 3.0);
    const auto spectrum = [&](std::span<const float> x) {
        PlannedFft& planned = PlannedFft::of(kSize);
        auto& fft = planned.fft;
        const auto& window = planned.window;
        std::vector<double> power(bands.bins.size(), 1e-12);
        for (std::size_t at = 0; at < x.size(); at += kSize / 2) {
            for (std::size_t i = 0; i < kSize; ++i) fft.input()[i] = at + i < x.size() ? x[at + i] * window[i] : 0.0F;
            const auto bins = fft.transform();
            for (std::size_t b = 0; b < bands.bins.size(); ++b)
                for (std::size_t k = bands.bins[b].first; k < bands.bins[b].second; ++k) power[b] += static_cast<double>(std::norm(bins[k]));
        }
        for (double& p : power) p = 10.0 * std::log10(p);
        return power;
    };
    const auto a = spectrum(sound), b = spectrum(target);
    const double loudest = *std::max_element(b.begin(), b.end());
    std::vector<WantedGain> asked;
    double mean = 0.0;
    for (std::size_t i = 0; i < b.size(); ++i) {
        if (b[i] <= loudest - kHasEnergy_db) continue;
        const auto [from, to] = bands.bins[i];
        const double bin_hz = rate / static_cast<double>(kSize);
        asked.push_back({bin_hz * std::sqrt(static_cast<double>(from) * static_cast<double>(to)), b[i] - a[i], 1.0});
        mean += b[i] - a[i];
    }
    for (WantedGain& w : asked) w.db -= mean / static_cast<double>(asked.size());
    return asked;
}

double third_octave_difference_db(std::span<const float> sound, std::span<const float> target, double rate) {
    const auto asked = tone_asked(sound, target, rate);
    double sum = 0.0;
    for (const WantedGain& w : asked) sum += std::abs(w.db) / static_cast<double>(asked.size());
    return sum;
}

}  // namespace fw
