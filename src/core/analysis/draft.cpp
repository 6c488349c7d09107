// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/draft.hpp"

#include "model/limits.hpp"
#include "model/validate.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

/// Share of notes two patterns have in common, within a thirty-second note. Both ascend by start.
double common_share(const std::vector<Note>& a, const std::vector<Note>& b) {
    if (a.empty() && b.empty()) return 1.0;
    // By pitch, so that one walk through both finds all pairs.
    std::array<std::vector<Ticks>, 128> theirs;
    std::array<std::size_t, 128> next{};
    for (const Note& n : b) theirs[static_cast<std::size_t>(n.pitch)].push_back(n.start);
    std::size_t shared = 0;
    for (const Note& n : a) {
        const auto& starts = theirs[static_cast<std::size_t>(n.pitch)];
        std::size_t& at = next[static_cast<std::size_t>(n.pitch)];
        while (at < starts.size() && starts[at] < n.start - kTicksPerQuarter / 8) ++at;
        if (at < starts.size() && starts[at] <= n.start + kTicksPerQuarter / 8) ++at, ++shared;
    }
    return 2.0 * static_cast<double>(shared) / static_cast<double>(a.size() + b.size());
}

bool came_from_outside(const std::vector<Note>& notes) {
    return std::any_of(notes.begin(), notes.end(), [](const Note& n) { return n.origin == Origin::Imported; });
}

/// Whether notes that have no ids yet are those of a pattern: nothing that came from outside is altered by it.
bool are_one_pattern(const std::vector<Note>& a, const std::vector<Note>& pattern) {
    if (!came_from_outside(a)) return common_share(a, pattern) >= 0.995;
    return std::equal(a.begin(), a.end(), pattern.begin(), pattern.end(), [](const Note& x, const Note& y) {
        Note same = x;
        same.id = y.id;
        return same == y;
    });
}

std::vector<Layer> default_layers(PartRole role, int program) {
    if (program >= 0) return {{&kSoundFont, {}, program}};
    switch (role) {
        case PartRole::Drums: return {{&kDrumKit, "Brushed room"}};
        case PartRole::Bass: return {{&kSynth, "Round bass"}};
        case PartRole::Lead: return {{&kSynth, "Reed lead"}};
        case PartRole::Chords: return {{&kSoundFont, {}, 11}};
        case PartRole::Other: break;
    }
    return {{&kSynth, "Soft pluck"}};
}

std::vector<Note> to_notes(const std::vector<HeardNote>& heard, const TempoMap& tempo, Origin origin, double offset_s = 0.0) {
    // What is heard has at least the length a listener tells from a click; what comes in keeps its own.
    const Ticks shortest = origin == Origin::Heard ? 30 : 1;
    std::vector<Note> notes;
    for (const HeardNote& h : heard) {
        Note n;
        const double onset_s = h.onset_s + offset_s;
        n.start = tempo.nearest_tick(onset_s);
        n.length = std::max(shortest, tempo.nearest_tick(onset_s + h.duration_s) - n.start);
        n.pitch = std::clamp(h.pitch, 0, 127);
        n.velocity = std::clamp(h.velocity, 1, 127);
        n.confidence = h.confidence;
        n.origin = origin;
        for (const HeardBend& b : h.bend) n.bend.push_back({tempo.nearest_tick(onset_s + b.offset_s) - n.start, b.cents});
        notes.push_back(n);
    }
    std::stable_sort(notes.begin(), notes.end(), [](const Note& a, const Note& b) { return a.start < b.start; });
    return notes;
}

PartRole role_of(const GivenPart& part) {
    if (part.drums) return PartRole::Drums;
    std::string lower = part.name;
    std::transform(lower.begin(), lower.end(), lower.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    const auto says = [&](const char* word) { return lower.find(word) != std::string::npos; };
    if (says("bass") || (part.program >= 32 && part.program < 40)) return PartRole::Bass;
    if (says("lead") || says("melody")) return PartRole::Lead;
    return says("chord") ? PartRole::Chords : PartRole::Other;
}

/// Adds a part behind the others, its notes cut into patterns along the sections.
void add_part(Remake& r, std::string name, PartRole role, const std::vector<Note>& notes, int program) {
    Part part;
    part.id = PartId(r.next_id++);
    part.name = std::move(name);
    part.role = role;
    part.layers = default_layers(role, program);
    for (Layer& l : part.layers) l.id = LayerId(r.next_id++);
    part.gain_db = role == PartRole::Chords || role == PartRole::Other ? -6.0 : -3.0;
    place_notes(part, notes, r.song->sections, r.song->meter);
    r.notebook.edit().elements[part.id].state = State::Draft;
    r.parts.emplace_back(std::move(part));
}

}  // namespace

