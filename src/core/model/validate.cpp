// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/validate.hpp"

#include "base/files.hpp"
#include "model/describe.hpp"
#include "model/fields.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <bitset>
#include <cmath>
#include <cstdio>
#include <limits>
#include <map>
#include <set>
#include <string_view>
#include <unordered_map>
#include <unordered_set>

namespace fw {

namespace {

/// Thrown at the first fault and caught in what_is_wrong.
struct Fault {
    std::string words;
};
[[noreturn]] void fail(std::string words) { throw Fault{std::move(words)}; }

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

/// Numbers met so far. They are mostly given out one after the other, so that a page of flags holds many; strewn wide each costs a page.
class Met {
public:
    /// False where it was met before. n: 0 or more.
    bool add(int n) {
        if (!page_ || n / kPage != number_) number_ = n / kPage, page_ = &pages_[number_];
        auto flag = (*page_)[static_cast<std::size_t>(n % kPage)];
        if (flag) return false;
        flag = true;
        return true;
    }

private:
    static constexpr int kPage = 256;
    std::unordered_map<int, std::bitset<kPage>> pages_;  // a page stays where it is while others come
    std::bitset<kPage>* page_ = nullptr;                 // the last one used
    int number_ = 0;
};

/// What no member can tell by itself: that ids are unique and known, that things stand in order, and what it all expands to.
class Structure {
public:
    explicit Structure(const Remake& r) : r_(r), s_(*r.song) {}

    void run() {
        the_song();
        the_mixer();
        the_parts();
        what_moves();
        the_clips();
        the_notebook();
        if (const int bars = s_.meter.position(std::max(last_, r_.end_tick())).bar; bars > limits::kBars)
            fail("it would have " + std::to_string(bars) + " bars");
    }

private:
    /// A stretch of song time.
    void stretch(std::string_view what, Ticks start, Ticks length) {
        const double begin_s = s_.tempo.seconds(start), end_s = s_.tempo.seconds(start + length);
        if (!(begin_s >= -limits::kOutside_s) || !(end_s <= r_.reference.duration_s + limits::kOutside_s))
            fail(std::string(what) + " lies more than half an hour outside the recording");
        last_ = std::max(last_, start + length);
    }

    template <class List>
    void ascend(const List& items, const std::string& what) {
        for (std::size_t i = 1; i < items.size(); ++i)
            if (items[i].start < items[i - 1].start) fail(what + " do not stand in order of time");
    }

    void number(int n, const std::string& what) {
        if (!numbers_.insert(n).second) fail("two of its things have the number " + std::to_string(n) + ", " + what + " for one");
        if (n >= r_.next_id) fail("the number " + std::to_string(n) + " of " + what + " was not given out yet");
    }

    void the_song() {
        for (const auto& a : s_.tempo.anchors())
            if (a.time_s < -limits::kOutside_s || a.time_s > r_.reference.duration_s + limits::kOutside_s)
                fail("an anchor of the tempo lies more than half an hour outside the recording");
        if (s_.swing_subdivision != 8 && s_.swing_subdivision != 16) fail("the swing divides by " + std::to_string(s_.swing_subdivision) + ", not by 8 or 16");
        ascend(s_.keys, "its keys"), ascend(s_.sections, "its sections"), ascend(s_.chords, "its chords");
        ascend(s_.free_time, "its stretches of free time");
        for (const FreeTime& f : s_.free_time) stretch("a stretch of free time", f.start, f.length);
        for (std::size_t i = 1; i < s_.pins.size(); ++i)
            if (s_.pins[i].at <= s_.pins[i - 1].at) fail("its pinned beats do not stand in order of time");
        for (const Pin& p : s_.pins) stretch("a pinned beat", p.at, 1);
        for (const KeyArea& k : s_.keys) stretch("a key", k.start, 1);
        for (const ChordEvent& c : s_.chords) stretch("a chord", c.start, c.length);
        for (const Section& s : s_.sections) {
            stretch("a section", s.start, s.length);
            if (s.repeat_of && !sections_.contains(s.repeat_of)) fail("a section repeats one that does not come before it");
            number(s.id.number, "a section");
            sections_.insert(s.id);
        }
    }

