// SPDX-License-Identifier: GPL-3.0-or-later
#include "formats/remake_file.hpp"

#include "commands/command.hpp"
#include "engine/clip_sound.hpp"
#include "engine/plan.hpp"
#include "formats/sheet_words.hpp"
#include "formats/sound_file.hpp"
#include "model/edits.hpp"
#include "support/plug_ins.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <zip.h>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <random>
#include <tuple>

namespace fw {

using test::small_remake;
using test::TemporaryFolder;

namespace {

/// One of everything a remake can hold.
Remake rich() {
    Remake r = small_remake();
    const auto run = [&](const char* line) {
        auto done = run_command(r, **parse_line(line));
        EXPECT_TRUE(done) << line << ": " << done.error().message();
        if (done) r = done->remake;
    };
    run("bus.add name=Room level=-2dB");
    run("step.add bus=Room kind=reverb decay_s=3");
    run("bus.add name=All");
    run("bus.output bus=Room to=All");
    run("send.add part=Bass bus=Room level=-9dB");
    run("part.output part=Drums bus=Room");
    run("step.add part=Bass kind=filter");
    run("step.add part=Bass kind=duck by=Drums sound=Kick depth=9dB");
    run("part.add-layer part=Bass source=synth patch=\"Warm pad\" cutoff=900 wave=square octave=-1 low_key=C2 offset_ms=-5 pan=-50%");
    run("part.add-layer part=Drums source=soundfont program=3 file=/x.sf2");
    run("curve.set part=Bass layer=2 field=cutoff section=verse points=\"1 200 smooth, 2.3 4k curved 0.5, 4 1k hold\"");
    run("curve.set master=on field=level points=\"1 -6, 8 0\"");
    run("field.set part=Bass step=duck field=on value=off section=\"verse 2\"");
    run("clip.from-original from=1.2 length=1/4 to=5 ends=on recipe=\"trim 5 400, fade 2 20, reverse, gain -3, pitch -2.5, stretch 1.5\" name=Whoosh level=-4");
    run("transition.add kind=chord_swell to=5 length=\"1 bar\" recipe=\"bars 2, stop 300, gate 4 25%, freeze 10 500, pitch -3 1\" level=-7");
    run("note.change part=Bass from=5 to=6 semitones=2 move=\"9 ticks\" reach=here");
    run("note.remove part=Bass from=6 to=6.2 reach=here");
    run("note.roll part=Bass from=1 to=1.2 strokes=5 apart=1/32 first=40 rise=3.5 reach=here");
    run("note.mute part=Bass from=2 to=2.2 on=on reach=here");
    run("note.accept part=Bass from=3 to=3.2 on=on");
    run("groove.add name=lazy step=1/16 steps=\"+12/96 0 -5/80\"");
    run("field.set part=Bass field=early_ms value=12");
    run("rival.add part=Bass name=other");
    run("part.add name=Pad role=other source=synth");
    run("part.derive part=Pad kind=arpeggio way=down_up octaves=2 every=1/16 strum=-8 voicing=open inversion=smooth share=0.6 velocity=70 slope=-3");
    run("row.add name=\"Tape hiss\"");
    run("element.note element=Bass state=confirmed question=\"is bar 3 right? — “maybe”\" intended=\"an octave up on purpose\" budget=20");
    run("element.note element=\"Tape hiss\" state=open question=\"how loud?\"");
    run("part.mute part=Drums on=on");
    r.parts[0].edit().patterns[0].edit().notes[0].bend.edit() = {{0, 0.0}, {240, -35.5}};
    r.notebook.edit().remarks = {{RemarkKind::Faint, ElementId::chords(), 960, 480, "a bell"}};
    r.notebook.edit().research = "cut at night";
    r.notebook.edit().pictures = {{"the desk", "/gone/desk.png", std::string("\x89PNG and more"), {}}, {"", "/gone/too.jpg", {}, {}}};
    r.notebook.edit().time_spent_s = 5400.0;
    return r;
}

}  // namespace

TEST(RemakeFile, EverythingSurvivesSavingAndOpening) {
    const TemporaryFolder folder;
    const Remake r = rich();
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", r));
    const auto back = load_remake(folder / "a.fakturwerk");
    ASSERT_TRUE(back) << back.error().message();
    EXPECT_EQ(remake_to_json(*back), remake_to_json(r));
    EXPECT_EQ(back->reference, r.reference);
    EXPECT_EQ(back->notebook->pictures, r.notebook->pictures) << "with the bytes of the one that was kept";
    EXPECT_EQ(back->song, r.song);
    EXPECT_EQ(back->parts, r.parts);
    EXPECT_EQ(back->mixer, r.mixer);
    EXPECT_EQ(back->automation, r.automation);
    EXPECT_EQ(back->clips, r.clips);
    EXPECT_EQ(back->notebook, r.notebook);
    EXPECT_EQ(*back, r);
}

TEST(RemakeFile, RandomDocumentsSurvive) {
    // By random commands, so that whatever can be done can be kept.
    std::mt19937 random(21);
    const auto pick = [&](std::size_t n) { return static_cast<std::size_t>(random() % n); };
    Remake r = rich();
    for (Picture& p : r.notebook.edit().pictures) p.bytes = {};  // they stand beside the text
    const auto all = commands();
    const std::vector<std::string> words{"Bass", "Drums", "Room", "verse", "verse 2",  "1",      "2.3",   "on",  "off", "1/8",  "-9dB",
                                         "2k",   "drive", "duck", "synth", "Warm pad", "cutoff", "level", "Dm7", "C3",  "here", "1 0, 3 1 smooth"};
    int changed = 0;
    for (int i = 0; i < 3000; ++i) {
        const Command& c = *all[pick(all.size())];
        Line line(c.id);
        for (const Argument& a : c.arguments)
            if (a.needed || pick(3) == 0) line.with(a.name, words[pick(words.size())]);
        const auto done = run_command(r, line);
        if (!done || done->remake.parts.size() < 2 || done->remake.parts.size() > 6 || done->remake == r) continue;
        r = done->remake;
        ++changed;
        const auto back = remake_from_json(remake_to_json(r), "x");
        ASSERT_TRUE(back) << line.text() << ": " << back.error().message();
        ASSERT_EQ(*back, r) << line.text();
    }
    EXPECT_GT(changed, 60);
}

TEST(RemakeFile, WhatANewerProgramWroteIsKept) {
    std::string text = remake_to_json(rich());
    const auto add = [&](const std::string& before, const std::string& what) {
        const auto at = text.find(before);
        ASSERT_NE(at, std::string::npos) << before;
        text.insert(at, what);
    };
    add("\"reference\"", "\"mood\": {\"of\": [1, 2.5, \"blue\"]}, ");
    add("\"tuning_cents\"", "\"weather\": \"fog\", ");
    add("\"pitch\"", "\"aftertouch\": 12, ");
    add("\"cutoff\": 9", "\"warmth\": 0.5, ");
    add("\"state\"", "\"since\": null, ");
    const auto opened = remake_from_json(text, "x");
    ASSERT_TRUE(opened) << opened.error().message();
    EXPECT_EQ(opened->unknown.map().size(), 1u);
    const Remake edited = reread_tempo(*opened, 2.0);
    const std::string again = remake_to_json(edited);
    for (const char* kept : {"\"mood\"", "\"blue\"", "\"weather\"", "\"aftertouch\"", "\"warmth\"", "\"since\""})
        EXPECT_NE(again.find(kept), std::string::npos) << kept;
    EXPECT_EQ(remake_to_json(*remake_from_json(again, "x")), again);
}

TEST(RemakeFile, APlugInThatIsNotHereIsNamedAndKeepsWhatWasSet) {
    test::see_made_plug_ins();
    Remake r = small_remake();
    for (const char* line :
         {"step.add part=Bass kind=lv2:urn:fakturwerk:test:gain gain=0.25 side=left", "part.add-layer part=Bass source=lv2:urn:fakturwerk:test:tone"}) {
        auto done = run_command(r, **parse_line(line));
        ASSERT_TRUE(done) << done.error().message();
        r = done->remake;
    }
    std::string json = remake_to_json(r);
    const auto again = remake_from_json(json, "x");
    ASSERT_TRUE(again) << again.error().message();
    EXPECT_EQ(*again, r);
    // On a machine that has other plug-ins.
    for (std::size_t at; (at = json.find("test:gain")) != std::string::npos;) json.replace(at, 9, "else:gain");
    for (std::size_t at; (at = json.find("test:tone")) != std::string::npos;) json.replace(at, 9, "else:tone");
    const auto poorer = remake_from_json(json, "x");
    ASSERT_TRUE(poorer) << poorer.error().message();
    const Part& bass = *poorer->part(test::kBass);
    EXPECT_STREQ(bass.steps.back().type->label, "gain (missing)");
    EXPECT_EQ(remake_to_json(*poorer), json) << "nothing of what was set is lost";
    const auto plan = compile_for_rendering(*poorer, {44100.0, {}});
    ASSERT_FALSE(plan);
    EXPECT_EQ(plan.error().code, ErrorCode::PlugInMissing);
    EXPECT_TRUE(compile_plan(*poorer, {44100.0, {}})) << "it plays without";
    const auto refused = run_command(r, **parse_line("step.add part=Bass kind=lv2:urn:nowhere"));
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message().find("this machine has no plug-in"), std::string::npos) << refused.error().message();
}

