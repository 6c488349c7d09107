// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/files.hpp"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cerrno>
#include <utility>

namespace fw {

FileHandle& FileHandle::operator=(FileHandle&& other) noexcept {
    if (this != &other) {
        close();
        fd_ = other.release();
    }
    return *this;
}

int FileHandle::release() noexcept { return std::exchange(fd_, -1); }

void FileHandle::close() noexcept {
    if (fd_ >= 0) ::close(release());
}

Result<FileHandle> open_file(const std::filesystem::path& path) {
    const std::string name = path.string();
    // Without waiting: a pipe nobody writes to would hold the program for ever.
    FileHandle file(::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_NOCTTY | O_CLOEXEC));
    if (!file) {
        const int reason = errno;
        if (reason == EACCES || reason == EPERM) return Error{ErrorCode::FileUnreadable, name, "permission denied"};
        if (reason == ENXIO || reason == ENODEV) return Error{ErrorCode::NotAFile, name, "a device or socket"};
        if (reason == ENOENT || reason == ENOTDIR || reason == ENAMETOOLONG || reason == ELOOP) return Error{ErrorCode::FileMissing, name, {}};
        return Error{ErrorCode::FileUnreadable, name, "open failed"};
    }
    struct stat about {};
    if (::fstat(file.get(), &about) != 0) return Error{ErrorCode::FileUnreadable, name, "stat failed"};
    if (!S_ISREG(about.st_mode)) return Error{ErrorCode::NotAFile, name, {}};
    return file;
}

std::uint64_t size_of(const FileHandle& file) {
    struct stat about {};
    return ::fstat(file.get(), &about) == 0 && about.st_size > 0 ? static_cast<std::uint64_t>(about.st_size) : 0;
}

Result<std::vector<unsigned char>> read_file(const std::filesystem::path& path, std::uint64_t most_bytes) {
    auto file = open_file(path);
    if (!file) return file.error();
    if (size_of(*file) > most_bytes) return Error{ErrorCode::FileTooLarge, path.string(), {}};
    std::vector<unsigned char> bytes(size_of(*file));
    std::size_t done = 0;
    while (done < bytes.size()) {
        const ::ssize_t got = ::read(file->get(), bytes.data() + done, bytes.size() - done);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return Error{ErrorCode::FileUnreadable, path.string(), "read failed"};
        if (got == 0) break;  // it shrank meanwhile: what there is will be judged
        done += static_cast<std::size_t>(got);
    }
    bytes.resize(done);
    return bytes;
}

Status spares_inputs(const std::filesystem::path& target, std::span<const std::filesystem::path> inputs) {
    for (const auto& input : inputs) {
        std::error_code ec;
        if (!target.empty() && !input.empty() && std::filesystem::equivalent(target, input, ec) && !ec)
            return Error{ErrorCode::OverwritesInput, target.string(), {}};
    }
    return Done{};
}

bool is_utf8(const std::string& bytes) noexcept {
    for (std::size_t i = 0; i < bytes.size();) {
        const auto lead = static_cast<unsigned char>(bytes[i]);
        const std::size_t more = lead < 0x80 ? 0 : lead >= 0xC2 && lead < 0xE0 ? 1 : lead >= 0xE0 && lead < 0xF0 ? 2 : lead >= 0xF0 && lead < 0xF5 ? 3 : 4;
        if (more == 4 || bytes.size() - i <= more) return false;
        for (std::size_t k = 1; k <= more; ++k) {
            const auto next = static_cast<unsigned char>(bytes[i + k]);
            if ((next & 0xC0U) != 0x80U) return false;
            // The second byte alone tells overlong forms, surrogates and what lies beyond U+10FFFF.
            if (k == 1 && ((lead == 0xE0 && next < 0xA0) || (lead == 0xED && next > 0x9F) || (lead == 0xF0 && next < 0x90) || (lead == 0xF4 && next > 0x8F)))
                return false;
        }
        i += more + 1;
    }
    return true;
}

std::string to_utf8(const std::string& bytes) {
    if (is_utf8(bytes)) return bytes;
    std::string text;
    for (const char c : bytes) {
        const auto code = static_cast<unsigned char>(c);
        if (code < 0x80) text += c;
        else (text += static_cast<char>(0xC0U | code >> 6)) += static_cast<char>(0x80U | (code & 0x3FU));
    }
    return text;
}

}  // namespace fw
