// SPDX-License-Identifier: GPL-3.0-or-later
// Tone as long-term average spectra in third octaves (IEC 61260 centres), width as the side's share of mid and side energy.
#include "check/compare_sound.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

void compare_sound(const SoundSummary& original, const SoundSummary& rebuild, CheckReport& report) {
    report.original_lufs = original.lufs;
    report.rebuild_lufs = rebuild.lufs;
    report.match_gain_db = report.original_lufs - report.rebuild_lufs;
    const auto a = third_octaves_db(original), b = third_octaves_db(rebuild);
    for (std::size_t i = 0; i < a.size(); ++i) report.tone.push_back({third_octave_centers_hz()[i], a[i], b[i]});
    struct Band {
        const char* name;
        double low, high;
    };
    for (const Band& band : {Band{"low", 20, 150}, Band{"body", 150, 800}, Band{"presence", 800, 4000}, Band{"air", 4000, 16000}}) {
        const auto share = [&](const SoundSummary& s) {
            const double side = SoundSummary::between(s.side, s.sample_rate_hz, band.low, band.high),
                         all = side + SoundSummary::between(s.mid, s.sample_rate_hz, band.low, band.high);
            return all > 1e-12 ? side / all : 0.0;
        };
        report.width.push_back({band.name, share(original), share(rebuild)});
    }
    const auto add = [&](FindingKind kind, double db, double sure) -> Finding& {
        Finding& f = report.findings.emplace_back();
        f.kind = kind;
        f.name = "mix";
        f.end_s = original.duration_s;
        f.bar = 1;
        f.beat = 1;
        f.size = db;
        f.unit = "dB";
        f.confidence = sure;
        return f;
    };
    // How near they are, each 1 where no one would hear a difference and 0 where nothing is left of it; the worst decides nothing alone.
    const auto near = [](double difference, double unheard, double lost) {
        return std::clamp(1.0 - (std::abs(difference) - unheard) / (lost - unheard), 0.0, 1.0);
    };
    if (original.lufs > -69.0) {
        const double loudest = *std::max_element(a.begin(), a.end());
        double tone = 0.0, bands = 0.0, width = 0.0;
        for (std::size_t i = 0; i < a.size(); ++i) {
            if (a[i] < loudest - 45.0) continue;
            tone += near(b[i] + report.match_gain_db - a[i], 1.5, 24.0), bands += 1.0;
        }
        for (const WidthBand& w : report.width) width += near(w.rebuild - w.original, 0.03, 0.4) / static_cast<double>(report.width.size());
        const double level = near(report.match_gain_db, 1.0, 24.0);
        report.match.sound = rebuild.lufs <= -69.0 ? 0.0 : level * std::sqrt((bands > 0 ? tone / bands : 0.0) * width);
        if (std::abs(report.match_gain_db) > 3.0 && rebuild.lufs > -69.0)
            add(FindingKind::Level, -report.match_gain_db, 0.95).remedy = remedy::ChangeLevel{report.match_gain_db};
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
        Finding& f = add(FindingKind::Tone, difference, std::min(0.9, std::abs(difference) / 30.0));
        f.center_hz = third_octave_centers_hz()[i];
        if (difference > 0) f.remedy = remedy::LowerBand{};
        else f.remedy = remedy::RaiseBand{};
    }
}

}  // namespace fw
