// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/remake_file.hpp"
#include "model/describe.hpp"

#include <cmath>
#include <cstdio>
#include <set>

namespace fw {

namespace {

std::string shown(double v) {
    char text[40];
    std::snprintf(text, sizeof text, "%g", v);
    return text;
}

/// Writes one table a described type, each once.
class Documenter {
public:
    std::string text_;

    void what(std::string_view noun, const std::string& = {}) {
        // "a part" → "Part"
        title_ = noun.substr(noun.find(' ') + 1);
        title_[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(title_[0])));
    }
    void place(const char* name, Ticks, const char* help) { row(name, "ticks from bar 1", help); }
    void offset(const char* name, Ticks, const char* help) { row(name, "ticks", help); }
    void span(const char* name, Ticks, const char* help) { row(name, "ticks, at least 1", help); }
    void whole(const char* name, int, int low, int high, const char* help) {
        row(name, "whole number" + (high < 1'000'000 ? " " + std::to_string(low) + " … " + std::to_string(high) : " from " + std::to_string(low)), help);
    }
    void number(const char* name, double, double low, double high, const char* help) {
        row(name, std::abs(high) < limits::kMostNumber ? shown(low) + " … " + shown(high) : "number", help);
    }
    void field(const Parameter& p, double) { row(p.id, range_text(p) + "; without it " + value_text(p, p.neutral), p.help); }
    void flag(const char* name, bool, const char* help) { row(name, "true or false", help); }
    void text(const char* name, const std::string&, const char* help) { row(name, "text", help); }
    void path(const char* name, const std::string&, const char* help) {
        row(name, "text; where the name on disk is no UTF-8, `" + std::string(name) + "_bytes` holds its bytes in hexadecimal", help);
    }
    void hash(const char* name, std::uint64_t, const char* help) { row(name, "16 hexadecimal digits, XXH3-64", help); }
    template <class E>
    void choice(const char* name, E, std::span<const char* const> names, const char* help) {
        std::string all;
        for (const char* n : names) all += (all.empty() ? "`" : ", `") + std::string(n) + "`";
        row(name, all, help);
    }
    template <class Tag>
    void id(const char* name, Id<Tag>, const char* help) {
        row(name, "id", help);
    }
    template <class Tag>
    void meant(const char* name, Id<Tag>, const char* help) {
        row(name, "id of another", help);
    }
    void ids(const char* name, const std::vector<NoteId>&, std::size_t most, const char* help) {
        row(name, "list of ids, at most " + std::to_string(most), help);
    }
    template <class T>
    void list(const char* name, const std::vector<T>&, std::size_t most, const char* help) {
        row(name, "list of " + inner(T{}) + ", at most " + std::to_string(most), help);
    }
    template <class T>
    void piece(const char* name, const T& thing, const char* help) {
        row(name, inner(thing), help);
    }
    void chord(const char* name, const Chord&, const char* help) { row(name, "text", help); }
    void key(const char* name, const Key&, const char* help) { row(name, "{`tonic` 0 … 11, `mode`}", help); }
    template <class T>
    void guesses(const char* name, const T&, std::size_t most, const char* help) {
        row(name, "list of [what, confidence], at most " + std::to_string(most), help);
    }
    void tempo(const char* name, const TempoMap&, const char* help) { row(name, "list", help); }
    void meter(const char* name, const MeterMap&, const char* help) { row(name, "list", help); }
    void pitches(const char* name, const std::vector<int>&, std::size_t most, const char* help) {
        row(name, "list of MIDI pitches, at most " + std::to_string(most), help);
    }
    void bend(const char* name, const std::vector<BendPoint>&, const char* help) { row(name, "list", help); }
    void members(const char* name, int, const char* help) { row(name, "list of names", help); }
    void source(const char* name, const SourceType*, const char* help) {
        std::string all;
        for (const SourceType* t : source_types()) all += (all.empty() ? "`" : ", `") + std::string(t->id) + "`";
        row(name, all + ", or `lv2:` and the URI of a plug-in", help);
    }
    void step_type(const char* name, const StepType*, const char* help) {
        std::string all;
        for (const StepType* t : step_types()) all += (all.empty() ? "`" : ", `") + std::string(t->id) + "`";
        row(name, all + ", or `lv2:` and the URI of a plug-in", help);
    }
    void settings(const char* name, const Settings&, std::span<const Parameter>, const char* help) { row(name, "by field, see below", help); }
    void treatment(const char* name, Treatment, double, double, const char* help) { row(name, "by field, see below", help); }
    void field_ref(const char* owner, const char* field, const FieldRef&, const char* help) {
        row(owner, "`part:N`, `layer:N`, `step:N`, `send:PART:BUS`, `bus:N` or `master`", help);
        row(field, "text", "the field's name");
    }
    void element(const char* name, ElementId, const char* help) { row(name, "`tempo`, `key`, `sections`, `chords`, `part:N` or `own:N`", help); }
    void elements(const char* name, const std::map<ElementId, ElementState>&, const char* help) {
        row(name, "by `tempo`, `key`, `sections`, `chords`, `part:N` or `own:N`: " + inner(ElementState{}), help);
    }
    void unknown(const Unknown&) {}

    template <class T>
    std::string describe_type(const T& thing) {
        describe(*this, thing);
        if (written_.insert(title_).second) text_ = "### " + title_ + "\n\n| member | form | meaning |\n| --- | --- | --- |\n" + rows_ + "\n" + text_;
        return title_;
    }

    /// Fields by kind.
    void fields(const std::string& title, std::span<const Parameter> table) {
        if (table.empty()) return;
        rows_.clear();
        for (const Parameter& p : table) row(p.id, range_text(p) + "; neutral " + value_text(p, p.neutral), p.help);
        text_ += "### " + title + "\n\n| field | range | meaning |\n| --- | --- | --- |\n" + rows_ + "\n";
    }

private:
    /// Documents a member's type on the way, and tells its name.
    template <class T>
    std::string inner(const T& thing) {
        Documenter in;
        in.written_ = written_;
        const std::string name = in.describe_type(thing);
        written_ = in.written_;
        text_ = text_ + in.text_;
        return name;
    }
    template <class T>
    std::string inner(const Shared<T>& thing) {
        return inner(*thing);
    }
    void row(const std::string& name, const std::string& form, const char* help) { rows_ += "| `" + name + "` | " + form + " | " + help + " |\n"; }

    std::string title_, rows_;
    std::set<std::string> written_;
};

}  // namespace

std::string remake_format_tables() {
    Documenter doc;
    doc.describe_type(Remake{});
    for (const SourceType* t : source_types()) doc.fields("Fields of the source `" + std::string(t->id) + "`", t->fields);
    for (const StepType* t : step_types()) doc.fields("Fields of the step `" + std::string(t->id) + "`", t->fields);
    for (const TreatmentType& t : kTreatmentTypes) doc.fields("Values of the treatment `" + std::string(t.id) + "`", t.fields);
    return doc.text_;
}

}  // namespace fw
