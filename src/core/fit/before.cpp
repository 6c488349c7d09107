// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/before.hpp"

#include "base/guard.hpp"
#include "check/sound_summary.hpp"
#include "engine/offline.hpp"
#include "model/edits/automation.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

constexpr double kSilent_lufs = -69.0;

FieldRef level_of(const Chain& chain) {
    return {std::visit([](const auto& owner) { return FieldOwner(owner); }, chain), "level"};
}

/// The loudness of what a chain is of.
double loudness(const Remake& remake, const Chain& chain, const PlanInputs& inputs, const Progress& progress) {
    const auto plan = compile_plan(remake, inputs);
    RenderRange range;
    if (const PartId* part = std::get_if<PartId>(&chain)) range.what = RenderWhat::of(*part);
    if (const BusId* bus = std::get_if<BusId>(&chain)) range.what = RenderWhat::of(*bus);
    return summarise(*plan, range, progress).lufs;
}

/// A field set, whatever moved it before.
void hold(Remake& remake, const FieldRef& field, double value) {
    auto& automation = remake.automation.edit();
    std::erase_if(automation.settings, [&](const SectionSetting& s) { return s.field == field; });
    std::erase_if(automation.curves, [&](const Curve& c) { return c.field == field; });
    std::erase_if(automation.by_notes, [&](const NoteMove& m) { return m.field == field; });
    remake = set_field(remake, field, value);
}

}  // namespace

Result<Before> before_steps(const Remake& remake, const Chain& chain, const std::vector<StepId>& steps, const PlanInputs& inputs, const Progress& progress) {
    return guarded("the comparison", [&]() -> Result<Before> {
        Before before{remake, 0.0};
        for (const StepId id : steps) hold(before.remake, {id, "on"}, 0.0);
        const Progress with = progress.stretch(0.0, 0.5), without = progress.stretch(0.5, 1.0);
        const double behind_lufs = loudness(remake, chain, inputs, with), before_lufs = loudness(before.remake, chain, inputs, without);
        if (behind_lufs < kSilent_lufs || before_lufs < kSilent_lufs)
            return Error{ErrorCode::CommandRefused, "The comparison", "there is silence on one side of it"};
        before.louder_db = behind_lufs - before_lufs;
        before.remake = changed_everywhere(before.remake, level_of(chain), [&](double db) { return db + before.louder_db; });
        return before;
    });
}

}  // namespace fw
