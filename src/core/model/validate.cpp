// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/validate.hpp"

#include "model/faults.hpp"
#include "model/fields.hpp"
#include "model/limits.hpp"
#include "model/recipe.hpp"

#include <algorithm>
#include <bitset>
#include <limits>
#include <map>
#include <set>
#include <string_view>
#include <unordered_map>
#include <unordered_set>

namespace fw {

using namespace faults;

namespace {

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
        check_members(remake);
        Structure(remake).run();
        return std::nullopt;
    } catch (const Fault& fault) {
        return fault.words;
    }
}

}  // namespace fw
