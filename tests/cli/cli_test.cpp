// SPDX-License-Identifier: GPL-3.0-or-later
// The real command line, run as a user runs it: exit codes, one sentence on standard error, files on disk.
#include "outcome.hpp"

#include "audio/audio_file.hpp"
#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"
#include "model/edits.hpp"
#include "model/edits/clips.hpp"
#include "model/places.hpp"
#include "support/float_wav.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <sndfile.h>
#include <sys/stat.h>
#include <algorithm>
#include <array>
#include <cstdio>
#include <fstream>
#include <limits>
#include <nlohmann/json.hpp>
#include <tuple>

namespace fw {

namespace {

using test::expect_sentence;
using test::Outcome;
using test::run;
using test::slurp;
using test::TemporaryFolder;

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
    EXPECT_EQ(report["schema"], "fakturwerk-check/2");
    const auto page = folder / "check.html";
    r = run(folder, "check " + remake + " --html " + page.string());
    EXPECT_EQ(r.code, 0) << r.err;
    EXPECT_TRUE(r.out.empty()) << "the page alone was wanted";
    std::stringstream text;
    text << std::ifstream(page).rdbuf();
    EXPECT_NE(text.str().find("Elements and sections"), std::string::npos);
    expect_sentence(run(folder, "check " + remake + " --html " + remake), 2, "song");
    EXPECT_GT(report["match"]["notes"].get<double>(), 0.6);
    EXPECT_TRUE(report["match"]["sound"].is_number());
    EXPECT_EQ(report["tone"].size(), 29u);
    r = run(folder, "export " + remake + " --midi " + (folder / "a.mid").string());
    ASSERT_EQ(r.code, 0) << r.err;
    const auto parts = read_midi(folder / "a.mid");
    ASSERT_TRUE(parts);
    EXPECT_EQ(parts->parts.size(), opened->parts.size());
    // And back in again: the file says itself where it begins, and every note of the demo is where it was, struck as it was.
    r = run(folder, "new " + kDemo + " --midi " + (folder / "a.mid").string() + " -o " + (folder / "b.fakturwerk").string());
    ASSERT_EQ(r.code, 0) << r.err;
    const auto again = load_remake(folder / "b.fakturwerk");
    ASSERT_TRUE(again);
    ASSERT_EQ(again->parts.size(), opened->parts.size());
    std::size_t notes = 0;
    for (std::size_t p = 0; p < opened->parts.size(); ++p) {
        const auto told = [](const Part& part) {
            std::vector<std::tuple<Ticks, int, int, Ticks>> out;
            for (const PlacedNote& n : placed_notes(part)) out.emplace_back(n.note.start, n.note.pitch, n.note.velocity, n.note.length);
            std::sort(out.begin(), out.end());
            return out;
        };
        EXPECT_EQ(told(*opened->parts[p]), told(*again->parts[p])) << opened->parts[p]->name;
        notes += told(*opened->parts[p]).size();
    }
    EXPECT_GT(notes, 1400u);
}

TEST(CommandLine, AnalyseWritesTheDocumentedJsonToStandardOutput) {
    const TemporaryFolder folder;
    const Outcome r = run(folder, "analyse " + kDemo);
    ASSERT_EQ(r.code, 0) << r.err;
    const auto j = nlohmann::json::parse(r.out);
    EXPECT_EQ(j["schema"], "fakturwerk-analysis/1");
    // Heard anew, without what was kept, it says the same to the letter.
    const Outcome anew = run(folder, "analyse " + kDemo, "XDG_CACHE_HOME=" + folder.path().string());
    EXPECT_EQ(anew.out, r.out);
    EXPECT_TRUE(std::filesystem::exists(folder / "fakturwerk/evidence"));
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
    const std::string command = "XDG_CACHE_HOME=" + folder.path().string() + " timeout --signal=INT 1 " + std::string(FW_CLI) + " analyse " + kDemo + " -o " +
                                (folder / "a.json").string() + " 2>" + (folder / "err").string();
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

TEST(CommandLine, NothingIsWrittenOverWhatTheWorkIsMadeFrom) {
    const TemporaryFolder folder;
    const std::string wav = (folder / "song.wav").string(), remake = (folder / "a.fakturwerk").string(), link = (folder / "link.mid").string();
    ASSERT_TRUE(write_audio(wav, test::sine(220, 3)));
    Remake r = test::small_remake();
    r.reference.path = wav;
    ASSERT_TRUE(save_remake(remake, r));
    ASSERT_TRUE(write_midi(folder / "parts.mid", r));
    std::filesystem::create_symlink("a.fakturwerk", link);
    const std::string sound = slurp(wav), document = slurp(remake), midi = slurp(folder / "parts.mid");
    const std::string parts = (folder / "parts.mid").string();
    for (const std::string& arguments :
         {"new " + wav + " -o " + wav, "analyse " + wav + " -o " + wav, "new " + wav + " --midi " + parts + " -o " + parts,
          "export " + remake + " --midi " + remake, "export " + remake + " --midi " + link, "export " + remake + " --json " + wav,
          "export " + remake + " --wav " + wav, "render " + remake + " -o " + wav, "check " + remake + " -o " + remake, "check " + remake + " -o " + wav}) {
        const Outcome outcome = run(folder, arguments);
        EXPECT_EQ(outcome.code, 2) << arguments;
        EXPECT_NE(outcome.err.find("nothing was written over it"), std::string::npos) << arguments << outcome.err;
    }
    EXPECT_EQ(slurp(wav), sound);
    EXPECT_EQ(slurp(remake), document);
    EXPECT_EQ(slurp(parts), midi);
}

TEST(CommandLine, PipesDevicesAndFilesThatStateTooMuchAreRefusedAtOnce) {
    const TemporaryFolder folder;
    ASSERT_EQ(::mkfifo((folder / "pipe.wav").c_str(), 0600), 0);
    const std::string pipe = (folder / "pipe.wav").string();
    for (const std::string& command : {std::string("analyse "), std::string("check "), std::string("render -o " + (folder / "x.wav").string() + " ")})
        for (const std::string& bad : {pipe, std::string("/dev/zero"), folder.path().string()}) expect_sentence(run(folder, command + bad), 2, bad);
    expect_sentence(run(folder, "new " + kDemo + " --midi " + pipe + " -o " + (folder / "n.fakturwerk").string()), 2, pipe);
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", test::small_remake()));
    const std::string remake = (folder / "a.fakturwerk").string();
    for (const std::string& target : {std::string("/dev/null"), pipe}) expect_sentence(run(folder, "export " + remake + " --midi " + target), 2, target);
    EXPECT_TRUE(std::filesystem::is_fifo(pipe));
    EXPECT_TRUE(std::filesystem::is_character_file("/dev/null"));
    for (const char* name : {"mix.mp3", "mix"}) expect_sentence(run(folder, "render " + remake + " -o " + (folder / name).string()), 2, name);
}

TEST(CommandLine, AnOffsetThatLeadsNowhereIsToldAndNothingIsWritten) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_audio(folder / "song.wav", test::tones({{0.5, 1.0, 60}, {1.5, 1.0, 64}}, 3)));
    ASSERT_TRUE(write_midi(folder / "a.mid", test::small_remake()));
    const std::string command =
        "new " + (folder / "song.wav").string() + " --midi " + (folder / "a.mid").string() + " -o " + (folder / "n.fakturwerk").string();
    for (const char* offset : {"1e10", "-1e10", "1e300"}) expect_sentence(run(folder, command + " --offset " + offset), 2, "a.mid");
    for (const char* offset : {"nan", "inf", "soon"}) EXPECT_EQ(run(folder, command + " --offset " + offset).code, 2) << offset;
    EXPECT_FALSE(std::filesystem::exists(folder / "n.fakturwerk"));
}

