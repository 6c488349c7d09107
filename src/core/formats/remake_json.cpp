// SPDX-License-Identifier: GPL-3.0-or-later
// remake.json: the descriptions of model/describe.hpp as JSON and back; docs/remake-format.md is made of the same. The reader takes what stands there;
// what_is_wrong() then judges the whole: a damaged or hostile file gives an error or a valid document, never a broken one.
#include "formats/remake_file.hpp"

#include "base/files.hpp"
#include "formats/remake_migrations.hpp"
#include "model/describe.hpp"
#include "sound/plug_ins/plug_ins.hpp"
#include "model/validate.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cinttypes>
#include <limits>
#include <new>
#include <nlohmann/json.hpp>

namespace fw {

namespace {

using Json = nlohmann::ordered_json;

/// Thrown for what can be told more exactly than "damaged".
struct Unusable {
    std::string why;
};

/// More values than any remake within its limits has, and deeper ones, are refused before they fill the memory: counted by a glance at the text, since
/// the parser's own callback costs the square of a list's length.
constexpr std::size_t kMostValues = 8'000'000;
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
int whole_from(const Json& j) {
    if (!j.is_number_integer()) throw DamagedRemake{};
    if (j.is_number_unsigned()) return static_cast<int>(std::min<std::uint64_t>(j.get<std::uint64_t>(), std::numeric_limits<int>::max()));
    return static_cast<int>(std::clamp<std::int64_t>(j.get<std::int64_t>(), std::numeric_limits<int>::min(), std::numeric_limits<int>::max()));
}

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
        if (high == std::string_view::npos || low == std::string_view::npos) throw DamagedRemake{};
        bytes += static_cast<char>(high << 4 | low);
    }
    if (hex.size() % 2) throw DamagedRemake{};
    return bytes;
}

template <class... Rules>
struct Each : Rules... {
    using Rules::operator()...;
};
template <class... Rules>
Each(Rules...) -> Each<Rules...>;

std::string owner_text(const FieldOwner& owner) {
    return std::visit(Each{[](PartId id) { return "part:" + std::to_string(id.number); }, [](LayerId id) { return "layer:" + std::to_string(id.number); },
                           [](StepId id) { return "step:" + std::to_string(id.number); }, [](BusId id) { return "bus:" + std::to_string(id.number); },
                           [](const SendRef& s) { return "send:" + std::to_string(s.part.number) + ":" + std::to_string(s.bus.number); },
                           [](MasterRef) { return std::string("master"); }, [](MacroId id) { return "macro:" + std::to_string(id.number); }},
                      owner);
}

FieldOwner owner_from(const std::string& text) {
    if (text == "master") return MasterRef{};
    std::array<int, 2> numbers{};
    std::size_t count = 0;
    auto colon = text.find(':');
    const std::string kind = text.substr(0, colon);
    while (colon != std::string::npos && count < 2) {
        const auto [end, bad] = std::from_chars(text.data() + colon + 1, text.data() + text.size(), numbers[count++]);
        if (bad != std::errc{} || (end != text.data() + text.size() && *end != ':')) throw DamagedRemake{};
        colon = text.find(':', colon + 1);
    }
    if (colon != std::string::npos || count != (kind == "send" ? 2u : 1u)) throw DamagedRemake{};
    if (kind == "part") return PartId(numbers[0]);
    if (kind == "layer") return LayerId(numbers[0]);
    if (kind == "step") return StepId(numbers[0]);
    if (kind == "bus") return BusId(numbers[0]);
    if (kind == "macro") return MacroId(numbers[0]);
    if (kind == "send") return SendRef{PartId(numbers[0]), BusId(numbers[1])};
    throw DamagedRemake{};
}

Json key_json(const Key& k) { return Json{{"tonic", k.tonic}, {"mode", mode_name(k.mode)}}; }
Key key_from(const Json& j) {
    const auto mode = parse_mode(j.at("mode").get<std::string>());
    if (!mode) throw DamagedRemake{};
    return {whole_from(j.at("tonic")), *mode};
}
Chord chord_from(const Json& j) {
    const auto chord = parse_chord(j.get<std::string>());
    if (!chord) throw DamagedRemake{};
    return *chord;
}

