// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/files.hpp"

#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <sys/stat.h>
#include <array>
#include <fstream>

namespace fw {

using test::TemporaryFolder;

TEST(OpenFile, SaysWhatIsWrongWithWhatIsNoReadableFile) {
    const TemporaryFolder folder;
    std::ofstream(folder / "a") << "text";
    EXPECT_TRUE(open_file(folder / "a"));
    EXPECT_EQ(open_file(folder / "none").error().code, ErrorCode::FileMissing);
    EXPECT_EQ(open_file(folder / "a/b").error().code, ErrorCode::FileMissing);
    EXPECT_EQ(open_file(folder / std::string(5000, 'x')).error().code, ErrorCode::FileMissing);
    EXPECT_EQ(open_file(folder.path()).error().code, ErrorCode::NotAFile);
    EXPECT_EQ(open_file("/dev/zero").error().code, ErrorCode::NotAFile);
    ASSERT_EQ(::mkfifo((folder / "pipe").c_str(), 0600), 0);
    EXPECT_EQ(open_file(folder / "pipe").error().code, ErrorCode::NotAFile) << "and does not wait for somebody to write to it";
}

TEST(OpenFile, DeniedPermissionIsToldAsSuch) {
    const TemporaryFolder folder;
    std::ofstream(folder / "mine") << "text";
    std::filesystem::permissions(folder / "mine", static_cast<std::filesystem::perms>(0200));
    std::filesystem::permissions(folder.path(), static_cast<std::filesystem::perms>(0755));
    EXPECT_TRUE(test::as_nobody([&] { return open_file(folder / "mine").error().code == ErrorCode::FileUnreadable; }));
}

TEST(ReadFile, GivesAllBytesUpToALimit) {
    const TemporaryFolder folder;
    std::ofstream(folder / "a", std::ios::binary) << std::string("a\0b", 3);
    EXPECT_EQ(*read_file(folder / "a", 3), (std::vector<unsigned char>{'a', 0, 'b'}));
    EXPECT_EQ(read_file(folder / "a", 2).error().code, ErrorCode::FileTooLarge);
}

TEST(SparesInputs, TellsAnInputByWhateverNameItIsCalled) {
    const TemporaryFolder folder;
    std::ofstream(folder / "song.wav") << "x";
    std::filesystem::create_symlink("song.wav", folder / "link.wav");
    std::filesystem::create_hard_link(folder / "song.wav", folder / "hard.wav");
    const std::array<std::filesystem::path, 2> inputs{"", folder / "song.wav"};
    for (const char* name : {"song.wav", "link.wav", "hard.wav", "./song.wav"})
        EXPECT_EQ(spares_inputs(folder / name, inputs).error().code, ErrorCode::OverwritesInput) << name;
    EXPECT_TRUE(spares_inputs(folder / "mix.wav", inputs)) << "what is not there yet is nobody's input";
    EXPECT_TRUE(spares_inputs("", inputs));
}

TEST(Utf8, IsToldFromBytesThatAreNot) {
    for (const char* good : {"", "plain", "Grüße", "\xE2\x80\xB2", "\xF0\x9F\x8E\xB5"}) {
        EXPECT_TRUE(is_utf8(good)) << good;
        EXPECT_EQ(to_utf8(good), good);
    }
    for (const char* bad : {"\xE9", "caf\xE9!", "\xC0\x80", "\xED\xA0\x80", "\xF5\x80\x80\x80", "\xE2\x80", "\xF0\x80\x80\x80", "\x80"}) {
        EXPECT_FALSE(is_utf8(bad));
        EXPECT_TRUE(is_utf8(to_utf8(bad)));
    }
    EXPECT_EQ(to_utf8("caf\xE9"), "café");
}

}  // namespace fw
