// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/kick_dips.hpp"

#include "audio/mono.hpp"
#include "base/ranks.hpp"
#include "model/drums.hpp"
#include "sound/svf.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

constexpr double kFrame_s = 0.005, kBefore_s = 0.08, kJust_s = 0.015, kApart_s = 0.3, kBehind_s = 0.7;

/// Level in the band, dB, frame by frame.
std::vector<double> band_level(std::span<const float> mono, double rate) {
    constexpr double kLow_hz = 300.0, kHigh_hz = 2500.0;
    const auto frame = static_cast<std::size_t>(kFrame_s * rate);
    if (frame == 0) return {};  // there is no sound at all
    std::vector<float> left(mono.begin(), mono.end()), right(mono.size(), 0.0F);
    for (const bool high : {true, false})
        for (int twice = 0; twice < 2; ++twice) {
            Svf filter;
            if (high) filter.high_pass(kLow_hz, 0.7071, rate);
            else filter.low_pass(kHigh_hz, 0.7071, rate);
            filter.process({std::span(left), std::span(right)});
        }
    std::vector<double> level;
    for (std::size_t at = 0; at + frame <= left.size(); at += frame) {
        double power = 1e-12;
        for (std::size_t i = at; i < at + frame; ++i) power += static_cast<double>(left[i]) * left[i] / static_cast<double>(frame);
        level.push_back(10.0 * std::log10(power));
    }
    return level;
}

std::optional<KickDip> dip_in(const std::vector<double>& level, const std::vector<double>& strokes_s) {
    constexpr int kFewest = 8;
    constexpr double kLeast_db = 2.5, kSilent_db = -75.0;
    const auto frames = [](double s) { return static_cast<std::ptrdiff_t>(std::lround(s / kFrame_s)); };
    const std::ptrdiff_t before = frames(kBefore_s), just = frames(kJust_s);
    // What each frame behind a stroke has against the time before it, for all strokes that reach so far before the next one.
    std::vector<std::vector<double>> curve(static_cast<std::size_t>(frames(kBehind_s)));
    int measured = 0;
    for (std::size_t k = 0; k < strokes_s.size(); ++k) {
        const double until_s = k + 1 < strokes_s.size() ? strokes_s[k + 1] : strokes_s[k] + kBehind_s;
        if (until_s - strokes_s[k] < kApart_s || (k > 0 && strokes_s[k] - strokes_s[k - 1] < kApart_s)) continue;
        const std::ptrdiff_t at = frames(strokes_s[k]);
        if (at < before || at + frames(kApart_s) > static_cast<std::ptrdiff_t>(level.size())) continue;
        double was = 0.0;
        for (std::ptrdiff_t i = at - before; i < at - just; ++i) was += level[static_cast<std::size_t>(i)] / static_cast<double>(before - just);
        if (was < kSilent_db) continue;
        ++measured;
        const std::ptrdiff_t room =
            std::min({static_cast<std::ptrdiff_t>(curve.size()), frames(until_s - kJust_s) - at, static_cast<std::ptrdiff_t>(level.size()) - at});
        for (std::ptrdiff_t i = 0; i < room; ++i) curve[static_cast<std::size_t>(i)].push_back(level[static_cast<std::size_t>(at + i)] - was);
    }
    if (measured < kFewest) return std::nullopt;
    std::vector<double> middle;
    for (auto& c : curve) {
        if (static_cast<int>(c.size()) < measured / 2) break;
        middle.push_back(median(c));
    }
    // The kick's own click covers the first frames; the deepest place within a fifth of a second is the dip.
    const auto first = static_cast<std::size_t>(frames(0.01)), within = std::min(middle.size(), static_cast<std::size_t>(frames(0.2)));
    if (within <= first) return std::nullopt;
    const auto deepest = static_cast<std::size_t>(
        std::min_element(middle.begin() + static_cast<std::ptrdiff_t>(first), middle.begin() + static_cast<std::ptrdiff_t>(within)) - middle.begin());
    KickDip dip{-middle[deepest], 0.0, measured};
    if (dip.depth_db < kLeast_db) return std::nullopt;
    // A duck does the same each time; notes that end and begin do so at some strokes and not at others.
    constexpr double kAlike = 0.75;
    const auto& there = curve[deepest];
    const auto as_deep = std::count_if(there.begin(), there.end(), [&](double db) { return db < -0.5 * dip.depth_db; });
    if (static_cast<double>(as_deep) < kAlike * static_cast<double>(there.size())) return std::nullopt;
    // What only dies away does not come back.
    std::size_t last_deep = deepest;
    for (std::size_t i = deepest; i < middle.size(); ++i)
        if (middle[i] < -0.9 * dip.depth_db) last_deep = i;
    std::size_t half = last_deep;
    while (half < middle.size() && middle[half] < -0.5 * dip.depth_db) ++half;
    const bool comes_back =
        std::any_of(middle.begin() + static_cast<std::ptrdiff_t>(deepest), middle.end(), [&](double db) { return db > -0.3 * dip.depth_db; });
    if (half == middle.size() || !comes_back) return std::nullopt;
    // Half a cosine stands at nine tenths after 0.205 of its way, at a half after 0.5.
    dip.release_s = static_cast<double>(half - last_deep) * kFrame_s / (0.5 - 0.205);
    // What is back sooner is a note's end before the next one.
    constexpr double kSoonest_s = 0.06;
    if (dip.release_s < kSoonest_s) return std::nullopt;
    return dip;
}

}  // namespace

std::optional<KickDip> kick_dip(std::span<const float> mono, double rate, const std::vector<double>& strokes_s) {
    return dip_in(band_level(mono, rate), strokes_s);
}

std::vector<std::pair<SectionId, KickDip>> kick_dips(const Remake& remake, const Audio& original, const Progress& progress) {
    const std::vector<float> mono = mono_of(original);
    progress.checkpoint();
    const auto level = band_level(mono, original.sample_rate_hz);
    progress.checkpoint();
    const int kick = drum_sound(DrumKind::Kick).key;
    std::vector<Ticks> kicks;
    for (const auto& part : remake.parts)
        if (part->role == PartRole::Drums)
            for (const PlacedNote& n : placed_notes(*part, [&](const Note&note, const Placement&) { return note.pitch == kick; }))
                if (!n.muted) kicks.push_back(n.note.start);
    std::sort(kicks.begin(), kicks.end());
    std::vector<std::pair<SectionId, KickDip>> found;
    for (const Section& s : remake.song->sections) {
        std::vector<double> strokes;
        for (const Ticks t : kicks)
            if (t >= s.start && t < s.start + s.length) strokes.push_back(remake.song->tempo.seconds(t));
        if (const auto dip = dip_in(level, strokes)) found.emplace_back(s.id, *dip);
    }
    return found;
}

}  // namespace fw
