// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/faults.hpp"

#include "base/files.hpp"
#include "model/describe.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>
#include <string_view>

namespace fw::faults {

void fail(std::string words) { throw Fault{std::move(words)}; }

std::string quoted(const std::string& name) {
    std::string shown;
    for (const char c : to_utf8(name).substr(0, 40)) shown += static_cast<unsigned char>(c) < 32 ? ' ' : c;
    while (!shown.empty() && !is_utf8(shown)) shown.pop_back();  // the cut may have gone through a letter
    return "\"" + shown + "\"";
}

std::string shown(double value) {
    char text[40];
    std::snprintf(text, sizeof text, "%g", value);
    return text;
}

namespace {

/// Holds every described member to its limits.
class Limits {
public:
    static constexpr bool kPlainIsRight = true;

    void what(std::string_view noun) { here_.back() = {noun, nullptr}; }
    void what(std::string_view noun, const std::string& name) { here_.back() = {noun, &name}; }
    void place(const char* name, Ticks t, const char*) { ticks(name, t, -limits::kFarthestTick); }
    void offset(const char* name, Ticks t, const char*) { ticks(name, t, -limits::kFarthestTick); }
    void span(const char* name, Ticks t, const char*) { ticks(name, t, 1); }
    void whole(const char* name, int value, int low, int high, const char*) {
        if (value < low || value > high) not_within(name, value, low, high);
    }
    void number(const char* name, double value, double low, double high, const char*) {
        if (!(value >= low && value <= high)) not_within(name, value, low, high);
    }
    void field(const Parameter& row, double value) {
        const double can_be = clamped(row, value);
        if (!std::isfinite(value) || std::abs(value - can_be) > 1e-9 * std::max(1.0, std::abs(value)))
            fail(of(row.label) + " is " + shown(value) + ", not " + range_text(row));
    }
    void flag(const char*, bool, const char*) {}
    void text(const char* name, const std::string& value, const char*) {
        if (value.size() > limits::kTextBytes) fail(of(name) + " has more than " + std::to_string(limits::kTextBytes) + " letters");
    }
    void path(const char* name, const std::string& value, const char* help) { text(name, value, help); }
    void hash(const char*, std::uint64_t, const char*) {}
    template <class E>
    void choice(const char* name, E value, std::span<const char* const> names, const char*) {
        if (static_cast<int>(value) < 0 || static_cast<std::size_t>(value) >= names.size()) fail(of(name) + " is none there is");
    }
    template <class Tag>
    void id(const char*, Id<Tag> value, const char*) {
        if (value.number < 1) fail(where() + " has the number " + std::to_string(value.number));
    }
    template <class Tag>
    void meant(const char* name, Id<Tag> value, const char*) {
        if (value.number < 0) fail(of(name) + " has the number " + std::to_string(value.number));
    }
    template <class List>
    void list(const char* name, const List& items, std::size_t most, const char*) {
        at_most(name, items.size(), most);
        if (items.empty()) return;
        here_.emplace_back();
        for (const auto& item : items) one(item);
        here_.pop_back();
    }
    template <class T>
    void piece(const char*, const T& thing, const char*) {
        here_.emplace_back();
        one(thing);
        here_.pop_back();
    }
    void chord(const char*, const Chord& c, const char* = "") {
        if (c.root < -1 || c.root > 11 || c.bass < -1 || c.bass > 11 || c.kind < 0 || static_cast<std::size_t>(c.kind) >= chord_kinds().size())
            fail(where() + " is no chord");
    }
    void key(const char*, const Key& k, const char* = "") {
        if (k.tonic < 0 || k.tonic > 11) fail(where() + " has no tonic");
    }
    template <class Guess>
    void guesses(const char* name, const std::vector<std::pair<Guess, double>>& all, std::size_t most, const char*) {
        at_most(name, all.size(), most);
        for (const auto& [guess, sure] : all) {
            if constexpr (std::is_same_v<Guess, Chord>) chord(name, guess);
            else key(name, guess);
            number("confidence of an alternative", sure, 0.0, 1.0, "");
        }
    }
    void tempo(const char*, const TempoMap& map, const char*) {
        at_most("anchors of the tempo", map.anchors().size(), limits::kAnchors);
        for (const auto& a : map.anchors()) ticks("anchor", a.tick, -limits::kFarthestTick);
        for (std::size_t i = 0; i + 1 < map.anchors().size(); ++i)
            number("tempo", map.bpm_at(map.anchors()[i].tick), limits::kSlowestBpm, limits::kFastestBpm, "");
    }
    void meter(const char*, const MeterMap& map, const char*) {
        at_most("changes of meter", map.changes().size(), limits::kMeterChanges);
        for (const auto& m : map.changes()) whole("bar of a change of meter", m.bar, 1, limits::kBars, "");
    }
    void pitches(const char* name, const std::vector<int>& all, std::size_t most, const char*) {
        at_most(name, all.size(), most);
        for (std::size_t i = 0; i < all.size(); ++i) {
            whole(name, all[i], 0, 127, "");
            if (i > 0 && all[i] <= all[i - 1]) fail("the pitches of " + where() + " do not ascend");
        }
    }
    void bend(const char*, const std::vector<BendPoint>& points, const char*) {
        at_most("points of the bend", points.size(), limits::kBendsANote);
        Ticks before = -limits::kFarthestTick;
        for (const BendPoint& b : points) {
            if (b.tick < before || b.tick > limits::kFarthestTick) fail("the bend of " + where() + " does not stand in order of time");
            before = b.tick;
            number("bend", b.cents, -limits::kBendCents, limits::kBendCents, "");
        }
    }
    void members(const char* name, int own, const char* help) { whole(name, own, 1, kAllOwn, help); }
    void ids(const char* name, const std::vector<NoteId>& all, std::size_t most, const char*) {
        at_most(name, all.size(), most);
        for (std::size_t i = 0; i < all.size(); ++i)
            if (all[i].number < 1 || (i > 0 && all[i] <= all[i - 1])) fail("what " + where() + " leaves out does not ascend");
    }
    void source(const char*, const SourceType* type, const char*) {
        if (!type) fail(where() + " has no source");
    }
    void step_type(const char*, const StepType* type, const char*) {
        if (!type) fail(where() + " is of no kind");
    }
    void settings(const char*, const Settings& all, std::span<const Parameter> table, const char*) {
        for (const auto& [f, value] : all.all()) {
            if (f >= table.size()) fail(where() + " has a field that is not there");
            field(table[f], value);
        }
    }
    void treatment(const char*, Treatment t, double first, double second, const char*) {
        const auto fields = treatment_type(t).fields;
        if (!fields.empty()) field(fields[0], first);
        if (fields.size() > 1) field(fields[1], second);
    }
    void field_ref(const char*, const char*, const FieldRef&, const char*) {}
    void element(const char*, ElementId, const char*) {}
    void elements(const char* name, const std::map<ElementId, ElementState>& all, const char*) {
        at_most(name, all.size(), limits::kRows + limits::kParts + 4);
        for (const auto& [id, state] : all) piece(name, state, "");
    }
    void unknown(const Unknown&) {}

private:
    template <class T>
    void one(const T& item) {
        describe(*this, item);
    }
    template <class T>
    void one(const Shared<T>& item) {
        describe(*this, *item);
    }

