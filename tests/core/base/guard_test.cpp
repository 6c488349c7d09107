// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/guard.hpp"

#include <gtest/gtest.h>
#include <stdexcept>

namespace fw {

TEST(Guarded, WhatIsThrownBecomesAnErrorWithTheWorkInIt) {
    const auto thrown = [](auto what) { return guarded("the work", [&]() -> Status { throw what; }).error(); };
    EXPECT_EQ(thrown(Cancelled{}).code, ErrorCode::Cancelled);
    EXPECT_EQ(thrown(std::bad_alloc{}).code, ErrorCode::OutOfMemory);
    EXPECT_EQ(thrown(std::runtime_error("the roof fell in")).message(),
              "Something unexpected went wrong in the work (the roof fell in): what was open is kept as it was, so save it and try again.");
    EXPECT_EQ(thrown(7).code, ErrorCode::Unexpected);
}

TEST(Guarded, WhatIsReturnedIsPassedOn) {
    EXPECT_EQ(*guarded("the work", []() -> Result<int> { return 5; }), 5);
    EXPECT_EQ(guarded("the work", []() -> Result<int> { return Error{ErrorCode::FileMissing, "x", {}}; }).error().code, ErrorCode::FileMissing);
}

}  // namespace fw