TEST(RemakeFile, WhatAPlugInKeepsOfItsOwnIsInTheFileAndInASavedSound) {
    test::see_made_plug_ins();
    const auto after = [](const Remake& r, const std::string& script) {
        const auto done = run_script(r, script, "the script");
        EXPECT_TRUE(done) << (done ? "" : done.error().message());
        return done ? *done : r;
    };
    const std::string keeper = "part=Bass kind=lv2:urn:fakturwerk:test:keeper";
    const Remake plain = after(small_remake(), "step.add " + keeper + " level_=0.5\n"),
                 heavy = after(plain, "step.preset part=Bass step=1 preset=heavy\nstep.own part=Bass step=1 file=/etc/passwd\n");
    const Step& step = heavy.part(test::kBass)->steps[0];
    EXPECT_EQ(step.value(0), 0.5);
    EXPECT_EQ(step.file, "/etc/passwd");
    ASSERT_NE(step.state.find('\n'), std::string::npos) << "its text has lines";
    const auto again = remake_from_json(remake_to_json(heavy), "x");
    ASSERT_TRUE(again) << again.error().message();
    EXPECT_EQ(*again, heavy);
    EXPECT_NE(sheet_in_words(heavy, test::kBass).find("Test keeper with a state of its own playing passwd"), std::string::npos)
        << sheet_in_words(heavy, test::kBass);
    const std::string sound = sound_text(heavy, test::kBass);
    EXPECT_NE(sound.find("step.own part=* step=1 state="), std::string::npos) << sound;
    const TemporaryFolder folder;
    ASSERT_TRUE(write_sound(folder / "keeper.txt", heavy, test::kBass));
    const auto recalled = read_sound(folder / "keeper.txt", small_remake(), test::kBass);
    ASSERT_TRUE(recalled) << recalled.error().message();
    EXPECT_EQ(recalled->part(test::kBass)->steps[0].state, step.state);
    EXPECT_EQ(recalled->part(test::kBass)->steps[0].file, step.file);
    // Another preset takes the state away; another kind of source the layer's.
    EXPECT_TRUE(after(heavy, "step.preset part=Bass step=1 preset=Plain\n").part(test::kBass)->steps[0].state.empty());
    for (const auto& [line, why] : {std::pair("step.preset part=Bass step=1 preset=Feather", "has no preset \"Feather\"; there are Heavy, Plain"),
                                    std::pair("layer.preset part=Bass layer=1 preset=Heavy", "it is no plug-in"),
                                    std::pair("step.own part=Bass step=1", "it says neither a state nor a file")}) {
        const auto refused = run_command(heavy, **parse_line(line));
        ASSERT_FALSE(refused) << line;
        EXPECT_NE(refused.error().message().find(why), std::string::npos) << refused.error().message();
    }
    const Remake gain = after(small_remake(), "step.add part=Bass kind=lv2:urn:fakturwerk:test:gain\n");
    EXPECT_NE(run_command(gain, **parse_line("step.own part=Bass step=1 file=a.wav")).error().message().find("takes no file"), std::string::npos);
}

