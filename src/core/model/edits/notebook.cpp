// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/notebook.hpp"

#include <algorithm>
#include <utility>

namespace fw {

Remake set_element(const Remake& remake, ElementId element, const ElementState& state) {
    Remake next = remake;
    next.notebook.edit().elements[element] = state;
    return next;
}

Remake add_row(const Remake& remake, const std::string& name) {
    Remake next = remake;
    next.notebook.edit().rows.push_back({RowId(next.next_id++), name, {}});
    return next;
}

Remake remove_row(const Remake& remake, RowId row) {
    Remake next = remake;
    Notebook& notes = next.notebook.edit();
    std::erase_if(notes.rows, [&](const OwnRow& r) { return r.id == row; });
    notes.elements.erase(ElementId(row));
    std::erase_if(notes.remarks, [&](const Remark& m) { return m.element == ElementId(row); });
    return next;
}

Remake remove_remark(const Remake& remake, RemarkKind kind, ElementId element, Ticks start) {
    const auto meant = [&](const Remark& m) { return m.kind == kind && m.element == element && m.start == start; };
    if (std::none_of(remake.notebook->remarks.begin(), remake.notebook->remarks.end(), meant)) return remake;
    Remake next = remake;
    std::erase_if(next.notebook.edit().remarks, meant);
    return next;
}

Remake add_remark(const Remake& remake, Remark remark) {
    Remake next = remove_remark(remake, remark.kind, remark.element, remark.start);
    next.notebook.edit().remarks.push_back(std::move(remark));
    return next;
}

Remake remove_spot(const Remake& remake, const std::string& name) {
    Remake next = remake;
    return std::erase_if(next.notebook.edit().spots, [&](const Spot& s) { return s.name == name; }) ? next : remake;
}

Remake add_spot(const Remake& remake, Spot spot) {
    Remake next = remove_spot(remake, spot.name);
    next.notebook.edit().spots.push_back(std::move(spot));
    return next;
}

Remake set_research(const Remake& remake, const std::string& words) {
    Remake next = remake;
    next.notebook.edit().research = words;
    return next;
}

Remake add_picture(const Remake& remake, Picture picture) {
    Remake next = remake;
    next.notebook.edit().pictures.push_back(std::move(picture));
    return next;
}

Remake remove_picture(const Remake& remake, std::size_t index) {
    Remake next = remake;
    auto& all = next.notebook.edit().pictures;
    all.erase(all.begin() + static_cast<std::ptrdiff_t>(index));
    return next;
}

}  // namespace fw
