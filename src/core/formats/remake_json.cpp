// SPDX-License-Identifier: GPL-3.0-or-later
// remake.json, as docs/remake-format.md describes it. Every reader clamps what it takes: a damaged or hostile file gives an
// error or a valid document, never a broken one.
#include "formats/remake_file.hpp"

#include <algorithm>
#include <array>
#include <cinttypes>
#include <nlohmann/json.hpp>

namespace fw {

namespace {

using Json = nlohmann::ordered_json;

struct Damaged {};

/// Names of an enum's values in order; index is the value.
template <std::size_t N>
int index_of(const std::array<const char*, N>& names, const std::string& text) {
    for (std::size_t i = 0; i < N; ++i)
        if (text == names[i]) return static_cast<int>(i);
    throw Damaged{};
}

constexpr std::array kOrigins{"heard", "played", "drawn", "imported"};
constexpr std::array kInstruments{"synth", "drum_kit", "soundfont"};
constexpr std::array kRoles{"bass", "lead", "chords", "other", "drums"};
constexpr std::array kStates{"open", "draft", "confirmed", "left_out"};

template <class List, class Function>
Json list_of(const List& items, Function&& one) {
    Json list = Json::array();
    for (const auto& item : items) list.push_back(one(item));
    return list;
}

Json key_json(const Key& k) { return Json{{"tonic", k.tonic}, {"mode", mode_name(k.mode)}}; }

Key key_from(const Json& j) {
    const auto mode = parse_mode(j.at("mode").get<std::string>());
    const int tonic = j.at("tonic").get<int>();
    if (!mode || tonic < 0 || tonic > 11) throw Damaged{};
    return {tonic, *mode};
}

Chord chord_from(const Json& j) {
    const auto chord = parse_chord(j.get<std::string>());
    if (!chord) throw Damaged{};
    return *chord;
}

Json note_json(const Note& n) {
    Json j = {{"start", n.start},       {"length", n.length},         {"pitch", n.pitch},
              {"velocity", n.velocity}, {"confidence", n.confidence}, {"origin", kOrigins[static_cast<std::size_t>(n.origin)]}};
    if (!n.bend.empty()) j["bend"] = list_of(n.bend, [](const BendPoint& b) { return Json{b.tick, b.cents}; });
    return j;
}

constexpr Ticks kFarthest = Ticks{1} << 40;
Ticks ticks_from(const Json& j) { return std::clamp<Ticks>(j.get<Ticks>(), -kFarthest, kFarthest); }

Note note_from(const Json& j) {
    Note n;
    n.start = ticks_from(j.at("start"));
    n.length = std::max<Ticks>(1, ticks_from(j.at("length")));
    n.pitch = std::clamp(j.at("pitch").get<int>(), 0, 127);
    n.velocity = std::clamp(j.at("velocity").get<int>(), 1, 127);
    n.confidence = std::clamp(j.value("confidence", 1.0), 0.0, 1.0);
    n.origin = static_cast<Origin>(index_of(kOrigins, j.value("origin", "drawn")));
    if (j.contains("bend"))
        for (const Json& b : j.at("bend")) n.bend.push_back({ticks_from(b.at(0)), std::clamp(b.at(1).get<double>(), -2400.0, 2400.0)});
    return n;
}

Json layer_json(const Layer& l) {
    return {{"instrument", kInstruments[static_cast<std::size_t>(l.kind)]},
            {"patch", l.patch},
            {"program", l.program},
            {"file", l.file},
            {"gain_db", l.gain_db},
            {"octave", l.octave}};
}

Layer layer_from(const Json& j) {
    return {static_cast<InstrumentKind>(index_of(kInstruments, j.at("instrument"))),
            j.value("patch", ""),
            std::clamp(j.value("program", 0), 0, 127),
            j.value("file", ""),
            std::clamp(j.value("gain_db", 0.0), -96.0, 24.0),
            std::clamp(j.value("octave", 0), -4, 4)};
}

Json part_json(const Part& p) {
    return {{"id", p.id},
            {"name", p.name},
            {"role", kRoles[static_cast<std::size_t>(p.role)]},
            {"gain_db", p.gain_db},
            {"pan", p.pan},
            {"mute", p.mute},
            {"solo", p.solo},
            {"layers", list_of(p.layers, layer_json)},
            {"patterns",
             list_of(p.patterns,
                     [](const Pattern& x) {
                         return Json{{"id", x.id}, {"letter", x.letter}, {"parent", x.parent}, {"length", x.length}, {"notes", list_of(x.notes, note_json)}};
                     })},
            {"placements", list_of(p.placements, [](const Placement& x) {
                 return Json{{"pattern", x.pattern}, {"start", x.start}, {"muted", x.muted}};
             })}};
}

Part part_from(const Json& j) {
    Part p;
    p.id = j.at("id").get<int>();
    p.name = j.at("name").get<std::string>();
    p.role = static_cast<PartRole>(index_of(kRoles, j.at("role")));
    p.gain_db = std::clamp(j.value("gain_db", 0.0), -96.0, 24.0);
    p.pan = std::clamp(j.value("pan", 0.0), -1.0, 1.0);
    p.mute = j.value("mute", false);
    p.solo = j.value("solo", false);
    for (const Json& l : j.at("layers")) p.layers.push_back(layer_from(l));
    for (const Json& x : j.at("patterns")) {
        Pattern pattern{x.at("id").get<int>(), x.value("letter", ""), x.value("parent", 0), std::max<Ticks>(1, ticks_from(x.at("length"))), {}};
        for (const Json& n : x.at("notes")) pattern.notes.push_back(note_from(n));
        p.patterns.push_back(std::move(pattern));
    }
    for (const Json& x : j.at("placements")) {
        p.placements.push_back({x.at("pattern").get<int>(), ticks_from(x.at("start")), x.value("muted", false)});
        if (!p.pattern(p.placements.back().pattern)) throw Damaged{};
    }
    return p;
}

}  // namespace

std::string remake_to_json(const Remake& r) {
    char hash[17];
    std::snprintf(hash, sizeof hash, "%016" PRIx64, r.reference.content_hash);
    Json j;
    j["schema"] = "fakturwerk-remake/" + std::to_string(kRemakeVersion);
    j["reference"] = {
        {"path", r.reference.path}, {"content_hash", hash}, {"duration_s", r.reference.duration_s}, {"integrated_lufs", r.reference.integrated_lufs}};
    j["tuning"] = {{"cents", r.tuning_cents}, {"confidence", r.tuning_confidence}};
    j["tempo"] = {{"error_bpm", r.tempo_error_bpm},
                  {"confidence", r.tempo_confidence},
                  {"candidates", list_of(r.tempo_candidates,
                                         [](const Candidate& c) {
                                             return Json{{"bpm", c.bpm}, {"confidence", c.confidence}};
                                         })},
                  {"anchors", list_of(r.tempo.anchors(), [](const TempoMap::Anchor& a) {
                       return Json{a.tick, a.time_s};
                   })}};
    j["swing"] = {{"ratio", r.swing_ratio}, {"subdivision", r.swing_subdivision}};
    j["meter"] = list_of(r.meter.changes(), [](const MeterMap::Change& m) {
        return Json{{"bar", m.bar}, {"numerator", m.numerator}, {"denominator", m.denominator}};
    });
    j["keys"] = list_of(r.keys, [](const KeyArea& k) {
        Json one = {{"start", k.start}};
        one.update(key_json(k.key));
        one["confidence"] = k.confidence;
        one["alternatives"] = list_of(k.alternatives, [](const auto& a) {
            Json x = key_json(a.first);
            x["confidence"] = a.second;
            return x;
        });
        return one;
    });
    j["sections"] = list_of(r.sections, [](const Section& s) {
        return Json{{"start", s.start}, {"length", s.length}, {"label", s.label}, {"name", s.name}, {"repeat_of", s.repeat_of}, {"confidence", s.confidence}};
    });
    j["chords"] = list_of(r.chords, [](const ChordEvent& c) {
        return Json{{"start", c.start},
                    {"length", c.length},
                    {"label", c.chord.label()},
                    {"confidence", c.confidence},
                    {"origin", kOrigins[static_cast<std::size_t>(c.origin)]},
                    {"alternatives", list_of(c.alternatives, [](const auto& a) {
                         return Json{{"label", a.first.label()}, {"confidence", a.second}};
                     })}};
    });
    j["parts"] = list_of(r.parts, [](const auto& p) { return part_json(*p); });
    j["elements"] = Json::object();
    for (const auto& [id, e] : r.elements)
        j["elements"][id] = {{"state", kStates[static_cast<std::size_t>(e.state)]}, {"question", e.question}, {"intended", e.intended}};
    return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Remake> remake_from_json(const std::string& text, const std::string& name) {
    try {
        const Json j = Json::parse(text);
        const std::string schema = j.at("schema").get<std::string>();
        constexpr std::string_view kPrefix = "fakturwerk-remake/";
        if (schema.rfind(kPrefix, 0) != 0) throw Damaged{};
        const int version = std::stoi(schema.substr(kPrefix.size()));
        if (version > kRemakeVersion) return Error{ErrorCode::RemakeFromFuture, name, schema};
        Remake r;
        const Json& ref = j.at("reference");
        r.reference = {ref.at("path").get<std::string>(), std::stoull(ref.at("content_hash").get<std::string>(), nullptr, 16),
                       ref.at("duration_s").get<double>(), ref.value("integrated_lufs", 0.0)};
        r.reference.duration_s = std::clamp(r.reference.duration_s, 0.0, 1e6);
        r.tuning_cents = j.at("tuning").at("cents").get<double>();
        r.tuning_confidence = j.at("tuning").value("confidence", 0.0);
        const Json& tempo = j.at("tempo");
        r.tempo_error_bpm = tempo.value("error_bpm", 0.0);
        r.tempo_confidence = tempo.value("confidence", 0.0);
        for (const Json& c : tempo.at("candidates")) r.tempo_candidates.push_back({c.at("bpm").get<double>(), c.at("confidence").get<double>()});
        std::vector<TempoMap::Anchor> anchors;
        for (const Json& a : tempo.at("anchors")) anchors.push_back({ticks_from(a.at(0)), a.at(1).get<double>()});
        r.tempo = TempoMap(std::move(anchors));
        r.swing_ratio = j.at("swing").value("ratio", 0.5);
        r.swing_subdivision = j.at("swing").value("subdivision", 16);
        std::vector<MeterMap::Change> meter;
        for (const Json& m : j.at("meter")) meter.push_back({m.at("bar").get<int>(), m.at("numerator").get<int>(), m.at("denominator").get<int>()});
        r.meter = MeterMap(std::move(meter));
        for (const Json& k : j.at("keys")) {
            KeyArea area{ticks_from(k.at("start")), key_from(k), k.value("confidence", 1.0), {}};
            for (const Json& a : k.at("alternatives")) area.alternatives.emplace_back(key_from(a), a.at("confidence").get<double>());
            r.keys.push_back(std::move(area));
        }
        for (const Json& s : j.at("sections"))
            r.sections.push_back({ticks_from(s.at("start")), std::max<Ticks>(1, ticks_from(s.at("length"))), s.value("label", ""), s.value("name", ""),
                                  s.value("repeat_of", -1), s.value("confidence", 1.0)});
        for (const Json& c : j.at("chords")) {
            ChordEvent event{ticks_from(c.at("start")),
                             std::max<Ticks>(1, ticks_from(c.at("length"))),
                             chord_from(c.at("label")),
                             c.value("confidence", 1.0),
                             static_cast<Origin>(index_of(kOrigins, c.value("origin", "drawn"))),
                             {}};
            for (const Json& a : c.at("alternatives")) event.alternatives.emplace_back(chord_from(a.at("label")), a.at("confidence").get<double>());
            r.chords.push_back(std::move(event));
        }
        for (const Json& p : j.at("parts")) r.parts.push_back(std::make_shared<const Part>(part_from(p)));
        for (const auto& [id, e] : j.at("elements").items())
            r.elements[id] = {static_cast<State>(index_of(kStates, e.at("state"))), e.value("question", ""), e.value("intended", "")};
        return r;
    } catch (const std::exception& e) {
        return Error{ErrorCode::RemakeDamaged, name, e.what()};
    } catch (const Damaged&) {
        return Error{ErrorCode::RemakeDamaged, name, "unknown value"};
    }
}

}  // namespace fw