TEST(RemakeFile, AFileOfVersionOneOpensAsWhatItWas) {
    const auto r = load_remake(std::filesystem::path(FW_FIXTURES_DIR) / "remake-version-1.fakturwerk");
    ASSERT_TRUE(r) << r.error().message();
    EXPECT_EQ(r->reference.path, "/music/lantern-ferry.ogg");
    EXPECT_EQ(r->reference.content_hash != 0, true);
    ASSERT_EQ(r->parts.size(), 5u);
    std::size_t notes = 0;
    for (const auto& p : r->parts) notes += placed_notes(*p).size();
    EXPECT_EQ(notes, 1496u) << "as the version that wrote it counted";
    const Part& bass = *r->parts[0];
    ASSERT_EQ(bass.layers.size(), 2u);
    EXPECT_EQ(bass.layers[1].source, &kSoundFont);
    EXPECT_EQ(bass.layers[1].program, 32);
    EXPECT_EQ(bass.layers[1].gain_db, -6.0);
    EXPECT_EQ(bass.layers[1].octave, -1.0);
    EXPECT_EQ(r->element(bass.id).intended, "an octave up on purpose");
    EXPECT_EQ(r->element(bass.id).state, State::Confirmed);
    EXPECT_NEAR(r->song->tempo.bpm_at(0), 97.3, 0.1);
    EXPECT_EQ(r->song->sections.size(), 7u);
    EXPECT_EQ(r->song->section(r->song->sections[3].repeat_of), &r->song->sections[1]);
    int variants = 0;
    for (const auto& p : r->parts)
        for (const auto& x : p->patterns) variants += static_cast<bool>(x->parent);
    EXPECT_EQ(variants, 6);
    const auto again = remake_from_json(remake_to_json(*r), "x");
    ASSERT_TRUE(again);
    EXPECT_EQ(*again, *r);
}

