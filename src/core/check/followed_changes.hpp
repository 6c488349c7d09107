// SPDX-License-Identifier: GPL-3.0-or-later
// Whether the rebuild does what the recording does where it changes: an entry, an exit, a bar of a repeat that is another.
#pragma once

#include "analysis/analysis.hpp"
#include "model/remake.hpp"

#include <map>
#include <string>
#include <vector>

namespace fw {

enum class Followed {
    NotBuilt,  ///< no part that could sounds on either side of the change
    No,
    Yes
};

/// Answers for one document. An element is what the parts of its role play that are not muted, a drum what they play on its keys; the names of chords, which
/// the analysis chose itself, count for nothing: a change of chord is followed where what is played has the tones that come and not those that go.
///
/// The remake and the analysis must outlive it. Goes through a part's notes once; not thread-safe, since it remembers them.
class FollowedChanges {
public:
    FollowedChanges(const Remake& remake, const Analysis& analysis);

    /// Of a bar and the one it repeats. Yes: at least the notes told are gone or new (or all that is other lies higher by the interval told), and hardly any
    /// others besides; strokes and notes a thirty-second apart are the same.
    Followed difference(const BarDifference& told);
    /// The element begins in the bar at a time: something of it in that bar or its last beat before, nothing in the bar before until then.
    Followed entry(const std::string& element, double at_s);
    /// It has ended by the bar at a time: something in the bar before, nothing after the first beat.
    Followed exit(const std::string& element, double at_s);

private:
    struct Bar {
        Ticks start = 0, end = 0;
    };
    Bar bar_at(double time_s) const;
    const std::vector<Note>& played(const std::string& element);
    std::vector<Note> within(const std::string& element, Ticks from, Ticks to);
    Followed chord_changes(const BarDifference& told, const Bar& here, const Bar& there);

    const Remake& r_;
    const Analysis& a_;
    std::map<std::string, std::vector<Note>> played_;
};

}  // namespace fw
