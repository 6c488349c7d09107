// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <sys/wait.h>
#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>

namespace fw::test {

/// What the real command line left when it was run.
struct Outcome {
    int code = -1;
    std::string out, err;
};

inline std::string slurp(const std::filesystem::path& p) {
    std::ifstream in(p, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

inline Outcome run(const TemporaryFolder& folder, const std::string& arguments, const std::string& environment = {}) {
    const std::string out = (folder / "stdout").string(), err = (folder / "stderr").string();
    const int status = std::system((environment + " " + FW_CLI + " " + arguments + " >" + out + " 2>" + err).c_str());
    return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, slurp(out), slurp(err)};
}

/// One clear sentence: it names the file, ends in a full stop and stands alone.
inline void expect_sentence(const Outcome& r, int code, const std::string& subject) {
    EXPECT_EQ(r.code, code) << r.err;
    EXPECT_NE(r.err.find(subject), std::string::npos) << r.err;
    EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
    EXPECT_EQ(r.err.substr(r.err.size() - 2), ".\n") << r.err;
    EXPECT_TRUE(r.out.empty());
}

}  // namespace fw::test
