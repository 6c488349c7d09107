// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "model/limits.hpp"
#include "model/note_move.hpp"
#include "sound/plug_ins/plug_ins.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace fw {

namespace {

std::string sources() {
    return either(source_types(), [](const SourceType* t) { return t->id; });
}

std::string unknown_kind(const std::string& what, const std::string& id, const std::string& known) {
    if (is_plug_in(id)) return "this machine has no plug-in \"" + id + "\" that can be a " + what + ": install it, or see fakturwerk-cli plug-ins";
    return "there is no " + what + " \"" + id + "\": say " + known;
}

}  // namespace

Layer new_layer(const Call& c, const SourceType& otherwise) {
    Layer layer;
    layer.source = &otherwise;
    if (c.has("source")) {
        layer.source = find_source_type(c.text("source"));
        if (!layer.source) throw Refused{unknown_kind("source", c.text("source"), sources())};
    }
    const auto& patches = layer.source->patches();
    layer.patch = patches.empty() ? std::string() : patches.front();
    if (c.has("patch")) {
        const auto at = std::find_if(patches.begin(), patches.end(), [&](const std::string& p) { return same_words(p, c.text("patch")); });
        if (at == patches.end()) {
            std::string all;
            for (const std::string& p : patches) all += (all.empty() ? "" : ", ") + p;
            throw Refused{"the source \"" + std::string(layer.source->id) + "\" has no patch \"" + c.text("patch") + "\"" +
                          (all.empty() ? "" : "; there are " + all)};
        }
        layer.patch = *at;
    }
    if (c.has("program")) layer.program = c.whole("program", 0, 127);
    if (c.has("file")) layer.file = c.text("file");
    return layer;
}

std::string points_text(const Remake& remake, const Parameter& row, Ticks start, const std::vector<CurvePoint>& points) {
    const MeterMap& meter = remake.song->meter;
    const int first_bar = meter.position(start).bar;
    std::string all;
    for (const CurvePoint& p : points) {
        const BarPosition at = meter.position(start + p.tick);
        std::string value = value_text(row, p.value);
        std::erase(value, ' ');
        all += (all.empty() ? "" : ", ") + std::to_string(at.bar - first_bar + 1) + "." + std::to_string(at.beat) + "." + std::to_string(at.tick) + " " + value;
        if (p.shape != Shape::Straight || p.bend != 0.0) all += std::string(" ") + shape_name(p.shape);
        char bend[32];
        std::snprintf(bend, sizeof bend, " %.2f", p.bend);
        if (p.bend != 0.0) all += bend;
    }
    return all;
}

