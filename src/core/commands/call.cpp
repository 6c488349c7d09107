// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "base/pitch.hpp"
#include "model/describe.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <set>

namespace fw {

namespace {

[[noreturn]] void refuse(std::string why) { throw Refused{std::move(why)}; }

std::string quoted(std::string_view text) { return "\"" + std::string(text.substr(0, 60)) + "\""; }

template <class List, class Name>
std::string listed(const List& items, Name&& name) {
    std::string all;
    for (const auto& item : items) all += (all.empty() ? "" : ", ") + name(item);
    return all;
}

std::optional<double> number_of(std::string_view text) {
    double n = 0.0;
    const char* begin = text.data() + (!text.empty() && text[0] == '+' ? 1 : 0);
    const auto [end, bad] = std::from_chars(begin, text.data() + text.size(), n);
    if (bad != std::errc{} || end != text.data() + text.size() || !std::isfinite(n)) return std::nullopt;
    return n;
}

constexpr Parameter kAnyPitch{"pitch", "Pitch", Unit::Pitch, 0.0, 127.0, 60.0, Scale::Whole, 1.0, false, ""};

}  // namespace

Call::Call(const Remake& document, const Line& line, const Command& command) : remake(document), line_(line), command_(command) {
    std::set<std::string> seen;
    for (const auto& [name, value] : line.arguments()) {
        if (!seen.insert(name).second) refuse("the argument " + quoted(name) + " is given twice");
        const bool known = std::any_of(command.arguments.begin(), command.arguments.end(), [&, &n = name](const Argument& a) { return n == a.name; });
        if (!known && !command.takes_fields)
            refuse("it has no argument " + quoted(name) + "; there are " + listed(command.arguments, [](const Argument& a) { return std::string(a.name); }));
    }
    for (const Argument& a : command.arguments)
        if (a.needed && !has(a.name)) refuse("the argument " + quoted(a.name) + " is missing: " + help_text(a));
}

const std::string* Call::find(std::string_view name) const {
    for (const auto& [n, value] : line_.arguments())
        if (n == name) return &value;
    return nullptr;
}

std::string Call::text(std::string_view name) const {
    const std::string* value = find(name);
    if (!value) refuse("the argument " + quoted(name) + " is missing");
    return *value;
}

const Part& Call::part(std::string_view name) const {
    const std::string wanted = text(name);
    if (const Part* p = find_part(remake, wanted)) return *p;
    if (remake.parts.empty()) refuse("there is no part yet");
    refuse("there is no part " + quoted(wanted) + "; there are " + listed(remake.parts, [](const auto& p) { return p->name; }));
}

const Bus& Call::bus(std::string_view name) const {
    const std::string wanted = text(name);
    if (const Bus* b = find_bus(remake, wanted)) return *b;
    if (remake.mixer->buses.empty()) refuse("there is no bus yet");
    refuse("there is no bus " + quoted(wanted) + "; there are " + listed(remake.mixer->buses, [](const Bus& b) { return b.name; }));
}

const Macro& Call::macro(std::string_view name) const {
    const std::string wanted = text(name);
    const auto& all = remake.automation->macros;
    for (const Macro& m : all)
        if (same_words(m.name, wanted)) return m;
    if (all.empty()) refuse("there is no macro yet");
    refuse("there is no macro " + quoted(wanted) + "; there are " + listed(all, [](const Macro& m) { return m.name; }));
}

const Section& Call::section(std::string_view name) const {
    const std::string wanted = text(name);
    if (const Section* s = find_section(remake, wanted)) return *s;
    if (remake.song->sections.empty()) refuse("there is no section yet");
    refuse("there is no section " + quoted(wanted) + "; there are " +
           listed(remake.song->sections, [&](const Section& s) { return section_text(remake, s.id); }));
}

const Clip& Call::clip(std::string_view name) const {
    const std::string wanted = text(name);
    if (const Clip* c = find_clip(remake, wanted)) return *c;
    if (remake.clips->clips.empty()) refuse("there is no clip yet");
    refuse("there is no clip " + quoted(wanted) + "; there are " + listed(remake.clips->clips, [](const Clip& c) { return c.name; }));
}

Ticks Call::place(std::string_view name) const {
    const std::string wanted = text(name);
    if (const auto t = parse_place(remake, wanted)) return *t;
    refuse(quoted(wanted) + " is no place: say a bar (5), a beat (5.3), a section (verse 2) or seconds (12.5s)");
}

Ticks Call::length(std::string_view name) const {
    const std::string wanted = text(name);
    if (const auto t = parse_length(remake, wanted)) return *t;
    refuse(quoted(wanted) + " is no length: say 1/8, 2 beats, 1 bar or 120 ticks");
}

double Call::number(std::string_view name, double low, double high) const {
    const std::string wanted = text(name);
    const auto n = number_of(wanted);
    char range[80];
    std::snprintf(range, sizeof range, "%g to %g", low, high);
    if (!n || *n < low || *n > high) refuse(quoted(wanted) + " for " + std::string(name) + " is no number from " + range);
    return *n;
}

int Call::whole(std::string_view name, int low, int high) const {
    const double n = number(name, low, high);
    if (n != std::round(n)) refuse(quoted(text(name)) + " for " + std::string(name) + " is no whole number");
    return static_cast<int>(n);
}

bool Call::on(std::string_view name) const {
    const auto value = parse_value(rows::kOn, text(name));
    if (!value) refuse(quoted(text(name)) + " for " + std::string(name) + " is neither on nor off");
    return *value >= 0.5;
}

int Call::pitch_of(const std::string& wanted) const {
    for (const DrumSound& sound : drum_sounds())
        if (same_words(sound.name, wanted) || wanted == sound.id) return sound.key;
    if (const auto value = parse_value(kAnyPitch, wanted)) return static_cast<int>(*value);
    refuse(quoted(wanted) + " is neither a note (C4), a key (0 to 127) nor a drum sound");
}

Grid Call::grid() const {
    Grid grid;
    if (has("groove")) {
        grid.groove = find_groove(*remake.song, text("groove"));
        if (!grid.groove) throw Refused{"there is no groove \"" + text("groove") + "\""};
        return grid;
    }
    if (!has("grid")) throw Refused{"it does not say on what: grid=1/16 or groove=NAME"};
    grid.step = length("grid");
    if (grid.step < 1) throw Refused{"a grid has to have a length"};
    if (has("swing")) grid.swing = number("swing", 0.5, 0.75);
    return grid;
}

Reach Call::reach() const {
    const std::string wanted = text("reach", "everywhere");
    if (wanted == "everywhere") return Reach::Everywhere;
    if (wanted == "here") return Reach::Here;
    refuse(quoted(wanted) + " is no reach: say everywhere or here");
}

ElementId Call::element() const {
    const std::string wanted = text("element");
    for (const ElementId id : remake.element_ids())
        if (same_words(remake.element_name(id), wanted) || (id.kind() != ElementId::Kind::Part && id.kind() != ElementId::Kind::Own && id.text() == wanted))
            return id;
    if (const Part* p = find_part(remake, wanted)) return p->id;
    refuse("there is no element " + quoted(wanted) + "; there are " + listed(remake.element_ids(), [&](ElementId id) { return remake.element_name(id); }));
}

const Layer& Call::layer(const Part& of) const {
    if (of.layers.empty()) refuse("the part " + quoted(of.name) + " has no layer");
    const int n = has("layer") ? whole("layer", 1, static_cast<int>(of.layers.size())) : 1;
    return of.layers[static_cast<std::size_t>(n - 1)];
}

Chain Call::chain() const {
    if (has("part")) return part().id;
    if (has("bus")) return bus().id;
    if (has("master")) return MasterRef{};
    refuse("it does not say where: part=NAME, bus=NAME or master=on");
}

const Step& Call::step() const {
    const auto& steps = *steps_of(remake, chain());
    if (steps.empty()) refuse("there are no steps there");
    const std::string wanted = text("step");
    for (const Step& s : steps)
        if (wanted == s.type->id || same_words(wanted, s.type->label)) return s;
    if (const auto n = number_of(wanted); n && *n >= 1 && *n <= static_cast<double>(steps.size()) && *n == std::round(*n))
        return steps[static_cast<std::size_t>(*n) - 1];
    refuse("there is no step " + quoted(wanted) + " there; there are " + listed(steps, [](const Step& s) { return std::string(s.type->id); }));
}

FieldOwner Call::owner() const {
    if (has("macro")) return macro().id;
    if (has("step")) return step().id;
    if (has("send")) {
        const Part& p = part();
        const Bus& b = bus("send");
        if (std::none_of(p.sends.begin(), p.sends.end(), [&](const Send& s) { return s.bus == b.id; }))
            refuse("the part " + quoted(p.name) + " sends nothing to " + quoted(b.name));
        return SendRef{p.id, b.id};
    }
    if (has("layer")) return layer(part()).id;
    if (has("part")) return part().id;
    if (has("bus")) return bus().id;
    if (has("master")) return MasterRef{};
    refuse("it does not say whose field: part=NAME, with layer=N, step=N or send=BUS where it is one of those, bus=NAME, master=on or macro=NAME");
}

FieldRef Call::field() const {
    const FieldOwner whose = owner();
    const std::string wanted = text("field");
    const auto all = fields_of(remake, whose);
    for (const Parameter* row : all)
        if (wanted == row->id || same_words(wanted, row->label)) return {whose, row->id};
    refuse("there is no field " + quoted(wanted) + " there; there are " + listed(all, [](const Parameter* p) { return std::string(p->id); }));
}

const Parameter& Call::row(const FieldRef& field) const { return *find_field(remake, field); }

double Call::value(const Parameter& row, std::string_view text) const {
    const auto v = parse_value(row, text);
    if (!v) refuse(quoted(text) + " is no value of " + quoted(row.label) + ", which goes from " + range_text(row));
    return *v;
}

Remake Call::with_fields(Remake next, const FieldOwner& owner) const {
    const auto all = fields_of(next, owner);
    for (const auto& [name, given] : line_.arguments()) {
        if (std::any_of(command_.arguments.begin(), command_.arguments.end(), [&, &n = name](const Argument& a) { return n == a.name; })) continue;
        const auto row = std::find_if(all.begin(), all.end(), [&, &n = name](const Parameter* p) { return n == p->id; });
        if (row == all.end())
            refuse("there is no field " + quoted(name) + " there; there are " + listed(all, [](const Parameter* p) { return std::string(p->id); }));
        next = set_field(next, {owner, (*row)->id}, value(**row, given));
    }
    return next;
}

std::vector<NoteRef> Call::notes(const Part& of) const {
    std::vector<NoteRef> refs;
    if (has("notes")) {
        const std::string all = text("notes");
        std::vector<std::pair<std::pair<Ticks, int>, std::string>> wanted;
        std::size_t from = 0;
        while (from <= all.size()) {
            const auto comma = std::min(all.find(',', from), all.size());
            std::string one = all.substr(from, comma - from);
            one.erase(0, one.find_first_not_of(' '));
            const auto slash = one.find('/');
            const auto place = parse_place(remake, one.substr(0, slash));
            const auto key = slash == std::string::npos ? std::nullopt : parse_value(kAnyPitch, one.substr(slash + 1));
            if (!place || !key) refuse(quoted(one) + " is no note: say its place and pitch, as 5.3.12/F2");
            wanted.emplace_back(std::pair{*place, static_cast<int>(*key)}, std::move(one));
            from = comma + 1;
        }
        // One walk through the part's notes at those places, which stand in order of time; where several lie on one another each is meant once.
        std::stable_sort(wanted.begin(), wanted.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        const auto placed = placed_notes(of, [&](const Note& n, const Placement& in) {
            const Ticks tick = in.start + n.start;
            const auto at = std::lower_bound(wanted.begin(), wanted.end(), tick, [](const auto& w, Ticks t) { return w.first.first < t; });
            return at != wanted.end() && at->first.first == tick;
        });
        std::vector<std::pair<std::pair<Ticks, int>, NoteRef>> known;
        auto note = placed.begin();
        for (const auto& w : wanted) {
            if (!known.empty() && known.back().first.first == w.first.first) continue;  // this place was gathered
            note = std::lower_bound(note, placed.end(), w.first.first, [](const PlacedNote& n, Ticks t) { return n.note.start < t; });
            for (auto at = note; at != placed.end() && at->note.start == w.first.first; ++at) known.push_back({{at->note.start, at->note.pitch}, at->ref()});
        }
        std::vector<char> taken(known.size(), 0);
        for (const auto& [what, words] : wanted) {
            std::ptrdiff_t found = -1;
            auto at = std::lower_bound(known.begin(), known.end(), what.first, [](const auto& k, Ticks t) { return k.first.first < t; });
            for (; at != known.end() && at->first.first == what.first; ++at)
                if (at->first.second == what.second && (found < 0 || taken[static_cast<std::size_t>(found)])) found = at - known.begin();
            if (found < 0) refuse("the part " + quoted(of.name) + " has no note " + quoted(words));
            taken[static_cast<std::size_t>(found)] = 1;
            refs.push_back(known[static_cast<std::size_t>(found)].second);
        }
        return refs;
    }
    if (!has("from") && !has("to")) refuse("it does not say which notes: notes=5.3.12/F2,… or from=PLACE to=PLACE");
    const Ticks first = has("from") ? place("from") : std::numeric_limits<Ticks>::min(), end = has("to") ? place("to") : std::numeric_limits<Ticks>::max();
    const auto meant = [&](const Note& n, const Placement& in) {
        const Ticks tick = in.start + n.start;
        return tick >= first && tick < end && (!has("pitch") || n.pitch == pitch("pitch"));
    };
    for (const PlacedNote& n : placed_notes(of, meant)) refs.push_back(n.ref());
    if (refs.empty()) refuse("the part " + quoted(of.name) + " plays no such note there");
    return refs;
}

std::vector<std::vector<std::string>> entries_of(std::string_view text) {
    std::vector<std::vector<std::string>> entries;
    for (std::size_t from = 0; from < text.size();) {
        const auto comma = std::min(text.find(',', from), text.size());
        auto& words = entries.emplace_back();
        for (std::size_t at = from; at < comma;) {
            const auto end = std::min(text.find(' ', at), comma);
            if (end > at) words.emplace_back(text.substr(at, end - at));
            at = end + 1;
        }
        from = comma + 1;
    }
    return entries;
}

// --- the other way round ---

std::string note_text(const Remake& remake, const PlacedNote& n) { return place_text(remake.song->meter, n.note.start) + "/" + note_name(n.note.pitch, false); }

std::string notes_text(const Remake& remake, const Part& part, const std::vector<NoteRef>& refs) {
    std::string all;
    for (const PlacedNote& n : notes_meant(part, refs)) all += (all.empty() ? "" : ",") + note_text(remake, n);
    return all;
}

Line& name_chain(Line& line, const Remake& remake, const Chain& chain) {
    if (const auto* part = std::get_if<PartId>(&chain)) return line.with("part", part_text(remake, *part));
    if (const auto* bus = std::get_if<BusId>(&chain)) return line.with("bus", bus_text(remake, *bus));
    return line.with("master", "on");
}

Line& name_owner(Line& line, const Remake& remake, const FieldOwner& owner) {
    const auto number = [](const auto& items, auto id) {
        for (std::size_t i = 0; i < items.size(); ++i)
            if (items[i].id == id) return std::to_string(i + 1);
        return std::string("0");
    };
    if (const auto* part = std::get_if<PartId>(&owner)) return line.with("part", part_text(remake, *part));
    if (const auto* layer = std::get_if<LayerId>(&owner)) {
        const Part* part = part_with(remake, *layer);
        if (!part) return line;
        return line.with("part", part_text(remake, part->id)).with("layer", number(part->layers, *layer));
    }
    if (const auto* step = std::get_if<StepId>(&owner)) {
        Chain chain = MasterRef{};
        if (const Part* part = part_with(remake, *step)) chain = part->id;
        for (const Bus& b : remake.mixer->buses)
            if (number(b.steps, *step) != "0") chain = b.id;
        return name_chain(line, remake, chain).with("step", number(*steps_of(remake, chain), *step));
    }
    if (const auto* send = std::get_if<SendRef>(&owner)) return line.with("part", part_text(remake, send->part)).with("send", bus_text(remake, send->bus));
    if (const auto* bus = std::get_if<BusId>(&owner)) return line.with("bus", bus_text(remake, *bus));
    if (const auto* macro = std::get_if<MacroId>(&owner)) return line.with("macro", owner_name(remake, *macro));
    return line.with("master", "on");
}

std::string element_text(const Remake& remake, ElementId element) {
    if (element.part()) return part_text(remake, element.part());
    return element.row() ? remake.element_name(element) : element.text();
}

const char* reach_text(Reach reach) { return reach == Reach::Here ? "here" : "everywhere"; }

/// "120:-50": ticks from the note's start and cents.
BendPoint bend_point(const std::string& word) {
    BendPoint b;
    int cents = 0;
    const char *at = word.data(), *end = at + word.size();
    const auto tick = std::from_chars(at, end, b.tick);
    if (tick.ec != std::errc{} || tick.ptr == end || *tick.ptr != ':') throw Refused{"\"" + word + "\" is no bend: say ticks and cents, as 120:-50"};
    const auto rest = std::from_chars(tick.ptr + 1, end, cents);
    if (rest.ec != std::errc{} || rest.ptr != end) throw Refused{"\"" + word + "\" is no bend: say ticks and cents, as 120:-50"};
    b.cents = cents;
    return b;
}

std::vector<Note> notes_written(const Call& c, const char* argument, Ticks from, Origin origin) {
    std::vector<Note> notes;
    for (const auto& words : entries_of(c.text(argument))) {
        const auto bad = [&]() -> Refused {
            std::string all;
            for (const std::string& w : words) all += (all.empty() ? "" : " ") + w;
            constexpr std::size_t kMost = 60;  // whatever was pasted
            if (all.size() > kMost) all = all.substr(0, kMost) + "…";
            return {"\"" + all + "\" is no note: say ticks, pitch, ticks of length and velocity, as 0 F2 240 96"};
        };
        const auto whole = [&](std::string_view text) {
            int n = 0;
            const auto [end, wrong] = std::from_chars(text.data(), text.data() + text.size(), n);
            if (wrong != std::errc{} || end != text.data() + text.size()) throw bad();
            return n;
        };
        if (words.size() < 4) throw bad();
        Note n;
        n.start = from + whole(words[0]);
        n.pitch = c.pitch_of(words[1]);
        n.length = whole(words[2]);
        n.velocity = whole(words[3]);
        n.origin = origin;
        if (n.length < 1 || n.velocity < 1 || n.velocity > 127) throw bad();
        for (std::size_t i = 4; i < words.size(); ++i) n.bend.edit().push_back(bend_point(words[i]));
        notes.push_back(std::move(n));
    }
    return notes;
}

std::string written_text(const std::vector<Note>& notes, Ticks from) {
    std::string out;
    for (const Note& n : notes) {
        if (!out.empty()) out += ", ";
        out += std::to_string(n.start - from) + " " + note_name(n.pitch, false) + " " + std::to_string(n.length) + " " + std::to_string(n.velocity);
        for (const BendPoint& b : *n.bend) out += " " + std::to_string(b.tick) + ":" + std::to_string(std::lround(b.cents));
    }
    return out;
}

}  // namespace fw
