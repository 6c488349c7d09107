// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/result.hpp"

#include <gtest/gtest.h>
#include <set>

namespace fw {

TEST(Errors, EveryCodeHasOneSentenceThatNamesTheSubjectAndSaysWhatToDo) {
    std::set<std::string> seen;
    for (int c = 0; c < static_cast<int>(ErrorCode::Count_); ++c) {
        const bool tells_detail = std::string(sentence_for(static_cast<ErrorCode>(c))).find("%d") != std::string::npos;
        const Error error{static_cast<ErrorCode>(c), "thing.wav", "detail for the log"};
        const std::string text = error.message();
        EXPECT_NE(text.find("thing.wav"), std::string::npos) << text;
        EXPECT_EQ(text.find("%s"), std::string::npos) << text;
        EXPECT_EQ(text.find("%d"), std::string::npos) << text;
        EXPECT_EQ(text.find("detail") != std::string::npos, tells_detail) << text;
        EXPECT_EQ(text.back(), '.') << text;
        EXPECT_TRUE(seen.insert(text).second) << "said twice: " << text;
    }
}

TEST(Errors, ANameWithAPercentSignIsSaidAsItIs) {
    EXPECT_NE((Error{ErrorCode::RemakeUnusable, "100 %d %s.wav", "it is empty"}).message().find("100 %d %s.wav cannot be opened, because it is empty"),
              std::string::npos);
}

TEST(Errors, AResultHoldsEitherAValueOrAnError) {
    const Result<int> good = 3, bad = Error{ErrorCode::FileMissing, "x", {}};
    EXPECT_TRUE(good);
    EXPECT_EQ(*good, 3);
    EXPECT_FALSE(bad);
    EXPECT_EQ(bad.error().code, ErrorCode::FileMissing);
}

}  // namespace fw