TEST(RemakeFile, TheFormatsDocumentSaysWhatIsWritten) {
    std::ifstream in(std::filesystem::path(FW_DOCS_DIR) / "remake-format.md");
    const std::string page((std::istreambuf_iterator<char>(in)), {});
    if (const char* update = std::getenv("FW_UPDATE_DOCS"); update && page.find(remake_format_tables()) == std::string::npos) {
        const auto begin = page.find("### ");
        std::ofstream(std::filesystem::path(FW_DOCS_DIR) / "remake-format.md") << page.substr(0, begin) << remake_format_tables();
        return;
    }
    EXPECT_NE(page.find(remake_format_tables()), std::string::npos)
        << "docs/remake-format.md: FW_UPDATE_DOCS=1 test_formats_check --gtest_filter=*Document* writes it anew";
}

TEST(RemakeFile, DamagedFilesAreToldAndNeverCrash) {
    const TemporaryFolder folder;
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", small_remake()));
    std::ifstream in(folder / "a.fakturwerk", std::ios::binary);
    const std::string whole((std::istreambuf_iterator<char>(in)), {});
    std::mt19937 random(5);
    int refused = 0;
    for (int i = 0; i < 60; ++i) {
        std::string bad = whole;
        if (i % 2) bad.resize(random() % whole.size());
        else
            for (int k = 0; k < 20; ++k) bad[random() % bad.size()] = static_cast<char>(random());
        std::ofstream(folder / "bad.fakturwerk", std::ios::binary) << bad;
        const auto r = load_remake(folder / "bad.fakturwerk");
        if (!r) {
            ++refused;
            EXPECT_EQ(r.error().code, ErrorCode::RemakeDamaged);
        }
    }
    EXPECT_GT(refused, 50);
    EXPECT_EQ(load_remake(folder / "none.fakturwerk").error().code, ErrorCode::FileMissing);
}

