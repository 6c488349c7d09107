// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/pattern.hpp"

#include <algorithm>
#include <array>
#include <unordered_map>
#include <unordered_set>

namespace fw {

const Note* Pattern::own(NoteId note) const {
    const auto at = std::find_if(notes.begin(), notes.end(), [&](const Note& n) { return n.id == note; });
    return at == notes.end() ? nullptr : &*at;
}

bool Pattern::leaves_out(NoteId note) const { return std::binary_search(left_out.begin(), left_out.end(), note); }

void sort_notes(std::vector<Note>& notes) {
    const auto before = [](const Note& a, const Note& b) { return a.start != b.start ? a.start < b.start : a.pitch < b.pitch; };
    // An edit mostly moves few of many, and to put those in their places costs a tenth of sorting.
    constexpr int kFew = 32;
    auto wrong = std::is_sorted_until(notes.begin(), notes.end(), before);
    for (int moved = 0; wrong != notes.end() && moved < kFew; ++moved) {
        const auto next = std::next(wrong);
        std::rotate(std::upper_bound(notes.begin(), wrong, *wrong, before), wrong, next);
        wrong = std::is_sorted_until(next == notes.begin() ? next : std::prev(next), notes.end(), before);
    }
    if (wrong != notes.end()) std::stable_sort(notes.begin(), notes.end(), before);
}

int difference(const Note& a, const Note& b) {
    return (a.start != b.start ? kOwnStart : 0) | (a.length != b.length ? kOwnLength : 0) | (a.pitch != b.pitch ? kOwnPitch : 0) |
           (a.velocity != b.velocity ? kOwnVelocity : 0) |
           (a.confidence != b.confidence || a.origin != b.origin || a.bend != b.bend || !(a.roll == b.roll) || a.accepted != b.accepted ||
                    !(a.unknown == b.unknown)
                ? kOwnRest
                : 0) |
           (a.muted != b.muted ? kOwnMuted : 0);
}

void take_members(Note& into, const Note& from, int members) {
    if (members & kOwnStart) into.start = from.start;
    if (members & kOwnLength) into.length = from.length;
    if (members & kOwnPitch) into.pitch = from.pitch;
    if (members & kOwnVelocity) into.velocity = from.velocity;
    if (members & kOwnMuted) into.muted = from.muted;
    if (members & kOwnRest) {
        into.confidence = from.confidence, into.origin = from.origin, into.accepted = from.accepted;
        into.bend = from.bend, into.roll = from.roll, into.unknown = from.unknown;
    }
}

Note resolved(const Note& variants, const Note& parents) {
    Note n = parents;
    take_members(n, variants, variants.own);
    return n;
}

std::vector<Note> notes_of(const Pattern& pattern, const Pattern* parent) {
    if (!parent) return pattern.notes;
    std::unordered_map<int, const Note*> own;
    for (const Note& n : pattern.notes) own.emplace(n.id.number, &n);
    std::vector<Note> out;
    out.reserve(parent->notes.size() + pattern.notes.size());
    for (const Note& n : parent->notes) {
        const auto here = own.find(n.id.number);
        if (here == own.end()) {
            if (!pattern.leaves_out(n.id)) out.push_back(n);
        } else {
            out.push_back(resolved(*here->second, n));
            own.erase(here);
        }
    }
    for (const auto& [id, added] : own) out.push_back(*added);
    std::sort(out.begin(), out.end(), [](const Note& a, const Note& b) {
        return a.start != b.start ? a.start < b.start : a.pitch != b.pitch ? a.pitch < b.pitch : a.id < b.id;
    });
    return out;
}

Pattern variant_of(const Pattern& parent, std::vector<Note> notes, Ticks near, int& next_id) {
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
            n.own = difference(n, twin);
            if (n.own == 0) continue;
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
