// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/atomic_file.hpp"

#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <csignal>
#include <fstream>
#include <stdexcept>

namespace fw {

namespace {
std::string content(const std::filesystem::path& p) {
    std::ifstream in(p, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}
int entries(const test::TemporaryFolder& folder) { return static_cast<int>(std::distance(std::filesystem::directory_iterator(folder.path()), {})); }
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
    const auto failed = write_atomically(folder / "a", [](int) { return false; });
    ASSERT_FALSE(failed);
    EXPECT_EQ(failed.error().code, ErrorCode::DiskFull);
    EXPECT_EQ(content(folder / "a"), "old");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 1);
}

TEST(AtomicFile, AFullDiskIsToldAsSuch) {
    const test::TemporaryFolder folder;
    ASSERT_TRUE(write_atomically(folder / "a", std::string("old")));
    // A limit on file sizes fails writes as a full disk does.
    const pid_t child = ::fork();
    if (child == 0) {
        ::signal(SIGXFSZ, SIG_IGN);
        const rlimit small{1000, 1000};
        ::setrlimit(RLIMIT_FSIZE, &small);
        const auto failed = write_atomically(folder / "a", std::string(100000, 'x'));
        ::_exit(!failed && failed.error().code == ErrorCode::DiskFull ? 0 : 1);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    EXPECT_EQ(status, 0);
    EXPECT_EQ(content(folder / "a"), "old");
    EXPECT_EQ(entries(folder), 1);
}

TEST(AtomicFile, AnExceptionWhileWritingLeavesTheOldFileAndNothingElse) {
    const test::TemporaryFolder folder;
    ASSERT_TRUE(write_atomically(folder / "a", std::string("old")));
    EXPECT_THROW((void)write_atomically(folder / "a", [](int) -> bool { throw std::runtime_error("half way"); }), std::runtime_error);
    EXPECT_EQ(content(folder / "a"), "old");
    EXPECT_EQ(entries(folder), 1);
}

TEST(AtomicFile, FollowsLinksAndLeavesThemLinks) {
    const test::TemporaryFolder folder;
    std::filesystem::create_directory(folder / "elsewhere");
    ASSERT_TRUE(write_atomically(folder / "elsewhere/real", std::string("old")));
    std::filesystem::create_symlink("elsewhere/real", folder / "link");
    std::filesystem::create_symlink("elsewhere/not yet", folder / "dangling");
    ASSERT_TRUE(write_atomically(folder / "link", std::string("new")));
    EXPECT_TRUE(std::filesystem::is_symlink(folder / "link"));
    EXPECT_EQ(content(folder / "elsewhere/real"), "new");
    ASSERT_TRUE(write_atomically(folder / "dangling", std::string("made")));
    EXPECT_EQ(content(folder / "elsewhere/not yet"), "made");
    std::filesystem::create_symlink("round", folder / "round");
    EXPECT_EQ(write_atomically(folder / "round", std::string("x")).error().code, ErrorCode::FileUnwritable);
}

TEST(AtomicFile, KeepsTheModeOfAFileAndGivesANewOneTheUsersOwn) {
    const test::TemporaryFolder folder;
    const mode_t before = ::umask(027);
    ASSERT_TRUE(write_atomically(folder / "new", std::string("x")));
    ::umask(before);
    EXPECT_EQ(static_cast<int>(std::filesystem::status(folder / "new").permissions()), 0640);
    std::filesystem::permissions(folder / "new", static_cast<std::filesystem::perms>(0604));
    ASSERT_TRUE(write_atomically(folder / "new", std::string("y")));
    EXPECT_EQ(static_cast<int>(std::filesystem::status(folder / "new").permissions()), 0604);
}

TEST(AtomicFile, NeverReplacesDevicesPipesOrFolders) {
    const test::TemporaryFolder folder;
    ASSERT_EQ(::mkfifo((folder / "pipe").c_str(), 0600), 0);
    std::filesystem::create_directory(folder / "folder");
    std::filesystem::create_symlink("/dev/null", folder / "link to a device");
    for (const auto& path : {folder / "pipe", folder / "folder", folder / "link to a device", std::filesystem::path("/dev/null")}) {
        const auto failed = write_atomically(path, std::string("x"));
        ASSERT_FALSE(failed) << path;
        EXPECT_EQ(failed.error().code, ErrorCode::FileUnwritable) << path;
    }
    EXPECT_TRUE(std::filesystem::is_fifo(folder / "pipe"));
    EXPECT_TRUE(std::filesystem::is_character_file("/dev/null"));
}

TEST(AtomicFile, AReadOnlyFileIsNotReplaced) {
    const test::TemporaryFolder folder;
    ASSERT_TRUE(write_atomically(folder / "a", std::string("old")));
    std::filesystem::permissions(folder / "a", static_cast<std::filesystem::perms>(0444));
    std::filesystem::permissions(folder.path(), static_cast<std::filesystem::perms>(0777));
    EXPECT_TRUE(test::as_nobody([&] {
        const auto failed = write_atomically(folder / "a", std::string("new"));
        return !failed && failed.error().code == ErrorCode::FolderUnwritable;
    }));
    EXPECT_EQ(content(folder / "a"), "old");
}

TEST(AtomicFile, ClearsWhatAKilledProgramLeftButNotWhatIsBeingWritten) {
    const test::TemporaryFolder folder;
    const pid_t child = ::fork();
    if (child == 0) {
        (void)write_atomically(folder / "a", [](int) {
            ::raise(SIGKILL);
            return true;
        });
        ::_exit(0);
    }
    ::waitpid(child, nullptr, 0);
    ASSERT_EQ(entries(folder), 1) << "the killed program left its temporary file";
    std::ofstream(folder / ".fw-notours.part") << "x";
    int inside = 0;
    ASSERT_TRUE(write_atomically(folder / "a", [&](int) {
        // Another writer comes by while this one is at work.
        EXPECT_TRUE(write_atomically(folder / "b", std::string("b")));
        inside = entries(folder);
        return true;
    }));
    EXPECT_EQ(inside, 3) << "b, the other file, and the temporary one that is in use";
    EXPECT_EQ(entries(folder), 3) << "a, b, and the file that only looks like one of ours";
}

TEST(AtomicFile, AFolderThatCannotBeWrittenIsNamed) {
    const auto failed = write_atomically(std::filesystem::path("/proc/nowhere/a"), std::string("x"));
    ASSERT_FALSE(failed);
    EXPECT_EQ(failed.error().code, ErrorCode::FolderUnwritable);
    EXPECT_EQ(failed.error().subject, "/proc/nowhere");
}

}  // namespace fw