    /// Names in files bear their units.
    static std::pair<std::string_view, const char*> without_unit(std::string_view name) {
        for (const auto& [ending, unit] : {std::pair{"_s", " s"}, {"_bpm", " BPM"}, {"_cents", " cents"}, {"_lufs", " LUFS"}})
            if (name.ends_with(ending)) return {name.substr(0, name.size() - std::string_view(ending).size()), unit};
        return {name, ""};
    }
    /// "a note of a pattern of its part "Bass"".
    std::string where() const {
        std::string words;
        for (auto at = here_.rbegin(); at != here_.rend(); ++at) {
            if (at->noun.starts_with("the ") && !words.empty()) break;  // what there is only one of needs no mention around its parts
            // "its part "Bass"": there may be several.
            words += words.empty() ? "" : " of ";
            words += at->name ? "its " + std::string(at->noun.substr(at->noun.find(' ') + 1)) + " " + quoted(*at->name) : std::string(at->noun);
        }
        return words;
    }
    std::string of(std::string_view member) const {
        std::string name(member);
        std::replace(name.begin(), name.end(), '_', ' ');
        if (name.size() < 2 || !std::isupper(static_cast<unsigned char>(name[1])))
            name[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(name[0])));
        return "the " + name + " of " + where();
    }
    void ticks(const char* name, Ticks t, Ticks low) const {
        if (t < low || t > limits::kFarthestTick) too_far(name, t);
    }
    void at_most(std::string_view name, std::size_t count, std::size_t most) const {
        if (count > most) too_many(name, count, most);
    }
    // Apart, so that what is right, which is nearly all, is passed at once.
    [[noreturn]] void not_within(const char* name, int value, int low, int high) const {
        fail(of(name) + " is " + std::to_string(value) + ", not from " + std::to_string(low) + " to " + std::to_string(high));
    }
    [[noreturn]] void not_within(const char* name, double value, double low, double high) const {
        const auto [plain, unit] = without_unit(name);
        fail(of(plain) + " is " + shown(value) + unit + ", not from " + shown(low) + " to " + shown(high));
    }
    [[noreturn]] void too_far(const char* name, Ticks t) const { fail(of(name) + " is " + std::to_string(t) + " ticks"); }
    [[noreturn]] void too_many(std::string_view name, std::size_t count, std::size_t most) const {
        std::string what(name);
        std::replace(what.begin(), what.end(), '_', ' ');
        fail(where() + " holds " + std::to_string(count) + " " + what + ", and there can be " + std::to_string(most));
    }

    struct Noun {
        std::string_view noun;
        const std::string* name = nullptr;  ///< of what bears one
    };
    std::vector<Noun> here_{Noun{}};  // put into words only where something is wrong
};

}  // namespace

void check_members(const Remake& remake) {
    Limits limits;
    describe(limits, remake);
}

}  // namespace fw::faults
