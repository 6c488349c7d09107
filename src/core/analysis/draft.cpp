// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/draft.hpp"

#include "model/edits/patterns.hpp"
#include "model/limits.hpp"
#include "model/validate.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace fw {

namespace {

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
        for (const HeardBend& b : h.bend) n.bend.edit().push_back({tempo.nearest_tick(onset_s + b.offset_s) - n.start, b.cents});
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
