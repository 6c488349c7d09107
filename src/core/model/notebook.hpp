// SPDX-License-Identifier: GPL-3.0-or-later
// What the user says of the work.
#pragma once

#include "base/time.hpp"
#include "model/ids.hpp"
#include "model/shared.hpp"

#include <map>
#include <string>
#include <vector>

namespace fw {

enum class State { Open, Draft, Confirmed, LeftOut };
inline constexpr int kStates = 4;
const char* state_name(State state);

/// What the user says of an element; question, intended and reason hold the user's own words, empty for none.
struct ElementState {
    State state = State::Open;
    std::string question, intended;
    std::string reason{};       ///< why it is close enough, or left out
    double time_spent_s = 0.0;  ///< with the element chosen and something being done
    double budget_min = 0.0;    ///< how much time the user gives it; 0: no end
    Unknown unknown{};
    bool operator==(const ElementState&) const = default;
};

enum class RemarkKind {
    Question,
    Intended,
    Faint,
    Clearest,  ///< a place where the element stands most alone in the original
    Seen,      ///< a change or an entry that was listened to and is as it should be
    Dismissed  ///< one that is none
};
inline constexpr int kRemarkKinds = 6;

/// Words about a place: an open question, a difference that is meant, something barely audible, …
struct Remark {
    RemarkKind kind = RemarkKind::Question;
    ElementId element;
    Ticks start = 0, length = 1;
    std::string words;
    Unknown unknown{};
    bool operator==(const Remark&) const = default;
};

/// A row of the user's own in the ledger.
struct OwnRow {
    RowId id;
    std::string name;
    Unknown unknown{};
    bool operator==(const OwnRow&) const = default;
};

/// A place to come back to, with how it was listened to.
struct Spot {
    std::string name;
    Ticks start = 0, length = 1;  ///< what was looped
    std::string lens;             ///< as lens_text writes it; empty for the whole
    Unknown unknown{};
    bool operator==(const Spot&) const = default;
};

/// A picture of how the record was made: a photograph, a page, a screen.
struct Picture {
    std::string words;            ///< what it shows
    std::string path;             ///< the file it came from
    Shared<std::string> bytes{};  ///< that file as the remake file holds it; empty where it was not kept yet
    Unknown unknown{};
    bool operator==(const Picture&) const = default;
};

struct Notebook {
    std::map<ElementId, ElementState> elements;
    std::vector<OwnRow> rows;
    std::vector<Remark> remarks;
    std::vector<Spot> spots;
    std::string research;           ///< what was found out about the record, in the user's words
    std::vector<Picture> pictures;  ///< beside those words
    double time_spent_s = 0.0;      ///< with the remake open and in use
    Unknown unknown{};
    bool operator==(const Notebook&) const = default;
};

}  // namespace fw