    void chain(const std::vector<Step>& steps) {
        steps_ += steps.size();
        if (steps_ > limits::kSteps) fail("it holds more than " + std::to_string(limits::kSteps) + " steps");
        for (const Step& s : steps)
            if (s.trigger.part && !r_.part(s.trigger.part)) fail("a step is set off by a part that is not there");
    }

    void bus(BusId id, const std::string& what) const {
        if (id && !r_.mixer->bus(id)) fail(what + " goes to a bus that is not there");
    }

    void the_mixer() {
        for (const Bus& b : r_.mixer->buses) {
            number(b.id.number, "a bus");
            bus(b.output, "the bus " + quoted(b.name));
            if (b.output && r_.mixer->leads(b.output, b.id)) fail("the bus " + quoted(b.name) + " leads back into itself");
            for (const Step& s : b.steps) number(s.id.number, "a step");
            chain(b.steps);
        }
        for (const Step& s : r_.mixer->master.steps) number(s.id.number, "a step");
        chain(r_.mixer->master.steps);
    }

    void the_parts() {
        for (const auto& shared : r_.parts) {
            const Part& p = *shared;
            const std::string name = "its part " + quoted(p.name);
            number(p.id.number, name);
            for (const Layer& l : p.layers) number(l.id.number, "a layer");
            for (const Step& s : p.steps) number(s.id.number, "a step");
            the_version(p, name);
            for (const auto& rival : p.rivals) {
                the_version(*rival, name);
                for (const Layer& l : rival->layers) known_elsewhere_.insert(l.id.number);
                for (const Step& s : rival->steps) known_elsewhere_.insert(s.id.number);
            }
        }
    }

    void the_version(const PartVersion& p, const std::string& name) {
        layers_ += p.layers.size();
        if (layers_ > limits::kLayers) fail("it holds more than " + std::to_string(limits::kLayers) + " layers");
        for (const Layer& l : p.layers) {
            if (l.low_key > l.high_key) fail("a layer of " + name + " has its lowest note above its highest");
            if (l.low_velocity > l.high_velocity) fail("a layer of " + name + " has its softest note above its hardest");
            if (l.asset && !r_.clips->asset(l.asset)) fail("a layer of " + name + " plays a sound that is not there");
        }
        chain(p.steps);
        bus(p.output, name);
        std::set<BusId> buses;
        for (const Send& s : p.sends) {
            if (!s.bus) fail("a send of " + name + " goes nowhere");
            bus(s.bus, "a send of " + name);
            if (!buses.insert(s.bus).second) fail(name + " has two sends to one bus");
        }
        the_patterns(p, name);
    }

    /// How far a pattern's notes reach, and how many there are.
    struct Reach {
        Ticks first = 0, last = 1;
        std::size_t notes = 0, bends = 0;
        void add(const Note& n) {
            first = std::min(first, n.start), last = std::max(last, n.start + n.length);
            for (const BendPoint& b : *n.bend) first = std::min(first, n.start + b.tick), last = std::max(last, n.start + b.tick);
            const auto strokes = static_cast<std::size_t>(std::max(1, n.roll->strokes));
            const Ticks rolling = static_cast<Ticks>(strokes) * n.roll->apart;
            if (strokes > 1) first = std::min(first, n.start - rolling), last = std::max(last, n.start + rolling);
            notes += strokes, bends += n.bend->size();
        }
    };

