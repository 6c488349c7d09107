// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/check_html.hpp"

#include "model/edits.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <algorithm>

namespace fw {

using test::kBass;
using test::small_remake;

namespace {

bool says(const std::string& page, const std::string& words) { return page.find(words) != std::string::npos; }

CheckReport report_of(const Remake& r) {
    CheckReport report;
    report.match = {0.87, 0.71, 0.8};
    report.elements.push_back({ElementId(kBass), "Bass", "part", {0.5, {}, 0.9}, "notes of the part", {0.5, {}}, {0.5}, 1.0});
    report.bars = {0.5, {}};
    report.sections = std::vector<std::optional<double>>(r.song->sections.size(), 0.5);
    report.sound.tone = {{1000, -32, -30}, {2000, -40, -60}};
    report.sound.width = {{"low", 0.1, 0.2}};
    Finding f;
    f.kind = FindingKind::WrongPitch;
    f.element = ElementId(kBass);
    f.name = "Bass";
    f.place = "bar 3 beat 2";
    f.pitch = 41, f.expected_pitch = 40;
    f.confidence = 0.83;
    f.remedy = remedy::SetPitch{{}, 40};
    report.findings.push_back(f);
    f.confidence = 0.2;
    f.place = "bar 9 beat 1";
    report.findings.push_back(f);
    return report;
}

}  // namespace

TEST(CheckHtml, SaysFiguresFindingsWhatIsMeantAndWhatIsOpen) {
    Remake r = small_remake();
    r = add_remark(r, {RemarkKind::Intended, ElementId(kBass), 0, 960, "played <softer> & later", {}});
    ElementState state = r.element(ElementId::key());
    state.question = "minor or dorian?";
    r = set_element(r, ElementId::key(), state);
    LeftOver left;
    LeftMoment m;
    m.bar = 2, m.low_hz = 500, m.high_hz = 1000, m.share = 0.8, m.below_db = -6, m.pitch = 67;
    left.moments.push_back(m);
    const std::string page = check_to_html(r, report_of(r), &left);
    EXPECT_TRUE(page.starts_with("<!DOCTYPE html>"));
    for (const char* words : {"Notes <b>87 %</b>", "sound <b>71 %</b>", "Bar 3 beat 2: Bass plays F2, the original E2.", "set the pitch to E2", "83 %",
                              "1 finding, and perhaps 1 more", "played &lt;softer&gt; &amp; later", "minor or dorian?",
                              "bar 2, 500 Hz to 1.0 kHz: 80 % is not rebuilt, around G4", "Bass: notes 50 %"})
        EXPECT_TRUE(says(page, words)) << words;
    EXPECT_FALSE(says(page, "bar 9 beat 1")) << "what is less sure is counted only";
    EXPECT_FALSE(says(page, "<softer>"));
    // Nothing is loaded from elsewhere, and every tag that opens closes.
    for (const char* foreign : {"http:", "https:", "src=", "@import", "url("}) EXPECT_FALSE(says(page, foreign)) << foreign;
    for (const char* tag : {"table", "tr", "td", "th", "svg", "ul", "ol", "li", "p", "h2", "g", "body", "html"}) {
        const auto count = [&](const std::string& what) {
            int n = 0;
            for (std::size_t at = page.find(what); at != std::string::npos; at = page.find(what, at + 1)) ++n;
            return n;
        };
        EXPECT_EQ(count("<" + std::string(tag) + ">") + count("<" + std::string(tag) + " "), count("</" + std::string(tag) + ">")) << tag;
    }
}

TEST(CheckHtml, OfNothingBuiltItShowsNoFigure) {
    Remake r = small_remake();
    const std::string page = check_to_html(r, CheckReport{}, nullptr);
    EXPECT_TRUE(says(page, "Nothing is built yet"));
    EXPECT_FALSE(says(page, "100 %"));
    EXPECT_TRUE(says(page, "0 findings, and perhaps 0 more"));
}

}  // namespace fw
