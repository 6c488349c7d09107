// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <random>
#include <string>
#include <vector>

namespace fw::fuzz {

/// Makes hostile inputs out of good ones: bytes flipped, cut, doubled and moved, lengths and numbers set to what breaks readers, two inputs spliced.
class Mutator {
public:
    Mutator(std::vector<std::string> seeds, unsigned seed) : seeds_(std::move(seeds)), random_(seed) {}
    std::string next();
    /// An input that was read well is a seed for later ones.
    void keep(const std::string& input);

private:
    std::size_t below(std::size_t n) { return n ? random_() % n : 0; }
    void once(std::string& input);
    void number(std::string& input);

    std::vector<std::string> seeds_;
    std::mt19937_64 random_;
    std::size_t kept_ = 0;
};

}  // namespace fw::fuzz
