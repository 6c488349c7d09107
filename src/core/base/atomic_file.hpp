// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"

#include <filesystem>
#include <functional>
#include <string>

namespace fw {

/// Writes a file whole or not at all: `write` fills a temporary file beside the target, which is synced to disk and then takes
/// the target's name. A crash at any instant leaves the old file or the new one.
Status write_atomically(const std::filesystem::path& path, const std::function<bool(const std::filesystem::path& temporary)>& write);
Status write_atomically(const std::filesystem::path& path, const std::string& content);

}  // namespace fw
