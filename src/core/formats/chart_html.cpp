// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/chart_html.hpp"

#include "formats/html.hpp"
#include "formats/sheet_words.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>

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

    /// What an owner is and what of it is set, as the sheet says it.
    std::string told(const std::string& name, const FieldOwner& owner) const { return escaped(name + fields_in_words(r_, owner, true)); }

    void steps(const std::vector<Step>& all) {
        for (const Step& s : all) {
            if (s.on < 0.5) continue;
            const Part* by = s.trigger.part ? r_.part(s.trigger.part) : nullptr;
            out_ += "<li>" + told(s.type->label + (by ? " by " + by->name : std::string()), s.id) + "</li>";
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
        for (const Layer& l : p.layers)
            if (l.on >= 0.5) out_ += "<li>" + told(layer_in_words(r_, l), l.id) + "</li>";
        steps(p.steps);
        const Bus* out = r_.mixer->bus(p.output);
        out_ += "<li>" + told(out ? "To " + out->name : "To the master", p.id);
        for (const Send& s : p.sends)
            if (const Bus* bus = r_.mixer->bus(s.bus); bus && s.on >= 0.5) out_ += "; " + told("and to " + bus->name, SendRef{p.id, s.bus});
        out_ += "</li></ul></div>\n";
    }

    void buses() {
        for (const Bus& b : r_.mixer->buses) {
            out_ += "<div class=\"part\"><p><b>" + escaped(b.name) + "</b> <span class=\"faint\">bus</span></p><ul>";
            steps(b.steps);
            const Bus* out = r_.mixer->bus(b.output);
            out_ += "<li>" + told(out ? "To " + out->name : "To the master", b.id) + "</li></ul></div>\n";
        }
        out_ += "<div class=\"part\"><p><b>Master</b></p><ul>";
        steps(r_.mixer->master.steps);
        out_ += "<li>" + told("Out", MasterRef{}) + "</li></ul></div>\n";
    }

    const Remake& r_;
    const Song& song_;
    std::string out_;
};

}  // namespace

std::string chart_to_html(const Remake& remake) { return Chart(remake).run(); }

}  // namespace fw
