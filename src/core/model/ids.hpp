// SPDX-License-Identifier: GPL-3.0-or-later
// What things are meant by. A number within the program, text only in files; 0 means none. Numbers are given out by the document (Remake::next_id) and
// within a part by the part (PartVersion::next_id), and are not given out twice.
#pragma once

#include <compare>
#include <optional>
#include <string>
#include <string_view>

namespace fw {

template <class Tag>
struct Id {
    int number = 0;

    constexpr Id() = default;
    constexpr explicit Id(int n) : number(n) {}
    constexpr explicit operator bool() const noexcept { return number != 0; }
    auto operator<=>(const Id&) const = default;
};

// Unique in a document. A rival keeps the layers' and steps' ids of the version it was copied from, so that curves fit both.
using PartId = Id<struct PartTag>;
using LayerId = Id<struct LayerTag>;
using StepId = Id<struct StepTag>;
using BusId = Id<struct BusTag>;
using SectionId = Id<struct SectionTag>;
using AssetId = Id<struct AssetTag>;
using ClipId = Id<struct ClipTag>;
using CurveId = Id<struct CurveTag>;
using MacroId = Id<struct MacroTag>;
using RowId = Id<struct RowTag>;
// Unique in a part. A variant's notes keep the ids of the parent's notes they change.
using PatternId = Id<struct PatternTag>;
using PlacementId = Id<struct PlacementTag>;
using NoteId = Id<struct NoteTag>;

/// A thing to get right: one of the song's four, a part, or a row of the user's own.
class ElementId {
public:
    enum class Kind { Tempo, Key, Sections, Chords, Part, Own };

    constexpr ElementId() = default;  ///< tempo
    constexpr ElementId(PartId part) : kind_(Kind::Part), number_(part.number) {}
    constexpr ElementId(RowId row) : kind_(Kind::Own), number_(row.number) {}
    static constexpr ElementId tempo() { return ElementId(Kind::Tempo); }
    static constexpr ElementId key() { return ElementId(Kind::Key); }
    static constexpr ElementId sections() { return ElementId(Kind::Sections); }
    static constexpr ElementId chords() { return ElementId(Kind::Chords); }

    constexpr Kind kind() const noexcept { return kind_; }
    /// The part or the row; none where it is something else.
    constexpr PartId part() const noexcept { return PartId(kind_ == Kind::Part ? number_ : 0); }
    constexpr RowId row() const noexcept { return RowId(kind_ == Kind::Own ? number_ : 0); }
    /// "tempo", "key", "sections", "chords", "part:3", "own:2": for files only.
    std::string text() const;
    static std::optional<ElementId> parse(std::string_view text);
    auto operator<=>(const ElementId&) const = default;

private:
    constexpr explicit ElementId(Kind kind) : kind_(kind) {}
    Kind kind_ = Kind::Tempo;
    int number_ = 0;
};

}  // namespace fw
