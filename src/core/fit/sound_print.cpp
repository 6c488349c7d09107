// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/sound_print.hpp"

#include "dsp/probe.hpp"
#include "fit/planned_fft.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

constexpr double kLowest_hz = 41.2, kLongest_s = 2.0;
constexpr std::array kSliceEnds_s{0.06, 0.2, 0.5, 1.2};
constexpr std::array kStepEnds_s{0.01, 0.02, 0.04, 0.07, 0.11, 0.17, 0.27, 0.43, 0.7, 1.2};

double db(double power) { return 10.0 * std::log10(std::max(power, 1e-14)); }
std::int8_t byte(double v) { return static_cast<std::int8_t>(std::clamp(std::lround(v), -127L, 127L)); }

/// Power around a frequency, from the two bins beside it or the sum of those within the band.
double band_power(std::span<const double> bins, double bin_hz, double hz, double octaves) {
    const double low = hz * std::exp2(-octaves / 2.0) / bin_hz, high = hz * std::exp2(octaves / 2.0) / bin_hz;
    if (high >= static_cast<double>(bins.size()) - 1.0) return 0.0;
    if (high - low < 1.0) {
        const auto at = static_cast<std::size_t>(hz / bin_hz);
        const double f = hz / bin_hz - static_cast<double>(at);
        return (1.0 - f) * bins[at] + f * bins[at + 1];
    }
    double sum = 0.0;
    for (auto k = static_cast<std::size_t>(std::ceil(low)); k <= static_cast<std::size_t>(high); ++k) sum += bins[k];
    return sum / (high - low);
}

/// Mean power spectrum of a stretch, by windows that begin in it.
std::vector<double> spectrum(std::span<const float> x, std::size_t from, std::size_t to, std::size_t size) {
    PlannedFft& p = PlannedFft::of(size);
    std::vector<double> sum(size / 2 + 1, 0.0);
    const std::size_t hop = size / 4;
    int count = 0;
    for (std::size_t at = from; at < std::max(to, from + 1); at += hop, ++count) {
        for (std::size_t i = 0; i < size; ++i) p.fft.input()[i] = at + i < x.size() ? x[at + i] * p.window[i] : 0.0F;
        const auto bins = p.fft.transform();
        for (std::size_t k = 0; k < sum.size(); ++k) sum[k] += static_cast<double>(std::norm(bins[k]));
    }
    for (double& s : sum) s /= std::max(1, count) * static_cast<double>(size) * static_cast<double>(size);
    return sum;
}

}  // namespace

