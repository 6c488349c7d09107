// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/result.hpp"

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <span>
#include <string>
#include <vector>

namespace fw {

/// A file descriptor that is closed with its owner. Movable; not thread-safe.
class FileHandle {
public:
    FileHandle() = default;
    explicit FileHandle(int fd) : fd_(fd) {}
    FileHandle(FileHandle&& other) noexcept : fd_(other.release()) {}
    FileHandle& operator=(FileHandle&& other) noexcept;
    ~FileHandle() { close(); }

    int get() const noexcept { return fd_; }
    explicit operator bool() const noexcept { return fd_ >= 0; }
    /// Gives the descriptor away: who takes it closes it.
    int release() noexcept;
    void close() noexcept;

private:
    int fd_ = -1;
};

/// Opens for reading what a user named. FileMissing, FileUnreadable where permission is denied, NotAFile for folders, devices and pipes, which
/// may never end or never begin. Never blocks. Thread-safe.
Result<FileHandle> open_file(const std::filesystem::path& path);

/// Size in bytes of an open file.
std::uint64_t size_of(const FileHandle& file);

/// A whole file; FileTooLarge where it is larger than most_bytes, else as open_file.
Result<std::vector<unsigned char>> read_file(const std::filesystem::path& path, std::uint64_t most_bytes);

/// Refuses a target that is one of the files the work reads, by whatever name or link (OverwritesInput). Thread-safe.
Status spares_inputs(const std::filesystem::path& target, std::span<const std::filesystem::path> inputs);

/// Whether bytes are UTF-8 without overlong forms or surrogates; and text that surely is: bytes that are not are taken for Latin-1.
bool is_utf8(const std::string& bytes) noexcept;
std::string to_utf8(const std::string& bytes);

}  // namespace fw
