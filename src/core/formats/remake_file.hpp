// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"
#include "model/remake.hpp"

#include <filesystem>
#include <span>
#include <string>

namespace fw {

/// Version of the remake format this program writes; see docs/remake-format.md. Older ones are brought to it (remake_migrations.hpp).
inline constexpr int kRemakeVersion = 2;

/// Saves a remake as a zip that holds remake.json, atomically: after a crash or a full disk the old file is still whole.
Status save_remake(const std::filesystem::path& path, const Remake& remake);

/// Opens a remake. The reference is not touched: see find_reference. Errors: those of open_file, RemakeDamaged, RemakeFromFuture, and RemakeUnusable with
/// what is wrong with it (model/validate.hpp): a remake that is returned is valid. Nothing is clamped.
Result<Remake> load_remake(const std::filesystem::path& path);
/// The same for the bytes of such a file; name stands for it in messages.
Result<Remake> remake_from_zip(std::span<const unsigned char> bytes, const std::string& name);

/// Where the reference of a remake is now: its stored path, else a file of the same name beside the remake.
/// ReferenceGone where neither exists; the window then asks. Content is compared when the file is read (ReferenceChanged).
Result<std::filesystem::path> find_reference(const Remake& remake, const std::filesystem::path& remake_path);

/// The document as JSON text and back; what the zip holds.
std::string remake_to_json(const Remake& remake);
/// The format's document, made of the descriptions: a table a type. docs/remake-format.md holds it; a test compares.
std::string remake_format_tables();
Result<Remake> remake_from_json(const std::string& text, const std::string& name);

}  // namespace fw
