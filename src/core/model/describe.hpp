// SPDX-License-Identifier: GPL-3.0-or-later
// Every type of the document, described once. A description tells a visitor each member with its name in files, its limits and its meaning; visitors write
// and read files (formats/remake_json.cpp), judge limits (validate.cpp), reach every place in time (edits/time_mapper.hpp) and write the format's document
// (formats/remake_document.cpp). A member that is not described does not survive saving: RemakeFile.EveryMemberSurvives would tell.
//
// A visitor has:
//   what(noun[, name])            what is described: "a note"; first
//   place, offset, span           Ticks of song time; from another place; a length of at least 1
//   whole, number, field          an int, a double, a double with its row; with their limits
//   flag, text, choice            choice: an enum with the names of its values in order
//   id, meant                     what it is meant by; something else that is meant (none allowed)
//   list, piece                   things described themselves; most: how many there may be
//   and one word a type for what files hold in a form of its own.
// In files places, spans, whole numbers and ids must be there; all else may be missing and is then as in a new one.
#pragma once

#include "model/fields.hpp"
#include "model/limits.hpp"
#include "model/note_move.hpp"
#include "model/recipe.hpp"
#include "model/remake.hpp"

#include <array>
#include <concepts>
#include <type_traits>

namespace fw {

template <class T, class Plain>
concept Either = std::same_as<std::remove_const_t<T>, Plain>;  // const when it is written, not when it is read

namespace names {
inline constexpr std::array kOrigins{"heard", "played", "drawn", "imported"};
inline constexpr std::array kRoles{"bass", "lead", "chords", "other", "drums"};
inline constexpr std::array kStates{"open", "draft", "confirmed", "left_out"};
inline constexpr std::array kShapes{"straight", "smooth", "hold", "curved"};
inline constexpr std::array kAssetOrigins{"made", "recorded", "file", "original"};
inline constexpr std::array kTreatments{"trim", "gain",   "fade",  "reverse", "pitch", "stretch", "bars", "stop",
                                        "gate", "freeze", "clean", "tune",    "warp",  "speed",   "even"};
inline constexpr std::array kTransitions{"none", "riser", "sweep", "fall", "impact", "crash", "swell", "sub_drop", "noise_build", "snare_build", "chord_swell"};
inline constexpr std::array kMembers{"start", "length", "pitch", "velocity", "rest", "muted"};
inline constexpr std::array kFromChords{"nothing", "block", "lowest", "roots", "top", "arpeggio", "tone"};
inline constexpr std::array kVoicings{"close", "drop_2", "drop_2_4", "open"};
inline constexpr std::array kWays{"up", "down", "up_down", "down_up", "random"};
inline constexpr std::array kRemarks{"question", "intended", "faint", "clearest", "seen", "dismissed"};
}  // namespace names

template <class V, Either<Reference> T>
void describe(V& v, T& r) {
    v.what("the recording");
    v.path("path", r.path, "where the recording is");
    v.hash("content_hash", r.content_hash, "of the decoded samples: the recording is known by it");
    v.number("duration_s", r.duration_s, 0.0, kLongestRecording_s + 1.0, "length in seconds");
    v.number("loudness_lufs", r.integrated_lufs, -200.0, 100.0, "loudness by ITU-R BS.1770");
    v.unknown(r.unknown);
}

template <class V, Either<Candidate> T>
void describe(V& v, T& c) {
    v.what("a candidate for the tempo");
    v.number("bpm", c.bpm, 0.0, 1e6, "quarters a minute");
    v.number("confidence", c.confidence, 0.0, 1.0, "how sure it is");
    v.unknown(c.unknown);
}

template <class V, Either<KeyArea> T>
void describe(V& v, T& k) {
    v.what("a key");
    v.place("start", k.start, "where it begins");
    v.key("key", k.key, "tonic as a pitch class, and mode");
    v.number("confidence", k.confidence, 0.0, 1.0, "how sure it is");
    v.guesses("alternatives", k.alternatives, limits::kAlternatives, "other keys, each with how sure it is");
    v.unknown(k.unknown);
}

template <class V, Either<Section> T>
void describe(V& v, T& s) {
    v.what("a section");
    v.id("id", s.id, "what it is meant by");
    v.place("start", s.start, "where it begins");
    v.span("length", s.length, "how long it is");
    v.text("label", s.label, "its letter, the same for what repeats");
    v.text("name", s.name, "what it is called");
    v.meant("repeat_of", s.repeat_of, "an earlier section that it repeats");
    v.number("confidence", s.confidence, 0.0, 1.0, "how sure it is");
    v.flag("condensed_out", s.condensed_out, "whether it is left out of the condensed version");
    v.unknown(s.unknown);
}

template <class V, Either<ChordEvent> T>
void describe(V& v, T& c) {
    v.what("a chord");
    v.place("start", c.start, "where it begins");
    v.span("length", c.length, "how long it is");
    v.chord("label", c.chord, "in Harte's syntax");
    v.number("confidence", c.confidence, 0.0, 1.0, "how sure it is");
    v.choice("origin", c.origin, names::kOrigins, "where it comes from");
    v.guesses("alternatives", c.alternatives, limits::kAlternatives, "other chords, each with how sure it is");
    v.pitches("voiced", c.voiced, limits::kVoices, "the pitches it is laid out in, ascending; none: as the part that is made of it says");
    v.unknown(c.unknown);
}

template <class V, Either<Pin> T>
void describe(V& v, T& p) {
    v.what("a pinned beat");
    v.place("at", p.at, "which beat");
    v.unknown(p.unknown);
}

template <class V, Either<FreeTime> T>
void describe(V& v, T& f) {
    v.what("a stretch of free time");
    v.place("start", f.start, "where it begins");
    v.span("length", f.length, "how long it is");
    v.unknown(f.unknown);
}

template <class V, Either<GrooveStep> T>
void describe(V& v, T& s) {
    v.what("a step of a groove");
    v.whole("late", s.late, -limits::kGrooveStep, limits::kGrooveStep, "ticks after the grid; negative before it");
    v.whole("velocity", s.velocity, 0, 127, "how hard it is played; 0 says nothing of it");
}

template <class V, Either<Groove> T>
void describe(V& v, T& g) {
    v.what("a groove", g.name);
    v.text("name", g.name, "what it is called");
    v.whole("step", g.step, 1, limits::kGrooveStep, "ticks from one step to the next");
    v.list("steps", g.steps, limits::kGrooveSteps, "from a bar's first beat on, over and over");
    v.unknown(g.unknown);
}

template <class V, Either<Song> T>
void describe(V& v, T& s) {
    v.what("the song");
    v.number("tuning_cents", s.tuning_cents, -limits::kTuningCents, limits::kTuningCents, "above A4 = 440 Hz");
    v.number("tuning_confidence", s.tuning_confidence, 0.0, 1.0, "how sure it is");
    v.number("tempo_error_bpm", s.tempo_error_bpm, 0.0, limits::kFastestBpm, "of the fitted tempo");
    v.number("tempo_confidence", s.tempo_confidence, 0.0, 1.0, "how sure it is");
    v.list("tempo_candidates", s.tempo_candidates, limits::kAlternatives, "other readings of the tempo");
    v.number("swing_ratio", s.swing_ratio, 0.25, 0.75, "the first share of a pair");
    v.whole("swing_subdivision", s.swing_subdivision, 8, 16, "8 or 16: what is swung");
    v.flag("at_440", s.at_440, "whether the rebuild stands at A4 = 440 Hz instead of following the recording's tuning");
    v.tempo("tempo", s.tempo, "anchors [tick, second], ascending in both; straight between them");
    v.meter("meter", s.meter, "from which bar on, [bar, numerator, denominator]; the first from bar 1");
    v.list("pins", s.pins, limits::kAnchors, "beats put where they are by hand, ascending");
    v.list("free_time", s.free_time, limits::kSections, "stretches without a pulse, ascending");
    v.list("grooves", s.grooves, limits::kGrooves, "feels that were taken or read");
    v.list("keys", s.keys, limits::kKeys, "ascending");
    v.list("sections", s.sections, limits::kSections, "ascending");
    v.list("chords", s.chords, limits::kChords, "ascending");
    v.unknown(s.unknown);
}

template <class V, Either<Roll> T>
void describe(V& v, T& r) {
    v.what("a roll");
    v.whole("strokes", r.strokes, 1, limits::kStrokesANote, "how often it is struck");
    v.span("apart", r.apart, "ticks from one stroke to the next");
    v.whole("first_velocity", r.first_velocity, 1, 127, "of the first stroke; the last has the note's");
    v.number("semitones", r.semitones, -limits::kBendCents / 100.0, limits::kBendCents / 100.0, "how far the pitch has risen by the last stroke");
    v.flag("leads_in", r.leads_in, "whether the note's place is the last stroke's, as of a flam");
}

/// Shows a visitor what is mostly plain; one that writes gets it taken out, and it is put back. One that says kPlainIsRight asks only for what is not.
template <class V, class T, class Show>
void seldom(V&, const Seldom<T>& member, Show show) {
    if constexpr (requires { V::kPlainIsRight; })
        if (member.plain()) return;
    show(*member);
}
template <class V, class T, class Show>
void seldom(V&, Seldom<T>& member, Show show) {
    T value = *member;
    show(value);
    member = std::move(value);
}

template <class V, Either<Note> T>
void describe(V& v, T& n) {
    v.what("a note");
    v.id("id", n.id, "what it is meant by within the part");
    v.offset("start", n.start, "from its pattern's start");
    v.span("length", n.length, "how long it is");
    v.whole("pitch", n.pitch, 0, 127, "MIDI key; of drums the General MIDI sound");
    v.whole("velocity", n.velocity, 1, 127, "how hard it is played");
    v.number("confidence", n.confidence, 0.0, 1.0, "how sure it is");
    v.choice("origin", n.origin, names::kOrigins, "where it comes from");
    seldom(v, n.bend, [&](auto& bend) { v.bend("bend", bend, "points [ticks from the note's start, cents]"); });
    seldom(v, n.roll, [&](auto& roll) { v.piece("roll", roll, "its strokes, where there are several"); });
    v.flag("muted", n.muted, "whether it is silent");
    v.flag("accepted", n.accepted, "whether the user says that it is right");
    v.members("own", n.own, "in a variant, of a parent's note: what differs from it, of start, length, pitch, velocity, muted and rest; without it all");
    v.unknown(n.unknown);
}

template <class V, Either<Pattern> T>
void describe(V& v, T& p) {
    v.what("a pattern");
    v.id("id", p.id, "what it is meant by within the part");
    v.text("letter", p.letter, "A, or A′ for a variant");
    v.meant("parent", p.parent, "the pattern this is a variant of");
    v.span("length", p.length, "how long it is");
    v.list("notes", p.notes, limits::kNotes, "ascending by start; a variant's own, which stand for its parent's of the same id or are added");
    v.ids("left_out", p.left_out, limits::kNotes, "the parent's notes that a variant leaves out");
    v.unknown(p.unknown);
}

template <class V, Either<Placement> T>
void describe(V& v, T& p) {
    v.what("a placement");
    v.id("id", p.id, "what it is meant by within the part");
    v.meant("pattern", p.pattern, "what is played");
    v.place("start", p.start, "where");
    v.flag("muted", p.muted, "whether it is silent");
    v.unknown(p.unknown);
}

template <class V, Either<Layer> T>
void describe(V& v, T& l) {
    v.what("a layer");
    v.id("id", l.id, "what it is meant by");
    v.source("source", l.source, "kind of instrument");
    v.text("patch", l.patch, "one of the source's patches");
    v.whole("program", l.program, 0, 127, "General MIDI program of a SoundFont");
    v.text("file", l.file, "a SoundFont, a sampler's sound file, or what a plug-in is given; empty for the default sound set, a made sound");
    v.text("state", l.state, "what a plug-in keeps besides its fields, as LV2 writes it (Turtle)");
    v.meant("asset", l.asset, "a sound of the remake's own that a sampler plays instead of a file");
    v.field(kLayerFields[0], l.on);
    v.field(kLayerFields[1], l.gain_db);
    v.field(kLayerFields[2], l.pan);
    v.field(kLayerFields[3], l.octave);
    v.field(kLayerFields[4], l.low_key);
    v.field(kLayerFields[5], l.high_key);
    v.field(kLayerFields[6], l.offset_ms);
    v.field(kLayerFields[7], l.low_velocity);
    v.field(kLayerFields[8], l.high_velocity);
    v.field(kLayerFields[9], l.tune_cents);
    v.settings("settings", l.settings, l.source->fields, "the source's fields that differ from the patch");
    v.unknown(l.unknown);
}

template <class V, Either<Trigger> T>
void describe(V& v, T& t) {
    v.what("a trigger");
    v.meant("part", t.part, "whose notes set the step off; none: the part's own");
    v.whole("key", t.key, -1, 127, "only notes of this key; -1 for all");
}

template <class V, Either<Step> T>
void describe(V& v, T& s) {
    v.what("a step");
    v.id("id", s.id, "what it is meant by");
    v.step_type("type", s.type, "kind of effect");
    v.field(kStepFields[0], s.on);
    v.piece("trigger", s.trigger, "what sets it off, for kinds that something sets off");
    v.settings("settings", s.settings, s.type->fields, "the fields that were set");
    v.text("state", s.state, "what a plug-in keeps besides its fields, as LV2 writes it (Turtle)");
    v.text("file", s.file, "what a plug-in is given");
    v.unknown(s.unknown);
}

template <class V, Either<Send> T>
void describe(V& v, T& s) {
    v.what("a send");
    v.meant("bus", s.bus, "where it goes");
    v.field(kSendFields[0], s.level_db);
    v.field(kSendFields[1], s.on);
    v.unknown(s.unknown);
}

template <class V, Either<Derivation> T>
void describe(V& v, T& d) {
    v.what("how a part is made of the chords");
    v.choice("kind", d.kind, names::kFromChords, "what it has of them");
    v.flag("linked", d.linked, "whether it follows when they change");
    v.choice("voicing", d.voicing, names::kVoicings, "how the tones are laid out");
    v.whole("inversion", d.inversion, -1, 4, "how many of the lowest tones go up an octave; -1: by the shortest way from chord to chord");
    v.whole("low", d.low, 0, 127, "the lowest note lies in the octave above");
    v.whole("high", d.high, 0, 127, "the highest pitch");
    v.whole("tone", d.tone, 1, 13, "of kind tone: which, as a degree above the root");
    v.whole("every", d.every, 0, limits::kGrooveStep, "ticks from one stroke to the next; 0: once a chord");
    v.whole("every_at_end", d.every_at_end, 0, limits::kGrooveStep, "ticks to which that has changed as a chord ends; 0: it stays");
    v.number("length", d.length, 0.05, 1.0, "share of the time to the next stroke that is held");
    v.number("strum_ms", d.strum_ms, -500.0, 500.0, "from one tone to the next; negative from the highest down");
    v.choice("way", d.way, names::kWays, "of an arpeggio");
    v.whole("octaves", d.octaves, 1, 4, "that an arpeggio goes through");
    v.whole("velocity", d.velocity, 1, 127, "of the lowest tone");
    v.whole("slope", d.slope, -60, 60, "how much harder each tone above it is played");
}

template <class V, Either<PartVersion> T>
void describe_version(V& v, T& p) {
    v.text("version", p.version_name, "what this way to play the part is called");
    v.list("patterns", p.patterns, limits::kPatternsAPart, "what is played");
    v.list("placements", p.placements, limits::kPlacementsAPart, "where, ascending");
    v.list("layers", p.layers, limits::kLayersAPart, "with which instruments");
    v.list("steps", p.steps, limits::kStepsAChain, "through which effects, in the order of the signal");
    v.field(kPartFields[0], p.gain_db);
    v.field(kPartFields[1], p.pan);
    v.field(kPartFields[2], p.early_ms);
    v.list("sends", p.sends, limits::kSends, "how much goes to which bus besides");
    v.meant("output", p.output, "the bus it goes to; none: the master");
    v.piece("derived", p.derived, "how it was made of the chords");
    v.whole("next_id", p.next_id, 1, 1'000'000'000, "the next number for a pattern, placement or note");
    v.unknown(p.unknown);
}

template <class V, Either<PartVersion> T>
void describe(V& v, T& p) {
    v.what("a rival");
    describe_version(v, p);
}

template <class V, Either<Part> T>
void describe(V& v, T& p) {
    v.what("a part", p.name);
    v.id("id", p.id, "what it is meant by");
    v.text("name", p.name, "what it is called");
    v.choice("role", p.role, names::kRoles, "what it does in the music");
    v.flag("mute", p.mute, "whether it is silent");
    v.flag("solo", p.solo, "whether it is heard alone");
    v.list("rivals", p.rivals, limits::kRivals, "other versions, kept beside the chosen one");
    describe_version(v, static_cast<std::conditional_t<std::is_const_v<T>, const PartVersion, PartVersion>&>(p));
}

template <class V, Either<Bus> T>
void describe(V& v, T& b) {
    v.what("a bus", b.name);
    v.id("id", b.id, "what it is meant by");
    v.text("name", b.name, "what it is called");
    v.list("steps", b.steps, limits::kStepsAChain, "its effects, in the order of the signal");
    v.field(kBusFields[0], b.gain_db);
    v.field(kBusFields[1], b.pan);
    v.meant("output", b.output, "the bus it goes to; none: the master");
    v.unknown(b.unknown);
}

template <class V, Either<Master> T>
void describe(V& v, T& m) {
    v.what("the master");
    v.list("steps", m.steps, limits::kStepsAChain, "its effects, in the order of the signal; the limiter comes behind them");
    v.field(kMasterFields[0], m.gain_db);
    v.unknown(m.unknown);
}

template <class V, Either<Mixer> T>
void describe(V& v, T& m) {
    v.what("the mixer");
    v.list("buses", m.buses, limits::kBuses, "where parts meet");
    v.piece("master", m.master, "the whole");
    v.unknown(m.unknown);
}

template <class V, Either<CurvePoint> T>
void describe(V& v, T& p) {
    v.what("a point of a curve");
    v.offset("tick", p.tick, "from the start of the section or the song");
    v.number("value", p.value, -limits::kMostNumber, limits::kMostNumber, "of the field");
    v.choice("shape", p.shape, names::kShapes, "how it goes on to the next point");
    v.number("bend", p.bend, -1.0, 1.0, "of a curved shape: early below 0, late above");
}

template <class V, Either<Curve> T>
void describe(V& v, T& c) {
    v.what("a curve");
    v.id("id", c.id, "what it is meant by");
    v.field_ref("owner", "field", c.field, "what it moves");
    v.meant("section", c.section, "in which section; none: in the song");
    v.list("points", c.points, limits::kPointsACurve, "ascending");
    v.unknown(c.unknown);
}

template <class V, Either<SectionSetting> T>
void describe(V& v, T& s) {
    v.what("a section setting");
    v.field_ref("owner", "field", s.field, "what is set");
    v.meant("section", s.section, "in which section");
    v.number("value", s.value, -limits::kMostNumber, limits::kMostNumber, "of the field");
    v.unknown(s.unknown);
}

template <class V, Either<MacroTarget> T>
void describe(V& v, T& t) {
    v.what("what a macro moves");
    v.field_ref("owner", "field", t.field, "the field");
    v.number("from", t.from, -limits::kMostNumber, limits::kMostNumber, "its value at no amount");
    v.number("to", t.to, -limits::kMostNumber, limits::kMostNumber, "its value at the full amount");
    v.unknown(t.unknown);
}

template <class V, Either<Macro> T>
void describe(V& v, T& m) {
    v.what("a macro", m.name);
    v.id("id", m.id, "what it is meant by");
    v.text("name", m.name, "what it is called");
    v.field(kMacroFields[0], m.amount);
    v.list("targets", m.targets, limits::kMacroTargets, "the fields it moves");
    v.unknown(m.unknown);
}

template <class V, Either<NoteMove> T>
void describe(V& v, T& m) {
    v.what("a field moved by notes");
    v.field_ref("owner", "field", m.field, "what it moves");
    v.meant("by", m.by, "the part whose notes move it");
    v.number("to", m.to, -limits::kMostNumber, limits::kMostNumber, "where it goes");
    for (std::size_t f = 0; f < kNoteMoveFields.size(); ++f) v.field(kNoteMoveFields[f], m.*kNoteMoveMembers[f]);
    v.unknown(m.unknown);
}

template <class V, Either<Automation> T>
void describe(V& v, T& a) {
    v.what("the automation");
    v.list("curves", a.curves, limits::kCurves, "fields that are moved");
    v.list("settings", a.settings, limits::kSettings, "fields that have a value of their own in a section");
    v.list("macros", a.macros, limits::kMacros, "controls that move many fields");
    v.list("by_notes", a.by_notes, limits::kNoteMoves, "fields that each note moves anew");
    v.unknown(a.unknown);
}

template <class V, Either<Making> T>
void describe(V& v, T& m) {
    v.what("how a transition is made");
    v.choice("kind", m.kind, names::kTransitions, "what it is; \"none\": the asset is no transition");
    v.number("beats", m.beats, 0.25, limits::kTransitionBeats, "how long it lasts, in quarters");
    v.pitches("pitches", m.pitches, limits::kTransitionPitches, "MIDI keys it is tuned to, or a chord's");
    v.unknown(m.unknown);
}

template <class V, Either<Asset> T>
void describe(V& v, T& a) {
    v.what("an asset", a.name);
    v.id("id", a.id, "what it is meant by");
    v.text("name", a.name, "what it is called");
    v.choice("origin", a.origin, names::kAssetOrigins, "where it comes from; \"original\": a span of the recording");
    v.path("path", a.path, "the file; empty for one from the original");
    v.hash("content_hash", a.content_hash, "of the decoded samples of the file, or of the recording");
    v.number("start_s", a.start_s, 0.0, kLongestRecording_s + 1.0, "where what is meant begins in it");
    v.number("end_s", a.end_s, 0.0, kLongestRecording_s + 1.0, "and ends");
    v.flag("kept", a.kept, "whether its file is in the remake file, too, as sounds/ and its id");
    v.piece("made", a.made, "how it is made, of a transition, which has no file");
    v.unknown(a.unknown);
}

template <class V, Either<WarpMark> T>
void describe(V& v, T& m) {
    v.what("a mark of a warp");
    v.number("from_ms", m.from_ms, 0.0, 1000.0 * limits::kAsset_s, "what sounds here");
    v.number("to_ms", m.to_ms, 0.0, 1000.0 * limits::kAsset_s, "is heard here");
    v.unknown(m.unknown);
}

template <class V, Either<RecipeEntry> T>
void describe(V& v, T& e) {
    v.what("an entry of a recipe");
    v.choice("treatment", e.treatment, names::kTreatments, "what is done");
    v.treatment("values", e.treatment, e.first, e.second, "by the treatment's fields");
    v.field(rows::kOn, e.on);
    v.list("marks", e.marks, limits::kWarpMarks, "of a warp: what is heard when; what lies between is stretched");
    v.unknown(e.unknown);
}

template <class V, Either<Clip> T>
void describe(V& v, T& c) {
    v.what("a clip", c.name);
    v.id("id", c.id, "what it is meant by");
    v.meant("asset", c.asset, "the sound");
    v.text("name", c.name, "what it is called");
    v.place("start", c.start, "where it begins, or ends");
    v.flag("ends_here", c.ends_here, "whether it ends at its place instead of beginning there");
    v.list("recipe", c.recipe, limits::kRecipe, "what is done to the sound, in this order");
    v.field(rows::kLevel, c.gain_db);
    v.field(rows::kPan, c.pan);
    v.flag("mute", c.mute, "whether it is silent");
    v.meant("output", c.output, "the bus it goes to; none: the master");
    v.unknown(c.unknown);
}

template <class V, Either<Clips> T>
void describe(V& v, T& c) {
    v.what("the clips");
    v.list("assets", c.assets, limits::kAssets, "sounds");
    v.list("clips", c.clips, limits::kClips, "where they are in the song");
    v.unknown(c.unknown);
}

template <class V, Either<ElementState> T>
void describe(V& v, T& e) {
    v.what("an element");
    v.choice("state", e.state, names::kStates, "the user's word on it");
    v.text("question", e.question, "an open question");
    v.text("intended", e.intended, "a difference that is meant");
    v.text("reason", e.reason, "why it is close enough, or left out");
    v.number("time_spent_s", e.time_spent_s, 0.0, limits::kMostNumber, "with the element chosen and something being done");
    v.number("budget_min", e.budget_min, 0.0, limits::kMostNumber, "how much time the user gives it; 0: no end");
    v.unknown(e.unknown);
}

template <class V, Either<OwnRow> T>
void describe(V& v, T& r) {
    v.what("a row", r.name);
    v.id("id", r.id, "what it is meant by");
    v.text("name", r.name, "what it is called");
    v.unknown(r.unknown);
}

template <class V, Either<Remark> T>
void describe(V& v, T& r) {
    v.what("a remark");
    v.choice("kind", r.kind, names::kRemarks,
             "a question, an intended difference, something faint, where it is heard clearest, a change that was seen to or dismissed");
    v.element("element", r.element, "what it is about");
    v.place("start", r.start, "where");
    v.span("length", r.length, "how long");
    v.text("words", r.words, "the user's own");
    v.unknown(r.unknown);
}

template <class V, Either<Spot> T>
void describe(V& v, T& s) {
    v.what("a remembered place", s.name);
    v.text("name", s.name, "what it is called");
    v.place("start", s.start, "where the loop begins");
    v.span("length", s.length, "how long it is");
    v.text("lens", s.lens, "through which it was heard; empty for the whole");
    v.unknown(s.unknown);
}

template <class V, Either<Picture> T>
void describe(V& v, T& p) {
    v.what("a picture");
    v.text("words", p.words, "what it shows");
    v.path("path", p.path, "the file it came from; its bytes are in the remake file, too, as pictures/ and its place in this list, from 1");
    v.unknown(p.unknown);
}

template <class V, Either<Notebook> T>
void describe(V& v, T& n) {
    v.what("the notebook");
    v.elements("elements", n.elements, "what the user says of each element, by its id");
    v.list("rows", n.rows, limits::kRows, "of the user's own in the ledger");
    v.list("remarks", n.remarks, limits::kRemarks, "words about places");
    v.list("spots", n.spots, limits::kRemarks, "places to come back to");
    v.text("research", n.research, "what was found out about the record");
    v.list("pictures", n.pictures, limits::kPictures, "of how it was made");
    v.number("time_spent_s", n.time_spent_s, 0.0, limits::kMostNumber, "with the remake open and in use");
    v.unknown(n.unknown);
}

template <class V, Either<Remake> T>
void describe(V& v, T& r) {
    v.what("the remake");
    v.piece("reference", r.reference, "the recording");
    v.piece("song", r.song, "time, harmony, form");
    v.list("parts", r.parts, limits::kParts, "what is rebuilt");
    v.piece("mixer", r.mixer, "buses and master");
    v.piece("automation", r.automation, "what moves");
    v.piece("clips", r.clips, "pieces of sound");
    v.piece("notebook", r.notebook, "what the user says");
    v.whole("next_id", r.next_id, 1, 1'000'000'000, "the next number for what is unique in the document");
    v.unknown(r.unknown);
}

}  // namespace fw
