// SPDX-License-Identifier: GPL-3.0-or-later
#include "mutate.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <cstdint>

namespace fw::fuzz {

namespace {
constexpr std::size_t kLargest = 1 << 17, kMostKept = 256;
}

std::string Mutator::next() {
    std::string input = seeds_[below(seeds_.size())];
    for (std::size_t times = 1 + below(6); times > 0; --times) once(input);
    if (input.size() > kLargest) input.resize(kLargest);
    return input;
}

void Mutator::keep(const std::string& input) {
    if (kept_ < kMostKept) {
        seeds_.push_back(input);
        ++kept_;
    } else {
        seeds_[seeds_.size() - 1 - below(kMostKept)] = input;
    }
}

/// Replaces a number written in digits by one that readers trip over.
void Mutator::number(std::string& input) {
    const std::size_t from = below(input.size());
    const auto digit = [](char c) { return std::isdigit(static_cast<unsigned char>(c)) != 0; };
    const auto begin = std::find_if(input.begin() + static_cast<std::ptrdiff_t>(from), input.end(), digit);
    const auto end = std::find_if_not(begin, input.end(), digit);
    static constexpr std::array kNumbers{"0",     "-1",    "1",  "127", "128",  "65536",     "2147483647", "-2147483648", "4294967296", "9223372036854775807",
                                         "1e308", "1e999", "-0", ".5",  "null", "\"words\"", "[]",         "{}",          "true",       "1000000000"};
    input.replace(begin, end, kNumbers[below(kNumbers.size())]);
}

void Mutator::once(std::string& input) {
    if (input.empty()) input = "x";
    const std::size_t at = below(input.size()), length = 1 + below(std::min<std::size_t>(input.size() - at, 1 + below(64)));
    switch (below(11)) {
        case 0: input[at] = static_cast<char>(input[at] ^ (1 << below(8))); break;
        case 1: input[at] = static_cast<char>(random_()); break;
        case 2: input.erase(at, length); break;
        case 3: input.insert(at, input.substr(below(input.size()), length)); break;
        case 4: input.insert(at, std::string(length, static_cast<char>(random_()))); break;
        case 5: input.resize(at); break;
        case 6: {  // an integer of some width, either way round
            static constexpr std::array<std::uint64_t, 12> kValues{0,      1,      2,          0x7F,       0x80,       0xFF,
                                                                   0x7FFF, 0xFFFF, 0x7FFFFFFF, 0x80000000, 0xFFFFFFFF, 0x7FFFFFFFFFFFFFFF};
            const std::uint64_t value = kValues[below(kValues.size())];
            const std::size_t width = std::size_t{1} << below(4);
            const bool big = below(2) == 0;
            for (std::size_t i = 0; i < width && at + i < input.size(); ++i) input[at + i] = static_cast<char>(value >> (8 * (big ? width - 1 - i : i)) & 255U);
            break;
        }
        case 7: {  // the head of one and the tail of another
            const std::string& other = seeds_[below(seeds_.size())];
            input = input.substr(0, at) + other.substr(below(other.size()));
            break;
        }
        case 8: input += seeds_[below(seeds_.size())]; break;  // joined, as careless tools do
        case 9: std::swap(input[at], input[below(input.size())]); break;
        default: number(input); break;
    }
}

}  // namespace fw::fuzz
