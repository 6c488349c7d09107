// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/shared.hpp"

#include "model/pattern.hpp"

#include <gtest/gtest.h>
#include <string>
#include <utility>
#include <vector>

namespace fw {

TEST(Shared, EditCopiesOnlyWhatOthersHoldToo) {
    Shared<std::string> a{std::string("one")};
    const std::string* before = a.get();
    a.edit() += "!";
    EXPECT_EQ(a.get(), before) << "nobody else held it";
    Shared<std::string> b = a;
    EXPECT_TRUE(b.is(a));
    b.edit() = "two";
    EXPECT_EQ(*a, "one!");
    EXPECT_FALSE(b.is(a));
    EXPECT_NE(a, b);
    b.edit() = "one!";
    EXPECT_EQ(a, b) << "equal, if not the same";
}

TEST(Seldom, IsPlainUntilItIsGivenSomethingAndCopiesStandByThemselves) {
    Seldom<std::vector<int>> a;
    EXPECT_TRUE(a.plain());
    EXPECT_TRUE(a->empty());
    EXPECT_TRUE((Seldom<std::vector<int>>(std::vector<int>{}).plain())) << "what is given plain takes no room";
    a.edit() = {1, 2};
    Seldom<std::vector<int>> b = a;
    b.edit().push_back(3);
    EXPECT_EQ(*a, (std::vector<int>{1, 2}));
    EXPECT_EQ(*b, (std::vector<int>{1, 2, 3}));
    EXPECT_FALSE(a == b);
    b = a;
    EXPECT_EQ(a, b);
    b = std::as_const(b);
    EXPECT_EQ(*b, (std::vector<int>{1, 2})) << "given itself";
    a = {};
    EXPECT_TRUE(a.plain());
    b.edit().clear();
    EXPECT_FALSE(b.plain());
    EXPECT_EQ(a, b) << "emptied by an edit it is as plain as one that was never filled";
    const Seldom<std::vector<int>> c = std::move(b);
    EXPECT_TRUE(c->empty());
}

TEST(Seldom, ANoteOfTheUsualKindHasNothingAside) {
    // An edit of a part copies all notes of its pattern: a cache line and a little more each.
    EXPECT_LE(sizeof(Note), 72u);
    const Note n;
    EXPECT_TRUE(n.bend.plain() && n.roll.plain() && n.unknown.empty());
    Note rolled = n;
    rolled.roll = Roll{.strokes = 3};
    EXPECT_NE(difference(n, rolled), 0);
    Note followed = n;
    take_members(followed, rolled, kOwnRest);
    EXPECT_EQ(followed.roll->strokes, 3);
    rolled.roll.edit().strokes = 1;
    EXPECT_EQ(difference(n, rolled), 0);
    EXPECT_EQ(followed.roll->strokes, 3);
}

}  // namespace fw
