// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/moments.hpp"

#include "audio/mono.hpp"
#include "base/pitch.hpp"
#include "dsp/fft.hpp"
#include "dsp/probe.hpp"
#include "engine/lens.hpp"
#include "engine/offline.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace fw {

namespace {

struct Peak {
    double hz = 0.0, power = 0.0;
};

/// Partials of the ringing part, by long windowed spectra; places between bins by a parabola through the logarithms.
std::vector<Peak> partials(std::span<const float> x, double rate) {
    constexpr std::size_t kSize = 1 << 15;
    RealFft fft(kSize);
    const auto window = hann_window(std::min(kSize, x.size()));
    std::fill(fft.input().begin(), fft.input().end(), 0.0F);
    const std::size_t n = std::min(kSize, x.size());
    for (std::size_t i = 0; i < n; ++i) fft.input()[i] = x[i] * window[i];
    std::vector<double> power;
    for (const auto& bin : fft.transform()) power.push_back(std::norm(bin));
    const double most = *std::max_element(power.begin() + 8, power.end());
    std::vector<Peak> out;
    // A peak is as wide as the window's: what lies within two of its bins belongs to it.
    const auto apart = static_cast<std::size_t>(2.0 * kSize / static_cast<double>(n)) + 1;
    double floor = 0.0;
    for (const double p : power) floor += p / static_cast<double>(power.size());
    for (std::size_t k = 8; k + apart < power.size(); ++k) {
        if (power[k] < 0.0005 * most || power[k] < 8.0 * floor) continue;
        if (*std::max_element(power.begin() + static_cast<std::ptrdiff_t>(k > apart ? k - apart : 0),
                              power.begin() + static_cast<std::ptrdiff_t>(k + apart + 1)) > power[k])
            continue;
        const double l = std::log(power[k - 1] + 1e-20), c = std::log(power[k] + 1e-20), r = std::log(power[k + 1] + 1e-20), bend = l - 2.0 * c + r;
        out.push_back({(static_cast<double>(k) + (bend < 0.0 ? 0.5 * (l - r) / bend : 0.0)) * rate / kSize, power[k]});
    }
    std::sort(out.begin(), out.end(), [](const Peak& a, const Peak& b) { return a.power > b.power; });
    if (out.size() > 12) out.resize(12);
    return out;
}

}  // namespace

Root root_at(double hz) {
    const double key = 69.0 + 12.0 * std::log2(hz / 440.0);
    Root r;
    r.key = std::clamp(static_cast<int>(std::lround(key)), 0, 127);
    r.cents = 100.0 * (key - r.key);
    r.hz = hz;
    return r;
}

std::optional<Root> find_root(const Audio& sound) {
    if (sound.frames() < 1000) return std::nullopt;
    const auto mono = mono_of(sound);
    const double rate = sound.sample_rate_hz;
    // From where it has spoken on, for as long as it is there.
    float top = 0.0F;
    for (const float s : mono) top = std::max(top, std::abs(s));
    if (top < 1e-4F) return std::nullopt;
    const auto loudest =
        static_cast<std::size_t>(std::max_element(mono.begin(), mono.end(), [](float a, float b) { return std::abs(a) < std::abs(b); }) - mono.begin());
    std::size_t last = mono.size();
    while (last > loudest + 1000 && std::abs(mono[last - 1]) < 0.03F * top) --last;
    std::size_t from = std::min(loudest + static_cast<std::size_t>(0.03 * rate), last);
    if (last - from < static_cast<std::size_t>(0.08 * rate)) from = loudest;
    const auto ringing = std::span<const float>(mono).subspan(from, std::min(last - from, static_cast<std::size_t>(1.5 * rate)));
    const auto peaks = partials(ringing, rate);
    const auto refined = [&](double hz) {
        // The period tells it roughly, the partials that are its multiples exactly, each by its strength.
        double sum = 0.0, weight = 0.0;
        for (const Peak& p : peaks) {
            const double times = std::round(p.hz / hz);
            if (times < 1.0 || times > 12.0 || std::abs(p.hz / times / hz - 1.0) > 0.02) continue;
            sum += std::sqrt(p.power) * p.hz / times, weight += std::sqrt(p.power);
        }
        return weight > 0.0 ? sum / weight : hz;
    };
    // A period it has where its partials are multiples of it.
    const auto periodic = [&](double hz) {
        double in = 0.0, out = 1e-12;
        for (const Peak& p : peaks) {
            const double times = std::max(1.0, std::round(p.hz / hz));
            (std::abs(p.hz / times / hz - 1.0) < 0.012 ? in : out) += std::sqrt(p.power);
        }
        return in > 3.0 * out;
    };
    if (const auto pitch = probe_pitch(ringing, rate, 20.0, 4200.0); pitch && pitch->clear > 0.85 && (peaks.empty() || periodic(pitch->hz)))
        return root_at(refined(pitch->hz));
    if (peaks.empty()) return std::nullopt;
    double all = 0.0, bins = 0.0;
    for (const Peak& p : peaks) all += p.power;
    for (const float s : ringing) bins += static_cast<double>(s * s);
    // Noise has peaks everywhere, and none that stands out.
    const double standing = peaks.front().power / std::max(1e-12, all / static_cast<double>(peaks.size()));
    constexpr std::size_t kSize = 1 << 15;
    const double share = all / std::max(1e-12, bins * static_cast<double>(std::min<std::size_t>(kSize, ringing.size())) * 0.375);
    if (share < 0.1 || (standing < 1.6 && peaks.size() > 6)) return std::nullopt;
    return root_at(peaks.front().hz);
}

