// SPDX-License-Identifier: GPL-3.0-or-later
// Plug-ins from the command line: listed, added by script, rendered, and what is said of those that fail.
#include "outcome.hpp"

#include "formats/remake_file.hpp"
#include "support/remakes.hpp"

namespace fw {
namespace {

using test::expect_sentence;
using test::Outcome;
using test::run;
using test::slurp;
using test::TemporaryFolder;

const std::string kMade = std::string("LV2_PATH=") + FW_PLUG_INS_DIR;

/// A small remake changed by a script.
Outcome done(const TemporaryFolder& folder, const std::string& script) {
    EXPECT_TRUE(save_remake(folder / "song.fakturwerk", test::small_remake()));
    std::ofstream(folder / "script") << script;
    return run(folder, "do " + (folder / "song.fakturwerk").string() + " " + (folder / "script").string() + " -o " + (folder / "new.fakturwerk").string(),
               kMade);
}
Outcome rendered(const TemporaryFolder& folder, const std::string& to, const std::string& environment = kMade) {
    return run(folder, "render " + (folder / "new.fakturwerk").string() + " -o " + (folder / to).string(), environment);
}

TEST(CommandLinePlugIns, AreListedAddedByScriptAndRenderedTheSameEachTime) {
    const TemporaryFolder folder;
    const Outcome list = run(folder, "plug-ins", kMade);
    EXPECT_EQ(list.code, 0);
    EXPECT_NE(list.out.find("lv2:urn:fakturwerk:test:gain\n    Test gain, a step."), std::string::npos) << list.out;
    EXPECT_NE(list.out.find("gain: Gain, 0.00 to 2.00"), std::string::npos) << list.out;
    EXPECT_NE(list.out.find("takes a file\n    presets: Heavy, Plain\n"), std::string::npos) << list.out;
    const Outcome script = done(folder,
                                "step.add part=Bass kind=lv2:urn:fakturwerk:test:gain gain=0.5\n"
                                "part.add-layer part=Bass source=lv2:urn:fakturwerk:test:tone volume=0.2\n");
    ASSERT_EQ(script.code, 0) << script.err;
    ASSERT_EQ(rendered(folder, "a.wav").code, 0);
    ASSERT_EQ(rendered(folder, "b.wav").code, 0);
    EXPECT_EQ(slurp(folder / "a.wav"), slurp(folder / "b.wav"));
}

TEST(CommandLinePlugIns, OneThatIsMissingOrCrashesIsNamedAndNothingIsWritten) {
    const TemporaryFolder folder;
    ASSERT_EQ(done(folder, "step.add part=Bass kind=lv2:urn:fakturwerk:test:gain\n").code, 0);
    expect_sentence(rendered(folder, "a.wav", "LV2_PATH=/nowhere"), 2, "urn:fakturwerk:test:gain is not on this machine");
    ASSERT_EQ(done(folder, "step.add part=Bass kind=lv2:urn:fakturwerk:test:crash\n").code, 0);
    expect_sentence(rendered(folder, "a.wav"), 1, "Test crash has crashed");
    EXPECT_FALSE(std::filesystem::exists(folder / "a.wav"));
}

TEST(CommandLinePlugIns, WhereTheyCannotBeLookedThroughThatIsSaidAndNotThatThereAreNone) {
    const TemporaryFolder folder;
    expect_sentence(run(folder, "plug-ins", "FAKTURWERK_PLUG_IN_HOST=/bin/false"), 1, "looking through the plug-ins");
    expect_sentence(run(folder, "plug-ins", "FAKTURWERK_PLUG_IN_HOST=/nowhere"), 1, "looking through the plug-ins");
    const Outcome none = run(folder, "plug-ins", "LV2_PATH=/nowhere");
    EXPECT_EQ(none.code, 0);
    EXPECT_NE(none.out.find("no LV2 plug-ins"), std::string::npos) << none.out;
}

}  // namespace
}  // namespace fw