/// Writes what is described. What is empty, false or as in a new one is left out, but for numbers that have no row.
class Writer {
public:
    explicit Writer(Json& to) : j_(to) { j_ = Json::object(); }

    template <class... Rest>
    void what(Rest&&...) {}
    void place(const char* name, Ticks t, const char*) { j_[name] = t; }
    void offset(const char* name, Ticks t, const char*) { j_[name] = t; }
    void span(const char* name, Ticks t, const char*) { j_[name] = t; }
    void whole(const char* name, int value, int, int, const char*) { j_[name] = value; }
    void number(const char* name, double value, double, double, const char*) { j_[name] = value; }
    void field(const Parameter& row, double value) {
        if (value != row.neutral) j_[row.id] = value;
    }
    void flag(const char* name, bool value, const char*) {
        if (value) j_[name] = true;
    }
    void text(const char* name, const std::string& value, const char*) {
        if (!value.empty()) j_[name] = value;
    }
    void path(const char* name, const std::string& value, const char*) {
        if (value.empty()) return;
        j_[name] = to_utf8(value);
        // A name on disk may hold bytes that are no text: then they stand beside it as they are.
        if (!is_utf8(value)) j_[std::string(name) + "_bytes"] = to_hex(value);
    }
    void hash(const char* name, std::uint64_t value, const char*) {
        char text[17];
        std::snprintf(text, sizeof text, "%016" PRIx64, value);
        j_[name] = text;
    }
    template <class E>
    void choice(const char* name, E value, std::span<const char* const> names, const char*) {
        j_[name] = names[static_cast<std::size_t>(value)];
    }
    template <class Tag>
    void id(const char* name, Id<Tag> value, const char*) {
        j_[name] = value.number;
    }
    template <class Tag>
    void meant(const char* name, Id<Tag> value, const char*) {
        if (value) j_[name] = value.number;
    }
    void ids(const char* name, const std::vector<NoteId>& all, std::size_t, const char*) {
        for (const NoteId id : all) j_[name].push_back(id.number);
    }
    template <class T>
    void list(const char* name, const std::vector<T>& items, std::size_t, const char*) {
        if (items.empty()) return;
        Json& list = j_[name] = Json::array();
        for (const T& item : items) one(list.emplace_back(), item);
    }
    template <class T>
    void piece(const char* name, const T& thing, const char*) {
        if (!(thing == T{})) one(j_[name], thing);
    }
    void chord(const char* name, const Chord& c, const char*) { j_[name] = c.label(); }
    void key(const char* name, const Key& k, const char*) { j_[name] = key_json(k); }
    template <class Guess>
    void guesses(const char* name, const std::vector<std::pair<Guess, double>>& all, std::size_t, const char*) {
        for (const auto& [guess, sure] : all) {
            if constexpr (std::is_same_v<Guess, Chord>) j_[name].push_back({guess.label(), sure});
            else j_[name].push_back({key_json(guess), sure});
        }
    }
    void tempo(const char* name, const TempoMap& map, const char*) {
        for (const auto& a : map.anchors()) j_[name].push_back({a.tick, a.time_s});
    }
    void meter(const char* name, const MeterMap& map, const char*) {
        for (const auto& m : map.changes()) j_[name].push_back({m.bar, m.numerator, m.denominator});
    }
    void pitches(const char* name, const std::vector<int>& all, std::size_t, const char*) {
        for (const int p : all) j_[name].push_back(p);
    }
    void bend(const char* name, const std::vector<BendPoint>& points, const char*) {
        for (const BendPoint& b : points) j_[name].push_back({b.tick, b.cents});
    }
    void members(const char* name, int own, const char*) {
        if (own == kAllOwn) return;
        for (std::size_t i = 0; i < names::kMembers.size(); ++i)
            if (own & (1 << i)) j_[name].push_back(names::kMembers[i]);
    }
    void source(const char* name, const SourceType* type, const char*) { j_[name] = type->id; }
    void step_type(const char* name, const StepType* type, const char*) { j_[name] = type->id; }
    void settings(const char* name, const Settings& all, std::span<const Parameter> table, const char*) {
        for (const auto& [f, value] : all.all()) {
            const Parameter& row = table[f];
            if (row.scale == Scale::Choice) j_[name][row.id] = row.choices[static_cast<std::size_t>(value)];
            else j_[name][row.id] = value;
        }
        for (const auto& [key, text] : all.unknown.map()) j_[name][key] = Json::parse(text);
    }
    void treatment(const char* name, Treatment t, double first, double second, const char*) {
        const auto fields = treatment_type(t).fields;
        if (!fields.empty()) j_[name][fields[0].id] = first;
        if (fields.size() > 1) j_[name][fields[1].id] = second;
    }
    void field_ref(const char* owner, const char* field, const FieldRef& ref, const char*) {
        j_[owner] = owner_text(ref.owner);
        j_[field] = ref.field;
    }
    void element(const char* name, ElementId id, const char*) { j_[name] = id.text(); }
    void elements(const char* name, const std::map<ElementId, ElementState>& all, const char*) {
        for (const auto& [id, state] : all) one(j_[name][id.text()], state);
    }
    void unknown(const Unknown& kept) {
        for (const auto& [name, text] : kept.map()) j_[name] = Json::parse(text);
    }

private:
    template <class T>
    static void one(Json& to, const T& item) {
        Writer writer(to);
        describe(writer, item);
    }
    template <class T>
    static void one(Json& to, const Shared<T>& item) {
        one(to, *item);
    }
    Json& j_;
};

