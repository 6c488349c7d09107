// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <QString>
#include <vector>

namespace fw::app {

/// An element of the analysis in the window's words: "Bass", "Hat closed".
QString heard_element_name(const std::string& element);

/// How the bar between two ticks differs from the one it repeats; empty where it does not. Told of the recording as it was heard, so
/// bars that the user has moved since find theirs by their middle.
std::vector<const BarDifference*> bar_changes(const Session& session, Ticks start, Ticks end);

/// By how many semitones the repeat between two ticks lies higher than the section it repeats; 0 where it is none.
int section_shift(const Session& session, Ticks start, Ticks end);

/// "Kick −1, Chords G → G7, Lead up a third": what to expect at a changed bar.
QString change_words(const Session& session, const std::vector<const BarDifference*>& changes);

/// A kind of remark as commands call it.
QString remark_name(RemarkKind kind);

}  // namespace fw::app
