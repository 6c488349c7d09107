// SPDX-License-Identifier: GPL-3.0-or-later
// The fields of the document's own things, and the one way to any field there is. Fields of sources and steps stand beside those (sound/).
#pragma once

#include "base/parameter.hpp"
#include "model/remake.hpp"

#include <array>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace fw {

namespace rows {
inline constexpr Parameter kLevel{"level", "Level", Unit::Decibels, -96.0, 24.0, 0.0, Scale::Linear, 0.5, true, "Loudness in the mix"};
inline constexpr Parameter kPan{"pan", "Pan", Unit::Share, -1.0, 1.0, 0.0, Scale::Linear, 0.05, true, "−100 % left, 100 % right"};
inline constexpr Parameter kOn{"on", "On", Unit::None, 0.0, 1.0, 1.0, Scale::Switch, 1.0, true, "Off lets the sound pass as it is"};
}  // namespace rows

inline constexpr std::array kPartFields{rows::kLevel, rows::kPan,
                                        Parameter{"early_ms", "Played early", Unit::Milliseconds, -200.0, 500.0, 0.0, Scale::Linear, 1.0, false,
                                                  "Earlier than written, for a sound that speaks late; the score stays where it is"}};
inline constexpr std::array kLayerFields{
    Parameter{"on", "On", Unit::None, 0.0, 1.0, 1.0, Scale::Switch, 1.0, true, "Off takes the layer out of the part"},
    rows::kLevel,
    rows::kPan,
    Parameter{"octave", "Octave", Unit::Octaves, -4.0, 4.0, 0.0, Scale::Whole, 1.0, false, "How many octaves above the written notes it sounds"},
    Parameter{"low_key", "Lowest note", Unit::Pitch, 0.0, 127.0, 0.0, Scale::Whole, 1.0, false, "Written notes below are left to other layers"},
    Parameter{"high_key", "Highest note", Unit::Pitch, 0.0, 127.0, 127.0, Scale::Whole, 1.0, false, "Written notes above are left to other layers"},
    Parameter{"offset_ms", "Offset", Unit::Milliseconds, -500.0, 500.0, 0.0, Scale::Linear, 1.0, false, "Later than written; negative is earlier"},
    Parameter{"low_velocity", "Softest", Unit::None, 1.0, 127.0, 1.0, Scale::Whole, 1.0, false, "Notes played softer are left to other layers"},
    Parameter{"high_velocity", "Hardest", Unit::None, 1.0, 127.0, 127.0, Scale::Whole, 1.0, false, "Notes played harder are left to other layers"},
    Parameter{"tuning", "Tuning", Unit::Cents, -2400.0, 2400.0, 0.0, Scale::Linear, 1.0, false, "Up or down besides; 100 are a semitone"},
};
inline constexpr std::array kStepFields{rows::kOn};
inline constexpr std::array kSendFields{
    Parameter{"level", "Level", Unit::Decibels, -96.0, 24.0, -12.0, Scale::Linear, 0.5, true, "How much goes to the bus"},
    Parameter{"on", "On", Unit::None, 0.0, 1.0, 1.0, Scale::Switch, 1.0, true, "Off sends nothing"},
};
inline constexpr std::array kBusFields{rows::kLevel, rows::kPan};
inline constexpr std::array kMasterFields{rows::kLevel};
inline constexpr std::array kMacroFields{
    Parameter{"amount", "Amount", Unit::Share, 0.0, 1.0, 0.0, Scale::Linear, 0.02, true, "All it moves goes from one end of its range to the other"},
};

/// The fields of an owner, its own before those of its source or kind; empty where the document has no such owner.
std::vector<const Parameter*> fields_of(const Remake& remake, const FieldOwner& owner);
/// Null where there is no such field.
const Parameter* find_field(const Remake& remake, const FieldRef& ref);
/// What is set, without what moves it.
std::optional<double> field_value(const Remake& remake, const FieldRef& ref);
/// "Lead, second layer (Warm pad)", "Bass, equaliser", "Room, level": for people.
std::string owner_name(const Remake& remake, const FieldOwner& owner);

/// The part that has a layer or a step in its chosen version; null where there is none. Steps of buses and the master belong to no part.
const Part* part_with(const Remake& remake, LayerId layer);
const Part* part_with(const Remake& remake, StepId step);
/// The part something belongs to; none for buses, the master, macros and what is not there.
PartId part_of(const Remake& remake, const FieldOwner& owner);
const Layer* find_layer(const Remake& remake, LayerId layer);
const Step* find_step(const Remake& remake, StepId step);

}  // namespace fw