TEST(RemakeFile, HostileJsonGivesAnErrorOrAValidDocument) {
    const std::string good = remake_to_json(small_remake());
    const auto with = [&](const std::string& from, const std::string& to) {
        std::string text = good;
        const auto at = text.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        return remake_from_json(text.replace(at, from.size(), to), "x");
    };
    EXPECT_EQ(with("fakturwerk-remake/2", "fakturwerk-remake/3").error().code, ErrorCode::RemakeFromFuture);
    EXPECT_EQ(with("fakturwerk-remake/2", "something-else/2").error().code, ErrorCode::RemakeDamaged);
    EXPECT_EQ(with("\"dorian\"", "\"sideways\"").error().code, ErrorCode::RemakeDamaged);
    EXPECT_EQ(with("\"D:min7\"", "\"??\"").error().code, ErrorCode::RemakeDamaged);
    // What is wrong is told, with what the file says; nothing is clamped into something it did not say.
    for (const auto& [from, to, words] : {std::tuple{"\"pattern\": 1", "\"pattern\": 99", "places a pattern that is not there"},
                                          {"\"pitch\": 38", "\"pitch\": 99999", "is 99999, not from 0 to 127"},
                                          {"\"pitch\": 38", "\"pitch\": 4294967334", "is 2147483647, not from 0 to 127"},
                                          {"\"id\": 2,", "\"id\": 1,", "with the number 1"},
                                          {"\"id\": 1,", "\"id\": 0,", "has the number 0"},
                                          {"\"role\": \"bass\"", "\"level\": 99.0", "the level of its part \"Bass\" is 99, not −96.0 dB to 24.0 dB"},
                                          {"\"synth\"", "\"kazoo\"", "a layer of the kind \"kazoo\", which this program does not know"},
                                          {"\"duration_s\": 17.0", "\"duration_s\": 1e300", "the duration of the recording is 1e+300 s"},
                                          {"    1,\n    4,\n    4", "    1,\n    0,\n    4", "meters"},
                                          {"    0,\n    0.5", "    960,\n    0.5", "tempo map does not ascend"}}) {
        const auto refused = with(from, to);
        ASSERT_FALSE(refused) << to;
        EXPECT_EQ(refused.error().code, ErrorCode::RemakeUnusable) << to;
        EXPECT_NE(refused.error().message().find(words), std::string::npos) << refused.error().message();
    }
    for (const auto& [from, to] : {std::pair{"\"pitch\": 38", "\"pitch\": 38.5"},
                                   {"\"pitch\": 38", "\"pitch\": null"},
                                   {"\"pitch\": 38", "\"pitch\": 1e999"},
                                   {"\"name\": \"Bass\"", "\"name\": 7"},
                                   {"fakturwerk-remake/2", "fakturwerk-remake/0"},
                                   {"fakturwerk-remake/2", "fakturwerk-remake/1"},
                                   {"\"synth\"", "7"}})
        EXPECT_EQ(with(from, to).error().code, ErrorCode::RemakeDamaged) << to;
    EXPECT_EQ(remake_from_json("[]", "x").error().code, ErrorCode::RemakeDamaged);
    EXPECT_EQ(remake_from_json("", "x").error().code, ErrorCode::RemakeDamaged);
}

TEST(RemakeFile, WhatUnpacksToMoreThanARemakeCanHoldIsRefusedInLittleMemory) {
    const TemporaryFolder folder;
    // A hundred kilobytes that become more than the limit: blanks, and brackets within brackets.
    for (const std::string& text : {std::string(110'000'000, ' '), std::string(30'000'000, '['), "[" + [] {
                                        std::string many;
                                        for (int i = 0; i < 9'000'000; ++i) many += "1,";
                                        return many;
                                    }() + "1]"}) {
        int error = 0;
        zip_t* zip = zip_open((folder / "a.fakturwerk").c_str(), ZIP_CREATE | ZIP_TRUNCATE, &error);
        zip_file_add(zip, "remake.json", zip_source_buffer(zip, text.data(), text.size(), 0), ZIP_FL_OVERWRITE);
        ASSERT_EQ(zip_close(zip), 0);
        const auto refused = load_remake(folder / "a.fakturwerk");
        ASSERT_FALSE(refused);
        EXPECT_EQ(refused.error().code, ErrorCode::RemakeUnusable);
    }
}

TEST(RemakeFile, ASoundThatIsKeptIsThereWithoutItsFileAndTheSame) {
    const TemporaryFolder folder;
    ASSERT_TRUE(write_audio(folder / "knock.flac", test::tones({{0.0, 0.3, 50}, {0.4, 0.3, 62}}, 1)));
    Remake r = rich();
    for (const std::string& line :
         {"clip.from-file file=\"" + (folder / "knock.flac").string() + "\" to=2 seconds=0.8 name=Knock", std::string("clip.keep clip=Knock on=on")}) {
        const auto done = run_command(r, **parse_line(line));
        ASSERT_TRUE(done) << done.error().message();
        r = done->remake;
    }
    const auto sound = [&](const Remake& of) {
        auto loaded = assets_from_files({})(of.clips->assets.back());
        EXPECT_TRUE(loaded);
        return loaded ? loaded->samples : std::vector<float>{};
    };
    const auto before = sound(r);
    ASSERT_GT(before.size(), 10000u);
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", r));
    std::filesystem::remove(folder / "knock.flac");
    const auto back = load_remake(folder / "a.fakturwerk");
    ASSERT_TRUE(back) << back.error().message();
    EXPECT_EQ(sound(*back), before);
    ASSERT_TRUE(save_remake(folder / "b.fakturwerk", *back)) << "and once more, from what was opened";
    EXPECT_EQ(*load_remake(folder / "b.fakturwerk"), *back);
    const auto off = run_command(*back, **parse_line("clip.keep clip=Knock on=off"));
    ASSERT_FALSE(off) << "nothing is lost by a click";
    EXPECT_NE(off.error().message().find("only one"), std::string::npos);
    EXPECT_FALSE(save_remake(folder / "c.fakturwerk", r)) << "what cannot be read is told, not left out";
}

