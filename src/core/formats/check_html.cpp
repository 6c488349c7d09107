// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/check_html.hpp"

#include "check/words.hpp"
#include "formats/html.hpp"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <optional>

namespace fw {

namespace {

constexpr const char *kOriginal = "#0f6e79", *kRebuild = "#d2522d";

std::string number(double v, int places = 1) {
    char text[32];
    std::snprintf(text, sizeof text, "%.*f", places, v);
    return text;
}

std::string percent(const std::optional<double>& v) { return v ? std::to_string(std::lround(*v * 100.0)) + " %" : "–"; }

/// A figure with a bar of its length below, drawn in the ink of what agrees.
std::string figure_cell(const std::optional<double>& v) {
    if (!v) return "<td class=\"n cell faint\">–</td>";
    return "<td class=\"n cell\">" + percent(v) + "<svg width=\"48\" height=\"4\"><rect width=\"48\" height=\"4\" fill=\"#e4ddcf\"/><rect width=\"" +
           number(48.0 * *v) + "\" height=\"4\" fill=\"#332c28\"/></svg></td>";
}

class Page {
public:
    Page(const Remake& remake, const CheckReport& report, const LeftOver* left) : r_(remake), report_(report), left_(left) {}

    std::string run() {
        const std::string name = std::filesystem::path(r_.reference.path).stem().string();
        out_ = "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>Check of " + escaped(name) + "</title><style>" + kPageStyle +
               "</style></head><body>\n";
        out_ += "<h1>Check of " + escaped(name) + "</h1><p class=\"faint\">How far the rebuild agrees with the original. Fakturwerk " FW_VERSION ".</p>\n";
        figures();
        table();
        tone();
        findings();
        next();
        left();
        remarks();
        out_ += "</body></html>\n";
        return out_;
    }

private:
    void figures() {
        const Match& m = report_.match;
        if (!m.notes) out_ += "<p class=\"figures\">Nothing is built yet: there are no notes to compare.</p>\n";
        else
            out_ += "<p class=\"figures\">Notes <b>" + percent(m.notes) + "</b> &nbsp; sound <b>" + percent(m.sound) + "</b> &nbsp; known <b>" +
                    percent(m.known) + "</b></p>\n";
        out_ +=
            "<p class=\"faint\">Notes: how much of what is written is heard there, and of what is surely heard is written; 0 % is what another song's notes "
            "get. "
            "Sound: how near level, tone and width are. Known: how much of it the recording is clear about. Tempo, key, sections and chords take no "
            "part.</p>\n";
        const SoundReport& s = report_.sound;
        if (!s.tone.empty())
            out_ += "<table><tr><th></th><th class=\"n\">original</th><th class=\"n\">rebuild</th></tr><tr><td>Loudness</td><td class=\"n\">" +
                    number(s.original_lufs) + " LUFS</td><td class=\"n\">" + number(s.rebuild_lufs) + " LUFS</td></tr><tr><td>True peak</td><td class=\"n\">" +
                    number(s.original_peak_db) + " dB</td><td class=\"n\">" + number(s.rebuild_peak_db) +
                    " dB</td></tr><tr><td>Noise bed, at matched loudness</td><td class=\"n\">" + number(s.original_noise_db) + " dB</td><td class=\"n\">" +
                    number(s.rebuild_noise_db) + " dB</td></tr></table>\n";
    }

    void table() {
        out_ += "<h2>Elements and sections</h2><table><tr><th></th><th class=\"n\">song</th>";
        for (const Section& s : r_.song->sections)
            out_ += "<th class=\"n\">" + escaped(s.name) + "<br><span class=\"faint\">from bar " + std::to_string(r_.song->meter.position(s.start).bar) +
                    "</span></th>";
        out_ += "</tr>\n";
        const auto row = [&](const std::string& name, const std::optional<double>& all, const std::vector<std::optional<double>>& sections) {
            out_ += "<tr><td>" + escaped(name) + "</td>" + figure_cell(all);
            for (std::size_t i = 0; i < r_.song->sections.size(); ++i) out_ += figure_cell(i < sections.size() ? sections[i] : std::nullopt);
            out_ += "</tr>\n";
        };
        for (const ElementMatch& e : report_.elements)
            if (e.kind == "part") row(e.name, e.match.notes, e.sections);
        row("All notes", report_.match.notes, report_.sections);
        std::vector<std::optional<double>> sound;
        for (const SectionSound& s : report_.sound.sections) sound.push_back(s.sound);
        row("Sound", report_.match.sound, sound);
        out_ += "</table>\n";
        for (const ElementMatch& e : report_.elements)
            if (e.kind == "part") out_ += "<p class=\"faint\">" + escaped(e.name) + ": " + escaped(e.measures) + ".</p>\n";
    }

