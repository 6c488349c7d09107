// SPDX-License-Identifier: GPL-3.0-or-later
// The real command line, run as a user runs it: exit codes, one sentence on standard error, files on disk.
#include "audio/audio_file.hpp"
#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"
#include "support/float_wav.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <sndfile.h>
#include <sys/wait.h>
#include <array>
#include <cstdio>
#include <fstream>
#include <limits>
#include <nlohmann/json.hpp>

namespace fw {

namespace {

using test::TemporaryFolder;

struct Outcome {
    int code = -1;
    std::string out, err;
};

std::string slurp(const std::filesystem::path& p) {
    std::ifstream in(p, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

Outcome run(const TemporaryFolder& folder, const std::string& arguments) {
    const std::string out = (folder / "stdout").string(), err = (folder / "stderr").string();
    const int status = std::system((std::string(FW_CLI) + " " + arguments + " >" + out + " 2>" + err).c_str());
    return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, slurp(out), slurp(err)};
}

/// One clear sentence: it names the file, ends in a full stop and stands alone.
void expect_sentence(const Outcome& r, int code, const std::string& subject) {
    EXPECT_EQ(r.code, code) << r.err;
    EXPECT_NE(r.err.find(subject), std::string::npos) << r.err;
    EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
    EXPECT_EQ(r.err.substr(r.err.size() - 2), ".\n") << r.err;
    EXPECT_TRUE(r.out.empty());
}

const std::string kDemo = std::string(FW_DEMO_DIR) + "/lantern-ferry.ogg";

}  // namespace

TEST(CommandLine, TheWholeJobFromRecordingToExport) {
    const TemporaryFolder folder;
    const std::string remake = (folder / "song.fakturwerk").string();
    Outcome r = run(folder, "new " + kDemo + " -o " + remake);
    ASSERT_EQ(r.code, 0) << r.err;
    EXPECT_TRUE(r.out.empty());
    r = run(folder, "render " + remake + " -o " + (folder / "mix.wav").string() + " --stems " + (folder / "stems").string());
    ASSERT_EQ(r.code, 0) << r.err;
    const auto mix = read_audio(folder / "mix.wav");
    ASSERT_TRUE(mix);
    EXPECT_GT(mix->duration_s(), 100.0);
    const auto opened = load_remake(remake);
    ASSERT_TRUE(opened);
    EXPECT_EQ(static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(folder / "stems"), {})), opened->parts.size());
    r = run(folder, "check " + remake);
    ASSERT_EQ(r.code, 0) << r.err;
    const auto report = nlohmann::json::parse(r.out);
    EXPECT_EQ(report["schema"], "fakturwerk-check/1");
    EXPECT_GT(report["match"].get<double>(), 0.8);
    EXPECT_EQ(report["tone"].size(), 29u);
    r = run(folder, "export " + remake + " --midi " + (folder / "a.mid").string());
    ASSERT_EQ(r.code, 0) << r.err;
    const auto parts = read_midi(folder / "a.mid");
    ASSERT_TRUE(parts);
    EXPECT_EQ(parts->size(), opened->parts.size());
    // And back in again: the exported parts placed on the same recording.
    r = run(folder, "new " + kDemo + " --midi " + (folder / "a.mid").string() + " --offset " + std::to_string(opened->tempo.seconds(Ticks{0})) + " -o " +
                        (folder / "b.fakturwerk").string());
    ASSERT_EQ(r.code, 0) << r.err;
    const auto again = load_remake(folder / "b.fakturwerk");
    ASSERT_TRUE(again);
    ASSERT_EQ(again->parts.size(), opened->parts.size());
    const auto was = test::sounding(*opened, opened->parts[0]->id), is = test::sounding(*again, again->parts[0]->id);
    ASSERT_EQ(was.size(), is.size());
    for (std::size_t i = 0; i < was.size(); ++i)
        EXPECT_NEAR(std::max(was[i].first, opened->tempo.seconds(Ticks{0})), is[i].first, 0.01)
            << "a MIDI file begins at tick 0: what is played ahead of it moves there";
}

TEST(CommandLine, AnalyseWritesTheDocumentedJsonToStandardOutput) {
    const TemporaryFolder folder;
    const Outcome r = run(folder, "analyse " + kDemo);
    ASSERT_EQ(r.code, 0) << r.err;
    const auto j = nlohmann::json::parse(r.out);
    EXPECT_EQ(j["schema"], "fakturwerk-analysis/1");
    for (const char* key : {"reference", "tuning", "tempo", "meter", "beats", "swing", "key", "chords", "sections", "parts", "notes", "drums"})
        EXPECT_TRUE(j.contains(key)) << key;
    EXPECT_NEAR(j["reference"]["integrated_lufs"].get<double>(), -11.5, 1.0);
    for (const auto& b : j["beats"]) ASSERT_GE(b["beat"].get<int>(), 1);
    double last = -1;
    for (const auto& n : j["notes"]) {
        ASSERT_GE(n["onset_s"].get<double>(), last);
        last = n["onset_s"];
    }
}

TEST(CommandLine, WrongUsageSaysSoAndExitsWithTwo) {
    const TemporaryFolder folder;
    for (const char* bad : {"", "sing", "analyse", "analyse a b c", "render x.fakturwerk", "new x --wings -o y", "export x"})
        EXPECT_EQ(run(folder, bad).code, 2) << bad;
    EXPECT_EQ(run(folder, "--help").code, 0);
    EXPECT_EQ(run(folder, "analyse --help").code, 0);
}