TEST(CommandLine, ASoundFontThatCannotBeLoadedMakesNoSilentStems) {
    const TemporaryFolder folder;
    const Remake r = with_part(test::small_remake(), test::kBass, [](Part& p) { p.layers[0].source = &kSoundFont, p.layers[0].file = "/nowhere/set.sf2"; });
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", r));
    expect_sentence(run(folder, "render " + (folder / "a.fakturwerk").string() + " --stems " + (folder / "stems").string()), 2, "/nowhere/set.sf2");
    EXPECT_FALSE(std::filesystem::exists(folder / "stems"));
}

TEST(CommandLine, WhenMemoryRunsOutItSaysSo) {
    const TemporaryFolder folder;
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
    GTEST_SKIP() << "sanitizers take all of the address space for themselves";
#endif
    // Enough to start and to read the file, too little for half an hour's evidence.
    test::write_float_wav(folder / "long.wav", test::sine(220, 1800, 8000, 1));
    const std::string command = "ulimit -v 450000; " + std::string(FW_CLI) + " analyse " + (folder / "long.wav").string() + " -o " +
                                (folder / "a.json").string() + " 2>" + (folder / "err").string();
    const int status = std::system(("sh -c \"" + command + "\"").c_str());
    ASSERT_TRUE(WIFEXITED(status)) << "it was killed by signal " << WTERMSIG(status);
    EXPECT_EQ(WEXITSTATUS(status), 1) << slurp(folder / "err");
    EXPECT_NE(slurp(folder / "err").find("not enough memory"), std::string::npos) << slurp(folder / "err");
    EXPECT_FALSE(std::filesystem::exists(folder / "a.json"));
}

