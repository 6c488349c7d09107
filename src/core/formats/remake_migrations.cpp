// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/remake_migrations.hpp"

#include "formats/remake_file.hpp"

#include <array>
#include <cstdint>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace fw {

namespace {

using Json = nlohmann::ordered_json;

void rename(Json& j, const char* from, const char* to) {
    if (!j.contains(from)) return;
    j[to] = std::move(j[from]);
    j.erase(from);
}

/// The notes of a variant of version 1, which held all it plays, less those that are its parent's to the last member; the same notes that differ get the
/// parent's number.
void thin_out(Json& variant, const Json& parent, int& next) {
    std::map<int, std::vector<const Json*>> theirs;  // by pitch
    for (const Json& n : parent.at("notes")) theirs[n.at("pitch").get<int>()].push_back(&n);
    std::map<int, std::size_t> at;
    std::map<int, bool> met;
    Json kept = Json::array();
    constexpr std::int64_t kNear = 120;
    for (Json& n : variant.at("notes")) {
        const int pitch = n.at("pitch").get<int>();
        const auto start = n.at("start").get<std::int64_t>();
        const auto& list = theirs[pitch];
        std::size_t& i = at[pitch];
        while (i < list.size() && list[i]->at("start").get<std::int64_t>() < start - kNear) ++i;
        if (i < list.size() && list[i]->at("start").get<std::int64_t>() <= start + kNear) {
            const Json& twin = *list[i++];
            n["id"] = twin.at("id");
            met[twin.at("id").get<int>()] = true;
            // What differs is the variant's own; the rest follows the parent.
            Json own = Json::array();
            for (const char* member : {"start", "length", "pitch", "velocity"})
                if (n.at(member) != twin.at(member)) own.push_back(member);
            const auto rest = [](const Json& x, const char* member) { return x.contains(member) ? x.at(member) : Json(); };
            if (rest(n, "confidence") != rest(twin, "confidence") || rest(n, "origin") != rest(twin, "origin") || rest(n, "bend") != rest(twin, "bend"))
                own.push_back("rest");
            if (own.empty()) continue;
            n["own"] = std::move(own);
        } else {
            n["id"] = next++;
        }
        kept.push_back(std::move(n));
    }
    Json left_out = Json::array();
    for (const Json& n : parent.at("notes"))
        if (!met.contains(n.at("id").get<int>())) left_out.push_back(n.at("id"));
    variant["notes"] = std::move(kept);
    if (!left_out.empty()) variant["left_out"] = std::move(left_out);
}

/// Version 2: pieces of one subject, ids for all, variants as changes to their parents.
void from_1_to_2(Json& j) {
    rename(j.at("reference"), "integrated_lufs", "loudness_lufs");
    Json song = Json::object();
    song["tuning_cents"] = j.at("tuning").at("cents");
    song["tuning_confidence"] = j.at("tuning").value("confidence", 0.0);
    song["tempo_error_bpm"] = j.at("tempo").value("error_bpm", 0.0);
    song["tempo_confidence"] = j.at("tempo").value("confidence", 0.0);
    song["tempo_candidates"] = j.at("tempo").at("candidates");
    song["swing_ratio"] = j.at("swing").value("ratio", 0.5);
    song["swing_subdivision"] = j.at("swing").value("subdivision", 16);
    song["tempo"] = j.at("tempo").at("anchors");
    song["meter"] = Json::array();
    for (const Json& m : j.at("meter")) song["meter"].push_back({m.at("bar"), m.at("numerator"), m.at("denominator")});
    int next = 1;
    for (const Json& p : j.at("parts")) next = std::max(next, p.at("id").get<int>() + 1);
    song["keys"] = Json::array();
    for (Json k : j.at("keys")) {
        k["key"] = {{"tonic", k.at("tonic")}, {"mode", k.at("mode")}};
        k.erase("tonic"), k.erase("mode");
        Json alternatives = Json::array();
        for (const Json& a : k.at("alternatives")) alternatives.push_back({Json{{"tonic", a.at("tonic")}, {"mode", a.at("mode")}}, a.at("confidence")});
        k["alternatives"] = std::move(alternatives);
        song["keys"].push_back(std::move(k));
    }
    std::vector<int> sections;
    song["sections"] = Json::array();
    for (Json s : j.at("sections")) {
        const int of = s.value("repeat_of", -1);
        s.erase("repeat_of");
        if (of >= static_cast<int>(sections.size())) throw DamagedRemake{};
        if (of >= 0) s["repeat_of"] = sections[static_cast<std::size_t>(of)];
        sections.push_back(next++);
        s["id"] = sections.back();
        song["sections"].push_back(std::move(s));
    }
    song["chords"] = Json::array();
    for (Json c : j.at("chords")) {
        Json alternatives = Json::array();
        for (const Json& a : c.at("alternatives")) alternatives.push_back({a.at("label"), a.at("confidence")});
        c["alternatives"] = std::move(alternatives);
        song["chords"].push_back(std::move(c));
    }
    for (const char* old : {"tuning", "tempo", "swing", "meter", "keys", "sections", "chords"}) j.erase(old);
    j["song"] = std::move(song);
    for (Json& p : j.at("parts")) {
        rename(p, "gain_db", "level");
        for (Json& l : p.at("layers")) {
            l["id"] = next++;
            rename(l, "instrument", "source");
            rename(l, "gain_db", "level");
        }
        int number = 1;
        for (const Json& x : p.at("patterns")) number = std::max(number, x.at("id").get<int>() + 1);
        std::map<int, const Json*> parents;
        for (Json& x : p.at("patterns")) {
            if (x.value("parent", 0) != 0) continue;
            x.erase("parent");
            for (Json& n : x.at("notes")) n["id"] = number++;
            parents[x.at("id").get<int>()] = &x;
        }
        for (Json& x : p.at("patterns")) {
            if (!x.contains("parent")) continue;
            const auto parent = parents.find(x.at("parent").get<int>());
            if (parent == parents.end()) throw DamagedRemake{};
            thin_out(x, *parent->second, number);
        }
        for (Json& x : p.at("placements")) x["id"] = number++;
        p["next_id"] = number;
    }
    j["notebook"] = {{"elements", std::move(j.at("elements"))}};
    j.erase("elements");
    j["next_id"] = next;
}

constexpr std::array kSteps{from_1_to_2};  // from version 1 on
static_assert(kSteps.size() + 1 == kRemakeVersion);

}  // namespace

void migrate_remake(Json& remake, int version) {
    for (auto v = static_cast<std::size_t>(version); v <= kSteps.size(); ++v) kSteps[v - 1](remake);
}

}  // namespace fw
