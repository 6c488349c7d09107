// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/atomic_file.hpp"

#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <fstream>

namespace fw {

namespace {
std::string content(const std::filesystem::path& p) {
    std::ifstream in(p, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}
}  // namespace

TEST(AtomicFile, ReplacesAFileWhole) {
    const test::TemporaryFolder folder;
    ASSERT_TRUE(write_atomically(folder / "a", std::string("old")));
    ASSERT_TRUE(write_atomically(folder / "a", std::string("new")));
    EXPECT_EQ(content(folder / "a"), "new");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 1) << "nothing temporary is left";
}

TEST(AtomicFile, AFailedWriteKeepsTheOldFileAndLeavesNothingBehind) {
    const test::TemporaryFolder folder;
    ASSERT_TRUE(write_atomically(folder / "a", std::string("old")));
    const auto failed = write_atomically(folder / "a", [](const std::filesystem::path&) { return false; });
    ASSERT_FALSE(failed);
    EXPECT_EQ(failed.error().code, ErrorCode::DiskFull);
    EXPECT_EQ(content(folder / "a"), "old");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 1);
}

TEST(AtomicFile, AFullDiskIsToldAsSuch) {
    if (!std::filesystem::exists("/dev/full")) GTEST_SKIP();
    const test::TemporaryFolder folder;
    // The temporary file is made to lead to a device that is always full: what a writer sees on a full disk.
    const auto failed = write_atomically(folder / "a", [](const std::filesystem::path& temporary) {
        std::filesystem::remove(temporary);
        std::filesystem::create_symlink("/dev/full", temporary);
        std::ofstream out(temporary);
        out << std::string(100000, 'x');
        out.flush();
        return out.good();
    });
    ASSERT_FALSE(failed);
    EXPECT_EQ(failed.error().code, ErrorCode::DiskFull);
}

TEST(AtomicFile, AFolderThatCannotBeWrittenIsNamed) {
    const auto failed = write_atomically(std::filesystem::path("/proc/nowhere/a"), std::string("x"));
    ASSERT_FALSE(failed);
    EXPECT_EQ(failed.error().code, ErrorCode::FolderUnwritable);
    EXPECT_EQ(failed.error().subject, "/proc/nowhere");
}

}  // namespace fw
