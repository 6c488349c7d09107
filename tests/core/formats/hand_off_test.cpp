// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/hand_off.hpp"

#include "audio/audio_file.hpp"
#include "base/files.hpp"
#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <algorithm>

namespace fw {

using test::small_remake;
using test::TemporaryFolder;

namespace {

HandOff job_for(const Remake& remake, const std::filesystem::path& folder, std::vector<Delivery> wanted) {
    HandOff job;
    job.remake = std::make_shared<const Remake>(remake);
    job.wanted = std::move(wanted);
    job.folder = folder;
    return job;
}

}  // namespace

TEST(StemNames, AreWhatADiskCanHoldWhateverAPartIsCalled) {
    EXPECT_EQ(stem_file_name(3, "Bass"), "03 Bass.wav");
    EXPECT_EQ(stem_file_name(120, "Grüße"), "120 Grüße.wav");
    EXPECT_EQ(stem_file_name(1, "../a\\b:c\n"), "01 ..-a-b-c-.wav");
    EXPECT_EQ(stem_file_name(1, "caf\xE9"), "01 café.wav");
    std::string long_name;
    for (int i = 0; i < 500; ++i) long_name += "ü";
    const std::string file = stem_file_name(1, long_name);
    EXPECT_LT(file.size(), 200u);
    EXPECT_TRUE(is_utf8(file)) << "cut between letters";
}

TEST(HandOffWork, WritesWhatIsWantedAndNothingElse) {
    const TemporaryFolder folder;
    const auto files = hand_off(job_for(small_remake(), folder / "out", {Delivery::Stems, Delivery::Midi}), {});
    ASSERT_TRUE(files);
    EXPECT_EQ(*files, 3);
    EXPECT_TRUE(std::filesystem::exists(folder / "out/stems/01 Bass.wav"));
    EXPECT_TRUE(std::filesystem::exists(folder / "out/stems/02 Drums.wav"));
    EXPECT_TRUE(std::filesystem::exists(folder / "out/parts.mid"));
    EXPECT_FALSE(std::filesystem::exists(folder / "out/mix.wav"));
}

TEST(HandOffWork, TheMixIsWhatRenderingGives) {
    const TemporaryFolder folder;
    ASSERT_TRUE(hand_off(job_for(small_remake(), folder / "out", {Delivery::Mix}), {}));
    const auto written = read_audio(folder / "out/mix.wav");
    const auto rendered = render_offline(*compile_plan(small_remake(), {44100.0, {}}));
    ASSERT_TRUE(written && rendered);
    ASSERT_EQ(written->samples.size(), rendered->samples.size());
    for (std::size_t i = 0; i < written->samples.size(); i += 7) ASSERT_NEAR(written->samples[i], rendered->samples[i], 2e-7F) << "24 bits";
}

TEST(HandOffWork, BusesAndClipsAreStemsAndTheOriginalCanBeLeftOut) {
    const TemporaryFolder folder;
    auto original = std::make_shared<const Audio>(test::sine(440, 17.0));
    Remake r = add_bus(small_remake(), "Room");
    r = add_clip(r, from_original(r, "Hit", 1.0, 1.5), {});
    HandOff job = job_for(r, folder / "out", {Delivery::Stems});
    job.assets = assets_beside(original);
    EXPECT_EQ(*hand_off(job, {}), 4);
    EXPECT_TRUE(std::filesystem::exists(folder / "out/stems/03 Room.wav"));
    EXPECT_TRUE(std::filesystem::exists(folder / "out/stems/04 Clips.wav"));
    job.folder = folder / "without";
    job.without_original = true;
    EXPECT_EQ(*hand_off(job, {}), 3);
    EXPECT_FALSE(std::filesystem::exists(folder / "without/stems/04 Clips.wav"));
}

TEST(HandOffWork, PartsOfOneNameGetAFileEach) {
    const TemporaryFolder folder;
    const Remake r = with_part(with_part(small_remake(), test::kBass, [](Part& p) { p.name = "Same"; }), test::kDrums, [](Part& p) { p.name = "Same"; });
    ASSERT_TRUE(hand_off(job_for(r, folder / "out", {Delivery::Stems}), {}));
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder / "out/stems"), {}), 2);
}

TEST(HandOffWork, StoppingLeavesNoHalfFileAndASilentLayerIsAnError) {
    const TemporaryFolder folder;
    Progress progress;
    progress.cancel();
    EXPECT_EQ(hand_off(job_for(small_remake(), folder / "out", {Delivery::Mix, Delivery::Stems}), progress).error().code, ErrorCode::Cancelled);
    EXPECT_TRUE(std::filesystem::is_empty(folder / "out"));
    const Remake silent = with_part(small_remake(), test::kBass, [](Part& p) { p.layers[0].source = &kSoundFont, p.layers[0].file = "/nowhere.sf2"; });
    EXPECT_EQ(hand_off(job_for(silent, folder / "out", {Delivery::Stems}), {}).error().code, ErrorCode::SoundFontUnusable);
    EXPECT_TRUE(std::filesystem::is_empty(folder / "out"));
}

TEST(HandOffWork, NothingIsWrittenOverTheOriginal) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_audio(folder / "01 Bass.wav", test::sine(440, 1.0)));
    HandOff job = job_for(small_remake(), folder.path(), {Delivery::Stems});
    std::filesystem::create_directory(folder / "stems");
    std::filesystem::create_hard_link(folder / "01 Bass.wav", folder / "stems/01 Bass.wav");
    job.inputs = {folder / "01 Bass.wav"};
    EXPECT_EQ(hand_off(job, {}).error().code, ErrorCode::OverwritesInput);
    EXPECT_NEAR(read_audio(folder / "01 Bass.wav")->duration_s(), 1.0, 1e-6);
}

TEST(HandOffWork, TheCondensedMixIsShorterAndIsThereOnlyWhereSomethingIsLeftOut) {
    const auto folder = std::filesystem::temp_directory_path() / "fw_hand_off_condensed";
    std::filesystem::remove_all(folder);
    const Remake whole = test::small_remake(), shorter = leave_out_of_condensed(whole, whole.song->sections[0].id, true);
    const auto none = hand_off(job_for(whole, folder / "whole", {Delivery::Mix, Delivery::Condensed}), {});
    ASSERT_TRUE(none);
    EXPECT_EQ(*none, 1);
    const auto both = hand_off(job_for(shorter, folder / "both", {Delivery::Mix, Delivery::Condensed}), {});
    ASSERT_TRUE(both) << both.error().message();
    EXPECT_EQ(*both, 2);
    const auto mix = read_audio(folder / "both/mix.wav"), condensed_mix = read_audio(folder / "both/mix condensed.wav");
    ASSERT_TRUE(mix && condensed_mix);
    EXPECT_NEAR(mix->duration_s() - condensed_mix->duration_s(), 8.0, 0.05) << "four bars at 120";
    std::filesystem::remove_all(folder);
}

}  // namespace fw
