// SPDX-License-Identifier: GPL-3.0-or-later
// Sampled instruments in open text become layers.
#include "formats/sfz.hpp"

#include "model/validate.hpp"

#include "../../support/remakes.hpp"
#include "../../support/signals.hpp"

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>

namespace fw {
namespace {

using namespace test;

class Sfz : public ::testing::Test {
protected:
    void SetUp() override {
        std::filesystem::create_directories(folder / "samples");
        for (const char* name : {"low a.wav", "high.wav"}) ASSERT_TRUE(write_audio(folder / "samples" / name, sine(220.0, 1.0)));
    }
    void TearDown() override { std::filesystem::remove_all(folder); }
    std::filesystem::path write(const std::string& text) const {
        std::ofstream(folder / "a.sfz") << text;
        return folder / "a.sfz";
    }
    Result<Sampled> read(const std::string& text) const { return read_sfz(write(text), small_remake(), kBass); }
    std::filesystem::path folder = std::filesystem::temp_directory_path() / ("sfz test " + std::to_string(::getpid()));

    static double value(const Layer& l, const char* field) { return l.value(*index_of_field(kSampler.fields, field)); }
};

TEST_F(Sfz, RegionsBecomeLayersWithWhatTheirGroupsSay) {
    const auto sampled = read(
        "// an organ\n<control> default_path=samples\\\n<global> ampeg_release=0.25 volume=-6\n<group> lovel=1 hivel=90 // soft\n"
        "<region> sample=low a.wav lokey=36 hikey=59 pitch_keycenter=a3 tune=-12 pan=-50\n"
        "<region> sample=high.wav key=c5 volume=2 loop_mode=loop_continuous loop_start=11025 loop_end=33074 <group> lovel=91\n"
        "<region> sample=high.wav lokey=60 hikey=72 transpose=-1 ampeg_attack=0.05 loop_mode=one_shot offset=4410\n");
    ASSERT_TRUE(sampled) << sampled.error().message();
    EXPECT_EQ(sampled->regions, 3u);
    EXPECT_EQ(sampled->used, 3u);
    ASSERT_FALSE(what_is_wrong(sampled->remake));
    const auto& layers = sampled->remake.part(kBass)->layers;
    ASSERT_EQ(layers.size(), 3u);
    EXPECT_EQ(std::filesystem::path(layers[0].file).filename(), "low a.wav");
    EXPECT_TRUE(std::filesystem::exists(layers[0].file));
    EXPECT_EQ(layers[0].low_key, 36.0);
    EXPECT_EQ(layers[0].high_key, 59.0);
    EXPECT_EQ(value(layers[0], "root"), 57.0);
    EXPECT_EQ(value(layers[0], "tune"), -12.0);
    EXPECT_EQ(layers[0].pan, -0.5);
    EXPECT_EQ(layers[0].gain_db, -6.0) << "of all of them";
    EXPECT_EQ(layers[0].high_velocity, 90.0);
    EXPECT_EQ(value(layers[0], "release_ms"), 250.0);
    EXPECT_EQ(layers[1].low_key, 72.0) << "c5";
    EXPECT_EQ(layers[1].high_key, 72.0);
    EXPECT_EQ(layers[1].gain_db, 2.0) << "its own";
    EXPECT_EQ(value(layers[1], "loop"), 1.0);
    EXPECT_NEAR(value(layers[1], "length"), 0.75, 1e-3);
    EXPECT_NEAR(value(layers[1], "loop_start"), 0.25 / 0.75, 1e-3);
    EXPECT_EQ(layers[2].low_velocity, 91.0);
    EXPECT_EQ(layers[2].tune_cents, -100.0);
    EXPECT_EQ(value(layers[2], "one_shot"), 1.0);
    EXPECT_NEAR(value(layers[2], "start"), 0.1, 1e-3);
    EXPECT_EQ(value(layers[2], "attack_ms"), 50.0);
}

TEST_F(Sfz, WhatASampleDoesNotStrikeIsLeftOutAndTooManyAreThinned) {
    const auto few = read(
        "<region> sample=samples/high.wav trigger=release <region> sample=*sine <region> sample=samples/high.wav seq_position=2 "
        "<region> sample=samples/high.wav sw_last=24 sw_default=25 <region> sample=samples/high.wav sw_last=25 sw_default=25");
    ASSERT_TRUE(few) << few.error().message();
    EXPECT_EQ(few->used, 1u);
    std::string many;
    for (int key = 21; key <= 108; ++key)
        for (const char* velocity : {"lovel=1 hivel=63", "lovel=64 hivel=127"})
            many += "<region> sample=samples/high.wav key=" + std::to_string(key) + " " + velocity + "\n";
    const auto sampled = read(many);
    ASSERT_TRUE(sampled) << sampled.error().message();
    EXPECT_EQ(sampled->regions, 176u);
    EXPECT_EQ(sampled->used, 16u);
    const auto& layers = sampled->remake.part(kBass)->layers;
    EXPECT_EQ(layers.front().low_key, 21.0);
    EXPECT_EQ(layers.back().high_key, 108.0);
    for (std::size_t i = 0; i < layers.size(); ++i) {
        EXPECT_EQ(layers[i].low_velocity, 1.0);
        EXPECT_GE(value(layers[i], "root"), layers[i].low_key);
        EXPECT_LE(value(layers[i], "root"), layers[i].high_key);
        if (i > 0) {
            EXPECT_EQ(layers[i].low_key, layers[i - 1].high_key + 1) << "every key is played, once";
        }
    }
    EXPECT_FALSE(what_is_wrong(sampled->remake));
}

TEST_F(Sfz, WhatIsNoInstrumentIsSaidInOneSentence) {
    const auto why = [&](const std::string& text) {
        const auto sampled = read(text);
        EXPECT_FALSE(sampled) << text;
        return sampled ? std::string() : sampled.error().message();
    };
    EXPECT_NE(why("").find("no region of it names a sample"), std::string::npos);
    EXPECT_NE(why("no such text = at all\n<<<>>>").find("no region"), std::string::npos);
    EXPECT_NE(why("#include \"more.sfz\"\n").find("includes other files"), std::string::npos);
    EXPECT_NE(why("<region> sample=gone.wav").find("its sample gone.wav cannot be read"), std::string::npos);
    std::string noise;
    unsigned n = 7;
    for (int i = 0; i < 20000; ++i) n = n * 1664525u + 1013904223u, noise += static_cast<char>(n >> 24);
    EXPECT_FALSE(why(noise).empty());
    EXPECT_FALSE(read_sfz(folder / "nowhere.sfz", small_remake(), kBass));
    EXPECT_FALSE(read_sfz(write("<region> sample=samples/high.wav"), small_remake(), PartId(99)));
}

}  // namespace
}  // namespace fw
