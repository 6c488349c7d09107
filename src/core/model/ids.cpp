// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/ids.hpp"

#include <array>
#include <charconv>

namespace fw {

namespace {
constexpr std::array<std::string_view, 6> kKinds{"tempo", "key", "sections", "chords", "part", "own"};
}

std::string ElementId::text() const {
    std::string out(kKinds[static_cast<std::size_t>(kind_)]);
    return number_ == 0 ? out : out + ":" + std::to_string(number_);
}

std::optional<ElementId> ElementId::parse(std::string_view text) {
    const auto colon = text.find(':');
    int number = 0;
    if (colon != std::string_view::npos) {
        const auto [end, bad] = std::from_chars(text.data() + colon + 1, text.data() + text.size(), number);
        if (bad != std::errc{} || end != text.data() + text.size() || number < 1) return std::nullopt;
    }
    for (std::size_t k = 0; k < kKinds.size(); ++k) {
        const Kind kind = static_cast<Kind>(k);
        if (kKinds[k] != text.substr(0, colon) || (kind == Kind::Part || kind == Kind::Own) != (number != 0)) continue;
        if (kind == Kind::Part) return ElementId(PartId(number));
        return kind == Kind::Own ? ElementId(RowId(number)) : ElementId(kind);
    }
    return std::nullopt;
}

}  // namespace fw