    void the_patterns(const PartVersion& p, const std::string& name) {
        std::map<PatternId, Reach> reaches;
        Met met;
        const auto fresh = [&](int n, const char* what) {
            if (!met.add(n)) fail(name + " has two " + what + "s with the number " + std::to_string(n));
            if (n >= p.next_id) fail("the number " + std::to_string(n) + " of a " + what + " of " + name + " was not given out yet");
        };
        for (const auto& x : p.patterns) {
            fresh(x->id.number, "pattern");
            Reach& reach = reaches.emplace(x->id, Reach{0, x->length, 0, 0}).first->second;
            if (!x->parent)
                for (const Note& n : x->notes) reach.add(n);
            notes_ += x->notes.size();
            if (notes_ > limits::kNotes) fail("it holds more than " + std::to_string(limits::kNotes) + " notes");
            ascend(x->notes, "the notes of " + name);
            if (!x->parent)
                for (const Note& n : x->notes) fresh(n.id.number, "note");
        }
        for (const auto& x : p.patterns) {
            if (!x->parent) {
                if (!x->left_out.empty()) fail("a pattern of " + name + " leaves out notes of no parent");
                continue;
            }
            const Pattern* parent = p.pattern(x->parent);
            if (!parent || parent == x.get()) fail(name + " has a variant of a pattern that is not there");
            if (parent->parent) fail(name + " has a variant of a variant");
            std::unordered_set<int> theirs, own;
            for (const Note& n : parent->notes) theirs.insert(n.id.number);
            for (const Note& n : x->notes) {
                if (!own.insert(n.id.number).second) fail(name + " has two notes with the number " + std::to_string(n.id.number));
                if (!theirs.contains(n.id.number)) fresh(n.id.number, "note");
            }
            for (const NoteId n : x->left_out)
                if (!theirs.contains(n.number) || own.contains(n.number)) fail("a variant of " + name + " leaves out a note that its parent does not have");
            for (const Note& n : notes_of(*x, parent)) reaches[x->id].add(n);
        }
        ascend(p.placements, "the placements of " + name);
        const std::string what = "a pattern of " + name;
        for (const Placement& x : p.placements) {
            fresh(x.id.number, "placement");
            const auto found = reaches.find(x.pattern);
            if (found == reaches.end()) fail(name + " places a pattern that is not there");
            const Reach& reach = found->second;
            stretch(what, x.start, 1);
            stretch(what, x.start + reach.first, reach.last - reach.first);
            sounding_ += reach.notes;
            bending_ += reach.bends;
            if (sounding_ > limits::kSoundingNotes || bending_ > limits::kSoundingNotes)
                fail("its parts play more than " + std::to_string(limits::kSoundingNotes) + " notes or as many bends");
        }
    }

    /// Whether the field is there, or its owner is in a rival; and whether it moves and can have these values.
    const Parameter* moved(const FieldRef& ref, const char* what) const {
        const Parameter* row = find_field(r_, ref);
        if (!row) {
            const LayerId* layer = std::get_if<LayerId>(&ref.owner);
            const StepId* step = std::get_if<StepId>(&ref.owner);
            if (known_elsewhere_.contains(layer ? layer->number : step ? step->number : 0)) return nullptr;
            fail(std::string(what) + " moves a field that is not there");
        }
        if (!row->moves) fail(std::string(what) + " moves " + quoted(row->label) + ", which stays as it is");
        return row;
    }
    static void value(const Parameter* row, double v, const char* what) {
        if (row && !(v >= row->low && v <= row->high)) fail("a value of " + std::string(what) + " is " + shown(v) + ", not " + range_text(*row));
    }

