// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/kick_dips.hpp"

#include "audio/mono.hpp"
#include "base/ranks.hpp"
#include "model/drums.hpp"
#include "model/edits/automation.hpp"
#include "model/fields.hpp"
#include "sound/catalogue.hpp"
#include "sound/svf.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

constexpr double kFrame_s = AfterStrokes::kStep_s, kBefore_s = 0.08, kJust_s = 0.015, kApart_s = 0.3, kBehind_s = 0.7;

/// Level in the band, dB, frame by frame.
std::vector<double> band_level(std::span<const float> mono, double rate) {
    const auto frame = static_cast<std::size_t>(kFrame_s * rate);
    if (frame == 0) return {};  // there is no sound at all
    std::vector<float> left(mono.begin(), mono.end()), right(mono.size(), 0.0F);
    for (const bool high : {true, false})
        for (int twice = 0; twice < 2; ++twice) {
            Svf filter;
            if (high) filter.high_pass(kDipLow_hz, 0.7071, rate);
            else filter.low_pass(kDipHigh_hz, 0.7071, rate);
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

constexpr std::ptrdiff_t frames(double s) { return static_cast<std::ptrdiff_t>(s / kFrame_s + 0.5); }

/// A dip in what follows each stroke; middle: the median of it.
std::optional<KickDip> dip_of(const std::vector<std::vector<double>>& curve, const std::vector<double>& middle, int measured) {
    constexpr double kLeast_db = 2.5;
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

std::optional<AfterStrokes> after_in(const std::vector<double>& level, const std::vector<double>& strokes_s) {
    constexpr int kFewest = 8;
    constexpr double kSilent_db = -75.0;
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
    const auto dip = dip_of(curve, middle, measured);
    return AfterStrokes{std::move(middle), measured, dip};
}

}  // namespace

std::optional<AfterStrokes> after_strokes(std::span<const float> mono, double rate, const std::vector<double>& strokes_s) {
    return after_in(band_level(mono, rate), strokes_s);
}

std::vector<std::pair<SectionId, AfterStrokes>> after_strokes(const Remake& remake, const Audio& original, const std::vector<Ticks>& strokes,
                                                              const Progress& progress) {
    std::vector<std::pair<SectionId, AfterStrokes>> found;
    if (strokes.empty()) return found;
    const std::vector<float> mono = mono_of(original);
    progress.checkpoint();
    const auto level = band_level(mono, original.sample_rate_hz);
    progress.checkpoint();
    for (const Section& s : remake.song->sections) {
        std::vector<double> here_s;
        for (const Ticks t : strokes)
            if (t >= s.start && t < s.start + s.length) here_s.push_back(remake.song->tempo.seconds(t));
        if (auto after = after_in(level, here_s)) found.emplace_back(s.id, std::move(*after));
    }
    return found;
}

namespace {

void add_strokes(std::vector<Ticks>& all, const Part& part, int key) {
    for (const PlacedNote& n : placed_notes(part, [&](const Note&note, const Placement&) { return key < 0 || note.pitch == key; }))
        if (!n.muted) all.push_back(n.note.start);
}

}  // namespace

std::vector<Ticks> kicks_of(const Remake& remake) {
    std::vector<Ticks> kicks;
    for (const auto& part : remake.parts)
        if (part->role == PartRole::Drums) add_strokes(kicks, *part, drum_sound(DrumKind::Kick).key);
    std::sort(kicks.begin(), kicks.end());
    return kicks;
}

std::vector<Ticks> strokes_for(const Remake& remake, const Trigger& trigger) {
    std::vector<Ticks> strokes;
    if (const Part* part = remake.part(trigger.part)) add_strokes(strokes, *part, trigger.key);
    std::sort(strokes.begin(), strokes.end());
    return strokes;
}

std::vector<double> ducked_db(const Remake& remake, StepId duck, Ticks at, double long_s) {
    const Step* step = find_step(remake, duck);
    if (!step || step->type != &kDuck) return {};
    constexpr double kRate = 51'200.0;
    constexpr int kSlicesAStep = 8;
    static_assert(AfterStrokes::kStep_s * kRate == kSlicesAStep * kSlice);
    std::vector<double> db(static_cast<std::size_t>(frames(long_s)), 0.0);
    if (value_moved(remake, {duck, "on"}, at) < 0.5) return db;
    const auto processor = kDuck.make(kRate);
    for (std::size_t f = 0; f < kDuck.fields.size(); ++f) {
        const Parameter& row = kDuck.fields[f];
        const double value = value_moved(remake, {duck, row.id}, at);
        processor->set(f, row.unit == Unit::Beats ? value * 60.0 / remake.song->tempo.bpm_at(at) : value);
    }
    processor->reset();
    // What does not move at all is below any frequency, and says what is left of the lows.
    const auto level = [&] {
        std::array<float, kSlice> left, right;
        left.fill(1.0F), right.fill(1.0F);
        processor->process({left, right}, {});
        return 20.0 * std::log10(std::max(1e-5, static_cast<double>(left.back())));
    };
    for (int k = 0; k < 32 * kSlicesAStep; ++k) level();  // until the lows are there
    processor->note_on(1, 36, 127);
    for (double& d : db)
        for (int k = 0; k < kSlicesAStep; ++k) d = level();
    return db;
}

}  // namespace fw