Result<Remake> with_given_parts(const Remake& remake, const std::vector<GivenPart>& given, double offset_s, const std::string& name) {
    Remake r = remake;
    const double first_s = -limits::kOutside_s, last_s = r.reference.duration_s + limits::kOutside_s;
    for (const GivenPart& p : given) {
        for (const HeardNote& n : p.notes)
            if (!(n.onset_s + offset_s >= first_s) || !(n.onset_s + n.duration_s + offset_s <= last_s)) return Error{ErrorCode::MidiElsewhere, name, {}};
        add_part(r, p.name, role_of(p), to_notes(p.notes, r.song->tempo, Origin::Imported, offset_s), p.drums ? -1 : p.program);
    }
    if (const auto wrong = what_is_wrong(r)) return Error{ErrorCode::MidiUnusable, name, "in the remake " + *wrong};
    return r;
}

void place_notes(Part& part, const std::vector<Note>& song_notes, const std::vector<Section>& sections, const MeterMap& meter) {
    char next_letter = 'A';
    std::vector<std::vector<Note>> inside(sections.size()), outside(sections.size() + 1);  // outside: before the first section, after it, …
    const auto begun_by = [&](Ticks t) {
        return static_cast<std::size_t>(std::upper_bound(sections.begin(), sections.end(), t, [](Ticks x, const Section& s) { return x < s.start; }) -
                                        sections.begin());
    };
    for (const Note& n : song_notes) {
        // A note played just ahead of a section's first beat belongs to that section.
        const Ticks heart = n.start + std::min<Ticks>(n.length / 2, kTicksPerQuarter / 8);
        const std::size_t s = begun_by(heart);
        if (s == 0 || heart >= sections[s - 1].start + sections[s - 1].length) {
            outside[begun_by(n.start)].push_back(n);
            continue;
        }
        inside[s - 1].push_back(n);
        inside[s - 1].back().start -= sections[s - 1].start;
    }
    const auto place = [&](PatternId pattern, Ticks start) { part.placements.push_back({pattern, start, false, PlacementId(part.next_id++)}); };
    const auto add = [&](Pattern made) {
        made.id = PatternId(part.next_id++);
        for (Note& n : made.notes)
            if (!n.id) n.id = NoteId(part.next_id++);
        part.patterns.emplace_back(std::move(made));
        return part.patterns.back()->id;
    };
    for (std::size_t s = 0; s < sections.size(); ++s) {
        if (inside[s].empty()) continue;
        // The pattern it is most like, and among that one's variants one that it simply repeats.
        const Pattern* twin = nullptr;
        double best = 0.0;
        for (const auto& p : part.patterns) {
            if (p->parent || p->length != sections[s].length) continue;
            const double share = common_share(inside[s], p->notes);
            if (share > best) best = share, twin = p.get();
        }
        const Pattern* same = nullptr;
        for (const auto& p : part.patterns)
            if (!same && twin && (p.get() == twin || p->parent == twin->id) && are_one_pattern(inside[s], part.notes(*p))) same = p.get();
        if (same) {
            place(same->id, sections[s].start);
            continue;
        }
        Pattern made;
        if (twin && best >= 0.6) {
            made = variant_of(*twin, std::move(inside[s]), kTicksPerQuarter / 8, part.next_id);
            made.letter = part.variant_letter(*twin);
        } else {
            made.notes = std::move(inside[s]);
            made.letter = std::string(1, next_letter);
            if (next_letter < 'Z') ++next_letter;
        }
        made.length = sections[s].length;
        place(add(std::move(made)), sections[s].start);
    }
    // What lies outside all sections: one pattern a gap between them, from its first note's bar to the bar after its last note's.
    for (std::vector<Note>& gap : outside) {
        if (gap.empty()) continue;
        const Ticks begin = meter.tick_of_bar(meter.position(gap.front().start).bar);
        const Ticks end = meter.tick_of_bar(meter.position(gap.back().start).bar + 1);
        for (Note& n : gap) n.start -= begin;
        Pattern made;
        made.letter = "·";
        made.length = std::max<Ticks>(kTicksPerQuarter, end - begin);
        made.notes = std::move(gap);
        place(add(std::move(made)), begin);
    }
    std::stable_sort(part.placements.begin(), part.placements.end(), [](const Placement& a, const Placement& b) { return a.start < b.start; });
}