    void what_moves() {
        for (const Curve& c : r_.automation->curves) {
            number(c.id.number, "a curve");
            if (c.points.empty()) fail("a curve has no points");
            if (c.section && !sections_.contains(c.section)) fail("a curve stands in a section that is not there");
            const Parameter* row = moved(c.field, "a curve");
            for (std::size_t i = 0; i < c.points.size(); ++i) {
                value(row, c.points[i].value, "a curve");
                if (i > 0 && c.points[i].tick <= c.points[i - 1].tick) fail("the points of a curve do not ascend");
            }
        }
        std::set<std::pair<FieldRef, SectionId>> set;
        for (const SectionSetting& s : r_.automation->settings) {
            if (!sections_.contains(s.section)) fail("a section setting stands in a section that is not there");
            value(moved(s.field, "a section setting"), s.value, "a section setting");
            if (!set.insert({s.field, s.section}).second) fail("a field has two settings in one section");
        }
        std::set<FieldRef> by_notes;
        for (const NoteMove& m : r_.automation->by_notes) {
            if (std::holds_alternative<MacroId>(m.field.owner)) fail("notes move a macro");
            value(moved(m.field, "a field moved by notes"), m.to, "a field moved by notes");
            if (!r_.part(m.by)) fail("a field is moved by the notes of a part that is not there");
            if (!by_notes.insert(m.field).second) fail("a field is moved by notes twice");
        }
        for (const Macro& m : r_.automation->macros) {
            number(m.id.number, "a macro");
            std::set<FieldRef> fields;
            for (const MacroTarget& t : m.targets) {
                if (std::holds_alternative<MacroId>(t.field.owner)) fail("the macro " + quoted(m.name) + " moves a macro");
                const Parameter* row = moved(t.field, "a macro");
                value(row, t.from, "a macro"), value(row, t.to, "a macro");
                if (!fields.insert(t.field).second) fail("the macro " + quoted(m.name) + " moves a field twice");
            }
        }
    }

    void the_clips() {
        for (const Asset& a : r_.clips->assets) {
            number(a.id.number, "an asset");
            if (!(a.end_s > a.start_s) || a.end_s - a.start_s > limits::kAsset_s) fail("its asset " + quoted(a.name) + " is empty or longer than ten minutes");
        }
        double seconds = 0.0;
        for (const Clip& c : r_.clips->clips) {
            number(c.id.number, "a clip");
            const Asset* asset = r_.clips->asset(c.asset);
            if (!asset) fail("its clip " + quoted(c.name) + " has a sound that is not there");
            bus(c.output, "its clip " + quoted(c.name));
            for (const RecipeEntry& e : c.recipe)
                for (std::size_t i = 1; i < e.marks.size(); ++i)
                    if (!(e.marks[i].from_ms > e.marks[i - 1].from_ms && e.marks[i].to_ms > e.marks[i - 1].to_ms))
                        fail("the marks of a warp of its clip " + quoted(c.name) + " do not ascend");
            stretch("its clip " + quoted(c.name), c.start, 1);
            double longest = 0.0;
            recipe_seconds(*r_.song, *asset, c, &longest);
            seconds += longest;
            if (seconds > 6.0 * limits::kAsset_s) fail("its clips are longer than an hour together");
        }
    }

    void the_notebook() {
        for (const OwnRow& row : r_.notebook->rows) number(row.id.number, "a row");
        const auto ids = r_.element_ids();
        const std::set<ElementId> known(ids.begin(), ids.end());
        for (const auto& [id, e] : r_.notebook->elements)
            if (!known.contains(id)) fail("it says something of an element " + quoted(id.text()) + " that it does not have");
        for (const Remark& m : r_.notebook->remarks) {
            if (!known.contains(m.element)) fail("a remark is about an element " + quoted(m.element.text()) + " that it does not have");
            stretch("a remark", m.start, m.length);
        }
        for (const Spot& s : r_.notebook->spots) stretch("a remembered place", s.start, s.length);
    }

    const Remake& r_;
    const Song& s_;
    Ticks last_ = 0;
    std::size_t notes_ = 0, sounding_ = 0, bending_ = 0, layers_ = 0, steps_ = 0;
    std::unordered_set<int> numbers_, known_elsewhere_;
    std::set<SectionId> sections_;
};

}  // namespace

std::optional<std::string> what_is_wrong(const Remake& remake) {
    try {
        Limits limits;
        describe(limits, remake);
        Structure(remake).run();
        return std::nullopt;
    } catch (const Fault& fault) {
        return fault.words;
    }
}

}  // namespace fw