SoundPrint print_of(const Audio& sound) {
    SoundPrint print;
    const double rate = sound.sample_rate_hz;
    const auto channels = static_cast<std::size_t>(sound.channels);
    if (channels == 0 || rate <= 0) return print;
    std::vector<float> mono(sound.frames());
    double mid = 0.0, side = 0.0;
    for (std::size_t i = 0; i < mono.size(); ++i) {
        const float l = sound.samples[i * channels], r = sound.samples[i * channels + (channels > 1 ? 1 : 0)];
        mono[i] = 0.5F * (l + r);
        mid += static_cast<double>((l + r) * (l + r)), side += static_cast<double>((l - r) * (l - r));
    }
    // Levels, a hundred and some a second.
    const auto hop = static_cast<std::size_t>(rate * 0.005);
    std::vector<double> level;
    for (std::size_t at = 0; at < mono.size(); at += hop) {
        double sum = 0.0;
        for (std::size_t i = at; i < std::min(mono.size(), at + hop); ++i) sum += static_cast<double>(mono[i] * mono[i]);
        level.push_back(sum / static_cast<double>(hop));
    }
    if (level.empty()) return print;
    const double loudest = *std::max_element(level.begin(), level.end());
    if (loudest < 1e-10) return print;
    const auto stroke = static_cast<std::size_t>(std::find_if(level.begin(), level.end(), [&](double l) { return l > loudest * 1e-4; }) - level.begin());
    const std::span<const float> x =
        std::span<const float>(mono).subspan(stroke * hop, std::min(mono.size() - stroke * hop, static_cast<std::size_t>(kLongest_s * rate)));
    level.erase(level.begin(), level.begin() + static_cast<std::ptrdiff_t>(stroke));

    const auto frames = [&](double s) { return std::min(x.size(), static_cast<std::size_t>(s * rate)); };
    double from_s = 0.0, top = 0.0;
    std::array<double, SoundPrint::kSlices> power{};
    for (std::size_t s = 0; s < SoundPrint::kSlices; ++s) {
        const std::size_t a = frames(from_s), b = frames(kSliceEnds_s[s]);
        for (std::size_t i = a; i < b; ++i) power[s] += static_cast<double>(x[i] * x[i]);
        if (b > a) power[s] /= static_cast<double>(b - a);
        top = std::max(top, power[s]);
        from_s = kSliceEnds_s[s];
    }
    from_s = 0.0;
    for (std::size_t s = 0; s < SoundPrint::kSlices; ++s) {
        const double apart = db(power[s] / top);
        print.present[s] = apart < -60.0 ? std::int8_t{-128} : byte(apart);
        if (apart >= -60.0) {
            const std::size_t size = s == 0 ? 2048 : 4096;
            const auto bins = spectrum(x, frames(from_s), frames(kSliceEnds_s[s]), size);
            std::array<double, SoundPrint::kBands> bands{};
            double most = -200.0;
            for (std::size_t b = 0; b < SoundPrint::kBands; ++b) {
                bands[b] = db(band_power(bins, rate / static_cast<double>(size), kLowest_hz * std::exp2(static_cast<double>(b) / 12.0), 1.0 / 12.0));
                most = std::max(most, bands[b]);
            }
            for (double& v : bands) v = std::max(v, most - 55.0);
            for (std::size_t b = 0; b < SoundPrint::kBands; ++b) {
                const std::size_t low = b > 12 ? b - 12 : 0, high = std::min(SoundPrint::kBands - 1, b + 12);
                double mean = 0.0;
                for (std::size_t k = low; k <= high; ++k) mean += bands[k] / static_cast<double>(high - low + 1);
                print.fine[s * SoundPrint::kBands + b] = byte(2.0 * (bands[b] - mean));
            }
        }
        from_s = kSliceEnds_s[s];
    }
    const auto whole = spectrum(x, 0, frames(1.0), 4096);
    const double bin_hz = rate / 4096.0;
    double most = -200.0, sum = 1e-20, weighed = 0.0, logs = 0.0;
    std::array<double, SoundPrint::kCoarse> coarse{};
    for (std::size_t b = 0; b < SoundPrint::kCoarse; ++b) {
        const double octaves = 1.0 / 3.0, hz = kLowest_hz * std::exp2(static_cast<double>(b) * octaves);
        coarse[b] = db(band_power(whole, bin_hz, hz, octaves) * hz);  // energy of the band, not density
        most = std::max(most, coarse[b]);
    }
    for (std::size_t b = 0; b < SoundPrint::kCoarse; ++b) print.coarse[b] = byte(std::max(-80.0, coarse[b] - most));
    std::size_t counted = 0;
    for (std::size_t k = 2; k < whole.size() && static_cast<double>(k) * bin_hz < 16000.0; ++k) {
        sum += whole[k];
        weighed += whole[k] * static_cast<double>(k) * bin_hz;
    }
    print.bright_hz = static_cast<float>(weighed / sum);
    // Flatness where the energy is: within two octaves around its centre (Peeters, "A large set of audio features", 2004).
    double part = 1e-20;
    for (std::size_t k = 2; k < whole.size(); ++k) {
        const double hz = static_cast<double>(k) * bin_hz;
        if (hz < static_cast<double>(print.bright_hz) / 2.0 || hz > static_cast<double>(print.bright_hz) * 2.0) continue;
        part += whole[k], logs += std::log(whole[k] + 1e-20), ++counted;
    }
    if (counted > 4)
        print.noise = static_cast<float>(std::clamp(std::exp(logs / static_cast<double>(counted)) / (part / static_cast<double>(counted)) / 0.56, 0.0, 1.0));
    for (std::size_t i = 0; i < SoundPrint::kSteps; ++i) {
        const auto at = static_cast<std::size_t>(kStepEnds_s[i] / 0.005);
        const double here = at < level.size() ? 0.5 * (level[at] + level[at > 0 ? at - 1 : 0]) : 0.0;
        print.level[i] = byte(std::max(-70.0, db(here / loudest)));
    }
    const auto half = std::find_if(level.begin(), level.end(), [&](double l) { return l >= 0.25 * loudest; });
    print.attack_ms = static_cast<float>(5.0 * static_cast<double>(half - level.begin()));
    std::size_t last = level.size();
    while (last > 0 && level[last - 1] < loudest * 1e-4) --last;
    print.length_s = static_cast<float>(0.005 * static_cast<double>(last));
    print.width = static_cast<float>(side / std::max(1e-12, mid + side));
    const std::size_t a = std::min(x.size() / 4, frames(0.05));
    if (const auto pitch = probe_pitch(x.subspan(a, std::min(x.size() - a, frames(0.4))), rate)) print.pitch_hz = static_cast<float>(pitch->hz);
    return print;
}

bool is_empty(const SoundPrint& p) {
    return std::all_of(p.present.begin(), p.present.end(), [](std::int8_t v) { return v == 0 || v == -128; }) && p.bright_hz == 0.0F;
}

