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

/// Whether two lists of notes may share one pattern: nothing that came from outside is altered by it.
bool are_one_pattern(const std::vector<Note>& a, const std::vector<Note>& b) {
    const bool outside = std::any_of(a.begin(), a.end(), [](const Note& n) { return n.origin == Origin::Imported; });
    return outside ? a == b : common_share(a, b) >= 0.995;
}

std::vector<Layer> default_layers(PartRole role, int program) {
    if (program >= 0) return {{InstrumentKind::SoundFont, {}, program, {}, 0.0, 0}};
    switch (role) {
        case PartRole::Drums: return {{InstrumentKind::DrumKit, "Brushed room", 0, {}, 0.0, 0}};
        case PartRole::Bass: return {{InstrumentKind::Synth, "Round bass", 0, {}, 0.0, 0}};
        case PartRole::Lead: return {{InstrumentKind::Synth, "Reed lead", 0, {}, 0.0, 0}};
        case PartRole::Chords: return {{InstrumentKind::SoundFont, {}, 11, {}, 0.0, 0}};
        case PartRole::Other: break;
    }
    return {{InstrumentKind::Synth, "Soft pluck", 0, {}, 0.0, 0}};
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
    part.id = 1;
    for (const auto& p : r.parts) part.id = std::max(part.id, p->id + 1);
    part.name = std::move(name);
    part.role = role;
    part.layers = default_layers(role, program);
    part.gain_db = role == PartRole::Chords || role == PartRole::Other ? -6.0 : -3.0;
    place_notes(part, notes, r.sections, r.meter);
    r.parts.push_back(std::make_shared<const Part>(std::move(part)));
}

}  // namespace

Result<Remake> with_given_parts(const Remake& remake, const std::vector<GivenPart>& given, double offset_s, const std::string& name) {
    Remake r = remake;
    const double first_s = -limits::kOutside_s, last_s = r.reference.duration_s + limits::kOutside_s;
    for (const GivenPart& p : given) {
        for (const HeardNote& n : p.notes)
            if (!(n.onset_s + offset_s >= first_s) || !(n.onset_s + n.duration_s + offset_s <= last_s)) return Error{ErrorCode::MidiElsewhere, name, {}};
        add_part(r, p.name, role_of(p), to_notes(p.notes, r.tempo, Origin::Imported, offset_s), p.drums ? -1 : p.program);
        r.elements["part:" + std::to_string(r.parts.back()->id)].state = State::Draft;
    }
    if (const auto wrong = what_is_wrong(r)) return Error{ErrorCode::MidiUnusable, name, "in the remake " + *wrong};
    return r;
}

