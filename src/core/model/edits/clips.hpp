// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/groove.hpp"
#include "model/recipe.hpp"
#include "model/remake.hpp"

#include <string>
#include <utility>

#include <vector>

namespace fw {

/// Adds a sound and gives its id, its own being given here; where the very same sound is there already it is used again.
std::pair<Remake, AssetId> with_asset(const Remake& remake, Asset asset);
/// Adds a sound and a clip of it. The asset's and the clip's ids are given here, in this order; where the very same sound is there already it is used again.
Remake add_clip(const Remake& remake, Asset asset, Clip clip);
/// A span of the recording as an asset, marked as from the original.
Asset from_original(const Remake& remake, const std::string& name, double start_s, double end_s);
Remake move_clip(const Remake& remake, ClipId clip, Ticks start);
Remake set_clip_level(const Remake& remake, ClipId clip, double db);
/// bus: where it goes; none for the master.
Remake set_clip_output(const Remake& remake, ClipId clip, BusId bus);
Remake mute_clip(const Remake& remake, ClipId clip, bool muted);
/// Another sound for a clip alone: other clips of the one it had keep theirs. ends_here: whether it ends at its place from now on.
Remake change_asset(const Remake& remake, ClipId clip, Asset asset, bool ends_here);
/// Cuts a clip that begins at its place into pieces of a length, the last one shorter, each a clip at its place with what was done to the whole; a
/// length in bars is kept as the ratio it is where the whole begins. Nothing for one that ends at its place, whose sound is no longer than a piece, or would be
/// cut into more than 256.
Remake chop_clip(const Remake& remake, ClipId clip, Ticks length);
/// The same at its hits, seconds from its beginning: each piece stays where it is heard, or goes onto the nearest place of a grid that begins with the clip
/// (onto > 0): the whole is re-timed, and each piece can be dragged on.
Remake chop_clip_at(const Remake& remake, ClipId clip, std::vector<double> hits_s, Ticks onto);
/// Of the takes that lie over each other between two places only this one sounds: it is let sound there, the others are silenced, cut where the stretch begins
/// and ends, and keep sounding beside it. Others are the clips that sound there and are of no other kind: recordings and files, or pieces of the original.
Remake choose_take(const Remake& remake, ClipId clip, Ticks from, Ticks to);
/// Marks that bring what is struck at these times of a clip (seconds from its beginning, as it is before a warp that ends its recipe) to the nearest place of
/// a grid where it is heard, or a share of the way there; what is farther than `window` ticks off stays where it is, as a mark, and so does what would come
/// before its neighbour. window: 0 for any way.
std::vector<WarpMark> marks_onto(const Remake& remake, ClipId clip, std::vector<double> hits_s, const Grid& grid, double strength, Ticks window);
/// Re-times a clip by a warp at the end of its recipe, in the place of one that is there; without marks it is taken away. Marks that do not ascend or lie less
/// than 10 ms apart are left out.
Remake warp_clip(const Remake& remake, ClipId clip, std::vector<WarpMark> marks);
Remake set_recipe(const Remake& remake, ClipId clip, std::vector<RecipeEntry> recipe);
/// Takes a clip away, and its asset where nothing else uses it.
Remake remove_clip(const Remake& remake, ClipId clip);
/// Whether the remake file holds the sound of a clip, too; of one from the original it never does.
Remake keep_sound(const Remake& remake, ClipId clip, bool kept);
/// The remake without any sound from the original: what may leave the house.
Remake without_original(const Remake& remake);

}  // namespace fw