std::vector<std::pair<const char*, double>> loop_fields(const Round& round, double played_s) {
    return {{"length", std::clamp(round.end_s / played_s, 0.01, 1.0)}, {"loop_start", std::clamp(round.start_s / round.end_s, 0.0, 0.99)}, {"loop", 1.0}};
}

Audio cut_out(const Audio& recording, double start_s, double end_s, const std::shared_ptr<const Share>& only) {
    const double rate = recording.sample_rate_hz;
    const auto channels = static_cast<std::size_t>(recording.channels);
    Audio out{recording.sample_rate_hz, 2, {}, {}};
    const auto frame = [&](double s) { return std::min(recording.frames(), static_cast<std::size_t>(std::llround(std::max(0.0, s) * rate))); };
    std::size_t a = frame(start_s);
    const std::size_t b = std::max(a, frame(end_s));
    const auto mid = [&](std::size_t i) { return recording.samples[i * channels] + recording.samples[i * channels + (channels > 1 ? 1 : 0)]; };
    for (std::size_t back = 0, most = static_cast<std::size_t>(0.003 * rate); back < most && a > back + 1; ++back)
        if ((mid(a - back - 1) <= 0.0F) != (mid(a - back) <= 0.0F)) {
            a -= back;
            break;
        }
    if (only) {
        LensFilter lens(rate);
        Lens element;
        element.kind = LensKind::Element;
        element.share = only;
        lens.jump(&element);
        lens.reset();
        const std::size_t late = lens.latency_frames(), lead = std::min(a, static_cast<std::size_t>(0.4 * rate));
        std::vector<float> left(LensFilter::kLargestBlock), right(LensFilter::kLargestBlock);
        for (std::size_t at = a - lead; at < b + late; at += left.size()) {
            for (std::size_t i = 0; i < left.size(); ++i) {
                const bool there = at + i < recording.frames();
                left[i] = there ? recording.samples[(at + i) * channels] : 0.0F;
                right[i] = there ? recording.samples[(at + i) * channels + (channels > 1 ? 1 : 0)] : 0.0F;
            }
            lens.process(left, right, static_cast<std::int64_t>(at));
            for (std::size_t i = 0; i < left.size(); ++i)
                if (at + i >= a + late && at + i < b + late) out.samples.push_back(left[i]), out.samples.push_back(right[i]);
        }
    } else {
        for (std::size_t i = a; i < b; ++i)
            out.samples.push_back(recording.samples[i * channels]), out.samples.push_back(recording.samples[i * channels + (channels > 1 ? 1 : 0)]);
    }
    const std::size_t frames = out.frames(), in = std::min(frames, static_cast<std::size_t>(0.001 * rate)),
                      fade = std::min(frames, static_cast<std::size_t>(0.015 * rate));
    for (std::size_t i = 0; i < in; ++i)
        for (std::size_t c = 0; c < 2; ++c) out.samples[2 * i + c] *= static_cast<float>(i) / static_cast<float>(in);
    for (std::size_t i = 0; i < fade; ++i)
        for (std::size_t c = 0; c < 2; ++c) out.samples[2 * (frames - 1 - i) + c] *= static_cast<float>(i) / static_cast<float>(fade);
    return out;
}

LoneNote moment_from(const Audio& piece, int key, int velocity, double held_s, double tuning_cents) {
    constexpr double kLongest_s = 1.2;
    LoneNote m;
    m.key = key;
    m.velocity = velocity;
    m.tuning_cents = tuning_cents;
    const Audio at = at_rate(piece, SoundTarget::kRate);
    m.mono = mono_of(at);
    float top = 0.0F;
    for (const float s : m.mono) top = std::max(top, std::abs(s));
    const auto stroke = std::find_if(m.mono.begin(), m.mono.end(), [&](float s) { return std::abs(s) > 0.02F * top; });
    m.mono.erase(m.mono.begin(), stroke);
    m.mono.resize(std::min(m.mono.size(), static_cast<std::size_t>(kLongest_s * SoundTarget::kRate)));
    m.held_s = std::min(held_s, static_cast<double>(m.mono.size()) / SoundTarget::kRate);
    return m;
}

}  // namespace fw
