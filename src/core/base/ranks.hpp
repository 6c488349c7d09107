// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <cstddef>
#include <utility>
#include <vector>

namespace fw {

/// The value below which so many quarters (0..3) of the others lie; of an even number's middle the upper. At least one value. Thread-safe.
template <typename T>
T part_of(std::vector<T> values, std::size_t quarters) {
    const auto at = values.begin() + static_cast<std::ptrdiff_t>(values.size() * quarters / 4);
    std::nth_element(values.begin(), at, values.end());
    return *at;
}

template <typename T>
T median(std::vector<T> values) {
    return part_of(std::move(values), 2);
}

}  // namespace fw