/// Reads what is described; what is missing stays as in a new one, but for places, spans, whole numbers and ids, without which the file is damaged.
class Reader {
public:
    explicit Reader(const Json& from) : j_(from) {
        if (!j_.is_object()) throw DamagedRemake{};
    }

    template <class... Rest>
    void what(Rest&&...) {}
    void place(const char* name, Ticks& t, const char*) { t = whole_from(must(name)); }
    void offset(const char* name, Ticks& t, const char*) { t = whole_from(must(name)); }
    void span(const char* name, Ticks& t, const char*) { t = whole_from(must(name)); }
    void whole(const char* name, int& value, int, int, const char*) { value = whole_from(must(name)); }
    void number(const char* name, double& value, double, double, const char*) {
        if (const Json* j = may(name)) value = j->get<double>();
    }
    void field(const Parameter& row, double& value) {
        if (const Json* j = may(row.id)) value = j->get<double>();
    }
    void flag(const char* name, bool& value, const char*) {
        if (const Json* j = may(name)) value = j->get<bool>();
    }
    void text(const char* name, std::string& value, const char*) {
        if (const Json* j = may(name)) value = j->get<std::string>();
    }
    void path(const char* name, std::string& value, const char*) {
        if (const Json* j = may(name)) value = j->get<std::string>();
        if (const Json* j = may((std::string(name) + "_bytes").c_str())) value = from_hex(j->get<std::string>());
    }
    void hash(const char* name, std::uint64_t& value, const char*) {
        const std::string text = must(name).get<std::string>();
        const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), value, 16);
        if (bad != std::errc{} || end != text.data() + text.size()) throw DamagedRemake{};
    }
    template <class E>
    void choice(const char* name, E& value, std::span<const char* const> names, const char*) {
        const Json* j = may(name);
        if (!j) return;
        const std::string text = j->get<std::string>();
        const auto at = std::find_if(names.begin(), names.end(), [&](const char* n) { return text == n; });
        if (at == names.end()) throw DamagedRemake{};
        value = static_cast<E>(at - names.begin());
    }
    template <class Tag>
    void id(const char* name, Id<Tag>& value, const char*) {
        value = Id<Tag>(whole_from(must(name)));
    }
    template <class Tag>
    void meant(const char* name, Id<Tag>& value, const char*) {
        if (const Json* j = may(name)) value = Id<Tag>(whole_from(*j));
    }
    void ids(const char* name, std::vector<NoteId>& all, std::size_t, const char*) {
        if (const Json* list = may(name))
            for (const Json& j : array(*list)) all.emplace_back(whole_from(j));
    }
    template <class T>
    void list(const char* name, std::vector<T>& items, std::size_t, const char*) {
        const Json* list = may(name);
        if (!list) return;
        items.reserve(array(*list).size());
        for (const Json& j : *list) {
            items.emplace_back();
            one(j, items.back());
        }
    }
    template <class T>
    void piece(const char* name, T& thing, const char*) {
        if (const Json* j = may(name)) one(*j, thing);
    }
    void chord(const char* name, Chord& c, const char*) { c = chord_from(must(name)); }
    void key(const char* name, Key& k, const char*) { k = key_from(must(name)); }
    template <class Guess>
    void guesses(const char* name, std::vector<std::pair<Guess, double>>& all, std::size_t, const char*) {
        if (const Json* list = may(name))
            for (const Json& j : array(*list)) {
                if constexpr (std::is_same_v<Guess, Chord>) all.emplace_back(chord_from(j.at(0)), j.at(1).get<double>());
                else all.emplace_back(key_from(j.at(0)), j.at(1).get<double>());
            }
    }
    void tempo(const char* name, TempoMap& map, const char*) {
        std::vector<TempoMap::Anchor> anchors;
        for (const Json& a : array(must(name))) anchors.push_back({whole_from(a.at(0)), a.at(1).get<double>()});
        for (std::size_t i = 1; i < anchors.size(); ++i)
            if (anchors[i].tick <= anchors[i - 1].tick || !(anchors[i].time_s > anchors[i - 1].time_s)) throw Unusable{"its tempo map does not ascend"};
        map = TempoMap(std::move(anchors));
    }
    void meter(const char* name, MeterMap& map, const char*) {
        std::vector<MeterMap::Change> changes;
        for (const Json& m : array(must(name))) changes.push_back({whole_from(m.at(0)), whole_from(m.at(1)), whole_from(m.at(2))});
        map = MeterMap(changes);
        if (map.changes() != changes) throw Unusable{"its meters do not ascend from bar 1, or one is no meter"};
    }
    void pitches(const char* name, std::vector<int>& all, std::size_t, const char*) {
        if (const Json* list = may(name))
            for (const Json& p : array(*list)) all.push_back(whole_from(p));
    }
    void bend(const char* name, std::vector<BendPoint>& points, const char*) {
        if (const Json* list = may(name))
            for (const Json& b : array(*list)) points.push_back({whole_from(b.at(0)), b.at(1).get<double>()});
    }
    void members(const char* name, int& own, const char*) {
        const Json* list = may(name);
        if (!list) return;
        own = 0;
        for (const Json& j : array(*list)) {
            const std::string text = j.get<std::string>();
            const auto at = std::find_if(names::kMembers.begin(), names::kMembers.end(), [&](const char* n) { return text == n; });
            if (at == names::kMembers.end()) throw DamagedRemake{};
            own |= 1 << (at - names::kMembers.begin());
        }
    }
    void source(const char* name, const SourceType*& type, const char*) {
        const std::string id = must(name).get<std::string>();
        type = find_source_type(id);
        if (!type && is_plug_in(id)) type = &missing_plug_in_source(id);
        if (!type) throw Unusable{"it has a layer of the kind \"" + id.substr(0, 40) + "\", which this program does not know"};
    }
    void step_type(const char* name, const StepType*& type, const char*) {
        const std::string id = must(name).get<std::string>();
        type = find_step_type(id);
        if (!type && is_plug_in(id)) type = &missing_plug_in_step(id);
        if (!type) throw Unusable{"it has a step of the kind \"" + id.substr(0, 40) + "\", which this program does not know"};
    }
    void settings(const char* name, Settings& all, std::span<const Parameter> table, const char*) {
        const Json* j = may(name);
        if (!j) return;
        if (!j->is_object()) throw DamagedRemake{};
        Unknown::Map unknown;
        for (const auto& [id, value] : j->items()) {
            const auto f = index_of_field(table, id);
            if (!f) {
                unknown.emplace(id, value.dump());
                continue;
            }
            if (table[*f].scale == Scale::Choice) {
                const auto chosen = parse_value(table[*f], value.template get<std::string>());
                if (!chosen) throw DamagedRemake{};
                all.set(*f, *chosen);
            } else {
                all.set(*f, value.template get<double>());
            }
        }
        all.unknown.keep(std::move(unknown));
    }
    void treatment(const char* name, Treatment t, double& first, double& second, const char*) {
        const auto fields = treatment_type(t).fields;
        first = fields.empty() ? 0.0 : fields[0].neutral;
        second = fields.size() < 2 ? 0.0 : fields[1].neutral;
        const Json* j = may(name);
        if (!j) return;
        if (!fields.empty() && j->contains(fields[0].id)) first = j->at(fields[0].id).get<double>();
        if (fields.size() > 1 && j->contains(fields[1].id)) second = j->at(fields[1].id).get<double>();
    }
    void field_ref(const char* owner, const char* field, FieldRef& ref, const char*) {
        ref.owner = owner_from(must(owner).get<std::string>());
        ref.field = must(field).get<std::string>();
    }
    void element(const char* name, ElementId& id, const char*) {
        const auto parsed = ElementId::parse(must(name).get<std::string>());
        if (!parsed) throw DamagedRemake{};
        id = *parsed;
    }
    void elements(const char* name, std::map<ElementId, ElementState>& all, const char*) {
        const Json* j = may(name);
        if (!j) return;
        for (const auto& [text, state] : j->items()) {
            const auto id = ElementId::parse(text);
            if (!id) throw Unusable{"it says something of an element \"" + to_utf8(text).substr(0, 40) + "\" that it does not have"};
            one(state, all[*id]);
        }
    }
    void unknown(Unknown& kept) {
        if (used_.size() == j_.size()) return;
        Unknown::Map map;
        for (const auto& [name, value] : j_.items())
            if (std::find(used_.begin(), used_.end(), name) == used_.end()) map.emplace(name, value.dump());
        kept.keep(std::move(map));
    }

    template <class T>
    static void one(const Json& from, T& item) {
        Reader reader(from);
        describe(reader, item);
    }
    template <class T>
    static void one(const Json& from, Shared<T>& item) {
        T fresh;
        one(from, fresh);
        item = Shared<T>(std::move(fresh));
    }

