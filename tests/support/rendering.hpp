// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/offline.hpp"

#include <algorithm>
#include <cmath>
#include <span>
#include <vector>

namespace fw::test {

inline std::shared_ptr<const Plan> plan_of(const Remake& r, const std::shared_ptr<const Plan>& previous = nullptr) {
    return compile_plan(r, {44100.0, {}}, previous);
}

inline Audio rendered(const Remake& r, const RenderWhat& what = {}) { return *render_offline(*plan_of(r), {what}); }

inline double energy(const Audio& a, double from_s, double to_s) {
    double sum = 0;
    for (auto f = static_cast<std::size_t>(from_s * a.sample_rate_hz); f < std::min(a.frames(), static_cast<std::size_t>(to_s * a.sample_rate_hz)); ++f)
        sum += a.samples[2 * f] * a.samples[2 * f];
    return sum;
}

/// Runs a processor over both sides, in slices as the engine does.
inline void run(Processor& p, std::span<float> left, std::span<float> right) {
    for (std::size_t at = 0; at < left.size(); at += kSlice) {
        const std::size_t n = std::min(kSlice, left.size() - at);
        p.process({left.subspan(at, n), right.subspan(at, n)}, {});
    }
}

inline std::unique_ptr<Processor> make_source(const SourceType& type, const SourceSpec& spec, double rate = 44100.0) {
    auto made = type.make(spec, rate);
    return made ? std::move(made).value() : nullptr;
}

}  // namespace fw::test