TEST(CommandLine, ASignalWhileWritingLeavesNothingBehind) {
    const TemporaryFolder folder;
    Remake r = test::small_remake();
    r.reference.duration_s = 3600;  // so long that it is still being written when the signal comes
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", r));
    for (const char* signal : {"INT", "TERM", "HUP"}) {
        const std::string command = std::string("timeout --signal=") + signal + " 0.4 " + FW_CLI + " render " + (folder / "a.fakturwerk").string() + " -o " +
                                    (folder / "mix.wav").string() + " 2>" + (folder / "err").string();
        EXPECT_EQ(WEXITSTATUS(std::system(command.c_str())), 124) << signal;
        EXPECT_NE(slurp(folder / "err").find("Stopped before"), std::string::npos) << signal << slurp(folder / "err");
        EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 2) << signal << ": the remake and what was said";
    }
}

TEST(CommandLine, AFolderThatCannotBeWrittenIsAFailureOfTheWork) {
    const TemporaryFolder folder;
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", test::small_remake()));
    expect_sentence(run(folder, "render " + (folder / "a.fakturwerk").string() + " -o /proc/nowhere/mix.wav"), 1, "/proc/nowhere");
    expect_sentence(run(folder, "export " + (folder / "a.fakturwerk").string() + " --midi /proc/nowhere/a.mid"), 1, "/proc/nowhere");
}

