// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/song.hpp"

#include "model/edits/time_mapper.hpp"

#include <algorithm>
#include <cmath>

namespace fw {

namespace {

Remake map_ticks(const Remake& remake, double factor, Ticks shift) {
    Remake next = remake;
    TimeMapper mapper(factor, shift);
    describe(mapper, next);
    return next;
}

}  // namespace

Remake reread_tempo(const Remake& remake, double factor) {
    if (!(factor > 0.0) || factor == 1.0) return remake;
    Remake next = map_ticks(remake, factor, 0);
    for (Candidate& c : next.song.edit().tempo_candidates)
        if (std::abs(c.bpm / (remake.song->tempo.bpm_at(0) * factor) - 1.0) < 0.01) c.bpm = remake.song->tempo.bpm_at(0);
    return next;
}

Remake set_downbeat(const Remake& remake, double time_s) {
    const auto& meter = remake.song->meter.changes().front();
    const Ticks beat = meter.beat_ticks(), bar = meter.bar_ticks();
    const Ticks at = static_cast<Ticks>(std::llround(remake.song->tempo.ticks(time_s) / static_cast<double>(beat))) * beat;
    Ticks shift = (bar - ((at % bar) + bar) % bar) % bar;
    // Count from the earliest bar: after several shifts the first beat would otherwise drift away from bar 1.
    const Ticks first = remake.song->tempo.anchors().front().tick + shift;
    shift -= first / bar * bar;
    return shift == 0 ? remake : map_ticks(remake, 1.0, shift);
}

Remake set_meter(const Remake& remake, int numerator, int denominator) {
    Remake next = remake;
    next.song.edit().meter = MeterMap({{1, numerator, denominator}});
    return next;
}

Remake set_key(const Remake& remake, std::size_t area, const Key& key) {
    Remake next = remake;
    auto& keys = next.song.edit().keys;
    if (keys.empty()) keys.push_back({});
    if (area >= keys.size()) return remake;
    KeyArea& k = keys[area];
    for (auto& alternative : k.alternatives)
        if (alternative.first == key) alternative = {k.key, k.confidence};
    k.key = key;
    k.confidence = 1.0;
    return next;
}

Remake rename_section(const Remake& remake, SectionId section, const std::string& name) {
    Remake next = remake;
    for (Section& s : next.song.edit().sections)
        if (s.id == section) s.name = name;
    return next;
}

Remake copy_section(const Remake& remake, SectionId from, Ticks to) {
    const Section* source = remake.song->section(from);
    if (!source || source->start == to) return remake;
    Remake next = remake;
    Ticks length = source->length;
    SectionId target;
    for (const Section& s : remake.song->sections) {
        if (s.start == to) target = s.id, length = std::min(length, s.length);
        else if (to > s.start && to < s.start + s.length) return remake;  // in the middle of one
    }
    if (!target) {
        for (const Section& s : remake.song->sections)
            if (s.start > to) length = std::min(length, s.start - to);
        Section made = *source;
        made.id = target = SectionId(next.next_id++);
        made.start = to;
        made.length = length;
        // A section repeats one before it.
        made.repeat_of = to > source->start ? (source->repeat_of ? source->repeat_of : from) : SectionId();
        auto& sections = next.song.edit().sections;
        sections.insert(std::find_if(sections.begin(), sections.end(), [&](const Section& s) { return s.start > to; }), made);
    }
    const auto begins_in = [](Ticks t, Ticks start, Ticks span) { return t >= start && t < start + span; };
    for (auto& shared : next.parts) {
        std::vector<Placement> copies;
        for (const Placement& p : shared->placements)
            if (begins_in(p.start, source->start, length)) copies.push_back(p);
        const bool replaced =
            std::any_of(shared->placements.begin(), shared->placements.end(), [&](const Placement& p) { return begins_in(p.start, to, length); });
        if (copies.empty() && !replaced) continue;
        Part& part = shared.edit();
        std::erase_if(part.placements, [&](const Placement& p) { return begins_in(p.start, to, length); });
        for (Placement& p : copies) {
            p.start += to - source->start;
            p.id = PlacementId(part.next_id++);
            part.placements.push_back(p);
        }
        std::stable_sort(part.placements.begin(), part.placements.end(), [](const Placement& a, const Placement& b) { return a.start < b.start; });
    }
    if (const Automation& moving = *remake.automation; !moving.curves.empty() || !moving.settings.empty()) {
        Automation& a = next.automation.edit();
        std::erase_if(a.curves, [&](const Curve& c) { return c.section == target; });
        std::erase_if(a.settings, [&](const SectionSetting& s) { return s.section == target; });
        for (const Curve& c : moving.curves)
            if (c.section == from) {
                a.curves.push_back(c);
                a.curves.back().id = CurveId(next.next_id++);
                a.curves.back().section = target;
            }
        for (const SectionSetting& s : moving.settings)
            if (s.section == from) a.settings.push_back({s.field, target, s.value, {}});
    }
    if (!remake.clips->clips.empty()) {
        auto& clips = next.clips.edit().clips;
        std::erase_if(clips, [&](const Clip& c) { return begins_in(c.start, to, length); });
        for (const Clip& c : remake.clips->clips)
            if (begins_in(c.start, source->start, length)) {
                clips.push_back(c);
                clips.back().id = ClipId(next.next_id++);
                clips.back().start += to - source->start;
            }
    }
    return next;
}

Remake set_chord(const Remake& remake, Ticks tick, const Chord& chord) {
    Remake next = remake;
    for (ChordEvent& c : next.song.edit().chords)
        if (tick >= c.start && tick < c.start + c.length) {
            std::erase_if(c.alternatives, [&](const auto& a) { return a.first == chord; });
            if (!(c.chord == chord)) c.alternatives.insert(c.alternatives.begin(), {c.chord, c.confidence});
            c.chord = chord;
            c.confidence = 1.0;
            c.origin = Origin::Drawn;
            return next;
        }
    const int bar = remake.song->meter.position(tick).bar;
    ChordEvent made{remake.song->meter.tick_of_bar(bar), 0, chord, 1.0, Origin::Drawn, {}};
    Ticks end = remake.song->meter.tick_of_bar(bar + 1);
    for (const ChordEvent& c : remake.song->chords) {
        if (c.start > tick) end = std::min(end, c.start);
        else made.start = std::max(made.start, c.start + c.length);
    }
    made.length = end - made.start;
    auto& chords = next.song.edit().chords;
    chords.insert(std::find_if(chords.begin(), chords.end(), [&](const ChordEvent& c) { return c.start > made.start; }), made);
    return next;
}

Remake split_chord(const Remake& remake, Ticks tick) {
    Remake next = remake;
    auto& chords = next.song.edit().chords;
    for (std::size_t i = 0; i < chords.size(); ++i) {
        ChordEvent& c = chords[i];
        if (tick <= c.start || tick >= c.start + c.length) continue;
        ChordEvent second = c;
        second.start = tick;
        second.length = c.start + c.length - tick;
        c.length = tick - c.start;
        chords.insert(chords.begin() + static_cast<std::ptrdiff_t>(i) + 1, std::move(second));
        return next;
    }
    return next;
}

Remake set_element(const Remake& remake, ElementId element, const ElementState& state) {
    Remake next = remake;
    next.notebook.edit().elements[element] = state;
    return next;
}

Remake add_row(const Remake& remake, const std::string& name) {
    Remake next = remake;
    next.notebook.edit().rows.push_back({RowId(next.next_id++), name, {}});
    return next;
}

Remake remove_row(const Remake& remake, RowId row) {
    Remake next = remake;
    Notebook& notes = next.notebook.edit();
    std::erase_if(notes.rows, [&](const OwnRow& r) { return r.id == row; });
    notes.elements.erase(ElementId(row));
    std::erase_if(notes.remarks, [&](const Remark& m) { return m.element == ElementId(row); });
    return next;
}

Remake remove_remark(const Remake& remake, RemarkKind kind, ElementId element, Ticks start) {
    const auto meant = [&](const Remark& m) { return m.kind == kind && m.element == element && m.start == start; };
    if (std::none_of(remake.notebook->remarks.begin(), remake.notebook->remarks.end(), meant)) return remake;
    Remake next = remake;
    std::erase_if(next.notebook.edit().remarks, meant);
    return next;
}

Remake add_remark(const Remake& remake, Remark remark) {
    Remake next = remove_remark(remake, remark.kind, remark.element, remark.start);
    next.notebook.edit().remarks.push_back(std::move(remark));
    return next;
}

}  // namespace fw
