// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/pattern.hpp"

#include <algorithm>
#include <array>
#include <unordered_set>

namespace fw {

const Note* Pattern::own(NoteId note) const {
    const auto at = std::find_if(notes.begin(), notes.end(), [&](const Note& n) { return n.id == note; });
    return at == notes.end() ? nullptr : &*at;
}

bool Pattern::leaves_out(NoteId note) const { return std::binary_search(left_out.begin(), left_out.end(), note); }

void sort_notes(std::vector<Note>& notes) {
    std::stable_sort(notes.begin(), notes.end(), [](const Note& a, const Note& b) { return a.start != b.start ? a.start < b.start : a.pitch < b.pitch; });
}

std::vector<Note> notes_of(const Pattern& pattern, const Pattern* parent) {
    if (!parent) return pattern.notes;
    std::unordered_set<int> own;
    for (const Note& n : pattern.notes) own.insert(n.id.number);
    std::vector<Note> out = pattern.notes;
    for (const Note& n : parent->notes)
        if (!own.contains(n.id.number) && !pattern.leaves_out(n.id)) out.push_back(n);
    sort_notes(out);
    return out;
}

Pattern variant_of(const Pattern& parent, std::vector<Note> notes, Ticks near, Ticks same, int& next_id) {
    Pattern made;
    made.parent = parent.id;
    made.length = parent.length;
    // By pitch, so that one walk through both finds all pairs.
    std::array<std::vector<const Note*>, 128> theirs;
    std::array<std::size_t, 128> next{};
    for (const Note& n : parent.notes) theirs[static_cast<std::size_t>(n.pitch)].push_back(&n);
    std::unordered_set<int> met;
    for (Note& n : notes) {
        const auto& twins = theirs[static_cast<std::size_t>(n.pitch)];
        std::size_t& at = next[static_cast<std::size_t>(n.pitch)];
        while (at < twins.size() && twins[at]->start < n.start - near) ++at;
        if (at < twins.size() && twins[at]->start <= n.start + near) {
            const Note& twin = *twins[at++];
            met.insert(twin.id.number);
            n.id = twin.id;
            if (same > 0 ? std::abs(n.start - twin.start) <= same : n == twin) continue;
        } else {
            n.id = NoteId(next_id++);
        }
        made.notes.push_back(std::move(n));
    }
    for (const Note& n : parent.notes)
        if (!met.contains(n.id.number)) made.left_out.push_back(n.id);
    std::sort(made.left_out.begin(), made.left_out.end());
    sort_notes(made.notes);
    return made;
}

}  // namespace fw