Likeness likeness(const SoundPrint& a, const SoundPrint& b, bool any_pitch) {
    Likeness l;
    if (is_empty(a) || is_empty(b)) return l;
    const bool pitched = a.pitch_hz > 0.0F && b.pitch_hz > 0.0F;
    const double octaves = pitched ? std::log2(static_cast<double>(b.pitch_hz / a.pitch_hz)) : 0.0;
    const auto tone = [&](int shift) {
        double sum = 0.0, weights = 0.0;
        for (std::size_t s = 0; s < SoundPrint::kSlices; ++s) {
            if (a.present[s] == -128 && b.present[s] == -128) continue;
            const double weight = std::pow(10.0, std::max(a.present[s], b.present[s]) / 60.0);
            weights += weight;
            if (a.present[s] == -128 || b.present[s] == -128) continue;
            double ab = 0.0, aa = 1e-9, bb = 1e-9;
            for (int k = std::max(0, -shift); k < static_cast<int>(SoundPrint::kBands) - std::max(0, shift); ++k) {
                const double x = a.fine[s * SoundPrint::kBands + static_cast<std::size_t>(k)],
                             y = b.fine[s * SoundPrint::kBands + static_cast<std::size_t>(k + shift)];
                ab += x * y, aa += x * x, bb += y * y;
            }
            sum += weight * std::max(0.0, ab / std::sqrt(aa * bb));
        }
        return weights > 0.0 ? sum / weights : 0.0;
    };
    const auto shift = std::clamp(static_cast<int>(std::lround(12.0 * octaves)), -72, 72);
    const double there = tone(0), moved = shift != 0 ? tone(shift) : there;
    l.tone = std::max(there, moved);
    double apart = 0.0, weighed = 0.0;
    for (std::size_t i = 0; i < SoundPrint::kSteps; ++i) {
        // Below −40 dB rooms speak and not sounds.
        const double x = std::max<double>(a.level[i], -40.0), y = std::max<double>(b.level[i], -40.0);
        apart += std::abs(x - y), weighed += 1.0;
    }
    l.envelope = std::exp(-apart / weighed / 8.0);
    l.pitch = pitched ? std::exp(-std::abs(octaves) * 12.0 / 4.0) : (a.pitch_hz > 0.0F) == (b.pitch_hz > 0.0F) ? 1.0 : 0.3;
    // Partials at the same places are the same pitch, whatever octave was read from either.
    if ((any_pitch && pitched) || (there > 0.5 && there >= moved)) l.pitch = 1.0;
    l.noise = 1.0 - std::abs(static_cast<double>(a.noise - b.noise));
    apart = weighed = 0.0;
    for (std::size_t i = 0; i < SoundPrint::kCoarse; ++i) {
        const double x = std::max<double>(a.coarse[i], -50.0), y = std::max<double>(b.coarse[i], -50.0), w = 1.0 + (std::max(x, y) + 50.0) / 10.0;
        apart += w * std::abs(x - y), weighed += w;
    }
    l.colour = std::exp(-apart / weighed / 9.0);
    l.all = 0.55 * l.tone + 0.20 * l.envelope + 0.16 * l.pitch + 0.02 * l.noise + 0.07 * l.colour;
    return l;
}

namespace {

constexpr std::array<std::string_view, 12> kWords{"soft", "gritty", "airy", "clicky", "dark", "bright", "short", "long", "low", "high", "wide", "noisy"};

double rises(double v, double low, double high) { return std::clamp((v - low) / (high - low), 0.0, 1.0); }

}  // namespace

std::span<const std::string_view> ear_words() { return kWords; }

double fits_word(const SoundPrint& p, std::string_view word) {
    if (is_empty(p)) return 0.0;
    const double bright = rises(std::log2(std::max(40.0F, p.bright_hz)), std::log2(250.0), std::log2(6000.0)), attack = rises(p.attack_ms, 3.0, 120.0),
                 noise = static_cast<double>(p.noise), length = rises(std::log2(std::max(0.02F, p.length_s)), std::log2(0.05), std::log2(2.0));
    const double pitch = p.pitch_hz > 0.0F ? rises(std::log2(p.pitch_hz), std::log2(50.0), std::log2(1500.0)) : bright;
    // Energy between what the tone's few strongest bands have: how dense the spectrum is while it is no noise.
    double dense = 0.0;
    for (const std::int8_t c : p.coarse) dense += c > -30 ? 1.0 / SoundPrint::kCoarse : 0.0;
    if (word == "dark") return 1.0 - bright;
    if (word == "bright") return bright;
    if (word == "soft") return 0.5 * attack + 0.5 * (1.0 - bright);
    if (word == "gritty") return 0.6 * dense + 0.4 * (1.0 - std::abs(2.0 * noise - 0.8)) * (1.0 - attack);
    if (word == "airy") return 0.6 * noise + 0.4 * bright;
    if (word == "clicky") return 0.5 * (1.0 - length) + 0.3 * (1.0 - attack) + 0.2 * bright;
    if (word == "short") return 1.0 - length;
    if (word == "long") return length;
    if (word == "low") return 1.0 - pitch;
    if (word == "high") return pitch;
    if (word == "wide") return rises(p.width, 0.0, 0.35);
    if (word == "noisy") return noise;
    return 0.5;
}

}  // namespace fw
