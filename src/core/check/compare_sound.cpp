// SPDX-License-Identifier: GPL-3.0-or-later
// Tone as long-term average spectra in third octaves (IEC 61260 centres), width as the side's share of mid and side energy.
#include "check/compare_sound.hpp"

#include "dsp/fft.hpp"
#include "engine/plan.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace fw {

namespace {

constexpr std::size_t kSize = 8192;

struct Spectra {
    std::vector<double> mid, side, total;  // mean power per bin
};

Spectra mean_spectra(const Audio& audio) {
    RealFft fft(kSize);
    const auto window = hann_window(kSize);
    Spectra s{std::vector<double>(fft.bins(), 0.0), std::vector<double>(fft.bins(), 0.0), std::vector<double>(fft.bins(), 0.0)};
    const std::size_t frames = audio.frames(), channels = static_cast<std::size_t>(audio.channels);
    // At most 600 spectra, spread over the sound: the mean of more tells nothing new.
    const std::size_t count = std::clamp<std::size_t>(frames / (kSize / 2), 1, 600);
    for (std::size_t i = 0; i < count; ++i) {
        const std::size_t begin = frames > kSize ? (frames - kSize) * i / count : 0;
        for (int which = 0; which < 2; ++which) {
            auto in = fft.input();
            for (std::size_t k = 0; k < kSize; ++k) {
                const std::size_t f = begin + k;
                const float l = f < frames ? audio.samples[f * channels] : 0.0F, r = f < frames ? audio.samples[f * channels + (channels > 1 ? 1 : 0)] : 0.0F;
                in[k] = 0.5F * (which == 0 ? l + r : l - r) * window[k] * (4.0F / kSize);
            }
            const auto out = fft.transform();
            auto& into = which == 0 ? s.mid : s.side;
            for (std::size_t k = 0; k < out.size(); ++k) into[k] += std::norm(out[k]) / static_cast<double>(count);
        }
    }
    for (std::size_t k = 0; k < s.total.size(); ++k) s.total[k] = s.mid[k] + s.side[k];
    return s;
}

double sum_between(const std::vector<double>& power, double rate, double low_hz, double high_hz) {
    const double bin = rate / kSize;
    double sum = 0.0;
    for (std::size_t k = 1; k < power.size(); ++k) {
        // A bin counts by the share of it that lies in the band: low bands are narrower than a bin.
        const double shared = std::min(high_hz, (static_cast<double>(k) + 0.5) * bin) - std::max(low_hz, (static_cast<double>(k) - 0.5) * bin);
        if (shared > 0) sum += power[k] * shared / bin;
    }
    return sum;
}

}  // namespace

const std::vector<double>& third_octave_centers_hz() {
    static const std::vector<double> centers = [] {
        std::vector<double> list;
        for (int i = -16; i <= 12; ++i) list.push_back(1000.0 * std::exp2(i / 3.0));
        return list;
    }();
    return centers;
}

std::vector<double> third_octaves_db(const Audio& audio) {
    const Spectra s = mean_spectra(audio);
    std::vector<double> out;
    for (const double hz : third_octave_centers_hz())
        out.push_back(10.0 * std::log10(sum_between(s.total, audio.sample_rate_hz, hz * std::exp2(-1.0 / 6), hz * std::exp2(1.0 / 6)) + 1e-12));
    return out;
}

void compare_sound(const Audio& original, const Audio& rebuild, CheckReport& report) {
    report.original_lufs = loudness_of(original);
    report.rebuild_lufs = loudness_of(rebuild);
    report.match_gain_db = report.original_lufs - report.rebuild_lufs;
    const auto a = third_octaves_db(original), b = third_octaves_db(rebuild);
    for (std::size_t i = 0; i < a.size(); ++i) report.tone.push_back({third_octave_centers_hz()[i], a[i], b[i]});
    const Spectra so = mean_spectra(original), sr = mean_spectra(rebuild);
    struct Band {
        const char* name;
        double low, high;
    };
    for (const Band& band : {Band{"low", 20, 150}, Band{"body", 150, 800}, Band{"presence", 800, 4000}, Band{"air", 4000, 16000}}) {
        const auto share = [&](const Spectra& s, double rate) {
            const double side = sum_between(s.side, rate, band.low, band.high), all = sum_between(s.total, rate, band.low, band.high);
            return all > 1e-12 ? side / all : 0.0;
        };
        report.width.push_back({band.name, share(so, original.sample_rate_hz), share(sr, rebuild.sample_rate_hz)});
    }
    // Findings of tone: octave-wide differences after the loudness is matched, so that level is not told as brightness.
    const double quietest = *std::max_element(a.begin(), a.end()) - 45.0;
    for (std::size_t i = 1; i + 1 < a.size(); i += 3) {
        double difference = 0.0;
        bool heard = false;
        for (std::size_t k = i - 1; k <= i + 1; ++k) {
            difference += (b[k] + report.match_gain_db - a[k]) / 3.0;
            heard = heard || a[k] > quietest;
        }
        if (!heard || std::abs(difference) < 8.0) continue;
        Finding f;
        f.kind = FindingKind::Tone;
        f.element_id = f.element = "mix";
        f.end_s = original.duration_s();
        f.bar = 1;
        f.beat = 1;
        f.size = difference;
        f.unit = "dB";
        f.confidence = std::min(0.9, std::abs(difference) / 30.0);
        char text[160];
        std::snprintf(text, sizeof text, "Around %.0f Hz the rebuild is %.0f dB %s than the original, at matched loudness.", third_octave_centers_hz()[i],
                      std::abs(difference), difference > 0 ? "louder" : "softer");
        f.message = text;
        f.remedy = difference > 0 ? "lower the parts that fill this band" : "raise or add a part in this band";
        report.findings.push_back(std::move(f));
    }
}

}  // namespace fw
