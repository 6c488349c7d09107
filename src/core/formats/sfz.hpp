// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"
#include "model/remake.hpp"

#include <filesystem>

namespace fw {

/// A part's layers made of a sampled instrument in the open SFZ text format (sfzformat.com): each of its regions a sampler's layer.
struct Sampled {
    Remake remake;
    std::size_t regions = 0;  ///< that sound when a key goes down
    std::size_t used = 0;     ///< layers made of them
};

/// The remake with a part's layers replaced by an instrument's; steps stay. Of a region are taken: sample, keys and velocities, key of its own pitch, tune and
/// transpose, volume, pan, the level's envelope, loop and one-shot, where it starts; of several that take turns the first; those struck by a release or behind
/// a key switch are left out. Where there are more than a part has layers, the velocities that sound at 100 are kept, then keys are left out evenly and their
/// neighbours reach over. Errors: those of read_file; SoundUnusable for what is no such text, includes other files, or names samples that are not there.
Result<Sampled> read_sfz(const std::filesystem::path& path, const Remake& remake, PartId part);

}  // namespace fw
