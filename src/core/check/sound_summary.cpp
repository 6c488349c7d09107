// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/sound_summary.hpp"

#include "dsp/fft.hpp"

#include <ebur128.h>
#include <algorithm>
#include <cmath>
#include <complex>

namespace fw {

namespace {
constexpr std::size_t kSize = SoundSummary::kSize;
constexpr std::int64_t kMostSpectra = 600;
}  // namespace

double SoundSummary::between(const std::vector<double>& power, double rate, double low_hz, double high_hz) {
    const double bin = rate / kSize;
    double sum = 0.0;
    for (std::size_t k = 1; k < power.size(); ++k) {
        // Low bands are narrower than a bin.
        const double shared = std::min(high_hz, (static_cast<double>(k) + 0.5) * bin) - std::max(low_hz, (static_cast<double>(k) - 0.5) * bin);
        if (shared > 0) sum += power[k] * shared / bin;
    }
    return sum;
}

struct SoundMeter::State {
    State(int rate_hz, int channel_count, std::int64_t total)
        : rate(rate_hz),
          channels(static_cast<std::size_t>(channel_count)),
          hop(static_cast<std::size_t>(std::max<std::int64_t>(kSize / 2, total / kMostSpectra))),
          loudness(ebur128_init(static_cast<unsigned>(channel_count), static_cast<unsigned long>(rate_hz), EBUR128_MODE_I)),
          fft(kSize),
          window(hann_window(kSize)),
          held(kSize * 2),
          mid(fft.bins(), 0.0),
          side(fft.bins(), 0.0) {}
    ~State() {
        if (loudness) ebur128_destroy(&loudness);
    }
    State(const State&) = delete;
    State& operator=(const State&) = delete;

    /// Adds the spectra of what is held, from the oldest frame on.
    void take_spectra() {
        for (int which = 0; which < 2; ++which) {
            auto in = fft.input();
            for (std::size_t k = 0; k < kSize; ++k) {
                const std::size_t at = 2 * ((frames + k) % kSize);
                const float l = held[at], r = held[at + 1];
                in[k] = 0.5F * (which == 0 ? l + r : l - r) * window[k] * (4.0F / kSize);
            }
            const auto out = fft.transform();
            auto& into = which == 0 ? mid : side;
            for (std::size_t k = 0; k < out.size(); ++k) into[k] += std::norm(out[k]);
        }
        ++spectra;
    }

    int rate;
    std::size_t channels, hop;
    ebur128_state* loudness;
    RealFft fft;
    std::unique_ptr<float[]> window;
    std::vector<float> held;  // the last kSize frames, left and right, as a ring
    std::vector<double> mid, side;
    std::size_t frames = 0, spectra = 0;
};

SoundMeter::SoundMeter(int rate, int channels, std::int64_t frames) : state_(std::make_unique<State>(rate, channels, frames)) {}
SoundMeter::~SoundMeter() = default;
SoundMeter::SoundMeter(SoundMeter&&) noexcept = default;
SoundMeter& SoundMeter::operator=(SoundMeter&&) noexcept = default;

void SoundMeter::add(std::span<const float> sound) {
    State& s = *state_;
    if (s.loudness) ebur128_add_frames_float(s.loudness, sound.data(), sound.size() / s.channels);
    for (std::size_t f = 0; f < sound.size() / s.channels; ++f) {
        const std::size_t at = 2 * (s.frames % kSize);
        s.held[at] = sound[f * s.channels];
        s.held[at + 1] = sound[f * s.channels + (s.channels > 1 ? 1 : 0)];
        ++s.frames;
        if (s.frames >= kSize && (s.frames - kSize) % s.hop == 0) s.take_spectra();
    }
}

SoundSummary SoundMeter::summary() {
    State& s = *state_;
    SoundSummary out;
    out.sample_rate_hz = s.rate;
    out.duration_s = static_cast<double>(s.frames) / s.rate;
    double lufs = -70.0;
    if (s.loudness && s.frames > 0) ebur128_loudness_global(s.loudness, &lufs);
    out.lufs = std::isfinite(lufs) ? std::max(-70.0, lufs) : -70.0;
    if (s.spectra == 0) {  // shorter than one spectrum: silence stands behind it
        s.frames = 0;
        s.take_spectra();
    }
    for (auto* power : {&s.mid, &s.side})
        for (double& p : *power) p /= static_cast<double>(s.spectra);
    out.mid = std::move(s.mid);
    out.side = std::move(s.side);
    return out;
}

SoundSummary summarise(const Audio& audio) {
    SoundMeter meter(audio.sample_rate_hz, audio.channels, static_cast<std::int64_t>(audio.frames()));
    meter.add(audio.samples);
    return meter.summary();
}

const std::vector<double>& third_octave_centers_hz() {
    static const std::vector<double> centers = [] {
        std::vector<double> list;
        for (int i = -16; i <= 12; ++i) list.push_back(1000.0 * std::exp2(i / 3.0));
        return list;
    }();
    return centers;
}

std::vector<double> third_octaves_db(const SoundSummary& s) {
    std::vector<double> out;
    for (const double hz : third_octave_centers_hz()) {
        const double low = hz * std::exp2(-1.0 / 6), high = hz * std::exp2(1.0 / 6);
        const double power = SoundSummary::between(s.mid, s.sample_rate_hz, low, high) + SoundSummary::between(s.side, s.sample_rate_hz, low, high);
        out.push_back(10.0 * std::log10(power + 1e-12));
    }
    return out;
}

}  // namespace fw
