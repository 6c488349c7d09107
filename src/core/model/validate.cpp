// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/validate.hpp"

#include "base/files.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <limits>
#include <map>
#include <set>
#include <string_view>

namespace fw {

namespace {

/// Thrown at the first fault and caught in what_is_wrong.
struct Fault {
    std::string words;
};

std::string quoted(const std::string& name) {
    std::string shown;
    for (const char c : to_utf8(name).substr(0, 40)) shown += static_cast<unsigned char>(c) < 32 ? ' ' : c;
    while (!shown.empty() && !is_utf8(shown)) shown.pop_back();  // the cut may have gone through a letter
    return "\"" + shown + "\"";
}

/// Checks with the words for what is checked: "its part "Bass"", "the tempo".
class Validator {
public:
    explicit Validator(const Remake& r) : r_(r) {}

    void run() {
        the_reference();
        the_tempo();
        the_harmony();
        the_sections();
        the_parts();
        the_elements();
        if (const int bars = r_.meter.position(std::max(last_, r_.end_tick())).bar; bars > limits::kBars)
            fail("it would have " + std::to_string(bars) + " bars");
    }

private:
    [[noreturn]] static void fail(const std::string& words) { throw Fault{words}; }

    static void within(std::string_view what, double value, double low, double high) {
        if (std::isfinite(value) && value >= low && value <= high) return;
        char text[96];
        std::snprintf(text, sizeof text, " is %g, not between %g and %g", value, low, high);
        fail(std::string(what) + text);
    }

    static void at_most(std::string_view what, std::size_t count, const char* things, std::size_t most) {
        if (count > most) fail(std::string(what) + " has " + std::to_string(count) + " " + things + ", more than " + std::to_string(most));
    }

    static void text(std::string_view what, const std::string& words) {
        if (words.size() > limits::kTextBytes) fail(std::string(what) + " is longer than " + std::to_string(limits::kTextBytes) + " letters");
    }

    static void certainty(std::string_view what, double value) {
        if (!(value >= 0.0 && value <= 1.0)) within("the confidence of " + std::string(what), value, 0.0, 1.0);
    }

    /// A stretch of song time.
    void place(std::string_view what, Ticks start, Ticks length) {
        if (start < -limits::kFarthestTick || start > limits::kFarthestTick) fail(std::string(what) + " lies " + std::to_string(start) + " ticks from bar 1");
        if (length < 1 || length > limits::kFarthestTick) fail(std::string(what) + " is " + std::to_string(length) + " ticks long");
        const double begin_s = r_.tempo.seconds(start), end_s = r_.tempo.seconds(start + length);
        if (!(begin_s >= -limits::kOutside_s) || !(end_s <= r_.reference.duration_s + limits::kOutside_s))
            fail(std::string(what) + " lies more than half an hour outside the recording");
        last_ = std::max(last_, start + length);
    }

    void the_reference() {
        within("the length of the recording", r_.reference.duration_s, 0.0, limits::kLongest_s + 1.0);
        within("the loudness of the recording", r_.reference.integrated_lufs, -200.0, 100.0);
        text("the path of the recording", r_.reference.path);
        within("the tuning", r_.tuning_cents, -limits::kTuningCents, limits::kTuningCents);
        certainty("the tuning", r_.tuning_confidence);
    }

    void the_tempo() {
        const auto& anchors = r_.tempo.anchors();
        at_most("the tempo map", anchors.size(), "anchors", limits::kAnchors);
        for (const auto& a : anchors) {
            if (a.tick < -limits::kFarthestTick || a.tick > limits::kFarthestTick)
                fail("an anchor of the tempo map lies " + std::to_string(a.tick) + " ticks from bar 1");
            within("the second of a tempo anchor", a.time_s, -limits::kOutside_s, r_.reference.duration_s + limits::kOutside_s);
        }
        for (std::size_t i = 0; i + 1 < anchors.size(); ++i) within("the tempo", r_.tempo.bpm_at(anchors[i].tick), limits::kSlowestBpm, limits::kFastestBpm);
        within("the error of the tempo", r_.tempo_error_bpm, 0.0, limits::kFastestBpm);
        certainty("the tempo", r_.tempo_confidence);
        at_most("the tempo", r_.tempo_candidates.size(), "candidates", limits::kAlternatives);
        for (const Candidate& c : r_.tempo_candidates)
            within("a candidate for the tempo", c.bpm, 0.0, 1e6), certainty("a candidate for the tempo", c.confidence);
        within("the swing", r_.swing_ratio, 0.25, 0.75);
        if (r_.swing_subdivision != 8 && r_.swing_subdivision != 16) fail("the swing divides by " + std::to_string(r_.swing_subdivision) + ", not by 8 or 16");
        at_most("it", r_.meter.changes().size(), "changes of meter", limits::kMeterChanges);
        for (const auto& m : r_.meter.changes())
            if (m.bar < 1 || m.bar > limits::kBars) fail("the meter changes at bar " + std::to_string(m.bar));
    }