namespace {

std::string step_kinds() {
    return either(step_types(), [](const StepType* t) { return t->id; });
}

constexpr Argument kCopySheet[] = {{"part", "whose sheet"}, {"to", "the part that gets it"}, {"take", "as \"layers steps\": layers, steps, place, notes"}};
constexpr Argument kCutLayer[] = {{"part", "which"},
                                  {"from", "a place, as 12.5s"},
                                  {"to", "to before a place"},
                                  {"name", "what it is called", false},
                                  {"root", "the key at which it has its own pitch", false},
                                  {"cents", "how far it sounds above that key", false},
                                  {"only", "of a drum part: the one sound it stands for", false},
                                  {"file", "where the piece lies freed of its neighbours; else it is played as it is in the original", false}};
constexpr Argument kAddLayer[] = {{"part", "which"},
                                  {"source", "what makes it sound", false, sources},
                                  {"patch", "one of the source's", false},
                                  {"program", "of a SoundFont, 0 to 127", false},
                                  {"file", "a SoundFont, or a sampler's sound file", false}};
constexpr Argument kLayer[] = {{"part", "which"}, {"layer", "its number from 1"}};
constexpr Argument kSource[] = {{"part", "which"},
                                {"layer", "its number from 1", false},
                                {"source", "what makes it sound", false, sources},
                                {"patch", "one of the source's", false},
                                {"program", "of a SoundFont, 0 to 127", false},
                                {"file", "a SoundFont, or a sampler's sound file", false}};
constexpr Argument kAddStep[] = {{"part", "into this part's steps", false},
                                 {"bus", "or this bus's", false},
                                 {"master", "or, on, the master's", false},
                                 {"kind", "what it does", true, step_kinds},
                                 {"at", "its number from 1; the last without", false},
                                 {"by", "of a duck: the part that sets it off", false},
                                 {"sound", "of that only this note or drum sound", false}};
constexpr Argument kStep[] = {
    {"part", "of this part", false}, {"bus", "or this bus", false}, {"master", "or, on, the master", false}, {"step", "its number from 1, or its kind"}};
constexpr Argument kLayerPreset[] = {{"part", "which"}, {"layer", "its number from 1", false}, {"preset", "its name, as fakturwerk-cli plug-ins lists it"}};
constexpr Argument kStepPreset[] = {{"part", "of this part", false},
                                    {"bus", "or this bus", false},
                                    {"master", "or, on, the master", false},
                                    {"step", "its number from 1, or its kind"},
                                    {"preset", "its name, as fakturwerk-cli plug-ins lists it"}};
constexpr const char* kStateHelp = "what it keeps besides its fields, as LV2 writes it (Turtle), line ends as \\n; empty for none";
constexpr Argument kLayerOwn[] = {
    {"part", "which"}, {"layer", "its number from 1", false}, {"state", kStateHelp, false}, {"file", "what it is given to play; empty for none", false}};
constexpr Argument kStepOwn[] = {{"part", "of this part", false},
                                 {"bus", "or this bus", false},
                                 {"master", "or, on, the master", false},
                                 {"step", "its number from 1, or its kind"},
                                 {"state", kStateHelp, false},
                                 {"file", "what it is given; empty for none", false}};
constexpr Argument kMoveStep[] = {{"part", "of this part", false},
                                  {"bus", "or this bus", false},
                                  {"master", "or, on, the master", false},
                                  {"step", "its number from 1, or its kind"},
                                  {"to", "its new number"}};
constexpr Argument kTrigger[] = {{"part", "of this part", false},         {"bus", "or this bus", false},
                                 {"master", "or, on, the master", false}, {"step", "its number from 1, or its kind"},
                                 {"by", "the part that sets it off"},     {"sound", "of that only this note or drum sound", false}};
constexpr Argument kSwitch[] = {{"part", "of this part", false}, {"bus", "or this bus", false}, {"master", "or, on, the master", false}, {"on", "on or off"}};
constexpr Argument kNewBus[] = {{"name", "what it is called"}, {"part", "that is sent to it at once", false}};
constexpr Argument kBus[] = {{"bus", "which"}};
constexpr Argument kRenameBus[] = {{"bus", "which"}, {"name", "its new name"}};
constexpr Argument kBusOutput[] = {{"bus", "which"}, {"to", "the bus it goes to; without it to the master", false}};
constexpr Argument kAddSend[] = {{"part", "which"}, {"bus", "where to"}, {"level", "as -12dB", false}};
constexpr Argument kSend[] = {{"part", "which"}, {"bus", "where to"}};
constexpr Argument kThrow[] = {{"part", "which"},
                               {"bus", "where to"},
                               {"level", "as -6dB: how far the send opens; 0 dB without", false},
                               {"notes", "which notes, by place and pitch: 5.3.12/F2,5.4/G2", false},
                               {"from", "or all from a place on", false},
                               {"to", "to before a place", false},
                               {"pitch", "of those only this pitch", false}};
constexpr Argument kOutput[] = {{"part", "which"}, {"bus", "where to; without it to the master", false}};
/// The arguments that say whose field is meant, and those that come behind them.
template <std::size_t N>
constexpr auto of_a_field(const Argument (&more)[N]) {
    constexpr Argument kOwner[] = {{"part", "of this part", false},
                                   {"layer", "of this layer of it, from 1", false},
                                   {"step", "or this step of it, by number or kind", false},
                                   {"send", "or its send to this bus", false},
                                   {"bus", "or of this bus", false},
                                   {"master", "or, on, of the master", false},
                                   {"macro", "or of this macro", false},
                                   {"field", "which"}};
    std::array<Argument, std::size(kOwner) + N> all{};
    std::copy(std::begin(more), std::end(more), std::copy(std::begin(kOwner), std::end(kOwner), all.begin()));
    return all;
}
constexpr auto kField = of_a_field({{"value", "as 800Hz, -9dB, 1/8 or on"}, {"section", "in this section only", false}});
constexpr auto kReset = of_a_field({{"section", "its own value in this section only", false}});
constexpr auto kCurve =
    of_a_field({{"section", "in this section, with which it goes; without it in the song", false},
                {"points", "place value shape, …: \"1 200Hz smooth, 4.4 4kHz\"; places count from the section's first bar; empty takes the curve away"}});

constexpr Argument kNewMacro[] = {{"name", "what it is called"}};
constexpr Argument kMacro[] = {{"macro", "which"}};
constexpr auto kTarget = of_a_field({{"by", "the macro that moves it"},
                                     {"from", "its value at no amount; as it is without", false},
                                     {"to", "its value at the full amount; the end of its range without", false}});
constexpr auto kNoTarget = of_a_field({{"by", "the macro that moves it"}});

constexpr auto kByNotes = of_a_field({{"to", "where each note takes it; needed the first time", false},
                                      {"of", "the part whose notes; its own without", false},
                                      {"attack", "as 5ms", false},
                                      {"decay", "as 300ms", false},
                                      {"sustain", "what share of the way it stays at: 40%", false},
                                      {"release", "as 100ms", false},
                                      {"bend", "how it falls: -1 early to 1 late", false},
                                      {"velocity", "how much less far softer notes move it: 50%", false},
                                      {"on", "off: notes leave it alone", false}});
constexpr auto kReuse = of_a_field({{"section", "whose curve"}});
constexpr auto kLay = of_a_field({{"from", "a place"},
                                  {"to", "to before a place"},
                                  {"points", "place value shape, …, between them: \"5 -12dB, 5.3 -6dB\"; places count from the song's first bar"}});

/// "1 200Hz smooth, 4.4 4kHz": bars and beats from the section's start.
std::vector<CurvePoint> points_of(const Call& c, const Parameter& row, Ticks start) {
    std::vector<CurvePoint> points;
    const int first_bar = c.remake.song->meter.position(start).bar;
    for (const auto& words : entries_of(c.text("points"))) {
        if (words.size() < 2 || words.size() > 4) throw Refused{"a point is not written as place value, with a shape where it is not straight"};
        CurvePoint p;
        const auto place = parse_place(c.remake, words[0]);
        if (!place || words[0].back() == 's') throw Refused{"\"" + words[0] + "\" is no place in the section: say a bar (1) or a beat (1.3)"};
        // Bar 1 is the section's first: moved there, beats and ticks behind it.
        const BarPosition asked = c.remake.song->meter.position(*place);
        p.tick = c.remake.song->meter.tick_of({asked.bar + first_bar - 1, asked.beat, asked.tick}) - start;
        p.value = c.value(row, words[1]);
        if (words.size() > 2) {
            int s = 0;
            while (s < kShapes && words[2] != shape_name(static_cast<Shape>(s))) ++s;
            if (s == kShapes) throw Refused{"\"" + words[2] + "\" is no shape: say straight, smooth, hold or curved"};
            p.shape = static_cast<Shape>(s);
        }
        if (words.size() > 3) {
            const Parameter bend{"bend", "Bend", Unit::None, -1.0, 1.0, 0.0, Scale::Linear, 0.01, false, ""};
            p.bend = c.value(bend, words[3]);
        }
        points.push_back(p);
    }
    return points;
}

FieldRef movable(const Call& c) {
    const FieldRef field = c.field();
    if (!c.row(field).moves) throw Refused{"\"" + std::string(c.row(field).label) + "\" stays as it is: it cannot be moved"};
    return field;
}

Trigger trigger_of(const Call& c) {
    Trigger trigger;
    if (c.has("by")) trigger.part = c.part("by").id;
    if (c.has("sound")) trigger.key = c.pitch("sound");
    return trigger;
}

/// A piece of the original as a sampler's sound, on a layer of its own.
Remake layer_from_original(const Call& c) {
    const Part& part = c.part();
    const TempoMap& tempo = c.remake.song->tempo;
    const double from_s = tempo.seconds(c.place("from")), to_s = tempo.seconds(c.place("to"));
    if (to_s - from_s < 0.005) throw Refused{"the piece is shorter than 5 ms"};
    Asset asset = from_original(c.remake, c.text("name", part.name + " from the original"), from_s, to_s);
    if (c.has("file")) {
        asset.path = c.text("file");
        asset.start_s = 0.0;
        asset.end_s = to_s - from_s;
    }
    auto [next, id] = with_asset(c.remake, std::move(asset));
    Layer layer;
    layer.source = &kSampler;
    layer.asset = id;
    const auto set = [&](const char* field, double value) { layer.settings.set(*index_of_field(kSampler.fields, field), value); };
    if (c.has("root")) set("root", c.pitch("root"));
    if (c.has("cents")) set("tune", -c.number("cents", -100.0, 100.0));
    if (c.has("only")) layer.low_key = layer.high_key = c.pitch("only");
    next = add_layer(next, part.id, std::move(layer));
    return c.with_fields(next, next.part(part.id)->layers.back().id);
}

constexpr Argument kOfPart[] = {{"part", "which"}};

/// A plug-in's preset by its name, as settings and a state.
template <class Id>
Remake with_preset(const Call& c, const PlugIn* plug_in, Id id) {
    if (!plug_in) throw Refused{"it is no plug-in: presets are what plug-ins come with"};
    const auto& all = presets_of(*plug_in);
    const auto at = std::find_if(all.begin(), all.end(), [&](const PlugInPreset& p) { return same_words(p.name, c.text("preset")); });
    if (at == all.end()) {
        std::string names;
        for (const PlugInPreset& p : all) names += (names.empty() ? "" : ", ") + p.name;
        throw Refused{"the plug-in " + plug_in->name + " has no preset \"" + c.text("preset") + "\"" + (names.empty() ? "" : "; there are " + names)};
    }
    Settings settings;
    for (const auto& [field, value] : at->fields) settings.set(field, value);
    return set_preset(c.remake, id, settings, at->state);
}

/// What a plug-in has of its own; what is not said stays.
template <class Id, class Thing>
Remake with_own(const Call& c, const PlugIn* plug_in, const Thing& thing, Id id) {
    if (!plug_in) throw Refused{"it is no plug-in: only those keep something of their own"};
    if (!c.has("state") && !c.has("file")) throw Refused{"it says neither a state nor a file"};
    if (c.has("file") && !c.text("file").empty() && !plug_in->takes_file && plug_in->here) throw Refused{"the plug-in " + plug_in->name + " takes no file"};
    const std::string state = c.has("state") ? state_of_line(c.text("state")) : thing.state;
    if (state.size() > limits::kTextBytes) throw Refused{"its state has more than " + std::to_string(limits::kTextBytes) + " letters"};
    return set_own(c.remake, id, state, c.has("file") ? c.text("file") : thing.file);
}

struct Wanted {
    const StepType* type;
    std::vector<std::pair<const char*, double>> fields;
};

/// Steps behind those that are there.
Remake with_steps(const Remake& remake, PartId part, const std::vector<Wanted>& all) {
    Remake next = remake;
    for (const Wanted& w : all) {
        const StepId made(next.next_id);
        Step step;
        step.type = w.type;
        next = add_step(next, part, std::move(step));
        for (const auto& [field, value] : w.fields) next = set_field(next, {made, field}, value);
    }
    return next;
}

const Command kCommands[] = {
    {"layer.from-original", "Cut from the original", "Plays a piece of the original on a layer of its own, marked as such.", kCutLayer, true,
     layer_from_original},
    {"part.copy-sheet", "Copy sheet", "Gives another part what a part's sheet has.", kCopySheet, false,
     [](const Call& c) {
         SheetPieces pieces{false, false, false, false};
         for (const auto& words : entries_of(c.text("take")))
             for (const std::string& word : words) {
                 bool* piece = word == "layers"  ? &pieces.layers
                               : word == "steps" ? &pieces.steps
                               : word == "place" ? &pieces.place
                               : word == "notes" ? &pieces.notes
                                                 : nullptr;
                 if (!piece) throw Refused{"\"" + word + "\" cannot be taken: say layers, steps, place or notes"};
                 *piece = true;
             }
         if (c.part().id == c.part("to").id) throw Refused{"a part has its own sheet already"};
         if (pieces.notes && (c.part().role == PartRole::Drums) != (c.part("to").role == PartRole::Drums))
             throw Refused{"notes of drums mean nothing elsewhere, nor others on drums"};
         return copy_sheet(c.remake, c.part().id, c.part("to").id, pieces);
     }},
    {"part.add-layer", "Add layer", "Adds an instrument that plays along with the part.", kAddLayer, true,
     [](const Call& c) {
         const Part& p = c.part();
         const Remake next = add_layer(c.remake, p.id, new_layer(c, p.role == PartRole::Drums ? kDrumKit : kSynth));
         return c.with_fields(next, next.part(p.id)->layers.back().id);
     }},
    {"layer.remove", "Remove layer", "Takes an instrument out of a part.", kLayer, false,
     [](const Call& c) { return remove_layer(c.remake, c.layer(c.part()).id); }},
    {"layer.source", "Choose instrument", "Puts another instrument into a layer's place.", kSource, true,
     [](const Call& c) {
         const Layer& now = c.layer(c.part());
         const Layer chosen = new_layer(c, *now.source);
         return c.with_fields(set_source(c.remake, now.id, *chosen.source, chosen.patch, chosen.program, chosen.file), now.id);
     }},
    {"layer.preset", "Choose preset", "Sets a plug-in as one of its presets has it.", kLayerPreset, false,
     [](const Call& c) {
         const Layer& l = c.layer(c.part());
         return with_preset(c, l.source->plug_in, l.id);
     }},
    {"layer.own", "Give a plug-in its own", "Says what a plug-in keeps besides its fields, or which file it is given.", kLayerOwn, false,
     [](const Call& c) {
         const Layer& l = c.layer(c.part());
         return with_own(c, l.source->plug_in, l, l.id);
     }},
    {"step.preset", "Choose preset", "Sets a plug-in as one of its presets has it.", kStepPreset, false,
     [](const Call& c) {
         const Step& s = c.step();
         return with_preset(c, s.type->plug_in, s.id);
     }},
    {"step.own", "Give a plug-in its own", "Says what a plug-in keeps besides its fields, or which file it is given.", kStepOwn, false,
     [](const Call& c) {
         const Step& s = c.step();
         return with_own(c, s.type->plug_in, s, s.id);
     }},
    {"step.add", "Add step", "Adds an effect to a part's, a bus's or the master's steps.", kAddStep, true,
     [](const Call& c) {
         Step step;
         step.type = find_step_type(c.text("kind"));
         if (!step.type) throw Refused{unknown_kind("step", c.text("kind"), step_kinds())};
         step.trigger = trigger_of(c);
         const Chain chain = c.chain();
         const std::size_t place = c.has("at") ? static_cast<std::size_t>(c.whole("at", 1, 1000)) - 1 : ~std::size_t{0};
         const StepId made(c.remake.next_id);
         return c.with_fields(add_step(c.remake, chain, std::move(step), place), made);
     }},
    {"steps.background", "Put in the background", "Adds what lets a part stand far away, as steps one can see: fewer highs, evened out, in a room, and softer.",
     kOfPart, false,
     [](const Call& c) {
         Remake next = with_steps(c.remake, c.part().id,
                                  {{&kEqualiser, {{"high", -6.0}, {"high_hz", 4000.0}, {"low_cut", 150.0}}},
                                   {&kCompressor, {{"threshold", -24.0}, {"ratio", 3.0}, {"attack_ms", 5.0}}},
                                   {&kReverb, {{"predelay_ms", 0.0}, {"decay_s", 2.2}, {"mix", 0.45}}}});
         const FieldRef level{c.part().id, "level"};
         return set_field(next, level, *field_value(next, level) - 6.0);
     }},
    {"steps.amp", "Through an amplifier", "Adds what an amplifier and its loudspeaker do, as steps one can see.", kOfPart, false,
     [](const Call& c) {
         return with_steps(
             c.remake, c.part().id,
             {{&kEqualiser, {{"low_cut", 90.0}, {"mid_hz", 800.0}, {"mid", 3.0}}}, {&kDrive, {{"drive", 16.0}, {"level", -10.0}}}, {&kCabinet, {}}});
     }},
    {"steps.thicken", "Thicken", "Adds what makes a lone sound fuller, as steps one can see: a chorus, a little saturation, more width.", kOfPart, false,
     [](const Call& c) {
         return with_steps(c.remake, c.part().id,
                           {{&kDrive, {{"drive", 4.0}, {"level", -2.0}}}, {&kChorus, {{"mix", 0.4}}}, {&kWidth, {{"width", 1.4}, {"mono_hz", 150.0}}}});
     }},
    {"step.remove", "Remove step", "Takes an effect away.", kStep, false, [](const Call& c) { return remove_step(c.remake, c.step().id); }},
    {"step.move", "Move step", "Moves an effect within its row.", kMoveStep, false,
     [](const Call& c) { return move_step(c.remake, c.step().id, static_cast<std::size_t>(c.whole("to", 1, 1000)) - 1); }},
    {"step.trigger", "Set trigger", "Says which part's notes set a step off.", kTrigger, false,
     [](const Call& c) { return set_trigger(c.remake, c.step().id, trigger_of(c)); }},
    {"steps.switch", "Switch steps", "Switches all steps of a row on or off.", kSwitch, false,
     [](const Call& c) { return switch_steps(c.remake, c.chain(), c.on("on")); }},
    {"bus.add", "Add bus", "Adds a bus that parts can be sent to.", kNewBus, true,
     [](const Call& c) {
         const BusId made(c.remake.next_id);
         Remake next = add_bus(c.remake, c.text("name"));
         if (c.has("part")) next = add_send(next, c.part().id, made, kSendFields[0].neutral);
         return c.with_fields(std::move(next), made);
     }},
    {"bus.remove", "Remove bus", "Takes a bus away; what went there goes to the master.", kBus, false,
     [](const Call& c) { return remove_bus(c.remake, c.bus().id); }},
    {"bus.output", "Choose a bus's output", "Lets a bus go to another bus, or to the master.", kBusOutput, false,
     [](const Call& c) {
         if (!c.has("to")) return set_bus_output(c.remake, c.bus().id, {});
         const Bus* to = find_bus(c.remake, c.text("to"));
         if (!to) throw Refused{"there is no bus \"" + c.text("to") + "\" to go to"};
         if (c.remake.mixer->leads(to->id, c.bus().id)) throw Refused{"it would lead back into itself"};
         return set_bus_output(c.remake, c.bus().id, to->id);
     }},
    {"bus.rename", "Rename bus", "Gives a bus another name.", kRenameBus, false,
     [](const Call& c) { return rename_bus(c.remake, c.bus().id, c.text("name")); }},
    {"send.add", "Add send", "Sends a share of a part to a bus, or changes how much.", kAddSend, false,
     [](const Call& c) {
         return add_send(c.remake, c.part().id, c.bus().id, c.has("level") ? c.value(kSendFields[0], c.text("level")) : kSendFields[0].neutral);
     }},
    {"send.throw", "Throw notes", "Opens a send for some notes only, so that an echo or a room is heard of these.", kThrow, false,
     [](const Call& c) {
         return throw_notes(c.remake, c.part().id, c.bus().id, c.notes(c.part()), c.has("level") ? c.value(kSendFields[0], c.text("level")) : 0.0);
     }},
    {"send.remove", "Remove send", "Sends nothing to a bus any more.", kSend, false,
     [](const Call& c) { return remove_send(c.remake, c.part().id, c.bus().id); }},
    {"part.output", "Choose output", "Says where a part goes.", kOutput, false,
     [](const Call& c) { return set_output(c.remake, c.part().id, c.has("bus") ? c.bus().id : BusId()); }},
    {"field.set", "Change field", "Sets a field, in the whole song or in one section.", kField, false,
     [](const Call& c) {
         if (c.has("section")) {
             const FieldRef field = movable(c);
             return set_in_section(c.remake, field, c.section().id, c.value(c.row(field), c.text("value")));
         }
         const FieldRef field = c.field();
         return set_field(c.remake, field, c.value(c.row(field), c.text("value")));
     }},
    {"field.reset", "Reset field", "Puts a field back to where it starts, or takes its own value in a section away.", kReset, false,
     [](const Call& c) { return c.has("section") ? clear_in_section(c.remake, c.field(), c.section().id) : reset_field(c.remake, c.field()); }},
    {"macro.add", "Add macro", "A control that moves many fields, each within a range of its own.", kNewMacro, false,
     [](const Call& c) {
         for (const Macro& m : c.remake.automation->macros)
             if (same_words(m.name, c.text("name"))) throw Refused{"there is a macro \"" + m.name + "\" already"};
         return add_macro(c.remake, c.text("name"));
     }},
    {"macro.remove", "Remove macro", "Takes a macro away; what it moved stays where it is.", kMacro, false,
     [](const Call& c) { return remove_macro(c.remake, c.macro().id); }},
    {"macro.target", "Let a macro move", "Lets a macro move a field between two values.", kTarget, false,
     [](const Call& c) {
         const FieldRef field = movable(c);
         if (std::holds_alternative<MacroId>(field.owner)) throw Refused{"a macro moves no macro"};
         const Parameter& row = c.row(field);
         const double from = c.has("from") ? c.value(row, c.text("from")) : *field_value(c.remake, field);
         return set_target(c.remake, c.macro("by").id, field, from, c.has("to") ? c.value(row, c.text("to")) : row.high);
     }},
    {"macro.untarget", "Move no more", "Lets a macro leave a field alone.", kNoTarget, false,
     [](const Call& c) { return remove_target(c.remake, c.macro("by").id, c.field()); }},
    {"field.by-notes", "Move by notes", "Lets each note of a part move a field anew: to a value, down to a share of the way, and back.", kByNotes, false,
     [](const Call& c) {
         const FieldRef field = movable(c);
         if (std::holds_alternative<MacroId>(field.owner)) throw Refused{"a macro is not moved by notes: move its fields"};
         const NoteMove* was = c.remake.automation->note_move(field);
         if (c.has("on") && !c.on("on")) {
             if (!was) throw Refused{"no note moves it"};
             return move_by_no_notes(c.remake, field);
         }
         NoteMove move = was ? *was : NoteMove{};
         move.field = field;
         if (!was && !c.has("to")) throw Refused{"it does not say where: to="};
         if (c.has("to")) move.to = c.value(c.row(field), c.text("to"));
         if (c.has("of")) move.by = c.part("of").id;
         else if (!was) move.by = part_of(c.remake, field.owner);
         if (!move.by) throw Refused{"it does not say whose notes: of=PART"};
         for (std::size_t f = 0; f < kNoteMoveFields.size(); ++f)
             if (c.has(kNoteMoveFields[f].id)) move.*kNoteMoveMembers[f] = c.value(kNoteMoveFields[f], c.text(kNoteMoveFields[f].id));
         return move_by_notes(c.remake, std::move(move));
     }},
    {"curve.set", "Draw curve", "Moves a field along a curve.", kCurve, false,
     [](const Call& c) {
         const FieldRef field = movable(c);
         const Section* section = c.has("section") ? &c.section() : nullptr;
         return set_curve(c.remake, field, section ? section->id : SectionId(), points_of(c, c.row(field), section ? section->start : 0));
     }},
    {"curve.reuse", "Use curve on repeats", "Moves a field in every section that repeats one as it moves there.", kReuse, false,
     [](const Call& c) {
         const FieldRef field = movable(c);
         if (!find_curve(c.remake, field, c.section().id)) throw Refused{"there is no curve of it in that section"};
         Remake next = reuse_curve(c.remake, field, c.section().id);
         if (next == c.remake) throw Refused{"nothing repeats that section"};
         return next;
     }},
    {"curve.lay", "Record moves", "Lays points over a stretch of what moves a field; before and after it goes on as it did.", kLay, false,
     [](const Call& c) {
         const FieldRef field = movable(c);
         const Ticks from = c.place("from"), to = c.place("to");
         if (from >= to) throw Refused{"it ends where it begins or before"};
         const auto points = points_of(c, c.row(field), 0);
         if (points.empty()) throw Refused{"there are no points: say as \"5 -12dB, 5.3 -6dB\""};
         return lay_over(c.remake, field, from, to, points);
     }},
};

}  // namespace

std::span<const Command> sound_commands() { return kCommands; }

}  // namespace fw
