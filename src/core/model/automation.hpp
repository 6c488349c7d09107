// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "base/time.hpp"
#include "model/ids.hpp"
#include "model/shared.hpp"

#include <string>
#include <variant>
#include <vector>

namespace fw {

/// A send is meant by the part it leaves and the bus it goes to.
struct SendRef {
    PartId part;
    BusId bus{};
    auto operator<=>(const SendRef&) const = default;
};
struct MasterRef {
    auto operator<=>(const MasterRef&) const = default;
};
/// What has fields: a part (level, pan), a layer (level, … and its source's), a step (on, … and its kind's), a send, a bus, the master, a macro (amount).
using FieldOwner = std::variant<PartId, LayerId, StepId, SendRef, BusId, MasterRef, MacroId>;

/// One field of one owner; field is its id in the owner's table (model/fields.hpp).
struct FieldRef {
    FieldOwner owner;
    std::string field;
    auto operator<=>(const FieldRef&) const = default;
};

/// How a curve goes on from a point to the next.
enum class Shape {
    Straight,
    Smooth,  ///< begins and ends level
    Hold,    ///< stays, then jumps
    Curved   ///< late (bend > 0) or early (bend < 0)
};
inline constexpr int kShapes = 4;
const char* shape_name(Shape shape);
/// How far it has come, 0 … 1, at a share of the time from a point to the next. Exponents 1/8 … 8 for Curved: bend 0 is straight, and −b mirrors b.
double share_of_way(Shape shape, double bend, double time);

struct CurvePoint {
    Ticks tick = 0;  ///< from the start of the curve's section, or of the song
    double value = 0.0;
    Shape shape = Shape::Straight;
    double bend = 0.0;  ///< -1 … 1, for Curved
    bool operator==(const CurvePoint&) const = default;
};

/// A field moved in one section, with which it goes when that is copied or moved, or in the whole song. Before its first point it has the first value,
/// behind the last the last, to the section's end.
struct Curve {
    CurveId id;
    FieldRef field;
    SectionId section;               ///< none: the song
    std::vector<CurvePoint> points;  ///< ascending
    Unknown unknown{};
    bool operator==(const Curve&) const = default;

    /// The value at a tick on the curve's own clock; it has at least one point.
    double at(double tick) const;
};

/// A field's value that holds in one section only.
struct SectionSetting {
    FieldRef field;
    SectionId section;
    double value = 0.0;
    Unknown unknown{};
    bool operator==(const SectionSetting&) const = default;
};

/// A field a macro moves: at no amount it has one value, at the full one the other, between them as its scale goes.
struct MacroTarget {
    FieldRef field;
    double from = 0.0, to = 1.0;
    Unknown unknown{};
    bool operator==(const MacroTarget&) const = default;
};

/// One control that moves many fields, each within a range of its own. Setting it or drawing its curve sets and draws those of its fields (edits/macros.hpp),
/// so that each shows what it is and nothing is worked out twice.
struct Macro {
    MacroId id;
    std::string name;
    double amount = 0.0;  ///< 0 … 1
    std::vector<MacroTarget> targets;
    Unknown unknown{};
    bool operator==(const Macro&) const = default;
};

/// A field that each note of a part moves anew: as the note begins it goes from what it is to another value, falls to a share of the way while the note is
/// held, and comes back behind it; between them as its scale goes. Rows: model/note_move.hpp.
struct NoteMove {
    FieldRef field;
    PartId by;        ///< whose notes
    double to = 0.0;  ///< where it goes
    double attack_ms = 5.0, decay_ms = 300.0, sustain = 0.0, release_ms = 100.0;
    double bend = -0.5;     ///< how it falls: early below 0, late above, as of a curve's point
    double velocity = 0.0;  ///< how much less far softer notes move it
    Unknown unknown{};
    bool operator==(const NoteMove&) const = default;
};

/// What moves. Where several speak of one field at one time, a section's curve comes before its setting, and that before the song's curve;
/// notes move it from there.
struct Automation {
    std::vector<Curve> curves;
    std::vector<SectionSetting> settings;
    std::vector<Macro> macros;
    std::vector<NoteMove> by_notes;  ///< at most one of a field
    Unknown unknown{};
    bool operator==(const Automation&) const = default;

    const Macro* macro(MacroId id) const;
    const NoteMove* note_move(const FieldRef& field) const;
};

}  // namespace fw
