// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/analysis_json.hpp"

#include "formats/check_json.hpp"

#include <gtest/gtest.h>
#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>

namespace fw {

namespace {
Analysis sample() {
    Analysis a;
    a.path = "song.flac";
    a.duration_s = 108.4;
    a.sample_rate_hz = 44100;
    a.channels = 2;
    a.integrated_lufs = -11.9;
    a.tuning = {14.1, 0.9, 0.3};
    a.tempo = {97.31, 0.02, true, 0.93, {{48.66, 0.4}}, {{0.52, 88.1, 97.31}, {88.1, 108.4, 110.62}}, {{60.0, 66.5}}};
    a.meter = {{1, 4, 4}};
    a.beats = {{0.52, 1, 1}, {1.14, 1, 2}};
    a.swing = {0.57, 16, 0.7};
    a.keys = {{0.0, 108.4, {2, Mode::Dorian}, 0.8, {{Key{9, Mode::Minor}, 0.5}}}};
    a.chords = {{0.52, 2.99, *parse_chord("Dm7/F"), 0.7, {{*parse_chord("F6"), 0.4}}}};
    a.sections = {{0.52, 10.4, 1, 4, "A", "intro", -1, 0.6}, {10.4, 20.0, 5, 4, "A", "verse", 0, 0.7, {{7, 3, 15.0, 17.4, "kick", 1, 0}}}};
    a.presence = {{"Bass", 5, 4, 10.4, 20.0}};
    a.notes = {{0.53, 0.41, 38, 96, 0.8}};
    a.parts = {{PartRole::Bass, "Bass", {{0.53, 0.41, 38, 96, 0.8, {{0.0, -120.0}, {0.2, 0.0}}}}}};
    a.drums = {{0.52, DrumKind::HatOpen, 110, 0.9}};
    a.feel = {16, 4, {{DrumKind::HatOpen, {{0, 3, 1.2, 5.1, 104.0}}}}};
    return a;
}

/// The examples of the page that documents the formats, in their order.
std::vector<nlohmann::json> documented() {
    std::ifstream in(std::string(FW_DEMO_DIR) + "/../docs/analysis-json.md");
    const std::string page{std::istreambuf_iterator<char>(in), {}};
    std::vector<nlohmann::json> out;
    for (std::size_t at = page.find("```json\n"); at != std::string::npos; at = page.find("```json\n", at + 8))
        out.push_back(nlohmann::json::parse(page.substr(at + 8, page.find("```", at + 8) - at - 8)));
    return out;
}

/// The keys of both, all the way down the first and last items of lists, must be the same.
void expect_same_keys(const nlohmann::json& page, const nlohmann::json& written, const std::string& where) {
    if (page.is_array() && written.is_array()) {
        if (page.empty() || written.empty()) return;
        expect_same_keys(page.front(), written.front(), where + "[0]");
        expect_same_keys(page.back(), written.back(), where + "[last]");
        return;
    }
    if (!page.is_object()) return;
    ASSERT_TRUE(written.is_object()) << where;
    for (const auto& [key, value] : page.items()) {
        ASSERT_TRUE(written.contains(key)) << where << "." << key << " is documented, not written";
        expect_same_keys(value, written[key], where + "." + key);
    }
    for (const auto& [key, value] : written.items()) EXPECT_TRUE(page.contains(key)) << where << "." << key << " is written, not documented";
}
}  // namespace

TEST(AnalysisJson, TheDocumentedKeysAreThoseThatAreWritten) {
    const auto pages = documented();
    ASSERT_EQ(pages.size(), 2u);
    expect_same_keys(pages[0], nlohmann::json::parse(analysis_to_json(sample())), "analysis");
    CheckReport report;
    report.elements = {{PartId(1), "Bass", "part", {0.9, {}, 0.8}, "notes", {0.9, std::nullopt}}};
    Finding f;
    f.pitch = 41;
    f.expected_pitch = 40;
    report.findings = {f};
    report.sound.tone = {{1000, -32, -30}};
    report.sound.width = {{"low", 0.1, 0.2}};
    expect_same_keys(pages[1], nlohmann::json::parse(check_to_json(report)), "check");
}

TEST(AnalysisJson, SaysWhatTheAnalysisSays) {
    const auto j = nlohmann::json::parse(analysis_to_json(sample()));
    EXPECT_EQ(j["schema"], "fakturwerk-analysis/1");
    EXPECT_NEAR(j["tuning"]["a4_hz"].get<double>(), 443.6, 0.02);
    EXPECT_EQ(j["tempo"]["segments"].size(), 2u);
    EXPECT_EQ(j["key"][0]["tonic"], "D");
    EXPECT_EQ(j["key"][0]["mode"], "dorian");
    EXPECT_EQ(j["key"][0]["alternatives"][0]["mode"], "minor");
    EXPECT_EQ(j["chords"][0]["label"], "D:min7/b3");
    EXPECT_EQ(j["chords"][0]["alternatives"][0]["label"], "F:maj6");
    EXPECT_TRUE(j["sections"][0]["repeat_of"].is_null());
    EXPECT_EQ(j["sections"][1]["repeat_of"], 0);
    EXPECT_EQ(j["sections"][0]["differences"].size(), 0u);
    EXPECT_EQ(j["sections"][1]["differences"][0]["of_bar"], 3);
    EXPECT_EQ(j["sections"][1]["differences"][0]["missing"], 1);
    EXPECT_EQ(j["presence"][0]["element"], "Bass");
    EXPECT_EQ(j["presence"][0]["bars"], 4);
    EXPECT_EQ(j["tempo"]["free_time"][0]["end_s"], 66.5);
    EXPECT_EQ(j["parts"][0]["notes"][0]["bend"], (nlohmann::json{{0.0, -120.0}, {0.2, 0.0}}));
    EXPECT_FALSE(j["notes"][0].contains("bend"));
    EXPECT_EQ(j["parts"][0]["role"], "bass");
    EXPECT_EQ(j["drums"][0]["kind"], "hat_open");
    EXPECT_EQ(j["beats"][1]["beat"], 2);
}

TEST(AnalysisJson, AFileNameOfAnyBytesIsNoReasonToFail) {
    Analysis a = sample();
    a.path = "caf\xe9 \xff.wav";
    EXPECT_TRUE(nlohmann::json::accept(analysis_to_json(a)));
}

TEST(AnalysisJson, EveryDrumKindAndRoleHasANameThatReadsBack) {
    for (int k = 0; k < kDrumKinds; ++k) EXPECT_EQ(parse_drum_kind(drum_sound(static_cast<DrumKind>(k)).id), static_cast<DrumKind>(k));
    EXPECT_FALSE(parse_drum_kind("gong"));
    for (const PartRole r : {PartRole::Bass, PartRole::Lead, PartRole::Chords, PartRole::Other}) EXPECT_GT(std::string(part_role_name(r)).size(), 3u);
}

TEST(AnalysisJson, NothingHeardIsEmptyListsNotMissingOnes) {
    const auto j = nlohmann::json::parse(analysis_to_json(Analysis{}));
    for (const char* key : {"meter", "beats", "key", "chords", "sections", "presence", "parts", "notes", "drums"}) {
        ASSERT_TRUE(j.contains(key)) << key;
        EXPECT_TRUE(j[key].is_array() && j[key].empty()) << key;
    }
}

}  // namespace fw
