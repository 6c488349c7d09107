// SPDX-License-Identifier: GPL-3.0-or-later
#include "check/followed_changes.hpp"

#include "base/pitch.hpp"
#include "model/drums.hpp"

#include <algorithm>
#include <cmath>
#include <set>

namespace fw {

namespace {

constexpr const char* kChords = "Chords";
constexpr Ticks kSame = kTicksPerQuarter / 8;

}  // namespace

FollowedChanges::FollowedChanges(const Remake& remake, const Analysis& analysis) : r_(remake), a_(analysis) {}

FollowedChanges::Bar FollowedChanges::bar_at(double time_s) const {
    // The recording's bars begin a little beside the document's.
    constexpr double kBeside_s = 0.05;
    const MeterMap& meter = r_.song->meter;
    const int bar = meter.position(r_.song->tempo.nearest_tick(time_s + kBeside_s)).bar;
    return {meter.tick_of_bar(bar), meter.tick_of_bar(bar + 1)};
}

const std::vector<Note>& FollowedChanges::played(const std::string& element) {
    const auto [known, fresh] = played_.try_emplace(element);
    if (!fresh) return known->second;
    const auto drum = parse_drum_kind(element);
    const auto heard = std::find_if(a_.parts.begin(), a_.parts.end(), [&](const HeardPart& p) { return p.name == element; });
    std::vector<Note>& all = known->second;
    for (const auto& p : r_.parts) {
        const bool drums = p->role == PartRole::Drums;
        const bool meant = drum ? drums : element == kChords ? !drums : heard != a_.parts.end() && p->role == heard->role;
        if (!meant || p->mute) continue;
        for (const PlacedNote& n : placed_notes(*p)) {
            const DrumSound* sound = drum ? drum_sound_of_key(n.note.pitch) : nullptr;
            if (!n.muted && (!drum || (sound && sound->kind == *drum))) all.push_back(n.note);
        }
    }
    std::stable_sort(all.begin(), all.end(), [](const Note& x, const Note& y) { return x.start < y.start; });
    return all;
}

std::vector<Note> FollowedChanges::within(const std::string& element, Ticks from, Ticks to) {
    const auto& all = played(element);
    const auto before = [](const Note& n, Ticks t) { return n.start < t; };
    return {std::lower_bound(all.begin(), all.end(), from, before), std::lower_bound(all.begin(), all.end(), to, before)};
}

Followed FollowedChanges::entry(const std::string& element, double at_s) {
    const Bar bar = bar_at(at_s);
    const Bar before = bar_at(r_.song->tempo.seconds(bar.start) - 0.2);
    const Ticks begins = bar.start - kTicksPerQuarter;
    if (within(element, begins, bar.end).empty()) return played(element).empty() ? Followed::NotBuilt : Followed::No;
    return within(element, before.start, begins).empty() ? Followed::Yes : Followed::No;
}

Followed FollowedChanges::exit(const std::string& element, double at_s) {
    const Bar bar = bar_at(at_s);
    const Bar before = bar_at(r_.song->tempo.seconds(bar.start) - 0.2);
    if (within(element, before.start, bar.start).empty()) return played(element).empty() ? Followed::NotBuilt : Followed::No;
    return within(element, bar.start + kTicksPerQuarter, bar.end).empty() ? Followed::Yes : Followed::No;
}

Followed FollowedChanges::chord_changes(const BarDifference& told, const Bar& here, const Bar& there) {
    const auto from = parse_chord(told.from), to = parse_chord(told.to);
    if (!from || !to) return Followed::NotBuilt;
    std::set<int> gone, come;
    const auto a = from->tones(), b = to->tones();
    for (const int t : a)
        if (std::find(b.begin(), b.end(), t) == b.end()) gone.insert(t);
    for (const int t : b)
        if (std::find(a.begin(), a.end(), t) == a.end()) come.insert(t);
    const auto has = [&](const std::set<int>& tones, const Bar& bar) {
        const auto notes = within(kChords, bar.start, bar.end);
        return std::any_of(notes.begin(), notes.end(), [&](const Note& n) { return tones.contains(pitch_class(n.pitch)); });
    };
    if (within(kChords, here.start, here.end).empty() || within(kChords, there.start, there.end).empty()) return Followed::NotBuilt;
    const bool follows = (come.empty() || (has(come, here) && !has(come, there))) && (gone.empty() || (has(gone, there) && !has(gone, here)));
    return follows ? Followed::Yes : Followed::No;
}

Followed FollowedChanges::difference(const BarDifference& told) {
    const auto beat = std::find_if(a_.beats.begin(), a_.beats.end(), [&](const Beat& b) { return b.bar == told.of_bar && b.beat == 1; });
    if (beat == a_.beats.end()) return Followed::NotBuilt;
    const Bar here = bar_at(told.start_s), there = bar_at(beat->time_s);
    if (!told.from.empty()) return chord_changes(told, here, there);
    auto now = within(told.element, here.start, here.end), then = within(told.element, there.start, there.end);
    if (now.empty() && then.empty()) return Followed::NotBuilt;
    // What both have goes out, and what is left is what differs.
    const auto take = [&](int up) {
        std::erase_if(then, [&](const Note& n) {
            const auto twin = std::find_if(now.begin(), now.end(), [&](const Note& m) {
                return m.pitch == n.pitch + up && std::abs((m.start - here.start) - (n.start - there.start)) <= kSame;
            });
            if (twin == now.end()) return false;
            now.erase(twin);
            return true;
        });
    };
    take(0);
    const std::size_t others = then.size() + now.size();
    if (told.up != 0) {
        if (others == 0) return Followed::No;
        take(told.up);
        return 4 * (then.size() + now.size()) <= others ? Followed::Yes : Followed::No;
    }
    const auto missing = static_cast<int>(then.size()), added = static_cast<int>(now.size());
    const int told_of = told.missing + told.added;
    const bool follows = missing >= told.missing && added >= told.added && missing + added - told_of <= std::max(1, told_of / 2);
    return follows ? Followed::Yes : Followed::No;
}

}  // namespace fw
