// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/played.hpp"

#include "model/limits.hpp"

#include <algorithm>
#include <array>
#include <optional>

namespace fw {

std::vector<Note> notes_played(std::span<const KeyEvent> events, const TempoMap& tempo, double end_s) {
    struct Open {
        double time_s;
        Note note;
    };
    std::array<std::optional<Open>, 128> open;
    std::vector<Note> out;
    double cents = 0.0;
    const auto let_go = [&](std::optional<Open>& o, double time_s) {
        if (!o) return;
        o->note.length = std::max<Ticks>(1, tempo.nearest_tick(std::max(time_s, o->time_s)) - o->note.start);
        out.push_back(std::move(o->note));
        o.reset();
    };
    for (const KeyEvent& e : events) {
        if (e.kind == KeyEvent::Kind::Bend) {
            cents = std::clamp(e.cents, -limits::kBendCents, limits::kBendCents);
            for (auto& o : open) {
                if (!o || o->note.bend->size() >= limits::kBendsANote) continue;
                const Ticks tick = std::max<Ticks>(0, tempo.nearest_tick(e.time_s) - o->note.start);
                if (!o->note.bend->empty() && o->note.bend->back().tick == tick) o->note.bend.edit().back().cents = cents;
                else o->note.bend.edit().push_back({tick, cents});
            }
            continue;
        }
        if (e.pitch < 0 || e.pitch > 127) continue;
        auto& o = open[static_cast<std::size_t>(e.pitch)];
        let_go(o, e.time_s);
        if (e.kind == KeyEvent::Kind::Up) continue;
        Note n;
        n.start = tempo.nearest_tick(e.time_s);
        n.pitch = e.pitch;
        n.velocity = std::clamp(e.velocity, 1, 127);
        n.origin = Origin::Played;
        if (cents != 0.0) n.bend.edit().push_back({0, cents});
        o = Open{e.time_s, std::move(n)};
    }
    for (auto& o : open) let_go(o, end_s);
    sort_notes(out);
    return out;
}

}  // namespace fw
