// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/chart_html.hpp"

#include "commands/command.hpp"
#include "model/edits.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>

namespace fw {

namespace {

std::string chart_after(const std::string& script) {
    const auto r = run_script(test::small_remake(), script, "script");
    EXPECT_TRUE(r) << (r ? "" : r.error().message());
    return r ? chart_to_html(*r) : std::string();
}
bool has(const std::string& page, const std::string& text) { return page.find(text) != std::string::npos; }

}  // namespace

TEST(Chart, SaysTempoKeyAndTheChordsBarByBar) {
    const std::string page = chart_to_html(test::small_remake());
    EXPECT_TRUE(has(page, "120.00 BPM"));
    EXPECT_TRUE(has(page, "4/4"));
    EXPECT_TRUE(has(page, "D dorian"));
    EXPECT_TRUE(has(page, "bars 1 to 4"));
    EXPECT_TRUE(has(page, "bars 5 to 8"));
    const std::string name = test::small_remake().song->chords[0].chord.name(false);
    EXPECT_TRUE(has(page, "<span class=\"bar\">1</span>" + name + "</td><td><span class=\"bar\">2</span><span class=\"faint\">–</span>"))
        << "a chord that goes on is a dash";
}

TEST(Chart, SaysWhatEachElementSoundsWithWhatWasSetAndWhereItGoes) {
    const std::string page = chart_after(R"(field.set part=Bass layer=1 field=cutoff value=700Hz
step.add part=Bass kind=duck by=Drums sound=Kick depth=9dB
step.add part=Bass kind=equaliser low=3dB
field.set part=Bass step=equaliser field=on value=off
bus.add name="Quay <room>"
send.add part=Bass bus="Quay <room>" level=-8dB
step.add bus="Quay <room>" kind=plate decay_s=2.4 mix=100%
bus.add name=Hull
bus.output bus="Quay <room>" to=Hull
part.fall-out part=Drums from=5 to=9
curve.set part=Bass field=level section=#1 points="1 0dB, 3 -6dB"
)");
    EXPECT_TRUE(has(page, "Round bass, cutoff 700 Hz"));
    EXPECT_TRUE(has(page, "Duck by Drums, depth 9.0 dB"));
    EXPECT_FALSE(has(page, "Equaliser")) << "what is off is not told";
    EXPECT_TRUE(has(page, "and to Quay &lt;room&gt;, level −8.0 dB")) << page;
    EXPECT_TRUE(has(page, "Plate, decay 2.40 s"));
    EXPECT_TRUE(has(page, "<li>To Hull")) << "where a bus goes";
    EXPECT_FALSE(has(page, "<room>")) << "a name is text and not markup";
    EXPECT_TRUE(has(page, "level moves in verse"));
    EXPECT_TRUE(has(page, "drums; plays in verse 1<")) << "and no more in the second";
}

TEST(Chart, AnEmptySongIsAPageToo) {
    const std::string page = chart_to_html(Remake{});
    EXPECT_TRUE(has(page, "no key"));
    EXPECT_TRUE(page.ends_with("</html>\n"));
}

}  // namespace fw