namespace {

/// All that is known of the song as a whole: what draft_remake makes before any part.
Remake draft_of_the_song(const Analysis& a) {
    Remake r;
    std::error_code ec;
    const auto absolute = std::filesystem::absolute(a.path, ec);
    r.reference = {ec ? a.path : absolute.string(), a.content_hash, a.duration_s, a.integrated_lufs};
    Song& song = r.song.edit();
    song.tuning_cents = a.tuning.cents;
    song.tuning_confidence = a.tuning.confidence;
    song.tempo_error_bpm = a.tempo.error_bpm;
    song.tempo_confidence = a.tempo.confidence;
    for (const TempoCandidate& c : a.tempo.alternatives) song.tempo_candidates.push_back({c.bpm, c.confidence});
    song.swing_ratio = a.swing.ratio;
    song.swing_subdivision = a.swing.subdivision;

    std::vector<MeterMap::Change> changes;
    for (const MeterChange& m : a.meter) changes.push_back({m.bar, m.numerator, m.denominator});
    song.meter = MeterMap(changes);
    std::vector<TempoMap::Anchor> anchors;
    Ticks tick = a.beats.empty() ? 0 : (a.beats.front().beat - 1) * song.meter.at_bar(1).beat_ticks();
    for (const Beat& b : a.beats) {
        anchors.push_back({tick, b.time_s});
        tick += song.meter.at_bar(b.bar).beat_ticks();
    }
    song.tempo = TempoMap(std::move(anchors));

    // Places told in seconds lie on beats; onto those they go, so that a millisecond never shows as a sliver of a bar.
    const auto on_beat = [&](double s) {
        const Ticks beat = song.meter.at_bar(1).beat_ticks();
        return static_cast<Ticks>(std::llround(song.tempo.ticks(s) / static_cast<double>(beat))) * beat;
    };
    for (const KeySpan& k : a.keys) song.keys.push_back({song.keys.empty() ? 0 : on_beat(k.start_s), k.key, k.confidence, k.alternatives});
    for (const SectionSpan& s : a.sections) {
        const Ticks start = song.meter.tick_of_bar(s.start_bar);
        Section made{start, song.meter.tick_of_bar(s.start_bar + s.bars) - start, s.label, s.name, {}, s.confidence, SectionId(r.next_id++)};
        if (s.repeat_of >= 0) made.repeat_of = song.sections[static_cast<std::size_t>(s.repeat_of)].id;
        song.sections.push_back(std::move(made));
    }
    for (const ChordSpan& c : a.chords) {
        const Ticks start = on_beat(c.start_s);
        const Ticks end = std::max(start + kTicksPerQuarter, on_beat(c.end_s));
        song.chords.push_back({start, end - start, c.chord, c.confidence, Origin::Heard, c.alternatives});
    }

    for (const ElementId element : r.element_ids()) r.notebook.edit().elements[element].state = State::Draft;
    return r;
}

}  // namespace

Remake draft_remake(const Analysis& a) {
    Remake r = draft_of_the_song(a);
    for (const HeardPart& p : a.parts) {
        add_part(r, p.name, p.role, to_notes(p.notes, r.song->tempo, Origin::Heard), -1);
    }
    std::vector<HeardNote> hits;
    for (const Hit& h : a.drums) hits.push_back({h.time_s, 0.1, drum_sound(h.kind).key, h.velocity, h.confidence});
    if (!hits.empty()) add_part(r, "Drums", PartRole::Drums, to_notes(hits, r.song->tempo, Origin::Heard), -1);
    return r;
}

Result<Remake> draft_remake(const Analysis& a, const std::vector<GivenPart>& given, double offset_s, const std::string& name) {
    return with_given_parts(draft_of_the_song(a), given, offset_s, name);
}

}  // namespace fw
