// SPDX-License-Identifier: GPL-3.0-or-later
// A part's sound as open text: a command a line, for another part or another remake.
#pragma once

#include "base/result.hpp"
#include "model/remake.hpp"

#include <filesystem>
#include <map>
#include <string>

namespace fw {

/// A field's value as text that is read back closely enough to sound the same; value_text rounds for people.
std::string exact_text(const Parameter& row, double value);

/// The layers and steps of a part as commands whose part is called "*". A layer that plays a piece of the remake's own is left out, with a remark: its sound is
/// in the remake alone. What sets a step off is not kept.
/// files: what is written for a layer's own file.
std::string sound_text(const Remake& remake, PartId part, const std::map<LayerId, std::string>& files = {});
Status write_sound(const std::filesystem::path& path, const Remake& remake, PartId part);
/// The same, to be given away: the samples its samplers play are copied into a folder beside it, called like it, and meant by their names there; what plays on
/// which keys, and where each sample came from, is said first. SoundFonts are not copied. Errors besides: those of read_file for a sample; then nothing is
/// written but perhaps some of the samples.
Status write_sound_with_samples(const std::filesystem::path& path, const Remake& remake, PartId part);

/// The remake with a part's layers and steps replaced by those of a file; samples without a whole path lie beside it. Errors: those of read_file; SoundUnusable
/// with what is wrong with which line.
Result<Remake> read_sound(const std::filesystem::path& path, const Remake& remake, PartId part);

}  // namespace fw