private:
    const Json* may(const char* name) {
        const auto at = j_.find(name);
        if (at == j_.end()) return nullptr;
        used_.emplace_back(name);
        return &*at;
    }
    const Json& must(const char* name) {
        const Json* j = may(name);
        if (!j) throw DamagedRemake{};
        return *j;
    }
    static const Json& array(const Json& j) {
        if (!j.is_array()) throw DamagedRemake{};
        return j;
    }

    const Json& j_;
    std::vector<std::string> used_;
};

}  // namespace

std::string remake_to_json(const Remake& r) {
    Json content;
    Writer writer(content);
    describe(writer, r);
    Json j;
    j["schema"] = "fakturwerk-remake/" + std::to_string(kRemakeVersion);
    j.update(content);
    return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Remake> remake_from_json(const std::string& text, const std::string& name) {
    try {
        Json j = parse_within_limits(text);
        const std::string schema = j.at("schema").get<std::string>();
        constexpr std::string_view kPrefix = "fakturwerk-remake/";
        if (schema.rfind(kPrefix, 0) != 0) throw DamagedRemake{};
        const int version = std::stoi(schema.substr(kPrefix.size()));
        if (version < 1) throw DamagedRemake{};
        if (version > kRemakeVersion) return Error{ErrorCode::RemakeFromFuture, name, schema};
        migrate_remake(j, version);
        j.erase("schema");
        Remake r;
        Reader::one(j, r);
        if (const auto wrong = what_is_wrong(r)) return Error{ErrorCode::RemakeUnusable, name, *wrong};
        return r;
    } catch (const Unusable& unusable) {
        return Error{ErrorCode::RemakeUnusable, name, unusable.why};
    } catch (const std::bad_alloc&) {
        return Error{ErrorCode::OutOfMemory, "opening " + name, {}};
    } catch (const std::exception& e) {
        return Error{ErrorCode::RemakeDamaged, name, e.what()};
    } catch (const DamagedRemake&) {
        return Error{ErrorCode::RemakeDamaged, name, "unknown value"};
    }
}

}  // namespace fw
