// SPDX-License-Identifier: GPL-3.0-or-later
// remake.json, as docs/remake-format.md describes it. Readers take what stands there; what_is_wrong() then judges the whole: a damaged or hostile file
// gives an error or a valid document, never a broken one.
#include "formats/remake_file.hpp"

#include "base/files.hpp"
#include "model/limits.hpp"
#include "model/validate.hpp"

#include <algorithm>
#include <array>
#include <cinttypes>
#include <limits>
#include <new>
#include <nlohmann/json.hpp>

namespace fw {

namespace {

using Json = nlohmann::ordered_json;

struct Damaged {};

/// Thrown for what can be told more exactly than "damaged".
struct Unusable {
    std::string why;
};

/// More values than any remake within its limits has, and deeper ones, are refused before they fill the memory: counted by a glance at the text, since
/// the parser's own callback costs the square of a list's length.
constexpr std::size_t kMostValues = 6'000'000;
constexpr int kDeepest = 32;

Json parse_within_limits(const std::string& text) {
    std::size_t values = 0;
    int depth = 0, deepest = 0;
    bool in_string = false, escaped = false;
    for (const char c : text) {
        if (in_string) {
            in_string = escaped || c != '"';
            escaped = !escaped && c == '\\';
            continue;
        }
        in_string = c == '"';
        if (c == ',' || c == '[' || c == '{') ++values;
        if (c == '[' || c == '{') deepest = std::max(deepest, ++depth);
        if (c == ']' || c == '}') --depth;
    }
    if (values > kMostValues || deepest > kDeepest) throw Unusable{"it holds more than a remake can"};
    return Json::parse(text);
}

/// A whole number; one that does not fit is out of every range, so it becomes the largest or smallest that does.
int whole(const Json& j) {
    if (!j.is_number_integer()) throw Damaged{};
    if (j.is_number_unsigned()) return static_cast<int>(std::min<std::uint64_t>(j.get<std::uint64_t>(), std::numeric_limits<int>::max()));
    return static_cast<int>(std::clamp<std::int64_t>(j.get<std::int64_t>(), std::numeric_limits<int>::min(), std::numeric_limits<int>::max()));
}
int whole(const Json& j, const char* key, int otherwise) { return j.contains(key) ? whole(j.at(key)) : otherwise; }

/// Bytes that are no text, two digits each.
std::string to_hex(const std::string& bytes) {
    constexpr std::string_view kDigits = "0123456789abcdef";
    std::string hex;
    for (const char c : bytes) (hex += kDigits[static_cast<unsigned char>(c) >> 4]) += kDigits[static_cast<unsigned char>(c) & 15];
    return hex;
}
std::string from_hex(const std::string& hex) {
    constexpr std::string_view kDigits = "0123456789abcdef";
    std::string bytes;
    for (std::size_t i = 0; i + 1 < hex.size(); i += 2) {
        const auto high = kDigits.find(hex[i]), low = kDigits.find(hex[i + 1]);
        if (high == std::string_view::npos || low == std::string_view::npos) throw Damaged{};
        bytes += static_cast<char>(high << 4 | low);
    }
    if (hex.size() % 2) throw Damaged{};
    return bytes;
}

/// Names of an enum's values in order; index is the value.
template <std::size_t N>
int index_of(const std::array<const char*, N>& names, const std::string& text) {
    for (std::size_t i = 0; i < N; ++i)
        if (text == names[i]) return static_cast<int>(i);
    throw Damaged{};
}

constexpr std::array kOrigins{"heard", "played", "drawn", "imported"};
constexpr std::array kInstruments{"synth", "drum_kit", "soundfont"};
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
    if (!mode) throw Damaged{};
    return {whole(j.at("tonic")), *mode};
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

/// Kept where sums of them cannot overflow; the limits lie far inside.
Ticks ticks_from(const Json& j) { return whole(j); }

Note note_from(const Json& j) {
    Note n;
    n.start = ticks_from(j.at("start"));
    n.length = ticks_from(j.at("length"));
    n.pitch = whole(j.at("pitch"));
    n.velocity = whole(j.at("velocity"));
    n.confidence = j.value("confidence", 1.0);
    n.origin = static_cast<Origin>(index_of(kOrigins, j.value("origin", "drawn")));
    if (j.contains("bend"))
        for (const Json& b : j.at("bend")) n.bend.push_back({ticks_from(b.at(0)), b.at(1).get<double>()});
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
            whole(j, "program", 0),
            j.value("file", ""),
            j.value("gain_db", 0.0),
            whole(j, "octave", 0)};
}

Json part_json(const Part& p) {
    return {{"id", p.id},
            {"name", p.name},
            {"role", part_role_name(p.role)},
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

PartRole role_from(const Json& j) {
    for (const PartRole role : {PartRole::Bass, PartRole::Lead, PartRole::Chords, PartRole::Other, PartRole::Drums})
        if (j.get<std::string>() == part_role_name(role)) return role;
    throw Damaged{};
}

Part part_from(const Json& j) {
    Part p;
    p.id = whole(j.at("id"));
    p.name = j.at("name").get<std::string>();
    p.role = role_from(j.at("role"));
    p.gain_db = j.value("gain_db", 0.0);
    p.pan = j.value("pan", 0.0);
    p.mute = j.value("mute", false);
    p.solo = j.value("solo", false);
    for (const Json& l : j.at("layers")) p.layers.push_back(layer_from(l));
    for (const Json& x : j.at("patterns")) {
        Pattern pattern{whole(x.at("id")), x.value("letter", ""), whole(x, "parent", 0), ticks_from(x.at("length")), {}};
        for (const Json& n : x.at("notes")) pattern.notes.push_back(note_from(n));
        p.patterns.push_back(std::move(pattern));
    }
    for (const Json& x : j.at("placements")) p.placements.push_back({whole(x.at("pattern")), ticks_from(x.at("start")), x.value("muted", false)});
    return p;
}

}  // namespace

std::string remake_to_json(const Remake& r) {
    char hash[17];
    std::snprintf(hash, sizeof hash, "%016" PRIx64, r.reference.content_hash);
    Json j;
    j["schema"] = "fakturwerk-remake/" + std::to_string(kRemakeVersion);
    j["reference"] = {
        {"path", to_utf8(r.reference.path)}, {"content_hash", hash}, {"duration_s", r.reference.duration_s}, {"integrated_lufs", r.reference.integrated_lufs}};
    // A name on disk may hold bytes that are no text: then they stand beside it as they are.
    if (!is_utf8(r.reference.path)) j["reference"]["path_bytes"] = to_hex(r.reference.path);
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
        const Json j = parse_within_limits(text);
        const std::string schema = j.at("schema").get<std::string>();
        constexpr std::string_view kPrefix = "fakturwerk-remake/";
        if (schema.rfind(kPrefix, 0) != 0) throw Damaged{};
        const int version = std::stoi(schema.substr(kPrefix.size()));
        if (version < 1) throw Damaged{};
        if (version > kRemakeVersion) return Error{ErrorCode::RemakeFromFuture, name, schema};
        Remake r;
        const Json& ref = j.at("reference");
        r.reference = {ref.contains("path_bytes") ? from_hex(ref.at("path_bytes").get<std::string>()) : ref.at("path").get<std::string>(),
                       std::stoull(ref.at("content_hash").get<std::string>(), nullptr, 16), ref.at("duration_s").get<double>(),
                       ref.value("integrated_lufs", 0.0)};
        r.tuning_cents = j.at("tuning").at("cents").get<double>();
        r.tuning_confidence = j.at("tuning").value("confidence", 0.0);
        const Json& tempo = j.at("tempo");
        r.tempo_error_bpm = tempo.value("error_bpm", 0.0);
        r.tempo_confidence = tempo.value("confidence", 0.0);
        for (const Json& c : tempo.at("candidates")) r.tempo_candidates.push_back({c.at("bpm").get<double>(), c.at("confidence").get<double>()});
        std::vector<TempoMap::Anchor> anchors;
        for (const Json& a : tempo.at("anchors")) anchors.push_back({ticks_from(a.at(0)), a.at(1).get<double>()});
        const auto before = [](const TempoMap::Anchor& a, const TempoMap::Anchor& b) { return a.tick < b.tick && a.time_s < b.time_s; };
        for (std::size_t i = 0; i + 1 < anchors.size(); ++i)
            if (!before(anchors[i], anchors[i + 1])) throw Unusable{"its tempo map does not ascend"};
        r.tempo = TempoMap(std::move(anchors));
        r.swing_ratio = j.at("swing").value("ratio", 0.5);
        r.swing_subdivision = whole(j.at("swing"), "subdivision", 16);
        std::vector<MeterMap::Change> meter;
        for (const Json& m : j.at("meter")) meter.push_back({whole(m.at("bar")), whole(m.at("numerator")), whole(m.at("denominator"))});
        r.meter = MeterMap(meter);
        if (r.meter.changes() != meter) throw Unusable{"its meters do not ascend from bar 1, or one is no meter"};
        for (const Json& k : j.at("keys")) {
            KeyArea area{ticks_from(k.at("start")), key_from(k), k.value("confidence", 1.0), {}};
            for (const Json& a : k.at("alternatives")) area.alternatives.emplace_back(key_from(a), a.at("confidence").get<double>());
            r.keys.push_back(std::move(area));
        }
        for (const Json& s : j.at("sections"))
            r.sections.push_back({ticks_from(s.at("start")), ticks_from(s.at("length")), s.value("label", ""), s.value("name", ""), whole(s, "repeat_of", -1),
                                  s.value("confidence", 1.0)});
        for (const Json& c : j.at("chords")) {
            ChordEvent event{ticks_from(c.at("start")),
                             ticks_from(c.at("length")),
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
        if (const auto wrong = what_is_wrong(r)) return Error{ErrorCode::RemakeUnusable, name, *wrong};
        return r;
    } catch (const Unusable& unusable) {
        return Error{ErrorCode::RemakeUnusable, name, unusable.why};
    } catch (const std::bad_alloc&) {
        return Error{ErrorCode::OutOfMemory, "opening " + name, {}};
    } catch (const std::exception& e) {
        return Error{ErrorCode::RemakeDamaged, name, e.what()};
    } catch (const Damaged&) {
        return Error{ErrorCode::RemakeDamaged, name, "unknown value"};
    }
}

}  // namespace fw
