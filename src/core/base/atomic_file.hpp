// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"

#include <filesystem>
#include <functional>
#include <string>

namespace fw {

/// Writes a file whole or not at all: `write` fills a temporary file beside the target, open for reading and writing, which is synced to disk and then
/// takes the target's name. A crash at any instant leaves the old file or the new one.
///
/// A link is followed and stays a link; a file that was there gives the new one its mode and, where that is allowed, its owner. What is no regular file
/// is refused (FileUnwritable). The temporary name cannot be guessed and the file is made with O_EXCL; it is removed when `write` returns false or
/// throws, and what a killed program left in the folder is cleared by the next writer. Errors: FileUnwritable, FolderUnwritable, DiskFull.
/// Thread-safe.
Status write_atomically(const std::filesystem::path& path, const std::function<bool(int fd)>& write);
Status write_atomically(const std::filesystem::path& path, const std::string& content);

/// Writes all bytes at a descriptor's place; false where the disk would not take them.
bool write_all(int fd, const void* bytes, std::size_t count) noexcept;

}  // namespace fw