TEST(CommandLine, OneOfEachByScriptSavedReopenedAndRenderedTheSame) {
    const TemporaryFolder folder;
    const std::string song = (folder / "song.fakturwerk").string(), changed = (folder / "changed.fakturwerk").string(), script = (folder / "all.txt").string();
    ASSERT_EQ(run(folder, "new " + kDemo + " -o " + song).code, 0);
    std::ofstream(script) << R"(# 1 a second layer
part.add-layer part=Lead source=synth patch="Warm pad" octave=-1 level=-9dB low_key=C4 offset_ms=10
# 2 an equaliser and a drive, swapped; one off, all on again
step.add part=Bass kind=equaliser low=3dB high_cut=4k
step.add part=Bass kind=drive drive=14dB
step.move part=Bass step=drive to=1
field.set part=Bass step=equaliser field=on value=off
steps.switch part=Bass on=on
# 3 a send to a room
bus.add name=Room
step.add bus=Room kind=reverb mix=100% decay_s=2.4
send.add part="Chord part" bus=Room level=-8dB
field.set bus=Room field=level value=-3dB
# 4 ducked by the kick in the second and third section only
step.add part=Bass kind=duck by=Drums sound=Kick depth=6dB release=1/8
field.set part=Bass step=duck field=on value=off
field.set part=Bass step=duck field=on value=on section=#2
field.set part=Bass step=duck field=on value=on section=#3
# 5 a curve that goes with its section
curve.set part=Lead layer=1 field=cutoff section=#2 points="1 300Hz smooth, 4 6kHz"
section.copy section=#2 to=#4
# 6 a one-shot from the original, reversed, before a section
clip.from-original from=5.1 length=1/4 to=#3 ends=on recipe="fade 2 20, reverse" name=Whoosh level=-4
# 7 here only, then everywhere
note.change part=Bass from=#4 to=22 semitones=2 reach=here
note.change part=Bass from=6 to=7 semitones=-1
# 8 a rival
rival.add part=Lead name=brighter
layer.source part=Lead layer=1 patch="Bright lead"
rival.choose part=Lead rival=1
)";
    Outcome r = run(folder, "do " + song + " " + script + " -o " + changed);
    ASSERT_EQ(r.code, 0) << r.err;
    const auto opened = load_remake(changed);
    ASSERT_TRUE(opened);
    EXPECT_EQ(opened->automation->curves.size(), 2u) << "the copy of the section brought its curve along";
    EXPECT_EQ(opened->automation->settings.size(), 3u) << "and what is held in it";
    ASSERT_EQ(opened->clips->assets.size(), 1u);
    EXPECT_EQ(opened->clips->assets[0].origin, AssetOrigin::Original);
    EXPECT_EQ(find_part(*opened, "Lead")->rivals.size(), 1u);
    // Saved and opened again it is rendered to the same samples, also in part.
    const auto rendered = [&](const std::string& options, const char* name) {
        const std::string file = (folder / name).string();
        const Outcome done = run(folder, "render " + changed + " -o " + file + " " + options);
        EXPECT_EQ(done.code, 0) << options << ": " << done.err;
        return slurp(file);
    };
    ASSERT_TRUE(save_remake(folder / "again.fakturwerk", *opened));
    const std::string whole = rendered("", "a.wav");
    ASSERT_EQ(run(folder, "render " + (folder / "again.fakturwerk").string() + " -o " + (folder / "b.wav").string()).code, 0);
    EXPECT_TRUE(whole == slurp(folder / "b.wav"));
    const auto loud = [&](const char* name, double from_s, double to_s) {
        const auto a = read_audio(folder / name);
        double sum = 0.0;
        for (auto f = static_cast<std::size_t>(from_s * 44100); f < std::min(a->frames(), static_cast<std::size_t>(to_s * 44100)); ++f)
            sum += a->samples[2 * f] * a->samples[2 * f];
        return sum;
    };
    rendered("--bus Room --range 5-8", "room.wav");
    EXPECT_GT(loud("room.wav", 0, 9), 0.1);
    rendered("--part Bass --range 5-8", "bass.wav");
    rendered("--part Bass --range 5-8 --dry", "dry.wav");
    EXPECT_FALSE(slurp(folder / "bass.wav") == slurp(folder / "dry.wav"));
    EXPECT_NEAR(read_audio(folder / "bass.wav")->duration_s(), 4 * 4 * 60.0 / 97.3, 0.1);
    // Without the original: gone from mix, stems and file.
    rendered("--without-original", "without.wav");
    EXPECT_FALSE(slurp(folder / "without.wav") == whole);
    ASSERT_EQ(run(folder, "render " + changed + " --stems " + (folder / "stems").string()).code, 0);
    ASSERT_EQ(run(folder, "render " + changed + " --without-original --stems " + (folder / "clean").string()).code, 0);
    EXPECT_TRUE(std::filesystem::exists(folder / "stems/07 Clips.wav"));
    EXPECT_FALSE(std::filesystem::exists(folder / "clean/07 Clips.wav"));
    ASSERT_EQ(run(folder, "export " + changed + " --without-original --remake " + (folder / "clean.fakturwerk").string()).code, 0);
    EXPECT_TRUE(load_remake(folder / "clean.fakturwerk")->clips->assets.empty());
    EXPECT_NE(run(folder, "render " + changed + " -o " + (folder / "x.wav").string() + " --part Kazoo").code, 0);
}

TEST(CommandLine, TheDemosRemakeIsWhatItsScriptMakesOfTheDraftAndAsNearAsTheGuideSays) {
    const TemporaryFolder folder;
    const std::string song = (folder / "song.fakturwerk").string(), json = (folder / "check.json").string();
    const auto figures = [&](const std::string& remake) {
        EXPECT_EQ(run(folder, "check " + remake + " -o " + json).code, 0);
        std::ifstream in(json);
        return nlohmann::json::parse(in)["match"];
    };
    ASSERT_EQ(run(folder, "new " + kDemo + " -o " + song).code, 0);
    const auto draft = figures(song);
    const Outcome done = run(folder, "do " + song + " " + std::string(FW_DEMO_DIR) + "/mix.script");
    ASSERT_EQ(done.code, 0) << done.err;
    auto made = load_remake(song), shipped = load_remake(std::string(FW_DEMO_DIR) + "/lantern-ferry.fakturwerk");
    ASSERT_TRUE(made && shipped);
    EXPECT_TRUE(std::filesystem::equivalent(shipped->reference.path, kDemo)) << "its recording lies beside it";
    shipped->reference.path = made->reference.path;
    EXPECT_EQ(*made, *shipped) << "./fw demo-remake makes it anew";
    const auto mix = figures(song);
    EXPECT_LT(draft["sound"].get<double>(), 0.7);
    EXPECT_GT(mix["sound"].get<double>(), 0.95);
    EXPECT_GE(mix["notes"].get<double>(), draft["notes"].get<double>());
}