    static void is_chord(std::string_view what, const Chord& c) {
        if (c.root < -1 || c.root > 11 || c.bass < -1 || c.bass > 11 || c.kind < 0 || static_cast<std::size_t>(c.kind) >= chord_kinds().size())
            fail(std::string(what) + " is no chord");
    }

    static void is_key(std::string_view what, const Key& k) {
        if (k.tonic < 0 || k.tonic > 11) fail(std::string(what) + " has no tonic");
    }

    void the_harmony() {
        at_most("it", r_.keys.size(), "keys", limits::kKeys);
        Ticks before = std::numeric_limits<Ticks>::min();
        for (const KeyArea& k : r_.keys) {
            ascends("keys", before, k.start);
            place("a key", k.start, 1);
            is_key("a key", k.key);
            certainty("a key", k.confidence);
            at_most("a key", k.alternatives.size(), "alternatives", limits::kAlternatives);
            for (const auto& [key, confidence] : k.alternatives) is_key("a key's alternative", key), certainty("a key's alternative", confidence);
        }
        at_most("it", r_.chords.size(), "chords", limits::kChords);
        before = std::numeric_limits<Ticks>::min();
        for (const ChordEvent& c : r_.chords) {
            ascends("chords", before, c.start);
            place("a chord", c.start, c.length);
            is_chord("a chord", c.chord);
            certainty("a chord", c.confidence);
            at_most("a chord", c.alternatives.size(), "alternatives", limits::kAlternatives);
            for (const auto& [chord, confidence] : c.alternatives) is_chord("a chord's alternative", chord), certainty("a chord's alternative", confidence);
        }
    }

    static void ascends(const char* what, Ticks& before, Ticks now) {
        if (now < before) fail(std::string("its ") + what + " do not stand in order of time");
        before = now;
    }

    void the_sections() {
        at_most("it", r_.sections.size(), "sections", limits::kSections);
        Ticks before = std::numeric_limits<Ticks>::min();
        for (std::size_t i = 0; i < r_.sections.size(); ++i) {
            const Section& s = r_.sections[i];
            ascends("sections", before, s.start);
            place("a section", s.start, s.length);
            text("a section's name", s.name), text("a section's label", s.label);
            if (s.repeat_of < -1 || s.repeat_of >= static_cast<int>(i)) fail("a section repeats one that does not come before it");
            certainty("a section", s.confidence);
        }
    }

    void the_parts() {
        at_most("it", r_.parts.size(), "parts", limits::kParts);
        std::set<int> ids;
        std::size_t layers = 0;
        for (const auto& shared : r_.parts) {
            const Part& p = *shared;
            const std::string name = "its part " + quoted(p.name);
            text("a part's name", p.name);
            if (p.id < 1) fail(name + " has the number " + std::to_string(p.id));
            if (!ids.insert(p.id).second) fail("two of its parts have the number " + std::to_string(p.id));
            within("the level of " + name, p.gain_db, limits::kQuietest_db, limits::kLoudest_db);
            within("the pan of " + name, p.pan, -1.0, 1.0);
            at_most(name, p.layers.size(), "layers", limits::kLayersAPart);
            layers += p.layers.size();
            for (const Layer& l : p.layers) {
                if (l.program < 0 || l.program > 127) fail(name + " has a layer of program " + std::to_string(l.program));
                if (l.octave < -limits::kOctaves || l.octave > limits::kOctaves) fail(name + " has a layer moved by " + std::to_string(l.octave) + " octaves");
                within("the level of a layer of " + name, l.gain_db, limits::kQuietest_db, limits::kLoudest_db);
                text("a layer's patch", l.patch), text("a layer's file", l.file);
            }
            the_patterns(p, name);
        }
        at_most("it", layers, "layers", limits::kLayers);
    }

