// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/atomic_file.hpp"

#include "base/files.hpp"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/random.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cerrno>
#include <cinttypes>
#include <cstdint>
#include <cstdio>
#include <optional>

namespace fw {

namespace {

namespace fs = std::filesystem;

constexpr std::string_view kBefore = ".fw-", kAfter = ".part";
constexpr std::size_t kDigits = 16;

/// Where a path leads when its links are followed, whether or not there is a file; nothing where they lead in a circle.
std::optional<fs::path> follow(fs::path path) {
    std::error_code ec;
    for (int links = 0; links < 40; ++links) {
        if (!fs::is_symlink(fs::symlink_status(path, ec))) return path;
        const fs::path to = fs::read_symlink(path, ec);
        if (ec) return std::nullopt;
        path = to.is_absolute() ? to : path.parent_path() / to;
    }
    return std::nullopt;
}

bool is_temporary_name(const std::string& name) {
    return name.size() == kBefore.size() + kDigits + kAfter.size() && name.starts_with(kBefore) && name.ends_with(kAfter) &&
           name.find_first_not_of("0123456789abcdef", kBefore.size()) == kBefore.size() + kDigits;
}

/// Removes what killed programs left. A temporary file that is still being written is locked by its writer.
void clear_leavings(const fs::path& folder) {
    std::error_code ec;
    int looked_at = 0;
    for (auto it = fs::directory_iterator(folder, ec); !ec && it != fs::directory_iterator() && looked_at < 10000; it.increment(ec), ++looked_at) {
        if (!is_temporary_name(it->path().filename().string())) continue;
        const FileHandle left(::open(it->path().c_str(), O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC));
        if (left && ::flock(left.get(), LOCK_EX | LOCK_NB) == 0) ::unlink(it->path().c_str());
    }
}

/// A locked temporary file that removes itself unless it was renamed.
class Temporary {
public:
    explicit Temporary(const fs::path& folder) {
        for (int tries = 0; tries < 16 && !file_; ++tries) {
            std::uint64_t number = 0;
            if (::getrandom(&number, sizeof number, 0) != sizeof number) continue;
            char digits[kDigits + 1];
            std::snprintf(digits, sizeof digits, "%016" PRIx64, number);
            path_ = folder / (std::string(kBefore) + digits + std::string(kAfter));
            FileHandle made(::open(path_.c_str(), O_CREAT | O_EXCL | O_RDWR | O_NOFOLLOW | O_CLOEXEC, 0666));
            reason_ = errno;
            if (!made) {
                if (reason_ == EEXIST) continue;
                return;
            }
            // Another writer may have taken it for a leaving before it was locked.
            struct stat about {};
            if (::flock(made.get(), LOCK_EX | LOCK_NB) == 0 && ::fstat(made.get(), &about) == 0 && about.st_nlink > 0) file_ = std::move(made);
        }
    }
    ~Temporary() {
        if (file_ && !renamed_) ::unlink(path_.c_str());
    }
    Temporary(const Temporary&) = delete;
    Temporary& operator=(const Temporary&) = delete;

    explicit operator bool() const { return static_cast<bool>(file_); }
    int fd() const { return file_.get(); }
    int reason() const { return reason_; }
    bool rename_to(const fs::path& target) { return renamed_ = ::rename(path_.c_str(), target.c_str()) == 0; }

private:
    fs::path path_;
    FileHandle file_;
    int reason_ = 0;
    bool renamed_ = false;
};

}  // namespace

bool write_all(int fd, const void* bytes, std::size_t count) noexcept {
    const auto* at = static_cast<const char*>(bytes);
    while (count > 0) {
        const ::ssize_t wrote = ::write(fd, at, count);
        if (wrote < 0 && errno == EINTR) continue;
        if (wrote <= 0) return false;
        at += wrote;
        count -= static_cast<std::size_t>(wrote);
    }
    return true;
}

Status write_atomically(const std::filesystem::path& path, const std::function<bool(int)>& write) {
    const auto target = follow(path);
    if (!target) return Error{ErrorCode::FileUnwritable, path.string(), "links lead in a circle"};
    const fs::path folder = target->has_parent_path() ? target->parent_path() : fs::path(".");
    struct stat old {};
    const bool exists = ::stat(target->c_str(), &old) == 0;
    if (exists && !S_ISREG(old.st_mode)) return Error{ErrorCode::FileUnwritable, path.string(), {}};
    // A file that its owner made read-only is not replaced behind their back, though the folder would allow it.
    if (exists && ::access(target->c_str(), W_OK) != 0) return Error{ErrorCode::FolderUnwritable, path.string(), "read-only"};
    clear_leavings(folder);
    Temporary temporary(folder);
    if (!temporary) {
        if (temporary.reason() == ENOSPC) return Error{ErrorCode::DiskFull, path.string(), "cannot create"};
        return Error{ErrorCode::FolderUnwritable, folder.string(), "cannot create"};
    }
    if (exists) {
        // The owner first: changing it may clear bits of the mode. Whether that is allowed is the system's business.
        if (::fchown(temporary.fd(), old.st_uid, old.st_gid) != 0) errno = 0;
        if (::fchmod(temporary.fd(), old.st_mode & 07777U) != 0) errno = 0;
    }
    if (!write(temporary.fd()) || ::fsync(temporary.fd()) != 0) return Error{ErrorCode::DiskFull, path.string(), "short write"};
    if (!temporary.rename_to(*target)) return Error{ErrorCode::FolderUnwritable, folder.string(), "cannot rename"};
    // The name is only safe once the folder is on disk, too; where a file system cannot sync folders nothing more can be done.
    if (const FileHandle entry(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC)); entry) ::fsync(entry.get());
    return Done{};
}

Status write_atomically(const std::filesystem::path& path, const std::string& content) {
    return write_atomically(path, [&](int fd) { return write_all(fd, content.data(), content.size()); });
}

}  // namespace fw
