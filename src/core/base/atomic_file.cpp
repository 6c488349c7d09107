// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/atomic_file.hpp"

#include <fcntl.h>
#include <unistd.h>
#include <cerrno>
#include <fstream>

namespace fw {

Status write_atomically(const std::filesystem::path& path, const std::function<bool(const std::filesystem::path&)>& write) {
    namespace fs = std::filesystem;
    std::error_code ec;
    const fs::path folder = path.has_parent_path() ? path.parent_path() : fs::path(".");
    fs::path temporary = path;
    temporary += "." + std::to_string(::getpid()) + ".part";
    const int probe = ::open(temporary.c_str(), O_CREAT | O_WRONLY | O_CLOEXEC, 0644);
    if (probe < 0)
        return Error{errno == ENOSPC ? ErrorCode::DiskFull : ErrorCode::FolderUnwritable, errno == ENOSPC ? path.string() : folder.string(), "cannot create"};
    ::close(probe);
    const bool written = write(temporary);
    const int file = ::open(temporary.c_str(), O_RDONLY | O_CLOEXEC);
    const bool synced = file >= 0 && ::fsync(file) == 0;
    if (file >= 0) ::close(file);
    if (!written || !synced) {
        fs::remove(temporary, ec);
        return Error{ErrorCode::DiskFull, path.string(), "short write"};
    }
    fs::rename(temporary, path, ec);
    if (ec) {
        std::error_code ignored;
        fs::remove(temporary, ignored);
        return Error{ErrorCode::FolderUnwritable, folder.string(), ec.message()};
    }
    return Done{};
}

Status write_atomically(const std::filesystem::path& path, const std::string& content) {
    return write_atomically(path, [&](const std::filesystem::path& temporary) {
        std::ofstream out(temporary, std::ios::binary);
        out.write(content.data(), static_cast<std::streamsize>(content.size()));
        out.flush();
        return out.good();
    });
}

}  // namespace fw
