// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/print.hpp"

#include "engine/offline.hpp"
#include "model/edits/arrangement.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

Result<Audio> print_part(const Remake& remake, PartId part, Ticks from, Ticks to, bool steps, const PlanInputs& inputs, const Progress& progress) {
    constexpr double kTail_s = 4.0;
    constexpr float kSilent = 1e-4F;
    constexpr Ticks kFar = Ticks{1} << 26;
    const Part* p = remake.part(part);
    if (!p || to <= from) return Error{ErrorCode::CommandRefused, "Print", "there is no such stretch"};
    // What comes behind would sound into the tail, what began before into the beginning.
    const auto plan = compile_for_rendering(fall_out(fall_out(remake, part, to, kFar), part, -kFar, from), inputs);
    if (!plan) return plan.error();
    const auto frame = [&](Ticks t) { return static_cast<std::int64_t>(std::llround(std::max(0.0, remake.song->tempo.seconds(t)) * inputs.sample_rate_hz)); };
    RenderRange range{RenderWhat::of(part), frame(from), frame(to) + static_cast<std::int64_t>(kTail_s * inputs.sample_rate_hz)};
    range.what.steps = steps;
    auto sound = render_offline(**plan, range, progress);
    if (!sound) return sound;
    std::size_t last = sound->samples.size();
    while (last > 0 && std::abs(sound->samples[last - 1]) < kSilent) --last;
    if (last == 0) return Error{ErrorCode::CommandRefused, "Print", "\"" + p->name + "\" sounds nowhere there"};
    sound->samples.resize(std::max(last + last % 2, static_cast<std::size_t>(2 * (frame(to) - frame(from)))), 0.0F);
    return sound;
}

}  // namespace fw
