// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/voice_mending.hpp"

#include "audio/mono.hpp"
#include "base/pitch.hpp"
#include "dsp/fft.hpp"
#include "dsp/probe.hpp"

#include <rubberband/RubberBandStretcher.h>
#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <span>

namespace fw {

namespace {

constexpr std::size_t kSize = 2048, kHop = kSize / 4;

/// One side in frames of a Hann window, each passed to be changed, and laid over each other again.
template <class Change>
std::vector<float> by_frames(std::span<const float> in, Change&& change) {
    const auto window = hann_window(kSize);
    RealFft forward(kSize);
    InverseRealFft back(kSize);
    std::vector<float> padded(in.size() + 2 * kSize, 0.0F), out(padded.size(), 0.0F);
    std::copy(in.begin(), in.end(), padded.begin() + kSize);
    std::size_t frame = 0;
    for (std::size_t at = 0; at + kSize <= padded.size(); at += kHop, ++frame) {
        for (std::size_t i = 0; i < kSize; ++i) forward.input()[i] = padded[at + i] * window[i];
        const auto spectrum = forward.transform();
        std::copy(spectrum.begin(), spectrum.end(), back.input().begin());
        change(frame, back.input());
        const auto sound = back.transform();
        // Squared Hann windows a quarter apart add up to one and a half.
        for (std::size_t i = 0; i < kSize; ++i) out[at + i] += sound[i] * window[i] / (1.5F * static_cast<float>(kSize));
    }
    return {out.begin() + kSize, out.begin() + static_cast<std::ptrdiff_t>(kSize + in.size())};
}

}  // namespace

void lower_noise(Audio& a, double by_db) {
    const std::size_t frames = a.frames();
    if (by_db <= 0.0 || frames < 8 * kSize) return;
    constexpr double kQuiet = 0.1, kBelow_db = 10.0;
    const auto floor_gain = static_cast<float>(std::pow(10.0, -by_db / 20.0));
    std::array<std::vector<float>, 2> sides;
    for (std::size_t c = 0; c < 2; ++c) {
        std::vector<float> side(frames);
        for (std::size_t i = 0; i < frames; ++i) side[i] = a.samples[2 * i + c];
        std::vector<std::vector<float>> power;
        std::vector<double> level;
        (void)by_frames(side, [&](std::size_t, std::span<std::complex<float>> bins) {
            auto& p = power.emplace_back();
            double sum = 0.0;
            for (const auto& b : bins) p.push_back(std::norm(b)), sum += static_cast<double>(p.back());
            level.push_back(sum);
        });
        // Frames that reach over the ends are softer only for that.
        const std::size_t edge = kSize / kHop, first = std::min(edge, level.size()), last = level.size() > edge ? level.size() - edge : first;
        std::vector<std::size_t> order;
        for (std::size_t f = first; f < last; ++f) order.push_back(f);
        std::sort(order.begin(), order.end(), [&](std::size_t x, std::size_t y) { return level[x] < level[y]; });
        double mean = 0.0;
        for (const std::size_t f : order) mean += level[f] / static_cast<double>(order.size());
        order.resize(static_cast<std::size_t>(std::ceil(kQuiet * static_cast<double>(order.size()))));
        if (order.empty() || level[order.back()] > mean * std::pow(10.0, -kBelow_db / 10.0)) return;
        std::vector<float> noise(kSize / 2 + 1, 0.0F);
        for (const std::size_t f : order)
            for (std::size_t k = 0; k < noise.size(); ++k) noise[k] += power[f][k] / static_cast<float>(order.size());
        std::vector<float> before(noise.size(), floor_gain);
        sides[c] = by_frames(side, [&](std::size_t f, std::span<std::complex<float>> bins) {
            // A power twice the noise's mean is what noise itself often reaches: subtracted twice over.
            std::vector<float> gain(noise.size());
            for (std::size_t k = 0; k < noise.size(); ++k) {
                const float left = 1.0F - 3.0F * noise[k] / std::max(1e-20F, power[f][k]);
                gain[k] = std::max(floor_gain, left > 0.0F ? std::sqrt(left) : 0.0F);
            }
            for (std::size_t k = 0; k < noise.size(); ++k) {
                const float around = k > 0 && k + 1 < gain.size() ? 0.25F * gain[k - 1] + 0.5F * gain[k] + 0.25F * gain[k + 1] : gain[k];
                // It opens at once and closes over some frames, so that what is left does not tinkle.
                before[k] = std::max(around, 0.6F * before[k] + 0.4F * around);
                bins[k] *= before[k];
            }
        });
    }
    for (std::size_t i = 0; i < frames; ++i)
        for (std::size_t c = 0; c < 2; ++c) a.samples[2 * i + c] = sides[c][i];
}

std::vector<SungNote> sung_notes(const Audio& sound) {
    constexpr double kWindow_s = 0.0625, kStep_s = 0.0125, kShortest_s = 0.06, kAway = 0.7;
    const std::vector<float> mono = mono_of(sound);
    const double rate = sound.sample_rate_hz;
    const auto window = static_cast<std::size_t>(kWindow_s * rate), step = static_cast<std::size_t>(kStep_s * rate);
    std::vector<SungNote> notes;
    std::vector<double> pitches;
    double start = 0.0, end = 0.0;
    const auto finish = [&] {
        if (end - start >= kShortest_s && !pitches.empty()) {
            std::nth_element(pitches.begin(), pitches.begin() + static_cast<std::ptrdiff_t>(pitches.size() / 2), pitches.end());
            notes.push_back({start, end, pitches[pitches.size() / 2]});
        }
        pitches.clear();
    };
    for (std::size_t at = 0; at + window <= mono.size(); at += step) {
        const double middle = (static_cast<double>(at) + 0.5 * static_cast<double>(window)) / rate;
        const auto heard = probe_pitch(std::span(mono).subspan(at, window), rate, 70.0, 1100.0);
        if (!heard) {
            finish();
            continue;
        }
        const double pitch = pitch_of(heard->hz);
        double about = 0.0;
        for (const double p : pitches) about += p / static_cast<double>(pitches.size());
        if (!pitches.empty() && std::abs(pitch - about) > kAway) finish();
        if (pitches.empty()) start = middle - 0.5 * kStep_s;
        pitches.push_back(pitch);
        end = middle + 0.5 * kStep_s;
    }
    finish();
    return notes;
}

void centre_notes(Audio& a, double strength, double tuning_cents) {
    const std::size_t frames = a.frames();
    const auto notes = sung_notes(a);
    if (strength <= 0.0 || notes.empty()) return;
    const auto shift_at = [&](double s) {
        // Between notes it stays where the last one was, so that a glide is not torn.
        double shift = 0.0;
        for (const SungNote& n : notes) {
            if (n.start_s > s + 0.02) break;
            const double own = n.pitch - tuning_cents / 100.0;
            shift = strength * (std::round(own) - own);
        }
        return shift;
    };
    using Stretcher = RubberBand::RubberBandStretcher;
    Stretcher shifter(static_cast<std::size_t>(a.sample_rate_hz), 2,
                      Stretcher::OptionProcessRealTime | Stretcher::OptionThreadingNever | Stretcher::OptionChannelsTogether | Stretcher::OptionEngineFiner |
                          Stretcher::OptionFormantPreserved | Stretcher::OptionPitchHighConsistency);
    constexpr std::size_t kBlock = 256;
    shifter.setMaxProcessSize(kBlock);
    const std::size_t late = shifter.getStartDelay();
    std::vector<float> left(kBlock), right(kBlock), out;
    const float* in[2] = {left.data(), right.data()};
    float* taken[2] = {left.data(), right.data()};
    out.reserve(2 * (frames + late));
    double now = shift_at(0.0);
    // Silence before the first sample as the shifter asks for, and enough behind the last to get all of it.
    std::size_t before = shifter.getPreferredStartPad();
    for (std::size_t at = 0; out.size() < 2 * (frames + late);) {
        const bool pads = before > 0;
        const std::size_t count = pads ? std::min(before, kBlock) : kBlock;
        for (std::size_t i = 0; i < count; ++i) {
            const bool there = !pads && at + i < frames;
            left[i] = there ? a.samples[2 * (at + i)] : 0.0F, right[i] = there ? a.samples[2 * (at + i) + 1] : 0.0F;
        }
        // Over some thirty milliseconds from one note's shift to the next.
        const double wanted = shift_at(static_cast<double>(at) / a.sample_rate_hz);
        now += (wanted - now) * std::min(1.0, static_cast<double>(count) / (0.012 * a.sample_rate_hz));
        shifter.setPitchScale(std::exp2(now / 12.0));
        shifter.process(in, count, false);
        if (pads) before -= count;
        else at += count;
        while (shifter.available() > 0) {
            const std::size_t got = shifter.retrieve(taken, std::min(kBlock, static_cast<std::size_t>(shifter.available())));
            for (std::size_t i = 0; i < got; ++i) out.push_back(left[i]), out.push_back(right[i]);
        }
        if (at > 4 * frames + 20 * kSize) break;  // it gives nothing more
    }
    out.resize(std::max(out.size(), 2 * (frames + late)), 0.0F);
    std::copy(out.begin() + static_cast<std::ptrdiff_t>(2 * late), out.begin() + static_cast<std::ptrdiff_t>(2 * (late + frames)), a.samples.begin());
}

}  // namespace fw