TEST(CommandLine, AScriptThatCannotBeDoneSaysWhereAndWritesNothing) {
    const TemporaryFolder folder;
    const std::string song = (folder / "a.fakturwerk").string(), script = (folder / "bad.txt").string();
    ASSERT_TRUE(save_remake(song, test::small_remake()));
    const std::string before = slurp(song);
    std::ofstream(script) << "part.mute part=Bass on=on\n\nfield.set part=Bass field=level value=99dB\n";
    const Outcome r = run(folder, "do " + song + " " + script);
    EXPECT_EQ(r.code, 2);
    EXPECT_NE(r.err.find("line 3 (field.set) was not done, because \"99dB\" is no value of \"Level\""), std::string::npos) << r.err;
    EXPECT_TRUE(slurp(song) == before);
    expect_sentence(run(folder, "do " + song + " " + (folder / "none.txt").string()), 2, "none.txt");
    const Outcome list = run(folder, "commands");
    EXPECT_EQ(list.code, 0);
    EXPECT_NE(list.out.find("part.add-layer"), std::string::npos);
}

TEST(CommandLine, ASourceIsFoundPlacedAndSaidNotToBeThere) {
    const TemporaryFolder folder;
    const std::string song = (folder / "song.fakturwerk").string(), with = (folder / "with.fakturwerk").string(), noise = (folder / "strokes.wav").string();
    ASSERT_EQ(run(folder, "new " + kDemo + " -o " + song).code, 0);
    const Outcome found = run(folder, "source " + song + " " + kDemo + " --range 9-11 -o " + with);
    ASSERT_EQ(found.code, 0) << found.err;
    EXPECT_NE(found.out.find("as fast and as high"), std::string::npos) << found.out;
    const auto placed = load_remake(with);
    ASSERT_TRUE(placed);
    ASSERT_EQ(placed->clips->clips.size(), 1u);
    EXPECT_EQ(placed->clips->clips[0].start, placed->song->meter.tick_of_bar(9));
    EXPECT_NEAR(placed->clips->clips[0].recipe.at(0).first, 1000.0 * placed->song->tempo.seconds(placed->song->meter.tick_of_bar(9)), 3.0);
    ASSERT_TRUE(write_audio(noise, test::clicks({0.3, 0.9, 1.4, 2.2, 3.0, 3.3, 4.1, 5.2, 6.6, 7.1}, 8.0)));
    const Outcome none = run(folder, "source " + song + " " + noise + " --range 9-11");
    EXPECT_NE(none.code, 0);
    EXPECT_NE(none.err.find("stands out"), std::string::npos) << none.err;
    EXPECT_NE(run(folder, "source " + song + " " + kDemo + " --range nine").err.find("say 5-12"), std::string::npos);
}

