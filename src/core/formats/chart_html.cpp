// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/chart_html.hpp"

#include "formats/html.hpp"
#include "model/fields.hpp"
#include "sound/sources/soundfont.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <functional>

namespace fw {

namespace {

constexpr const char* kChartStyle = R"(
table.bars{table-layout:fixed}table.bars td{border:1px solid #ccc4b4;padding:.35em .5em;height:2em}.bar{color:#6d665b;font-size:8pt;display:block}
.part{break-inside:avoid}ul{margin:.2em 0 .2em 1.2em;padding:0}
)";
constexpr int kBarsARow = 4;

class Chart {
public:
    explicit Chart(const Remake& remake) : r_(remake), song_(*remake.song) {}

    std::string run() {
        const std::string name = std::filesystem::path(r_.reference.path).stem().string();
        out_ = "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>" + escaped(name) + "</title><style>" + kPageStyle + kChartStyle +
               "</style></head><body>\n<h1>" + escaped(name) + "</h1>\n";
        head();
        for (const Section& s : song_.sections) section(s);
        out_ += "<h2>Elements</h2>\n";
        for (const auto& p : r_.parts) part(*p);
        buses();
        out_ += "</body></html>\n";
        return out_;
    }

private:
    void head() {
        std::string meters;
        for (const MeterMap::Change& c : song_.meter.changes())
            meters += (meters.empty() ? "" : ", ") + std::to_string(c.numerator) + "/" + std::to_string(c.denominator) +
                      (c.bar > 1 ? " from bar " + std::to_string(c.bar) : std::string());
        std::string keys;
        for (const KeyArea& k : song_.keys)
            keys +=
                (keys.empty() ? "" : ", ") + k.key.name() + (k.start > 0 ? " from bar " + std::to_string(song_.meter.position(k.start).bar) : std::string());
        char tuning[48];
        std::snprintf(tuning, sizeof tuning, "%+.0f cents", song_.rebuild_tuning_cents());
        out_ += "<p class=\"figures\">" + escaped(song_.tempo_text()) + " &nbsp; " + meters + " &nbsp; " + escaped(keys.empty() ? "no key" : keys) +
                "</p>\n<p class=\"faint\">Tuned " + tuning + " from A4 = 440 Hz" +
                (std::abs(song_.swing_ratio - 0.5) > 0.02
                     ? "; " + std::to_string(song_.swing_subdivision) + "ths swing at " + std::to_string(std::lround(100.0 * song_.swing_ratio)) + " %"
                     : std::string()) +
                ".</p>\n";
    }

    void section(const Section& s) {
        const int first = song_.meter.position(s.start).bar, end = std::max(first + 1, song_.meter.position(s.start + s.length - 1).bar + 1);
        out_ += "<h2>" + escaped(s.label) + " &nbsp; " + escaped(s.name) + " <span class=\"faint\">bars " + std::to_string(first) + " to " +
                std::to_string(end - 1) + (s.condensed_out ? ", not in the condensed version" : "") + "</span></h2>\n<table class=\"bars\">";
        for (int bar = first; bar < end; ++bar) {
            if ((bar - first) % kBarsARow == 0) out_ += "<tr>";
            out_ += "<td><span class=\"bar\">" + std::to_string(bar) + "</span>" + chords_in(bar) + "</td>";
            if ((bar - first) % kBarsARow == kBarsARow - 1 || bar + 1 == end) out_ += "</tr>\n";
        }
        out_ += "</table>\n";
    }

    /// "Dm7", "G · C on 3", or a dash where the one before goes on.
    std::string chords_in(int bar) const {
        const Ticks from = song_.meter.tick_of_bar(bar), to = song_.meter.tick_of_bar(bar + 1);
        std::string all;
        for (const ChordEvent& c : song_.chords) {
            if (c.start < from || c.start >= to) continue;
            const BarPosition at = song_.meter.position(c.start);
            all += (all.empty() ? "" : " &nbsp; ") + escaped(c.chord.name(song_.flats_at(c.start))) +
                   (at.beat > 1 ? "<span class=\"faint\"> on " + std::to_string(at.beat) + "</span>" : std::string());
        }
        return all.empty() ? "<span class=\"faint\">–</span>" : all;
    }

