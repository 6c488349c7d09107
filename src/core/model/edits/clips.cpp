// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/clips.hpp"

#include "model/fields.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <functional>
#include <tuple>

namespace fw {

namespace {

Remake with_clip(const Remake& remake, ClipId clip, const std::function<void(Clip&)>& change) {
    if (!remake.clips->clip(clip)) return remake;
    Remake next = remake;
    for (Clip& c : next.clips.edit().clips)
        if (c.id == clip) change(c);
    return next;
}

template <class Visit>
void each_layer(const Remake& remake, Visit&& visit) {
    for (const auto& part : remake.parts) {
        for (const Layer& l : part->layers) visit(l);
        for (const auto& rival : part->rivals)
            for (const Layer& l : rival->layers) visit(l);
    }
}

bool is_played(const Remake& remake, AssetId asset) {
    bool played = std::any_of(remake.clips->clips.begin(), remake.clips->clips.end(), [&](const Clip& c) { return c.asset == asset; });
    each_layer(remake, [&](const Layer& l) { played = played || l.asset == asset; });
    return played;
}

}  // namespace

Asset from_original(const Remake& remake, const std::string& name, double start_s, double end_s) {
    Asset asset;
    asset.name = name;
    asset.origin = AssetOrigin::Original;
    asset.content_hash = remake.reference.content_hash;
    asset.start_s = std::clamp(start_s, 0.0, remake.reference.duration_s);
    asset.end_s = std::clamp(end_s, 0.0, remake.reference.duration_s);
    return asset;
}

std::pair<Remake, AssetId> with_asset(const Remake& remake, Asset asset) {
    Remake next = remake;
    Clips& clips = next.clips.edit();
    const auto same = std::find_if(clips.assets.begin(), clips.assets.end(), [&](const Asset& a) {
        return a.origin == asset.origin && a.content_hash == asset.content_hash && a.path == asset.path && a.start_s == asset.start_s &&
               a.end_s == asset.end_s && a.made == asset.made;
    });
    if (same == clips.assets.end()) {
        asset.id = AssetId(next.next_id++);
        clips.assets.push_back(std::move(asset));
        const AssetId made = clips.assets.back().id;
        return {std::move(next), made};
    }
    const AssetId known = same->id;
    return {std::move(next), known};
}

Remake add_clip(const Remake& remake, Asset asset, Clip clip) {
    Remake next;
    std::tie(next, clip.asset) = with_asset(remake, std::move(asset));
    Clips& clips = next.clips.edit();
    clip.id = ClipId(next.next_id++);
    if (clip.name.empty()) clip.name = clips.asset(clip.asset)->name;
    clips.clips.push_back(std::move(clip));
    return next;
}

Remake move_clip(const Remake& remake, ClipId clip, Ticks start) {
    return with_clip(remake, clip, [&](Clip& c) { c.start = start; });
}

Remake set_clip_level(const Remake& remake, ClipId clip, double db) {
    return with_clip(remake, clip, [&](Clip& c) { c.gain_db = clamped(rows::kLevel, db); });
}

Remake set_clip_output(const Remake& remake, ClipId clip, BusId bus) {
    return with_clip(remake, clip, [&](Clip& c) { c.output = bus; });
}

Remake mute_clip(const Remake& remake, ClipId clip, bool muted) {
    return with_clip(remake, clip, [&](Clip& c) { c.mute = muted; });
}

Remake change_asset(const Remake& remake, ClipId clip, Asset asset, bool ends_here) {
    const Clip* found = remake.clips->clip(clip);
    if (!found) return remake;
    const AssetId had = found->asset;
    auto [next, now] = with_asset(remake, std::move(asset));
    Clips& clips = next.clips.edit();
    for (Clip& c : clips.clips)
        if (c.id == clip) c.asset = now, c.ends_here = ends_here;
    if (now != had && !is_played(next, had)) std::erase_if(clips.assets, [&](const Asset& a) { return a.id == had; });
    return next;
}

namespace {

/// A piece of a clip: where it stands, and what of the clip's sound it is.
struct Piece {
    Ticks place = 0;
    double from_s = 0.0, to_s = 0.0;
};

Remake cut_up(const Remake& remake, const Clip& clip, const std::vector<Piece>& pieces) {
    constexpr std::size_t kMost = 256;
    if (pieces.size() < 2 || pieces.size() > kMost) return remake;
    const Asset& asset = *remake.clips->asset(clip.asset);
    // The pieces stand elsewhere, where bars may be of another length: they are stretched as the whole was.
    std::vector<RecipeEntry> recipe;
    for (const RecipeEntry& e : clip.recipe) {
        Clip until = clip;
        until.recipe = recipe;
        const double is_s = recipe_seconds(*remake.song, asset, until);
        recipe.push_back(e);
        if (e.treatment == Treatment::Bars && is_s > 0.0)
            recipe.back() = {Treatment::Stretch, clamped(rows::kStretch[0], e.first * bar_seconds(*remake.song, clip.start) / is_s), 0.0, e.on, {}};
    }
    Remake next = remake;
    auto& all = next.clips.edit().clips;
    const Clip whole = clip;
    std::erase_if(all, [&](const Clip& c) { return c.id == whole.id; });
    for (std::size_t k = 0; k < pieces.size(); ++k) {
        Clip piece = whole;
        piece.id = ClipId(next.next_id++);
        piece.start = pieces[k].place;
        piece.name = whole.name + " " + std::to_string(k + 1);
        piece.recipe = recipe;
        piece.recipe.push_back({Treatment::Trim, 1000.0 * pieces[k].from_s, 1000.0 * pieces[k].to_s, 1.0, {}});
        // A cut through a sound must not click.
        piece.recipe.push_back({Treatment::Fade, 1.0, 3.0, 1.0, {}});
        all.push_back(std::move(piece));
    }
    return next;
}

}  // namespace

Remake chop_clip(const Remake& remake, ClipId clip, Ticks length) {
    constexpr int kMost = 256;
    const Clip* found = remake.clips->clip(clip);
    if (!found || found->ends_here || length < 1) return remake;
    const double long_s = recipe_seconds(*remake.song, *remake.clips->asset(found->asset), *found);
    const auto& tempo = remake.song->tempo;
    const double begins_s = tempo.seconds(found->start);
    std::vector<Piece> pieces;
    for (int k = 0; k <= kMost; ++k) {
        const Ticks at = found->start + k * length;
        const double from_s = tempo.seconds(at) - begins_s;
        if (from_s > long_s - 0.001) break;
        pieces.push_back({at, from_s, std::min(long_s, tempo.seconds(at + length) - begins_s)});
    }
    return cut_up(remake, *found, pieces);
}

Remake chop_clip_at(const Remake& remake, ClipId clip, std::vector<double> hits_s, Ticks onto) {
    const Clip* found = remake.clips->clip(clip);
    if (!found || found->ends_here) return remake;
    const double long_s = recipe_seconds(*remake.song, *remake.clips->asset(found->asset), *found);
    const auto& tempo = remake.song->tempo;
    const double begins_s = tempo.seconds(found->start);
    hits_s.push_back(0.0);
    std::sort(hits_s.begin(), hits_s.end());
    std::erase_if(hits_s, [&](double s) { return s < 0.0 || s > long_s - 0.005; });
    hits_s.erase(std::unique(hits_s.begin(), hits_s.end(), [](double a, double b) { return b - a < 0.005; }), hits_s.end());
    std::vector<Piece> pieces;
    for (std::size_t k = 0; k < hits_s.size(); ++k) {
        Ticks at = k == 0 ? found->start : tempo.nearest_tick(begins_s + hits_s[k]);
        if (onto > 0 && k > 0) at = found->start + (at - found->start + onto / 2) / onto * onto;
        pieces.push_back({at, hits_s[k], k + 1 < hits_s.size() ? hits_s[k + 1] : long_s});
    }
    return cut_up(remake, *found, pieces);
}

Remake choose_take(const Remake& remake, ClipId id, Ticks from, Ticks to) {
    const Clip* chosen = remake.clips->clip(id);
    if (!chosen || to <= from) return remake;
    const auto& tempo = remake.song->tempo;
    const double from_s = tempo.seconds(from), to_s = tempo.seconds(to);
    const auto kind = [&](const Clip& c) {
        const Asset& a = *remake.clips->asset(c.asset);
        return a.made.kind != Transition::None ? 0 : a.origin == AssetOrigin::Original ? 1 : 2;
    };
    Remake next = remake;
    for (const Clip& c : remake.clips->clips) {
        if (kind(c) == 0 || kind(c) != kind(*chosen)) continue;
        const Asset& asset = *remake.clips->asset(c.asset);
        const double long_s = recipe_seconds(*remake.song, asset, c), begins_s = clip_begins_s(*remake.song, asset, c);
        const bool mute = c.id != id;
        constexpr double kLeast_s = 0.005;
        double first = std::max(0.0, from_s - begins_s), last = std::min(long_s, to_s - begins_s);
        if (last - first < kLeast_s || c.mute == mute) continue;
        // No piece shorter than can be heard is left at an end.
        if (first < kLeast_s) first = 0.0;
        if (long_s - last < kLeast_s) last = long_s;
        std::vector<Piece> pieces;
        const auto piece = [&](double a, double b) {
            if (b - a >= kLeast_s) pieces.push_back({tempo.nearest_tick(begins_s + a), a, b});
        };
        piece(0.0, first);
        const std::size_t inner = pieces.size();
        piece(first, last);
        piece(last, long_s);
        if (pieces.size() < 2) {
            next = mute_clip(next, c.id, mute);
            continue;
        }
        Clip whole = *next.clips->clip(c.id);
        whole.ends_here = false;
        next = cut_up(next, whole, pieces);
        auto& all = next.clips.edit().clips;
        all[all.size() - pieces.size() + inner].mute = mute;
    }
    return next;
}

namespace {

/// Sorted, ascending on both sides and some way apart.
std::vector<WarpMark> in_order(std::vector<WarpMark> marks) {
    constexpr double kApart_ms = 10.0;
    std::sort(marks.begin(), marks.end(), [](const WarpMark& a, const WarpMark& b) { return a.from_ms < b.from_ms; });
    std::vector<WarpMark> kept;
    for (WarpMark& m : marks) {
        m.from_ms = std::clamp(m.from_ms, 0.0, 1000.0 * limits::kAsset_s), m.to_ms = std::clamp(m.to_ms, 0.0, 1000.0 * limits::kAsset_s);
        const double from = kept.empty() ? 0.0 : kept.back().from_ms, to = kept.empty() ? 0.0 : kept.back().to_ms;
        if (m.from_ms >= from + kApart_ms && m.to_ms >= to + kApart_ms && kept.size() < limits::kWarpMarks) kept.push_back(std::move(m));
    }
    return kept;
}

}  // namespace

std::vector<WarpMark> marks_onto(const Remake& remake, ClipId clip, std::vector<double> hits_s, const Grid& grid, double strength, Ticks window) {
    const Clip* found = remake.clips->clip(clip);
    if (!found) return {};
    const auto& tempo = remake.song->tempo;
    const Asset& asset = *remake.clips->asset(found->asset);
    const double long_s = recipe_seconds(*remake.song, asset, *found), begins_s = clip_begins_s(*remake.song, asset, *found);
    std::sort(hits_s.begin(), hits_s.end());
    std::vector<WarpMark> marks;
    double last_ms = 0.0;
    for (const double hit_s : hits_s) {
        if (hit_s < 0.0 || hit_s > long_s) continue;
        const Ticks is = tempo.nearest_tick(begins_s + hit_s), wanted = nearest_on(grid, remake.song->meter, is).at;
        const bool stays = window > 0 && std::abs(wanted - is) > window;
        const double there_s = stays ? hit_s : hit_s + strength * (tempo.seconds(wanted) - begins_s - hit_s);
        // One that would come before the one before it keeps its own place, where that is free.
        double to_ms = 1000.0 * there_s;
        if (to_ms < last_ms + 10.0) to_ms = 1000.0 * hit_s;
        if (to_ms < last_ms + 10.0) continue;
        marks.push_back({1000.0 * hit_s, last_ms = to_ms, {}});
    }
    return in_order(std::move(marks));
}

Remake warp_clip(const Remake& remake, ClipId clip, std::vector<WarpMark> marks) {
    marks = in_order(std::move(marks));
    return with_clip(remake, clip, [&](Clip& c) {
        c.recipe = before_warp(c);
        if (marks.empty()) return;
        RecipeEntry& e = c.recipe.emplace_back();
        e.treatment = Treatment::Warp;
        e.first = 0.0;
        e.marks = std::move(marks);
    });
}

Remake set_recipe(const Remake& remake, ClipId clip, std::vector<RecipeEntry> recipe) {
    for (RecipeEntry& e : recipe) {
        e.marks = in_order(std::move(e.marks));
        const auto fields = treatment_type(e.treatment).fields;
        e.first = fields.empty() ? 0.0 : clamped(fields[0], e.first);
        e.second = fields.size() < 2 ? 0.0 : clamped(fields[1], e.second);
    }
    return with_clip(remake, clip, [&](Clip& c) { c.recipe = std::move(recipe); });
}

Remake remove_clip(const Remake& remake, ClipId clip) {
    const Clip* found = remake.clips->clip(clip);
    if (!found) return remake;
    const AssetId asset = found->asset;
    Remake next = remake;
    Clips& clips = next.clips.edit();
    std::erase_if(clips.clips, [&](const Clip& c) { return c.id == clip; });
    if (!is_played(next, asset)) std::erase_if(clips.assets, [&](const Asset& a) { return a.id == asset; });
    return next;
}

Remake keep_sound(const Remake& remake, ClipId clip, bool kept) {
    const Clip* found = remake.clips->clip(clip);
    if (!found) return remake;
    Remake next = remake;
    for (Asset& a : next.clips.edit().assets)
        if (a.id == found->asset && a.origin != AssetOrigin::Original) {
            a.kept = kept;
            if (!kept) a.bytes = {};
        }
    return next;
}

Remake without_original(const Remake& remake) {
    const auto original = [](const Asset& a) { return a.origin == AssetOrigin::Original; };
    if (std::none_of(remake.clips->assets.begin(), remake.clips->assets.end(), original)) return remake;
    Remake next = remake;
    Clips& clips = next.clips.edit();
    std::erase_if(clips.clips, [&](const Clip& c) {
        const Asset* a = clips.asset(c.asset);
        return a && original(*a);
    });
    // A layer that plays a piece of it falls silent.
    const auto silence = [&](std::vector<Layer>& layers) {
        for (Layer& l : layers)
            if (const Asset* a = remake.clips->asset(l.asset); a && original(*a)) l.asset = {}, l.on = 0.0;
    };
    for (auto& part : next.parts) {
        const auto cut = [&](const PartVersion& v) {
            return std::any_of(v.layers.begin(), v.layers.end(), [&](const Layer& l) {
                const Asset* a = remake.clips->asset(l.asset);
                return a && original(*a);
            });
        };
        if (cut(*part)) silence(part.edit().layers);
        for (std::size_t i = 0; i < part->rivals.size(); ++i)
            if (cut(*part->rivals[i])) silence(part.edit().rivals[i].edit().layers);
    }
    std::erase_if(clips.assets, original);
    return next;
}

}  // namespace fw