TEST(CommandLine, TheUserGuidesScriptDoesWhatItSays) {
    const TemporaryFolder folder;
    const std::string song = (folder / "song.fakturwerk").string(), script = (folder / "guide.txt").string();
    const std::string guide = slurp(std::filesystem::path(FW_DOCS_DIR) / "user-guide.md");
    ASSERT_EQ(run(folder, "new " + kDemo + " -o " + song).code, 0);
    const auto before = load_remake(song);
    // Chapter after chapter on one remake.
    int chapters = 0;
    for (auto from = guide.find("```script\n"); from != std::string::npos; from = guide.find("```script\n", from + 10), ++chapters) {
        const auto to = guide.find("```", from + 10);
        ASSERT_NE(to, std::string::npos);
        std::ofstream(script) << guide.substr(from + 10, to - from - 10);
        const Outcome r = run(folder, "do " + song + " " + script);
        ASSERT_EQ(r.code, 0) << r.err;
    }
    EXPECT_EQ(chapters, 4);
    const auto after = load_remake(song);
    ASSERT_TRUE(before && after);
    EXPECT_EQ(after->song->sections.size(), before->song->sections.size());
    EXPECT_EQ(after->song->sections[1].name, "verse");
    EXPECT_NEAR(after->song->tempo.seconds(after->song->meter.tick_of_bar(7)), 15.43, 1e-6);
    EXPECT_EQ(after->notebook->spots.size(), 1u);
    EXPECT_EQ(after->element(ElementId::tempo()).state, State::Confirmed);
    const Part* drums = find_part(*after, "Drums");
    ASSERT_TRUE(drums && find_part(*after, "Quay organ"));
    EXPECT_GT(drums->placements.size(), find_part(*before, "Drums")->placements.size()) << "folded into what repeats";
    EXPECT_FALSE(find_part(*after, "Quay organ")->placements.empty());
    EXPECT_EQ(after->song->grooves.size(), 1u);
    // A piece of the original as a kick's sound, and a made snare in the kit's place; what leaves the house is without the one.
    ASSERT_EQ(drums->layers.size(), 3u);
    ASSERT_EQ(after->clips->assets.size(), 7u);
    EXPECT_EQ(after->clips->assets[0].origin, AssetOrigin::Original);
    // Transitions that end where they should, and the original where it is not remade, which does not leave the house.
    EXPECT_EQ(after->clips->assets[1].made.kind, Transition::Riser);
    EXPECT_EQ(after->clips->clips[2].start, after->song->meter.tick_of_bar(13));
    EXPECT_EQ(without_original(*after).clips->clips.size(), 3u);
    // A loop on the grid, a cutoff that each note opens, a bass that follows.
    ASSERT_EQ(after->clips->clips.back().recipe.size(), 1u);
    EXPECT_EQ(after->clips->clips.back().recipe[0].marks.size(), 2u);
    ASSERT_EQ(after->automation->by_notes.size(), 2u);
    EXPECT_EQ(after->automation->by_notes[1].by, find_part(*after, "Bass")->id);
    EXPECT_GT(placed_notes(*find_part(*after, "Low melody")).size(), 8u);
    EXPECT_EQ(find_part(*after, "Single notes")->steps.size(), 3u);
    EXPECT_EQ(find_part(*after, "Quay organ")->steps.size(), 2u);
    EXPECT_EQ(find_part(*after, "Bass")->early_ms, 6.0);
    const auto energy = [](const std::filesystem::path& file) {
        const auto audio = read_audio(file);
        double sum = 0.0;
        if (audio)
            for (const float s : audio->samples) sum += static_cast<double>(s * s);
        return sum;
    };
    const std::string with = (folder / "with.wav").string(), without = (folder / "without.wav").string();
    ASSERT_EQ(run(folder, "render " + song + " -o " + with + " --part Drums --range 9-13").code, 0);
    ASSERT_EQ(run(folder, "render " + song + " -o " + without + " --part Drums --range 9-13 --without-original").code, 0);
    EXPECT_GT(energy(with), 0.0);
    EXPECT_NE(energy(with), energy(without));
    // MIDI of one part alone.
    const std::string midi = (folder / "bass.mid").string();
    ASSERT_EQ(run(folder, "export " + song + " --part Bass --midi " + midi).code, 0);
    const auto alone = read_midi(midi);
    ASSERT_TRUE(alone);
    EXPECT_EQ(alone->parts.size(), 1u);
    const Outcome none = run(folder, "export " + song + " --part Nobody --midi " + midi);
    EXPECT_EQ(none.code, 2);
    EXPECT_NE(none.err.find("Nobody"), std::string::npos) << none.err;
}

TEST(CommandLine, BeatsGoOutAsTextAreMendedAndComeBack) {
    const TemporaryFolder folder;
    const std::string song = (folder / "a.fakturwerk").string(), beats = (folder / "beats.txt").string();
    ASSERT_TRUE(save_remake(song, test::small_remake()));
    ASSERT_EQ(run(folder, "export " + song + " --beats " + beats).code, 0);
    const std::string text = slurp(beats);
    EXPECT_EQ(text.substr(0, text.find('\n')), "0.500000\t0.500000\t1.1");
    std::ofstream(beats) << "0.5 1\n1.1 2\n1.7 3\n2.3 1\n2.9 2\n3.5 3\n4.1 1\n";
    const Outcome r = run(folder, "beats " + song + " " + beats);
    ASSERT_EQ(r.code, 0) << r.err;
    const auto after = load_remake(song);
    ASSERT_TRUE(after);
    EXPECT_EQ(after->song->meter.at_bar(1).numerator, 3);
    EXPECT_NEAR(after->song->tempo.bpm_at(0), 100.0, 1e-6);
    std::ofstream(beats) << "soon\n";
    expect_sentence(run(folder, "beats " + song + " " + beats), 2, "beats.txt");
}

}  // namespace fw
