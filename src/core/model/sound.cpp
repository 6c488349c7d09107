// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/sound.hpp"

#include <algorithm>

namespace fw {

std::optional<double> Settings::find(std::size_t field) const {
    for (const auto& [f, v] : values_)
        if (f == field) return v;
    return std::nullopt;
}

void Settings::set(std::size_t field, double value) {
    const auto at = std::lower_bound(values_.begin(), values_.end(), field, [](const auto& x, std::size_t f) { return x.first < f; });
    if (at != values_.end() && at->first == field) at->second = value;
    else values_.insert(at, {field, value});
}

void Settings::clear(std::size_t field) {
    std::erase_if(values_, [&](const auto& x) { return x.first == field; });
}

double Layer::value(std::size_t field) const {
    const auto set = settings.find(field);
    return set ? *set : source->value_in(patch, field);
}

double Step::value(std::size_t field) const {
    const auto set = settings.find(field);
    return set ? *set : type->fields[field].neutral;
}

}  // namespace fw
