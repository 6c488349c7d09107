// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/edits/sections.hpp"

#include "model/edits/parts.hpp"

#include <algorithm>
#include <set>

namespace fw {

namespace {

/// A note belongs to where it sounds: one played just ahead of a bar line to what begins there.
Ticks heart(const Note& n) { return n.start + std::min<Ticks>(n.length / 2, kTicksPerQuarter / 8); }

/// A letter that no section has yet; "Z" once all are taken.
std::string unused_letter(const Song& song) {
    for (char c = 'A'; c < 'Z'; ++c)
        if (std::none_of(song.sections.begin(), song.sections.end(), [&](const Section& s) { return s.label == std::string(1, c); })) return {c};
    return "Z";
}

Ticks bar_line_near(const Song& song, Ticks t) {
    const int bar = song.meter.position(t).bar;
    const Ticks line = song.meter.tick_of_bar(bar), next = song.meter.tick_of_bar(bar + 1);
    return t - line < next - t ? line : next;
}

/// A letter for a pattern that none of a version has.
std::string pattern_letter(const PartVersion& v) {
    std::set<std::string> used;
    for (const auto& p : v.patterns) used.insert(p->letter);
    for (char c = 'A'; c < 'Z'; ++c)
        if (!used.contains(std::string(1, c))) return {c};
    return "Z";
}

bool plays(const PartVersion& v, const Pattern& pattern, Ticks length, const std::vector<Note>& notes) {
    if (pattern.parent || pattern.length != length) return false;
    const auto theirs = v.notes(pattern);
    return std::equal(theirs.begin(), theirs.end(), notes.begin(), notes.end(), [](const Note& a, const Note& b) { return difference(a, b) == 0; });
}

/// The pattern that plays these notes; made where there is none.
PatternId pattern_of(PartVersion& v, Ticks length, std::vector<Note> notes) {
    for (const auto& p : v.patterns)
        if (plays(v, *p, length, notes)) return p->id;
    Pattern made;
    made.id = PatternId(v.next_id++);
    made.letter = pattern_letter(v);
    made.length = length;
    for (Note& n : notes) n.id = NoteId(v.next_id++), n.own = kAllOwn;
    made.notes = std::move(notes);
    v.patterns.emplace_back(std::move(made));
    return v.patterns.back()->id;
}

bool cuts(const PartVersion& v, Ticks at) {
    return std::any_of(v.placements.begin(), v.placements.end(), [&](const Placement& p) {
        const Pattern* pattern = v.pattern(p.pattern);
        return pattern && at > p.start && at < p.start + pattern->length;
    });
}

}  // namespace

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

void cut_patterns(PartVersion& v, Ticks at) {
    if (!cuts(v, at)) return;
    std::vector<Placement> placements;
    for (const Placement& p : v.placements) {
        const Pattern* pattern = v.pattern(p.pattern);
        if (!pattern || at <= p.start || at >= p.start + pattern->length) {
            placements.push_back(p);
            continue;
        }
        const Ticks first = at - p.start, second = pattern->length - first;
        std::vector<Note> before, behind;
        for (Note n : v.notes(*pattern)) {
            if (heart(n) < first) {
                before.push_back(n);
            } else {
                n.start -= first;
                behind.push_back(n);
            }
        }
        Placement left = p, right = p;
        left.pattern = pattern_of(v, first, std::move(before));
        right.pattern = pattern_of(v, second, std::move(behind));
        right.start = at;
        right.id = PlacementId(v.next_id++);
        placements.push_back(left);
        placements.push_back(right);
    }
    v.placements = std::move(placements);
    drop_unplayed(v);
}

Remake cut_patterns(const Remake& remake, Ticks at) {
    Remake next = remake;
    for (auto& shared : next.parts) {
        if (cuts(*shared, at)) cut_patterns(shared.edit(), at);
        for (std::size_t i = 0; i < shared->rivals.size(); ++i)
            if (cuts(*shared->rivals[i], at)) cut_patterns(shared.edit().rivals[i].edit(), at);
    }
    return next;
}

Remake split_section(const Remake& remake, Ticks at) {
    const Song& song = *remake.song;
    const Ticks line = bar_line_near(song, at);
    const auto there = std::find_if(song.sections.begin(), song.sections.end(), [&](const Section& s) { return line >= s.start && line < s.start + s.length; });
    if (there != song.sections.end() && there->start == line) return remake;
    Section made;
    Remake next = remake;
    auto& sections = next.song.edit().sections;
    if (there != song.sections.end()) {
        Section& first = sections[static_cast<std::size_t>(there - song.sections.begin())];
        made = first;
        made.repeat_of = {};
        made.length = first.start + first.length - line;
        first.length = line - first.start;
    } else {
        made.length = std::max(song.meter.at_bar(song.meter.position(line).bar).bar_ticks(), remake.end_tick() - line);
        for (const Section& s : song.sections)
            if (s.start > line) {
                made.length = std::min(made.length, s.start - line);
                break;
            }
        made.name = "section";
    }
    made.start = line;
    made.id = SectionId(next.next_id++);
    made.label = unused_letter(song);
    made.confidence = 1.0;
    sections.insert(std::find_if(sections.begin(), sections.end(), [&](const Section& s) { return s.start > line; }), made);
    return cut_patterns(next, line);
}

Remake merge_section(const Remake& remake, SectionId section) {
    const auto& before = remake.song->sections;
    const auto at = std::find_if(before.begin(), before.end(), [&](const Section& s) { return s.id == section; });
    if (at == before.end() || at + 1 == before.end()) return remake;
    Remake next = remake;
    auto& sections = next.song.edit().sections;
    const auto i = static_cast<std::size_t>(at - before.begin());
    const Section gone = sections[i + 1];
    sections[i].length = gone.start + gone.length - sections[i].start;
    sections.erase(sections.begin() + static_cast<std::ptrdiff_t>(i) + 1);
    for (Section& s : sections)
        if (s.repeat_of == gone.id) s.repeat_of = {};
    Automation& a = next.automation.edit();
    std::erase_if(a.curves, [&](const Curve& c) { return c.section == gone.id; });
    std::erase_if(a.settings, [&](const SectionSetting& s) { return s.section == gone.id; });
    return next;
}

Remake move_section_start(const Remake& remake, SectionId section, Ticks to) {
    const Song& song = *remake.song;
    const auto at = std::find_if(song.sections.begin(), song.sections.end(), [&](const Section& s) { return s.id == section; });
    if (at == song.sections.end()) return remake;
    const auto i = static_cast<std::size_t>(at - song.sections.begin());
    const int last_bar = song.meter.position(at->start + at->length - 1).bar;
    Ticks line = std::min(bar_line_near(song, to), song.meter.tick_of_bar(last_bar));
    const bool has_neighbour = i > 0 && song.sections[i - 1].start + song.sections[i - 1].length == at->start;
    if (i > 0) {
        const Section& before = song.sections[i - 1];
        line = std::max(line, song.meter.tick_of_bar(song.meter.position(before.start).bar + 1));
    }
    line = std::max(line, std::min(at->start, song.meter.tick_of_bar(1)));
    if (line == at->start) return remake;
    Remake next = remake;
    auto& sections = next.song.edit().sections;
    sections[i].length += sections[i].start - line;
    sections[i].start = line;
    if (i > 0 && (has_neighbour || sections[i - 1].start + sections[i - 1].length > line)) sections[i - 1].length = line - sections[i - 1].start;
    return cut_patterns(next, line);
}

Remake set_repeat(const Remake& remake, SectionId section, SectionId of) {
    const Section *repeating = remake.song->section(section), *repeated = remake.song->section(of);
    if (!repeating || (of && (!repeated || repeated->start >= repeating->start))) return remake;
    Remake next = remake;
    // Of a repeat the first one is meant: what repeats that one is the same.
    const SectionId first = repeated && repeated->repeat_of ? repeated->repeat_of : of;
    for (Section& s : next.song.edit().sections) {
        if (s.id == section) {
            s.repeat_of = first;
            s.label = repeated ? repeated->label : unused_letter(*remake.song);
        } else if (s.repeat_of == section && first) {
            s.repeat_of = first;
            s.label = repeated->label;
        }
    }
    return next;
}

}  // namespace fw
