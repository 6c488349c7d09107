// SPDX-License-Identifier: GPL-3.0-or-later
#include "sound/plug_ins/plug_ins.hpp"

#include "support/plug_ins.hpp"
#include "support/rendering.hpp"

#include <gtest/gtest.h>
#include <sys/wait.h>
#include <cmath>
#include <numbers>
#include <vector>

namespace fw {
namespace {

using Samples = std::vector<float>;

class PlugIns : public ::testing::Test {
protected:
    void SetUp() override { test::see_made_plug_ins(); }
    static std::unique_ptr<Processor> effect(const char* name) {
        const StepType* type = find_step_type(std::string("lv2:urn:fakturwerk:test:") + name);
        if (!type) return nullptr;
        auto made = type->made(44100.0);
        return made ? std::move(made).value() : nullptr;
    }
    static Samples wave(std::size_t frames) {
        Samples x(frames);
        for (std::size_t i = 0; i < frames; ++i) x[i] = 0.5F * static_cast<float>(std::sin(0.05 * static_cast<double>(i)));
        return x;
    }
};

TEST_F(PlugIns, AreFoundWithTheirFieldsAndWithoutThoseNoHostCanRun) {
    const StepType* gain = find_step_type("lv2:urn:fakturwerk:test:gain");
    ASSERT_TRUE(gain);
    EXPECT_STREQ(gain->label, "Test gain");
    ASSERT_EQ(gain->fields.size(), 3u) << "what it tells is no field";
    EXPECT_STREQ(gain->fields[0].id, "gain");
    EXPECT_EQ(gain->fields[0].high, 2.0);
    EXPECT_EQ(gain->fields[0].neutral, 1.0);
    EXPECT_STREQ(gain->fields[1].id, "level_") << "a layer has a level of its own";
    EXPECT_EQ(gain->fields[1].unit, Unit::Decibels);
    ASSERT_EQ(gain->fields[2].scale, Scale::Choice);
    EXPECT_EQ(value_text(gain->fields[2], 1.0), "left");
    EXPECT_EQ(find_step_type("lv2:urn:fakturwerk:test:turn")->fields[0].scale, Scale::Switch);
    EXPECT_TRUE(find_source_type("lv2:urn:fakturwerk:test:tone"));
    EXPECT_FALSE(find_step_type("lv2:urn:fakturwerk:test:tone")) << "an instrument hears nothing";
    EXPECT_FALSE(find_step_type("lv2:urn:fakturwerk:test:demanding"));
    EXPECT_FALSE(find_step_type("lv2:urn:nowhere"));
}

TEST_F(PlugIns, AnEffectDoesWhatItsFieldsSayAndTellsItsDelay) {
    const auto p = effect("gain");
    ASSERT_TRUE(p);
    EXPECT_EQ(p->latency(), 7u);
    p->set(0, 0.5);
    p->set(1, -20.0);
    const Samples in = wave(1000);
    Samples left = in, right = in;
    test::run(*p, left, right);
    for (std::size_t i = 7; i < 1000; ++i) ASSERT_NEAR(left[i], 0.05F * in[i - 7], 1e-6F) << i;
    p->set(2, 1.0);  // left only
    left = in, right = in;
    test::run(*p, left, right);
    for (std::size_t i = 7; i < 1000; ++i) ASSERT_EQ(right[i], 0.0F) << i;
    EXPECT_NEAR(left[500], 0.05F * in[493], 1e-6F);
}

TEST_F(PlugIns, ASingleChannelIsRunForEachSide) {
    const auto p = effect("turn");
    ASSERT_TRUE(p);
    const Samples in = wave(320);
    Samples left = in, right(320, 0.25F);
    test::run(*p, left, right);
    for (std::size_t i = 0; i < 320; ++i) {
        ASSERT_EQ(left[i], -in[i]);
        ASSERT_EQ(right[i], -0.25F);
    }
}

TEST_F(PlugIns, ResetIsAsFreshlyMade) {
    const auto used = effect("gain"), fresh = effect("gain");
    ASSERT_TRUE(used && fresh);
    Samples left = wave(100), right = left;
    test::run(*used, left, right);
    used->reset();
    Samples a = wave(200), b = a, c = a, d = a;
    test::run(*used, a, b);
    test::run(*fresh, c, d);
    EXPECT_EQ(a, c);
}

TEST_F(PlugIns, AnInstrumentPlaysTheKeyItIsStruckAndStopsWhenItIsReleased) {
    auto made = find_source_type("lv2:urn:fakturwerk:test:tone")->made({}, 44100.0);
    ASSERT_TRUE(made);
    Processor& p = **made;
    p.note_on(5, 69, 100);
    Samples left(44100, 0.0F), right = left;
    test::run(p, left, right);
    int crossings = 0;
    for (std::size_t i = 1; i < left.size(); ++i) crossings += left[i - 1] < 0.0F && left[i] >= 0.0F;
    EXPECT_NEAR(crossings, 440, 1);
    EXPECT_FALSE(p.idle());
    p.note_off(5);
    left.assign(3 * 44100, 0.0F), right = left;
    test::run(p, left, right);
    EXPECT_EQ(*std::max_element(left.begin() + 64, left.end()), 0.0F);
    EXPECT_TRUE(p.idle());
}

TEST_F(PlugIns, OneThatCrashesOrHangsIsLeftOutAndTakesNothingAlong) {
    for (const char* name : {"crash", "hang"}) {
        const auto p = effect(name);
        ASSERT_TRUE(p) << name;
        const Samples in = wave(12000);
        Samples left = in, right = in;
        test::run(*p, left, right);
        EXPECT_TRUE(p->failed()) << name;
        EXPECT_EQ(left, in) << name << ": what it hears is passed on";
        p->reset();
        p->process({std::span(left).first(32), std::span(right).first(32)}, {});
    }
}

TEST_F(PlugIns, ManyComeAndGoAndLeaveThisProcessAndItsGroupAlone) {
    // One that leaves by itself may be gone before it is ended: what is ended then must be nobody.
    Samples left = wave(64), right = left;
    for (int i = 0; i < 40; ++i) {
        const auto p = effect(i % 2 ? "gain" : "turn");
        ASSERT_TRUE(p);
        test::run(*p, left, right);
    }
    EXPECT_EQ(::waitpid(-1, nullptr, WNOHANG), -1) << "none is left behind";
}

TEST_F(PlugIns, APresetIsFieldsAndAStateThatGoesAlong) {
    const StepType* keeper = find_step_type("lv2:urn:fakturwerk:test:keeper");
    ASSERT_TRUE(keeper);
    const auto& presets = presets_of(*keeper->plug_in);
    ASSERT_EQ(presets.size(), 2u);
    EXPECT_EQ(presets[0].name, "Heavy");
    EXPECT_EQ(presets[0].fields, (std::vector<std::pair<std::size_t, double>>{{0, 0.5}}));
    EXPECT_NE(presets[0].state.find("keeper#weight"), std::string::npos) << presets[0].state;
    EXPECT_EQ(presets[1].name, "Plain");
    EXPECT_TRUE(presets[1].state.empty());
    EXPECT_EQ(state_of_line(state_line(presets[0].state)), presets[0].state);
    EXPECT_EQ(state_line(presets[0].state).find('\n'), std::string::npos);
    const auto left_of = [&](const std::string& state) {
        auto made = keeper->made(44100.0, state);
        EXPECT_TRUE(made);
        (*made)->set(0, 0.5);
        Samples left(64, 0.25F), right = left;
        test::run(**made, left, right);
        return left.back();
    };
    EXPECT_FLOAT_EQ(left_of({}), 0.125F);
    EXPECT_FLOAT_EQ(left_of(presets[0].state), 1.0F);
    EXPECT_FLOAT_EQ(left_of("this is no Turtle at all"), 0.125F) << "a state that says nothing changes nothing";
    EXPECT_TRUE(presets_of(*find_step_type("lv2:urn:fakturwerk:test:turn")->plug_in).empty());
    // All at once: what was known stays where it is, and nothing is there twice.
    know_all_presets();
    know_all_presets();
    EXPECT_EQ(&presets_of(*keeper->plug_in), &presets);
    EXPECT_EQ(presets.size(), 2u);
    EXPECT_TRUE(presets_of(*find_step_type("lv2:urn:fakturwerk:test:gain")->plug_in).empty());
}

TEST_F(PlugIns, AFileAndTheTimeAreTold) {
    const StepType* keeper = find_step_type("lv2:urn:fakturwerk:test:keeper");
    ASSERT_TRUE(keeper && keeper->plug_in->takes_file);
    EXPECT_FALSE(find_step_type("lv2:urn:fakturwerk:test:gain")->plug_in->takes_file);
    const auto none = keeper->made(44100.0, {}, "/no/such/sample.wav");
    ASSERT_FALSE(none);
    EXPECT_EQ(none.error().code, ErrorCode::FileMissing);
    auto made = keeper->made(44100.0, {}, "/etc/passwd");
    ASSERT_TRUE(made);
    ASSERT_TRUE((*made)->wants_time());
    MusicalTime time;
    time.bpm = 97.0, time.bar_beat = 2.5;
    (*made)->tell_time(time);
    Samples left(32, 0.0F), right = left;
    (*made)->process({left, right}, {});
    EXPECT_FLOAT_EQ(right.back(), 100.0F * 11 + 2.5F) << "/etc/passwd has eleven letters";
    EXPECT_FALSE(effect("gain")->wants_time());
}

TEST_F(PlugIns, WhatCannotBeStartedOrIsNotHereIsSaid) {
    const auto still = find_step_type("lv2:urn:fakturwerk:test:stillborn")->made(44100.0);
    ASSERT_FALSE(still);
    EXPECT_EQ(still.error().code, ErrorCode::PlugInUnusable);
    const StepType& gone = missing_plug_in_step("lv2:urn:made:by#Nobody");
    EXPECT_STREQ(gone.label, "Nobody (missing)");
    EXPECT_EQ(&gone, &missing_plug_in_step("lv2:urn:made:by#Nobody"));
    const auto made = gone.made(44100.0);
    ASSERT_FALSE(made);
    EXPECT_EQ(made.error().code, ErrorCode::PlugInMissing);
    EXPECT_NE(made.error().message().find("urn:made:by#Nobody"), std::string::npos);
}

}  // namespace
}  // namespace fw