    /// The values that were set, in the order of their table.
    std::string values(const FieldOwner& owner, const std::function<bool(const Parameter&, double)>& told) const {
        std::string all;
        for (const Parameter* p : fields_of(r_, owner)) {
            const auto now = field_value(r_, {owner, p->id});
            if (!now || std::string_view(p->id) == "on" || !told(*p, *now)) continue;
            std::string label = p->label;
            label[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(label[0])));
            all += (all.empty() ? ": " : ", ") + label + " " + value_text(*p, *now);
        }
        for (const Curve& c : r_.automation->curves)
            if (c.field.owner == owner)
                all += (all.empty() ? ": " : ", ") + std::string(find_field(r_, c.field) ? find_field(r_, c.field)->label : "a field") + " moves";
        return escaped(all);
    }
    static bool is_set(const Parameter& p, double v) { return v != p.neutral; }

    void steps(const std::vector<Step>& all) {
        for (const Step& s : all) {
            if (s.on < 0.5) continue;
            const auto telling = [&](const Parameter& p, double v) {
                return is_set(p, v) ||
                       std::any_of(s.type->telling.begin(), s.type->telling.end(), [&](const char* id) { return std::string_view(id) == p.id; });
            };
            const Part* by = s.trigger.part ? r_.part(s.trigger.part) : nullptr;
            out_ += "<li>" + std::string(s.type->label) + (by ? " by " + escaped(by->name) : std::string()) + values(s.id, telling) + "</li>";
        }
    }

    void part(const Part& p) {
        std::string where;
        const auto notes = placed_notes(p);
        for (const Section& s : song_.sections)
            if (std::any_of(notes.begin(), notes.end(),
                            [&](const PlacedNote& n) { return !n.muted && n.note.start >= s.start - 60 && n.note.start < s.start + s.length - 60; }))
                where += (where.empty() ? "" : ", ") + escaped(s.name) + " " + std::to_string(song_.meter.position(s.start).bar);
        out_ += "<div class=\"part\"><p><b>" + escaped(p.name) + "</b> <span class=\"faint\">" + part_role_name(p.role) +
                (where.empty() ? "; plays nothing" : "; plays in " + where) + "</span></p><ul>";
        for (const Layer& l : p.layers) {
            if (l.on < 0.5) continue;
            const Asset* asset = r_.clips->asset(l.asset);
            const std::string sound = asset ? asset->name
                                      : l.source == &kSoundFont && p.role != PartRole::Drums
                                          ? general_midi_names()[static_cast<std::size_t>(std::clamp(l.program, 0, 127))]
                                      : !l.file.empty()  ? std::filesystem::path(l.file).filename().string()
                                      : !l.patch.empty() ? l.patch
                                                         : std::string(l.source->label);
            const auto& own = l.settings.all();
            out_ += "<li>" + escaped(sound) +
                    values(l.id,
                           [&](const Parameter& q, double v) {
                               const auto i = index_of_field(l.source->fields, q.id);
                               if (i && &q == &l.source->fields[*i])
                                   return std::any_of(own.begin(), own.end(), [&](const auto& set) { return set.first == *i; });
                               return is_set(q, v);
                           }) +
                    "</li>";
        }
        steps(p.steps);
        out_ += "<li>Out" + values(p.id, is_set);
        for (const Send& s : p.sends)
            if (const Bus* bus = r_.mixer->bus(s.bus); bus && s.on >= 0.5)
                out_ += "; to " + escaped(bus->name) + values(SendRef{p.id, s.bus}, [](const Parameter&, double) { return true; });
        if (const Bus* bus = r_.mixer->bus(p.output)) out_ += "; goes to " + escaped(bus->name);
        out_ += "</li></ul></div>\n";
    }

    void buses() {
        for (const Bus& b : r_.mixer->buses) {
            out_ += "<div class=\"part\"><p><b>" + escaped(b.name) + "</b> <span class=\"faint\">bus</span></p><ul>";
            steps(b.steps);
            out_ += "<li>Out" + values(b.id, is_set) + "</li></ul></div>\n";
        }
        out_ += "<div class=\"part\"><p><b>Master</b></p><ul>";
        steps(r_.mixer->master.steps);
        out_ += "<li>Out" + values(MasterRef{}, is_set) + "</li></ul></div>\n";
    }

    const Remake& r_;
    const Song& song_;
    std::string out_;
};

}  // namespace

std::string chart_to_html(const Remake& remake) { return Chart(remake).run(); }

}  // namespace fw
