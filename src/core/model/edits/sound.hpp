// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of the sound sheet and the mixer: layers, steps, sends, buses, and the value of any field.
#pragma once

#include "model/fields.hpp"
#include "model/remake.hpp"

#include <string>
#include <variant>

namespace fw {

/// Where steps stand in a row.
using Chain = std::variant<PartId, BusId, MasterRef>;
/// Null where there is none.
const std::vector<Step>* steps_of(const Remake& remake, const Chain& chain);

/// Sets a field; the value is brought into its range. A field that is no longer there is left alone.
Remake set_field(const Remake& remake, const FieldRef& field, double value);
/// Back to the patch's or the row's neutral value.
Remake reset_field(const Remake& remake, const FieldRef& field);

// New things get the ids document.next_id, +1, …
Remake add_layer(const Remake& remake, PartId part, Layer layer);
Remake remove_layer(const Remake& remake, LayerId layer);
/// Another instrument in a layer's place: its level, range and offset stay, the source's own fields start anew.
Remake set_source(const Remake& remake, LayerId layer, const SourceType& source, const std::string& patch, int program, const std::string& file);

/// Values of a plug-in's fields, all others at rest, and what it keeps besides them: what a preset has.
Remake set_preset(const Remake& remake, LayerId layer, const Settings& settings, const std::string& state);
Remake set_preset(const Remake& remake, StepId step, const Settings& settings, const std::string& state);
/// What a plug-in keeps besides its fields, and the file it is given.
Remake set_own(const Remake& remake, LayerId layer, const std::string& state, const std::string& file);
Remake set_own(const Remake& remake, StepId step, const std::string& state, const std::string& file);

/// What of a part's sheet is copied.
struct SheetPieces {
    bool layers = true, steps = true, place = false, notes = false;
};
/// Gives a part what another one has, in the place of its own; new layers and steps. Rivals, curves and section settings are not copied.
Remake copy_sheet(const Remake& remake, PartId from, PartId to, const SheetPieces& pieces);

/// Puts a step into a chain; place counts from 0, beyond the last puts it last.
Remake add_step(const Remake& remake, const Chain& chain, Step step, std::size_t place = ~std::size_t{0});
Remake remove_step(const Remake& remake, StepId step);
/// Moves a step within its chain.
Remake move_step(const Remake& remake, StepId step, std::size_t place);
Remake set_trigger(const Remake& remake, StepId step, const Trigger& trigger);
/// Switches all steps of a chain on or off.
Remake switch_steps(const Remake& remake, const Chain& chain, bool on);

Remake add_bus(const Remake& remake, const std::string& name);
Remake remove_bus(const Remake& remake, BusId bus);
Remake rename_bus(const Remake& remake, BusId bus, const std::string& name);
Remake add_send(const Remake& remake, PartId part, BusId bus, double level_db);
Remake remove_send(const Remake& remake, PartId part, BusId bus);
/// Where a part goes: a bus, or none for the master.
Remake set_output(const Remake& remake, PartId part, BusId bus);
/// Lets a bus go to another one; none: to the master. Unchanged where it would go round in a circle.
Remake set_bus_output(const Remake& remake, BusId bus, BusId to);

}  // namespace fw
