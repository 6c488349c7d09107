// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/time_maps.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

TempoMap::TempoMap(std::vector<Anchor> anchors) {
    std::vector<Anchor> good;
    for (const Anchor& a : anchors)
        if (std::isfinite(a.time_s) && (good.empty() || (a.tick > good.back().tick && a.time_s > good.back().time_s))) good.push_back(a);
    if (good.size() == 1) good.push_back({good[0].tick + kTicksPerQuarter, good[0].time_s + 0.5});
    if (good.size() >= 2) anchors_ = std::move(good);
}

double TempoMap::seconds(double tick) const {
    auto next = std::upper_bound(anchors_.begin() + 1, anchors_.end() - 1, tick, [](double t, const Anchor& a) { return t < static_cast<double>(a.tick); });
    const Anchor& a = *(next - 1);
    const Anchor& b = *next;
    return a.time_s + (tick - static_cast<double>(a.tick)) * (b.time_s - a.time_s) / static_cast<double>(b.tick - a.tick);
}

double TempoMap::ticks(double time_s) const {
    auto next = std::upper_bound(anchors_.begin() + 1, anchors_.end() - 1, time_s, [](double t, const Anchor& a) { return t < a.time_s; });
    const Anchor& a = *(next - 1);
    const Anchor& b = *next;
    return static_cast<double>(a.tick) + (time_s - a.time_s) * static_cast<double>(b.tick - a.tick) / (b.time_s - a.time_s);
}

Ticks TempoMap::nearest_tick(double time_s) const { return std::llround(ticks(time_s)); }

double TempoMap::bpm_at(Ticks tick) const {
    auto next = std::upper_bound(anchors_.begin() + 1, anchors_.end() - 1, tick, [](Ticks t, const Anchor& a) { return t < a.tick; });
    const double seconds_a_quarter = (next->time_s - (next - 1)->time_s) / static_cast<double>(next->tick - (next - 1)->tick) * kTicksPerQuarter;
    return 60.0 / seconds_a_quarter;
}

TempoMap TempoMap::reread(double factor, Ticks shift) const {
    std::vector<Anchor> anchors = anchors_;
    for (Anchor& a : anchors) a.tick = std::llround(static_cast<double>(a.tick) * factor) + shift;
    return TempoMap(std::move(anchors));
}

std::string BarPosition::text() const {
    std::string ticks = std::to_string(tick);
    return std::to_string(bar) + "·" + std::to_string(beat) + "·" + std::string(ticks.size() < 3 ? 3 - ticks.size() : 0, '0') + ticks;
}

Ticks MeterMap::Change::beat_ticks() const {
    const Ticks unit = 4 * kTicksPerQuarter / denominator;
    return denominator >= 8 && numerator % 3 == 0 && numerator > 3 ? 3 * unit : unit;
}

Ticks MeterMap::Change::bar_ticks() const { return 4 * kTicksPerQuarter / denominator * numerator; }

MeterMap::MeterMap(std::vector<Change> changes) {
    std::sort(changes.begin(), changes.end(), [](const Change& a, const Change& b) { return a.bar < b.bar; });
    std::vector<Change> good;
    for (const Change& c : changes) {
        const bool known = c.denominator == 1 || c.denominator == 2 || c.denominator == 4 || c.denominator == 8 || c.denominator == 16;
        if (!known || c.numerator < 1 || c.numerator > 32) continue;
        if (!good.empty() && good.back().bar == c.bar) good.back() = c;
        else good.push_back(c);
    }
    if (good.empty()) return;
    good.front().bar = 1;
    changes_ = std::move(good);
}

const MeterMap::Change& MeterMap::at_bar(int bar) const {
    auto it = std::upper_bound(changes_.begin(), changes_.end(), bar, [](int b, const Change& c) { return b < c.bar; });
    return it == changes_.begin() ? changes_.front() : *(it - 1);
}

Ticks MeterMap::tick_of_bar(int bar) const {
    Ticks tick = 0;
    for (std::size_t i = 0; i < changes_.size(); ++i) {
        const int end = i + 1 < changes_.size() ? std::min(bar, changes_[i + 1].bar) : bar;
        tick += (end - changes_[i].bar) * changes_[i].bar_ticks();
        if (end == bar) break;
    }
    return tick;
}

BarPosition MeterMap::position(Ticks tick) const {
    Ticks begin = 0;
    std::size_t i = 0;
    for (; i + 1 < changes_.size(); ++i) {
        const Ticks span = (changes_[i + 1].bar - changes_[i].bar) * changes_[i].bar_ticks();
        if (tick < begin + span) break;
        begin += span;
    }
    const Change& c = changes_[i];
    Ticks rest = tick - begin;
    Ticks bars = rest / c.bar_ticks();
    if (rest < bars * c.bar_ticks()) --bars;  // floor for places before bar 1
    rest -= bars * c.bar_ticks();
    return {c.bar + static_cast<int>(bars), static_cast<int>(rest / c.beat_ticks()) + 1, rest % c.beat_ticks()};
}

Ticks MeterMap::tick_of(const BarPosition& p) const { return tick_of_bar(p.bar) + (p.beat - 1) * at_bar(p.bar).beat_ticks() + p.tick; }

}  // namespace fw