TEST(RemakeFile, ThePathOfTheRecordingSurvivesWhateverBytesItHas) {
    const TemporaryFolder folder;
    for (const char* path : {"/music/caf\xE9.wav", "/music/http:song.wav", "/music/Grüße.wav", "/music/100 %s.wav"}) {
        Remake r = small_remake();
        r.reference.path = path;
        ASSERT_TRUE(save_remake(folder / "a.fakturwerk", r));
        const auto back = load_remake(folder / "a.fakturwerk");
        ASSERT_TRUE(back);
        EXPECT_EQ(back->reference.path, path);
    }
}

TEST(RemakeFile, DeniedPermissionIsNotCalledDamage) {
    const TemporaryFolder folder;
    ASSERT_TRUE(save_remake(folder / "a.fakturwerk", small_remake()));
    std::filesystem::permissions(folder / "a.fakturwerk", static_cast<std::filesystem::perms>(0));
    std::filesystem::permissions(folder.path(), static_cast<std::filesystem::perms>(0755));
    EXPECT_TRUE(test::as_nobody([&] { return load_remake(folder / "a.fakturwerk").error().code == ErrorCode::FileUnreadable; }));
    EXPECT_EQ(load_remake("/dev/zero").error().code, ErrorCode::NotAFile);
}

TEST(RemakeFile, SavingWhereNothingCanBeWrittenIsTold) {
    const auto r = save_remake("/proc/nowhere/a.fakturwerk", small_remake());
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().code, ErrorCode::FolderUnwritable);
}

TEST(FindReference, LooksAtTheStoredPlaceThenBesideTheRemake) {
    const TemporaryFolder folder;
    Remake r = small_remake();
    EXPECT_EQ(find_reference(r, folder / "a.fakturwerk").error().code, ErrorCode::ReferenceGone);
    ASSERT_TRUE(write_audio(folder / "song.wav", test::sine(440, 1)));
    ASSERT_TRUE(find_reference(r, folder / "a.fakturwerk"));
    EXPECT_EQ(*find_reference(r, folder / "a.fakturwerk"), folder / "song.wav");
}

TEST(RemakeFile, ARecordingBesideItsRemakeMovesWithTheFolder) {
    namespace fs = std::filesystem;
    const fs::path here = fs::temp_directory_path() / "fw_folder", there = fs::temp_directory_path() / "fw_folder_moved";
    fs::remove_all(here), fs::remove_all(there);
    fs::create_directories(here);
    std::ofstream(here / "song.wav") << "x";
    Remake r = test::small_remake();
    r.reference.path = (here / "song.wav").string();
    ASSERT_TRUE(save_remake(here / "song.fakturwerk", r));
    const auto same = load_remake(here / "song.fakturwerk");
    ASSERT_TRUE(same);
    EXPECT_EQ(same->reference.path, r.reference.path) << "opened where it lies it is as it was";
    fs::rename(here, there);
    const auto moved = load_remake(there / "song.fakturwerk");
    ASSERT_TRUE(moved);
    EXPECT_EQ(moved->reference.path, (there / "song.wav").string());
    // One that lies elsewhere is kept by its whole path.
    ASSERT_TRUE(save_remake(fs::temp_directory_path() / "elsewhere.fakturwerk", *moved));
    EXPECT_EQ(load_remake(fs::temp_directory_path() / "elsewhere.fakturwerk")->reference.path, (there / "song.wav").string());
    fs::remove_all(there);
}

}  // namespace fw
