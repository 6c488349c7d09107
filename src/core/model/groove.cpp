// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/groove.hpp"

#include "model/limits.hpp"
#include "model/places.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace fw {

namespace {

/// Where a tick lies: its bar's beginning, and the step there that is nearest on the straight grid.
struct InBar {
    Ticks begin = 0;
    int bar = 1;
    Ticks steps = 1;  ///< in a bar
};

InBar bar_at(const MeterMap& meter, Ticks at, Ticks step) {
    InBar b;
    b.bar = meter.position(at).bar;
    b.begin = meter.tick_of_bar(b.bar);
    b.steps = std::max<Ticks>(1, meter.at_bar(b.bar).bar_ticks() / step);
    return b;
}

std::size_t in_cycle(const InBar& b, Ticks step, std::size_t size) {
    const auto n = static_cast<Ticks>(size);
    return static_cast<std::size_t>((((b.bar - 1) * b.steps + step) % n + n) % n);
}

}  // namespace

GridPlace nearest_on(const Grid& grid, const MeterMap& meter, Ticks at) {
    const Ticks step = grid.groove ? grid.groove->step : grid.step;
    if (step <= 0 || (grid.groove && grid.groove->steps.empty())) return {at, 0};
    const InBar here = bar_at(meter, at, step);
    GridPlace best{at, 0};
    bool found = false;
    const auto consider = [&](const InBar& b, Ticks k) {
        GridPlace place{b.begin + k * step, 0};
        if (grid.groove) {
            const GrooveStep& s = grid.groove->steps[in_cycle(b, k, grid.groove->steps.size())];
            place.at += s.late;
            place.velocity = s.velocity;
        } else if (k % 2 != 0) {
            place.at += static_cast<Ticks>(std::llround((2.0 * grid.swing - 1.0) * static_cast<double>(step)));
        }
        if (!found || std::abs(place.at - at) < std::abs(best.at - at)) best = place, found = true;
    };
    const Ticks bar = meter.at_bar(here.bar).bar_ticks(),
                middle = static_cast<Ticks>(std::llround(static_cast<double>(at - here.begin) / static_cast<double>(step)));
    for (Ticks k = middle - 1; k <= middle + 1; ++k)
        if (k * step < bar) consider(here, k);
    // The next bar begins its own steps, wherever this one's would have gone on.
    if (at > here.begin + bar - step) consider(bar_at(meter, here.begin + bar, step), 0);
    return best;
}

Groove take_groove(std::string name, const std::vector<Struck>& strokes, const MeterMap& meter, int step, int bars) {
    Groove g;
    g.name = std::move(name);
    g.step = step;
    if (strokes.empty() || step < 1) return g;
    const InBar first = bar_at(meter, strokes.front().at, step);
    const auto size = static_cast<std::size_t>(std::clamp<Ticks>(first.steps * std::max(1, bars), 1, static_cast<Ticks>(limits::kGrooveSteps)));
    std::vector<std::vector<int>> late(size);
    std::vector<double> velocity(size, 0.0);
    for (const Struck& s : strokes) {
        const InBar b = bar_at(meter, s.at, step);
        const auto k = static_cast<Ticks>(std::llround(static_cast<double>(s.at - b.begin) / step));
        const std::size_t i = in_cycle(b, k, size);
        late[i].push_back(static_cast<int>(s.at - b.begin - k * step));
        velocity[i] += s.velocity;
    }
    for (std::size_t i = 0; i < size; ++i) {
        GrooveStep& made = g.steps.emplace_back();
        if (late[i].empty()) continue;
        auto middle = late[i].begin() + static_cast<std::ptrdiff_t>(late[i].size() / 2);
        std::nth_element(late[i].begin(), middle, late[i].end());
        made.late = *middle;
        made.velocity = std::clamp(static_cast<int>(std::lround(velocity[i] / static_cast<double>(late[i].size()))), 1, 127);
    }
    return g;
}

std::string groove_steps_text(const Groove& groove) {
    std::string out;
    for (const GrooveStep& s : groove.steps) {
        if (!out.empty()) out += ' ';
        out += (s.late > 0 ? "+" : "") + std::to_string(s.late);
        if (s.velocity > 0) out += "/" + std::to_string(s.velocity);
    }
    return out;
}

std::optional<std::vector<GrooveStep>> parse_groove_steps(std::string_view text) {
    std::vector<GrooveStep> steps;
    const auto number = [](std::string_view t) -> std::optional<int> {
        if (!t.empty() && t.front() == '+') t.remove_prefix(1);
        int n = 0;
        const auto [end, bad] = std::from_chars(t.data(), t.data() + t.size(), n);
        if (t.empty() || bad != std::errc{} || end != t.data() + t.size()) return std::nullopt;
        return n;
    };
    while (!text.empty()) {
        const auto space = std::min(text.find(' '), text.size());
        const std::string_view one = text.substr(0, space);
        text.remove_prefix(std::min(space + 1, text.size()));
        if (one.empty()) continue;
        const auto slash = one.find('/');
        const auto late = number(one.substr(0, slash));
        const auto velocity = slash == std::string_view::npos ? std::optional(0) : number(one.substr(slash + 1));
        if (!late || !velocity) return std::nullopt;
        steps.push_back({*late, *velocity});
    }
    if (steps.empty()) return std::nullopt;
    return steps;
}

const Groove* find_groove(const Song& song, std::string_view name) {
    for (const Groove& g : song.grooves)
        if (same_words(g.name, name)) return &g;
    return nullptr;
}

}  // namespace fw