    /// How far a pattern's notes reach, and how many there are.
    struct Reach {
        Ticks first = 0, last = 1;
        std::size_t notes = 0, bends = 0;
    };

    void the_patterns(const Part& p, const std::string& name) {
        at_most(name, p.patterns.size(), "patterns", limits::kPatternsAPart);
        at_most(name, p.placements.size(), "placements", limits::kPlacementsAPart);
        std::map<int, Reach> patterns;
        for (const Pattern& x : p.patterns) {
            if (x.id < 1) fail(name + " has a pattern with the number " + std::to_string(x.id));
            if (x.length < 1 || x.length > limits::kFarthestTick) fail(name + " has a pattern of " + std::to_string(x.length) + " ticks");
            text("a pattern's letter", x.letter);
            Reach reach{0, x.length, x.notes.size(), 0};
            the_notes(x, name, reach);
            if (!patterns.emplace(x.id, reach).second) fail(name + " has two patterns with the number " + std::to_string(x.id));
        }
        for (const Pattern& x : p.patterns)
            if (x.parent != 0 && (x.parent == x.id || !patterns.contains(x.parent))) fail(name + " has a variant of a pattern that is not there");
        Ticks before = std::numeric_limits<Ticks>::min();
        const std::string what = "a pattern of " + name;
        for (const Placement& x : p.placements) {
            ascends("placements", before, x.start);
            const auto found = patterns.find(x.pattern);
            if (found == patterns.end()) fail(name + " places a pattern that is not there");
            const Reach& reach = found->second;
            place(what, x.start, 1);
            place(what, x.start + reach.first, reach.last - reach.first);
            sounding_ += reach.notes;
            bending_ += reach.bends;
            if (sounding_ > limits::kSoundingNotes || bending_ > limits::kSoundingNotes)
                fail("its parts play more than " + std::to_string(limits::kSoundingNotes) + " notes or as many bends");
        }
    }

    void the_notes(const Pattern& x, const std::string& name, Reach& reach) {
        notes_ += x.notes.size();
        if (notes_ > limits::kNotes) fail("it holds more than " + std::to_string(limits::kNotes) + " notes");
        Ticks before = std::numeric_limits<Ticks>::min();
        for (const Note& n : x.notes) {
            if (n.start < -limits::kFarthestTick || n.start > limits::kFarthestTick)
                fail(name + " has a note " + std::to_string(n.start) + " ticks from its pattern");
            if (n.length < 1 || n.length > limits::kFarthestTick) fail(name + " has a note of " + std::to_string(n.length) + " ticks");
            ascends("notes", before, n.start);
            if (n.pitch < 0 || n.pitch > 127) fail(name + " has a note of pitch " + std::to_string(n.pitch));
            if (n.velocity < 1 || n.velocity > 127) fail(name + " has a note of velocity " + std::to_string(n.velocity));
            certainty("a note", n.confidence);
            at_most("a bend", n.bend.size(), "points", limits::kBendsANote);
            Ticks bend_before = -limits::kFarthestTick;
            for (const BendPoint& b : n.bend) {
                if (b.tick < bend_before || b.tick > limits::kFarthestTick) fail(name + " has a bend whose points do not stand in order of time");
                bend_before = b.tick;
                within("a bend", b.cents, -limits::kBendCents, limits::kBendCents);
                reach.first = std::min(reach.first, n.start + b.tick);
                reach.last = std::max(reach.last, n.start + b.tick);
            }
            reach.first = std::min(reach.first, n.start);
            reach.last = std::max(reach.last, n.start + n.length);
            reach.bends += n.bend.size();
        }
    }

    void the_elements() {
        std::set<std::string> known;
        for (const std::string& id : r_.element_ids()) known.insert(id);
        for (const auto& [id, e] : r_.elements) {
            if (!known.contains(id)) fail("it says something of an element " + quoted(id) + " that it does not have");
            text("a question", e.question), text("an intended difference", e.intended);
        }
    }

    const Remake& r_;
    Ticks last_ = 0;
    std::size_t notes_ = 0, sounding_ = 0, bending_ = 0;
};

}  // namespace

std::optional<std::string> what_is_wrong(const Remake& remake) {
    try {
        Validator(remake).run();
        return std::nullopt;
    } catch (const Fault& fault) {
        return fault.words;
    }
}

}  // namespace fw
