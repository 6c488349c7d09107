// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/recipe.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

bool leads_to_its_place(Transition kind) {
    return kind == Transition::Riser || kind == Transition::Swell || kind == Transition::NoiseBuild || kind == Transition::SnareBuild ||
           kind == Transition::ChordSwell || kind == Transition::Sweep;
}

double made_seconds(const Song& song, const Making& made, const Clip& clip) {
    const auto length = static_cast<Ticks>(std::llround(made.beats * kTicksPerQuarter));
    const Ticks begins = clip.start - (clip.ends_here ? length : 0);
    return song.tempo.seconds(begins + length) - song.tempo.seconds(begins);
}

double bar_seconds(const Song& song, Ticks tick) {
    const int bar = song.meter.position(tick).bar;
    return song.tempo.seconds(song.meter.tick_of_bar(bar + 1)) - song.tempo.seconds(song.meter.tick_of_bar(bar));
}

double recipe_seconds(const Song& song, const Asset& asset, const Clip& clip, double* longest) {
    double now = asset.made.kind == Transition::None ? asset.end_s - asset.start_s : made_seconds(song, asset.made, clip);
    double most = now;
    for (const RecipeEntry& e : clip.recipe) {
        if (e.on < 0.5) continue;
        switch (e.treatment) {
            case Treatment::Trim: now = std::max(0.0, std::min(now, e.second / 1000.0) - e.first / 1000.0); break;
            case Treatment::Stretch: now *= e.first; break;
            case Treatment::Bars: now = std::clamp(e.first * bar_seconds(song, clip.start), now * rows::kStretch[0].low, now * rows::kStretch[0].high); break;
            case Treatment::Stop: now += 0.5 * std::min(e.first / 1000.0, 2.0 * now); break;
            case Treatment::Speed: now /= e.first; break;
            case Treatment::Freeze: now = now > 0.0 ? e.second / 1000.0 : 0.0; break;
            case Treatment::Gain:
            case Treatment::Fade:
            case Treatment::Reverse:
            case Treatment::Pitch:
            case Treatment::Gate:
            case Treatment::Clean:
            case Treatment::Tune:
            case Treatment::Even:
            case Treatment::Warp: break;
        }
        most = std::max(most, now);
    }
    if (longest) *longest = most;
    return now;
}

double clip_begins_s(const Song& song, const Asset& asset, const Clip& clip) {
    return song.tempo.seconds(clip.start) - (clip.ends_here ? recipe_seconds(song, asset, clip) : 0.0);
}

std::vector<RecipeEntry> before_warp(const Clip& clip) {
    std::vector<RecipeEntry> before = clip.recipe;
    if (!before.empty() && before.back().treatment == Treatment::Warp) before.pop_back();
    return before;
}

std::vector<WarpMark> ending_marks(const Clip& clip) {
    return !clip.recipe.empty() && clip.recipe.back().treatment == Treatment::Warp ? clip.recipe.back().marks : std::vector<WarpMark>();
}

double warped_ms(const std::vector<WarpMark>& marks, double long_ms, double at_ms) {
    WarpMark before{}, after{long_ms, long_ms, {}};
    for (const WarpMark& m : marks) {
        if (m.from_ms > at_ms) {
            after = m;
            break;
        }
        before = m;
    }
    if (after.from_ms <= before.from_ms) return at_ms;
    return before.to_ms + (at_ms - before.from_ms) * (after.to_ms - before.to_ms) / (after.from_ms - before.from_ms);
}

double unwarped_ms(const std::vector<WarpMark>& marks, double long_ms, double at_ms) {
    std::vector<WarpMark> back;
    for (const WarpMark& m : marks) back.push_back({m.to_ms, m.from_ms, {}});
    return warped_ms(back, long_ms, at_ms);
}

}  // namespace fw
