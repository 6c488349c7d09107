// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/evidence_store.hpp"

#include "analysis/analyst.hpp"
#include "analysis/archive.hpp"
#include "base/files.hpp"
#include "support/made_evidence.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <chrono>
#include <fstream>

namespace fw {

using test::TemporaryFolder;

namespace {

Evidence some_evidence() {
    Evidence e = test::silent_evidence(6.0);
    e.tuning = {14.1, 0.9, -0.5};
    test::play(e, 1.0, 2.0, 60);
    e.spectra = ByteGrid(e.pulse_frames(), MelSpectra::kBands);
    e.spectra.set(7, 3, 0.5F);
    return e;
}

void expect_same(const Evidence& a, const Evidence& b) {
    EXPECT_EQ(a.tuning.cents, b.tuning.cents);
    EXPECT_EQ(a.tuning.drift_cents, b.tuning.drift_cents);
    EXPECT_EQ(a.duration_s, b.duration_s);
    EXPECT_TRUE(a.pulse == b.pulse);
    EXPECT_TRUE(a.bands == b.bands);
    for (const auto grid : {&Evidence::spectra, &Evidence::sounding, &Evidence::onset, &Evidence::bass_sounding, &Evidence::bass_onset,
                            &Evidence::lead_sounding, &Evidence::lead_onset, &Evidence::level}) {
        EXPECT_EQ((a.*grid).columns(), (b.*grid).columns());
        EXPECT_EQ((a.*grid).cells(), (b.*grid).cells());
    }
}

std::filesystem::path only_file(const std::filesystem::path& folder) { return std::filesystem::directory_iterator(folder)->path(); }

}  // namespace

TEST(EvidenceStoreTest, GivesBackToTheBitWhatWasKeptAndNothingElse) {
    const TemporaryFolder folder;
    const EvidenceStore store(folder / "a/b");
    EXPECT_EQ(store.find(7), nullptr);
    store.keep(7, some_evidence());
    const auto found = store.find(7);
    ASSERT_TRUE(found);
    expect_same(*found, some_evidence());
    EXPECT_EQ(store.find(8), nullptr);
    EXPECT_EQ(EvidenceStore().find(7), nullptr);
}

TEST(EvidenceStoreTest, ADamagedFileOrOneOfAnotherRecordingIsAsGoodAsNone) {
    const TemporaryFolder folder;
    const EvidenceStore store(folder / "a");
    store.keep(7, some_evidence());
    const auto path = only_file(folder / "a");
    const auto whole = *read_file(path, 1 << 30);
    for (std::size_t at = 0; at < whole.size(); at += 1 + whole.size() / 97) {
        auto bad = whole;
        bad[at] ^= 4;
        std::ofstream(path, std::ios::binary).write(reinterpret_cast<const char*>(bad.data()), static_cast<std::streamsize>(bad.size()));
        EXPECT_EQ(store.find(7), nullptr) << at;
        std::filesystem::resize_file(path, at);
        EXPECT_EQ(store.find(7), nullptr) << at;
    }
    store.keep(7, some_evidence());
    std::filesystem::rename(path, folder / "a/0000000000000008.evidence");
    EXPECT_EQ(store.find(8), nullptr);
}

TEST(EvidenceStoreTest, WhatWasNotAskedForLongestGoesWhenThereIsTooMuch) {
    const TemporaryFolder folder;
    EvidenceStore(folder / "a").keep(1, some_evidence());
    const auto one = std::filesystem::file_size(only_file(folder / "a"));
    const EvidenceStore store(folder / "a", 2 * one + one / 2);
    const auto ago = [&](const char* name, int hours) {
        std::filesystem::last_write_time(folder / name, std::filesystem::file_time_type::clock::now() - std::chrono::hours(hours));
    };
    store.keep(2, some_evidence());
    ago("a/0000000000000001.evidence", 5);
    ago("a/0000000000000002.evidence", 3);
    ASSERT_TRUE(store.find(1)) << "asking for it makes it the younger one";
    store.keep(3, some_evidence());
    EXPECT_TRUE(store.find(1));
    EXPECT_FALSE(store.find(2));
    EXPECT_TRUE(store.find(3));
}

TEST(EvidenceStoreTest, AFolderThatCannotBeWrittenOnlyCostsTheListening) {
    const EvidenceStore store("/proc/nowhere");
    store.keep(7, some_evidence());
    EXPECT_EQ(store.find(7), nullptr);
}

TEST(EvidenceStoreTest, AnAnalysisOfKeptEvidenceHearsNothingAnewAndSaysTheSame) {
    const TemporaryFolder folder;
    std::vector<test::Tone> list;
    for (int i = 0; i < 20; ++i) list.push_back({0.5 + i * 0.5, 0.45, 48 + (i * 5) % 17});
    const auto mono = make_mono(test::tones(list, 11), "tones");
    ASSERT_TRUE(mono);
    const EvidenceStore store(folder / "a");
    const auto first = analyse(*mono, "tones", {}, {}, store);
    bool heard = false;
    const Progress watch([&](double, std::string_view stage) { heard = heard || stage.find("listening") != std::string_view::npos; });
    const auto second = analyse(*mono, "tones", watch, {}, store);
    ASSERT_TRUE(first && second);
    EXPECT_FALSE(heard);
    expect_same(*(*first)->evidence, *(*second)->evidence);
    ASSERT_EQ((*first)->notes.size(), (*second)->notes.size());
    for (std::size_t i = 0; i < (*first)->notes.size(); ++i) EXPECT_EQ((*first)->notes[i].onset_s, (*second)->notes[i].onset_s);
}

/// A made analysis with something in every list, so that a member that is not kept shows.
Analysis full_analysis() {
    Analysis a;
    a.path = "song.wav";
    a.duration_s = 61.5, a.sample_rate_hz = 48000, a.channels = 2, a.integrated_lufs = -14.25, a.content_hash = 77;
    a.remarks = {ErrorCode::AudioNotFinite};
    a.tuning = {14.0, 0.9, 1.5};
    a.tempo = {97.3, 0.01, true, 0.8, {{48.65, 0.2}}, {{0.0, 60.0, 97.3}}, {{1.0, 2.0}}};
    a.meter = {{3, 7, 8}};
    a.beats = {{0.5, 1, 1}, {1.1, 1, 2}};
    a.swing = {0.6, 16, 0.7};
    a.keys = {{0.0, 60.0, {2, Mode::Dorian}, 0.6, {{{9, Mode::Minor}, 0.3}}}};
    a.chords = {{0.0, 2.0, {2, 1, 5}, 0.7, {{{7, 0, 7}, 0.2}}}};
    a.sections = {{0.0, 8.0, 1, 4, "A", "verse", 2, 0.5, {{3, 1, 4.0, 6.0, "Bass", 1, 2, -3, "C:maj", "C:7"}}, 2}};
    a.presence = {{"Bass", 2, 7, 2.0, 16.0}};
    a.notes = {{1.0, 0.5, 60, 90, 0.8, {{0.1, -20.0}}}};
    a.parts = {{PartRole::Lead, "Lead", a.notes}};
    a.drums = {{0.5, DrumKind::Snare, 100, 0.9}};
    a.feel = {12, 3, {{DrumKind::Kick, {{3, 9, -4.5, 2.5, 88.0}}}}};
    return a;
}

std::string decisions(const Analysis& a) {
    archive::Writer w;
    w.put(a);
    return w.bytes;
}

TEST(KnownRecordings, AreToldWholeAsLongAsTheFileIsAsItWas) {
    const TemporaryFolder folder;
    const auto file = folder / "song.wav";
    const auto write = [&](const char* text) { std::ofstream(file) << text; };
    write("sound");
    const EvidenceStore store(folder / "a");
    EXPECT_FALSE(store.recall(file));
    Audio sound{44100, 2, {}, {}};
    for (int i = 0; i < 5000; ++i) sound.samples.push_back(static_cast<float>(i % 100) / 100.0F);
    const Peaks peaks(sound);
    const Analysis analysis = full_analysis();
    store.remember(file, analysis, peaks);
    EXPECT_FALSE(store.recall(file)) << "without its evidence it is of no use";
    store.keep(analysis.content_hash, some_evidence());
    const auto known = store.recall(file);
    ASSERT_TRUE(known);
    EXPECT_EQ(decisions(*known->analysis), decisions(analysis));
    EXPECT_NE(decisions(*known->analysis), decisions(Analysis{}));
    expect_same(*known->analysis->evidence, some_evidence());
    EXPECT_EQ(known->peaks.cells(), peaks.cells());
    EXPECT_EQ(known->peaks.duration_s(), peaks.duration_s());

    std::filesystem::copy(file, folder / "other.wav");
    EXPECT_FALSE(store.recall(folder / "other.wav")) << "another file may hold anything";
    std::filesystem::last_write_time(file, std::filesystem::last_write_time(file) + std::chrono::seconds(1));
    EXPECT_FALSE(store.recall(file)) << "it was written since";
    store.remember(file, analysis, peaks);
    EXPECT_TRUE(store.recall(file));
    write("longer sound");
    EXPECT_FALSE(store.recall(file));
    EXPECT_FALSE(EvidenceStore().recall(file));
}

}  // namespace fw