void place_notes(Part& part, const std::vector<Note>& song_notes, const std::vector<Section>& sections, const MeterMap& meter) {
    int next_id = 1;
    for (const Pattern& p : part.patterns) next_id = std::max(next_id, p.id + 1);
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
    for (std::size_t s = 0; s < sections.size(); ++s) {
        if (inside[s].empty()) continue;
        const Pattern* twin = nullptr;
        double best = 0.0;
        for (const Pattern& p : part.patterns) {
            if (p.parent != 0 || p.length != sections[s].length) continue;
            const double share = common_share(inside[s], p.notes);
            if (share > best) best = share, twin = &p;
        }
        const Pattern* same = nullptr;
        for (const Pattern& p : part.patterns)
            if (!same && p.length == sections[s].length && (&p == twin || (twin && p.parent == twin->id)) && are_one_pattern(inside[s], p.notes)) same = &p;
        if (same) {
            part.placements.push_back({same->id, sections[s].start, false});
            continue;
        }
        Pattern made{next_id, {}, 0, sections[s].length, std::move(inside[s])};
        if (twin && best >= 0.6) {
            made.parent = twin->id;
            made.letter = twin->letter;
            const auto variants = std::count_if(part.patterns.begin(), part.patterns.end(), [&](const Pattern& p) { return p.parent == twin->id; });
            for (std::ptrdiff_t i = 0; i <= std::min<std::ptrdiff_t>(variants, 2); ++i) made.letter += "′";
        } else {
            made.letter = std::string(1, next_letter);
            if (next_letter < 'Z') ++next_letter;
        }
        part.patterns.push_back(std::move(made));
        part.placements.push_back({next_id++, sections[s].start, false});
    }
    // What lies outside all sections: one pattern a gap between them, from its first note's bar to the bar after its last note's.
    for (std::vector<Note>& gap : outside) {
        if (gap.empty()) continue;
        const Ticks begin = meter.tick_of_bar(meter.position(gap.front().start).bar);
        const Ticks end = meter.tick_of_bar(meter.position(gap.back().start).bar + 1);
        for (Note& n : gap) n.start -= begin;
        part.patterns.push_back({next_id, "·", 0, std::max<Ticks>(kTicksPerQuarter, end - begin), std::move(gap)});
        part.placements.push_back({next_id++, begin, false});
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
    r.tuning_cents = a.tuning.cents;
    r.tuning_confidence = a.tuning.confidence;
    r.tempo_error_bpm = a.tempo.error_bpm;
    r.tempo_confidence = a.tempo.confidence;
    for (const TempoCandidate& c : a.tempo.alternatives) r.tempo_candidates.push_back({c.bpm, c.confidence});
    r.swing_ratio = a.swing.ratio;
    r.swing_subdivision = a.swing.subdivision;

    std::vector<MeterMap::Change> changes;
    for (const MeterChange& m : a.meter) changes.push_back({m.bar, m.numerator, m.denominator});
    r.meter = MeterMap(changes);
    std::vector<TempoMap::Anchor> anchors;
    Ticks tick = a.beats.empty() ? 0 : (a.beats.front().beat - 1) * r.meter.at_bar(1).beat_ticks();
    for (const Beat& b : a.beats) {
        anchors.push_back({tick, b.time_s});
        tick += r.meter.at_bar(b.bar).beat_ticks();
    }
    r.tempo = TempoMap(std::move(anchors));

    // Places told in seconds lie on beats; onto those they go, so that a millisecond never shows as a sliver of a bar.
    const auto on_beat = [&](double s) {
        const Ticks beat = r.meter.at_bar(1).beat_ticks();
        return static_cast<Ticks>(std::llround(r.tempo.ticks(s) / static_cast<double>(beat))) * beat;
    };
    for (const KeySpan& k : a.keys) r.keys.push_back({r.keys.empty() ? 0 : on_beat(k.start_s), k.key, k.confidence, k.alternatives});
    for (const SectionSpan& s : a.sections) {
        const Ticks start = r.meter.tick_of_bar(s.start_bar);
        r.sections.push_back({start, r.meter.tick_of_bar(s.start_bar + s.bars) - start, s.label, s.name, s.repeat_of, s.confidence});
    }
    for (const ChordSpan& c : a.chords) {
        const Ticks start = on_beat(c.start_s);
        const Ticks end = std::max(start + kTicksPerQuarter, on_beat(c.end_s));
        r.chords.push_back({start, end - start, c.chord, c.confidence, Origin::Heard, c.alternatives});
    }

    for (const std::string& element : r.element_ids()) r.elements[element].state = State::Draft;
    return r;
}

}  // namespace

Remake draft_remake(const Analysis& a) {
    Remake r = draft_of_the_song(a);
    for (const HeardPart& p : a.parts) {
        add_part(r, p.name, p.role, to_notes(p.notes, r.tempo, Origin::Heard), -1);
    }
    std::vector<HeardNote> hits;
    for (const Hit& h : a.drums) hits.push_back({h.time_s, 0.1, drum_sound(h.kind).key, h.velocity, h.confidence});
    if (!hits.empty()) add_part(r, "Drums", PartRole::Drums, to_notes(hits, r.tempo, Origin::Heard), -1);
    for (const std::string& element : r.element_ids()) r.elements[element].state = State::Draft;
    return r;
}

Result<Remake> draft_remake(const Analysis& a, const std::vector<GivenPart>& given, double offset_s, const std::string& name) {
    return with_given_parts(draft_of_the_song(a), given, offset_s, name);
}

}  // namespace fw