    void tone() {
        const auto& tone = report_.sound.tone;
        if (tone.empty()) return;
        constexpr double kWidth = 680, kHeight = 190, kLeft = 46, kBottom = 20;
        double top = -200.0;
        for (const ToneBand& t : tone) top = std::max({top, t.original_db, t.rebuild_db + report_.sound.match_gain_db});
        top = std::ceil(top / 12.0) * 12.0;
        const double step = (kWidth - kLeft) / static_cast<double>(tone.size());
        const auto y_of = [&](double db) { return (kHeight - kBottom) * std::clamp((top - db) / 60.0, 0.0, 1.0); };
        out_ += "<h2>Tone, in third octaves at matched loudness</h2><svg viewBox=\"0 0 " + number(kWidth, 0) + " " + number(kHeight, 0) +
                "\" width=\"100%\"><g font-size=\"9\" fill=\"#6d665b\">";
        for (double db = top - 60.0; db <= top; db += 12.0)
            out_ += "<line x1=\"" + number(kLeft) + "\" x2=\"" + number(kWidth) + "\" y1=\"" + number(y_of(db)) + "\" y2=\"" + number(y_of(db)) +
                    "\" stroke=\"#e4ddcf\"/><text x=\"0\" y=\"" + number(std::max(9.0, y_of(db) + 3.0)) + "\">" + number(db, 0) + " dB</text>";
        for (std::size_t i = 1; i < tone.size(); i += 6)
            out_ += "<text x=\"" + number(kLeft + step * static_cast<double>(i)) + "\" y=\"" + number(kHeight - 5.0) + "\">" +
                    (tone[i].center_hz >= 1000 ? number(tone[i].center_hz / 1000.0) + " kHz" : number(tone[i].center_hz, 0) + " Hz") + "</text>";
        out_ += "</g><g style=\"mix-blend-mode:multiply\">";
        for (std::size_t i = 0; i < tone.size(); ++i) {
            const auto bar = [&](double db, const char* ink, double in) {
                out_ += "<rect style=\"mix-blend-mode:multiply\" x=\"" + number(kLeft + step * static_cast<double>(i) + in) + "\" y=\"" + number(y_of(db)) +
                        "\" width=\"" + number(step - 2.0 * in) + "\" height=\"" + number(kHeight - kBottom - y_of(db)) + "\" fill=\"" + ink +
                        "\" fill-opacity=\".75\"/>";
            };
            bar(tone[i].original_db, kOriginal, 1.0);
            bar(tone[i].rebuild_db + report_.sound.match_gain_db, kRebuild, 4.0);
        }
        out_ += std::string("</g></svg><p class=\"faint\"><span style=\"color:") + kOriginal +
                "\">■</span> original (wide bars) <span style=\"color:" + kRebuild +
                "\">■</span> rebuild (narrow bars)</p>\n<table><tr><th>Width</th><th class=\"n\">original</th><th class=\"n\">rebuild</th></tr>";
        for (const WidthBand& w : report_.sound.width)
            out_ += "<tr><td>" + w.band + "</td><td class=\"n\">" + number(w.original * 100.0, 0) + " %</td><td class=\"n\">" + number(w.rebuild * 100.0, 0) +
                    " %</td></tr>";
        out_ += "</table><p class=\"faint\">Width: the side's share of the energy; 0 % mono, 50 % sides that have nothing in common.</p>\n";
    }

    void findings() {
        std::size_t perhaps = 0, listed = 0;
        for (const Finding& f : report_.findings) ++(f.listed() ? listed : perhaps);
        out_ += "<h2>" + std::to_string(listed) + " finding" + (listed == 1 ? "" : "s") + ", and perhaps " + std::to_string(perhaps) + " more</h2>\n";
        if (listed == 0) return;
        out_ += "<table><tr><th>Finding</th><th>Remedy</th><th class=\"n\">sure</th></tr>\n";
        for (const Finding& f : report_.findings)
            if (f.listed())
                out_ += "<tr><td>" + escaped(finding_sentence(f)) + "</td><td>" + escaped(remedy_words(f)) + "</td><td class=\"n\">" + percent(f.confidence) +
                        "</td></tr>\n";
        out_ +=
            "</table><p class=\"faint\">Worst first: how sure by how audible. Of notes and strokes it goes by errors planted into other songs, of which those "
            "called 80 % sure were right in 60 to 90 of 100; of sound by how far it is off. Below 50 % they are counted only.</p>\n";
    }

    void next() {
        const auto steps = what_next(r_, report_, left_);
        if (steps.empty()) return;
        out_ += "<h2>What next</h2><ol>";
        for (const NextStep& s : steps) out_ += "<li>" + escaped(s.words) + "</li>";
        out_ += "</ol>\n";
    }

    void left() {
        if (!left_ || (left_->moments.empty() && left_->faint.empty())) return;
        out_ += "<h2>In the original and not in the rebuild</h2><ul>";
        for (const auto* all : {&left_->moments, &left_->faint})
            for (const LeftMoment& m : *all)
                out_ += "<li>" + std::string(all == &left_->faint ? "faint, all through: " : "") +
                        escaped(left_words(m, r_.song->flats_at(r_.song->meter.tick_of_bar(m.bar)))) + "</li>";
        out_ += "</ul>\n";
    }

    void remarks() {
        for (const auto& [kind, title] :
             {std::pair(RemarkKind::Intended, "Differences that are meant"), {RemarkKind::Question, "Open questions"}, {RemarkKind::Faint, "Faint"}}) {
            std::string lines;
            for (const ElementId id : r_.element_ids()) {
                const ElementState state = r_.element(id);
                const std::string& words = kind == RemarkKind::Intended ? state.intended : state.question;
                if (kind != RemarkKind::Faint && !words.empty()) lines += "<li>" + escaped(r_.element_name(id)) + ": " + escaped(words) + "</li>";
                if (kind == RemarkKind::Intended && state.state == State::LeftOut) lines += "<li>" + escaped(r_.element_name(id)) + " is left out</li>";
            }
            for (const Remark& m : r_.notebook->remarks)
                if (m.kind == kind)
                    lines += "<li>Bar " + std::to_string(r_.song->meter.position(m.start).bar) + ", " + escaped(r_.element_name(m.element)) + ": " +
                             escaped(m.words) + "</li>";
            if (!lines.empty()) out_ += std::string("<h2>") + title + "</h2><ul>" + lines + "</ul>\n";
        }
    }

    const Remake& r_;
    const CheckReport& report_;
    const LeftOver* left_;
    std::string out_;
};

}  // namespace

std::string check_to_html(const Remake& remake, const CheckReport& report, const LeftOver* left) { return Page(remake, report, left).run(); }

}  // namespace fw