TEST(CommandLine, BadRecordingsGetOneSentenceEach) {
    const TemporaryFolder folder;
    const auto write = [&](const std::string& name, const Audio& a) { test::write_float_wav(folder / name, a); };
    std::ofstream(folder / "empty.wav").close();
    std::ofstream(folder / "text.mp3") << std::string(9000, 'q');
    write("short.wav", test::sine(440, 0.2));
    write("silent.wav", test::sine(440, 2, 44100, 2, 0.0F));
    for (const char* name : {"missing.wav", "empty.wav", "text.mp3", "short.wav", "silent.wav"})
        expect_sentence(run(folder, "analyse " + (folder / name).string()), 2, name);
    Audio nan = test::sine(440, 2);
    for (std::size_t i = 0; i < nan.samples.size(); i += 3) nan.samples[i] = std::numeric_limits<float>::quiet_NaN();
    write("nan.wav", nan);
    for (const auto& [name, rate, channels] : {std::tuple{"low.wav", 8000, 1}, {"high.wav", 192000, 2}, {"six.wav", 48000, 6}})
        write(name, test::sine(220, 2, rate, channels));
    for (const char* name : {"nan.wav", "low.wav", "high.wav", "six.wav"})
        expect_sentence(run(folder, "analyse " + (folder / name).string() + " -o " + (folder / "a.json").string()), 0, name);
    // The reference is recognised whichever way its channels were read.
    ASSERT_EQ(run(folder, "new " + (folder / "six.wav").string() + " -o " + (folder / "six.fakturwerk").string()).code, 0);
    EXPECT_EQ(run(folder, "check " + (folder / "six.fakturwerk").string() + " -o " + (folder / "c.json").string()).code, 0);
}

TEST(CommandLine, ATruncatedFlacIsUsedAsFarAsItGoesAndSaidSo) {
    const TemporaryFolder folder;
    test::write_truncated(folder / "cut.flac", test::sine(220, 8), 0.5);
    const Outcome r = run(folder, "analyse " + (folder / "cut.flac").string() + " -o " + (folder / "a.json").string());
    expect_sentence(r, 0, "cut.flac");
    EXPECT_NEAR(nlohmann::json::parse(slurp(folder / "a.json"))["reference"]["duration_s"].get<double>(), 4.0, 1.0);
}

TEST(CommandLine, AFullDiskKeepsTheOldFileAndExitsWithOne) {
    const TemporaryFolder folder;
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", test::small_remake()));
    std::ofstream(folder / "mix.wav") << "old";
    // A limit on file sizes fails writes as a full disk does.
    const std::string command = "trap '' XFSZ; ulimit -f 100; " + std::string(FW_CLI) + " export " + (folder / "a.fakturwerk").string() + " --wav " +
                                (folder / "mix.wav").string() + " 2>" + (folder / "err").string();
    const int status = std::system(("sh -c \"" + command + "\"").c_str());
    EXPECT_EQ(WEXITSTATUS(status), 1);
    EXPECT_NE(slurp(folder / "err").find("disk is full"), std::string::npos) << slurp(folder / "err");
    EXPECT_EQ(slurp(folder / "mix.wav"), "old");
}

TEST(CommandLine, AnInterruptStopsTheWorkAndSaysSo) {
    const TemporaryFolder folder;
    const std::string command =
        "timeout --signal=INT 1 " + std::string(FW_CLI) + " analyse " + kDemo + " -o " + (folder / "a.json").string() + " 2>" + (folder / "err").string();
    const int status = std::system(command.c_str());
    // timeout answers 124 whatever the program's own code was; the sentence and the missing file tell.
    EXPECT_EQ(WEXITSTATUS(status), 124);
    EXPECT_NE(slurp(folder / "err").find("Stopped before"), std::string::npos) << slurp(folder / "err");
    EXPECT_FALSE(std::filesystem::exists(folder / "a.json"));
}

TEST(CommandLine, BadRemakesAndMidiGetOneSentenceEach) {
    const TemporaryFolder folder;
    std::ofstream(folder / "bad.fakturwerk") << "this is no zip";
    expect_sentence(run(folder, "render " + (folder / "bad.fakturwerk").string() + " -o x.wav"), 2, "bad.fakturwerk");
    expect_sentence(run(folder, "check " + (folder / "none.fakturwerk").string()), 2, "none.fakturwerk");
    ASSERT_TRUE(save_remake(folder / "gone.fakturwerk", test::small_remake()));
    expect_sentence(run(folder, "check " + (folder / "gone.fakturwerk").string()), 2, "/nowhere/song.wav");
    // A file of the right name with other music in it is not the reference.
    ASSERT_TRUE(write_audio(folder / "song.wav", test::sine(440, 3)));
    expect_sentence(run(folder, "check " + (folder / "gone.fakturwerk").string()), 2, "song.wav");
    ASSERT_TRUE(write_midi(folder / "a.mid", test::small_remake()));
    std::filesystem::resize_file(folder / "a.mid", 100);
    expect_sentence(run(folder, "new " + kDemo + " --midi " + (folder / "a.mid").string() + " -o " + (folder / "n.fakturwerk").string()), 2, "a.mid");
    EXPECT_FALSE(std::filesystem::exists(folder / "n.fakturwerk"));
}

TEST(CommandLine, AFolderThatCannotBeWrittenIsAFailureOfTheWork) {
    const TemporaryFolder folder;
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", test::small_remake()));
    expect_sentence(run(folder, "render " + (folder / "a.fakturwerk").string() + " -o /proc/nowhere/mix.wav"), 1, "/proc/nowhere");
    expect_sentence(run(folder, "export " + (folder / "a.fakturwerk").string() + " --midi /proc/nowhere/a.mid"), 1, "/proc/nowhere");
}

}  // namespace fw
