// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands/call.hpp"

#include "model/validate.hpp"
#include "support/remakes.hpp"

#include <gtest/gtest.h>
#include <random>
#include <set>

namespace fw {

using test::kBass;
using test::kDrums;
using test::small_remake;

namespace {

Remake after(const std::string& script, const Remake& r = small_remake()) {
    auto done = run_script(r, script, "test.txt");
    EXPECT_TRUE(done) << (done ? "" : done.error().message());
    return done ? *done : r;
}

std::string refusal(const std::string& script) {
    const auto done = run_script(small_remake(), script, "test.txt");
    return done ? std::string("done") : done.error().message();
}

}  // namespace

TEST(Commands, ALineReadsBackAsItWasWritten) {
    const Line line = Line("part.add-layer").with("part", "Lead \"two\"").with("patch", "Warm pad").with("level", "-9dB").with("empty", "").with("hash", "#2");
    const auto back = parse_line(line.text());
    ASSERT_TRUE(back && *back);
    EXPECT_EQ((*back)->command(), line.command());
    EXPECT_EQ((*back)->arguments(), line.arguments());
    EXPECT_FALSE(*parse_line("   # only words"));
    EXPECT_FALSE(*parse_line(""));
    for (const char* bad : {"x part", "x a=\"b", "a=b"}) EXPECT_FALSE(parse_line(bad)) << bad;
}

TEST(Commands, EachIsNamedOnceAndDescribed) {
    std::set<std::string> names;
    for (const Command* c : commands()) {
        EXPECT_TRUE(names.insert(c->id).second) << c->id;
        EXPECT_GT(std::string(c->help).size(), 10u) << c->id;
        EXPECT_EQ(std::string(c->help).back(), '.') << c->id;
        EXPECT_NE(command_list().find(c->id), std::string::npos);
    }
    EXPECT_GT(names.size(), 40u);
}

TEST(Commands, ASecondLayerIsOneLine) {
    const Remake r = after("part.add-layer part=Bass source=synth patch=\"Warm pad\" octave=-1 level=-9dB low_key=C4 offset_ms=10\n");
    ASSERT_EQ(r.part(kBass)->layers.size(), 2u);
    const Layer& l = r.part(kBass)->layers[1];
    EXPECT_EQ(l.patch, "Warm pad");
    EXPECT_EQ(l.octave, -1.0);
    EXPECT_EQ(l.gain_db, -9.0);
    EXPECT_EQ(l.low_key, 60.0);
    EXPECT_EQ(l.offset_ms, 10.0);
}

TEST(Commands, AWholeSoundIsAScript) {
    const Remake r = after(R"(# a bass with a room
step.add part=Bass kind=equaliser low=3dB
step.add part=Bass kind=drive drive=14dB
step.move part=Bass step=drive to=1
bus.add name=Room level=-3dB
step.add bus=Room kind=reverb mix=100% decay_s=2.4
send.add part=Bass bus=Room level=-8dB
step.add part=Bass kind=duck by=Drums sound=Kick depth=6dB release=1/8
field.set part=Bass step=duck field=on value=off
field.set part=Bass step=duck field=on value=on section="verse 2"
curve.set part=Bass layer=1 field=cutoff section=verse points="1 300Hz smooth, 4.4 6kHz"
clip.from-original from=1 length=1/4 to=5 ends=on recipe="fade 2 20, reverse" name=Whoosh level=-4
rival.add part=Bass name=brighter
)");
    const Part& bass = *r.part(kBass);
    ASSERT_EQ(bass.steps.size(), 3u);
    EXPECT_EQ(bass.steps[0].type, &kDrive);
    EXPECT_EQ(bass.steps[2].trigger, (Trigger{kDrums, 36}));
    EXPECT_EQ(bass.steps[2].value(3), 0.5);
    EXPECT_EQ(bass.sends[0].level_db, -8.0);
    EXPECT_EQ(r.mixer->buses[0].steps[0].value(*index_of_field(kReverb.fields, "mix")), 1.0);
    ASSERT_EQ(r.automation->curves.size(), 1u);
    EXPECT_EQ(r.automation->curves[0].points[1].tick, 3 * 3840 + 3 * 960);
    ASSERT_EQ(r.automation->settings.size(), 1u);
    EXPECT_EQ(r.automation->settings[0].section, SectionId(4));
    ASSERT_EQ(r.clips->clips.size(), 1u);
    EXPECT_EQ(r.clips->clips[0].recipe[1].treatment, Treatment::Reverse);
    EXPECT_EQ(r.clips->assets[0].origin, AssetOrigin::Original);
    EXPECT_EQ(bass.rivals.size(), 1u);
}

TEST(Commands, ClipsOfOneNameAreToldApart) {
    const std::string two = "clip.from-original from=1 length=1/4 to=5 name=Hit\nclip.from-original from=1 length=1/4 to=7 name=Hit\n";
    const Remake r = after(two);
    ASSERT_EQ(r.clips->clips.size(), 2u);
    EXPECT_EQ(clip_text(r, r.clips->clips[0].id), "Hit");
    EXPECT_EQ(clip_text(r, r.clips->clips[1].id), "Hit #2");
    const Remake left = after(two + "clip.remove clip=\"Hit #2\"\n");
    ASSERT_EQ(left.clips->clips.size(), 1u);
    EXPECT_EQ(left.clips->clips[0].start, 4 * 3840);
}

TEST(Commands, ABusAndItsFirstSendAreOneStep) {
    const Remake r = after("bus.add name=Room part=Bass level=-3dB\n");
    ASSERT_EQ(r.part(kBass)->sends.size(), 1u);
    EXPECT_EQ(r.part(kBass)->sends[0].bus, r.mixer->buses[0].id);
    EXPECT_EQ(r.part(kBass)->sends[0].level_db, kSendFields[0].neutral);
    EXPECT_EQ(r.mixer->buses[0].gain_db, -3.0);
}

TEST(Commands, TheListNamesEveryStepAndSource) {
    const std::string list = command_list();
    for (const StepType* t : step_types()) EXPECT_NE(list.find(t->id), std::string::npos) << t->id;
    for (const SourceType* t : source_types()) EXPECT_NE(list.find(t->id), std::string::npos) << t->id;
}

TEST(Commands, PointsOfACurveCountFromTheirSection) {
    const Remake r = after("curve.set part=Bass field=level section=\"verse 2\" points=\"1 -12, 2 0\"\n");
    EXPECT_EQ(r.automation->curves[0].points[0].tick, 0);
    EXPECT_EQ(r.automation->curves[0].points[1].tick, 3840);
}

TEST(Commands, NotesAreMeantByPlaceAndPitch) {
    const Remake r = small_remake();
    const Remake up = after("note.change part=Bass notes=\"1/D2, 1.2.7/D#2\" semitones=2 reach=here\n");
    EXPECT_EQ(test::sounding(up, kBass)[0].second, 40);
    EXPECT_EQ(test::sounding(up, kBass)[16].second, 38);
    EXPECT_EQ(test::sounding(after("note.remove part=Drums from=2 to=3\n"), kDrums).size(), 28u);
    EXPECT_EQ(test::sounding(after("note.remove part=Drums from=2 to=3 pitch=Kick\n"), kDrums).size(), 30u);
    EXPECT_EQ(test::sounding(after("note.add part=Drums at=3.2.480 pitch=hat_open velocity=70\n"), kDrums).size(), 33u);
    EXPECT_EQ(notes_text(r, *r.part(kBass), test::refs(r, kBass, {1})), "1.2.7/D#2");
}

TEST(Commands, ARemarkIsSaidOfAPlaceReplacedAndTakenBack) {
    const Remake said = after("remark.add kind=question element=Bass at=2.3 length=1/4 words=\"slid or struck?\"\n");
    ASSERT_EQ(said.notebook->remarks.size(), 1u);
    const Remark& m = said.notebook->remarks[0];
    EXPECT_EQ(m.kind, RemarkKind::Question);
    EXPECT_EQ(m.element, ElementId(kBass));
    EXPECT_EQ(m.start, said.song->meter.tick_of({2, 3, 0}));
    EXPECT_EQ(m.length, kTicksPerQuarter);
    EXPECT_EQ(m.words, "slid or struck?");
    EXPECT_FALSE(what_is_wrong(said)) << "it can be kept in a file";
    const Remake again = after("remark.add kind=question element=Bass at=2.3 words=slid\n", said);
    ASSERT_EQ(again.notebook->remarks.size(), 1u) << "the same place says one thing of a kind";
    EXPECT_EQ(again.notebook->remarks[0].words, "slid");
    EXPECT_EQ(after("remark.add kind=intended element=Bass at=2.3\n", again).notebook->remarks.size(), 2u);
    EXPECT_TRUE(after("remark.remove kind=question element=Bass at=2.3\n", again).notebook->remarks.empty());
    EXPECT_NE(refusal("remark.remove kind=question element=Bass at=2\n").find("nothing of that kind is said of that place"), std::string::npos);
    EXPECT_NE(refusal("remark.add kind=doubt element=Bass at=2\n").find("is no kind of remark"), std::string::npos);
}

TEST(Commands, WhatCannotBeDoneIsToldWithItsLineAndChangesNothing) {
    EXPECT_EQ(refusal("part.mute part=Bass on=on\npart.mute part=Leed on=on\n"),
              "test.txt, line 2 (part.mute) was not done, because there is no part \"Leed\"; there are Bass, Drums.");
    const std::pair<const char*, const char*> cases[] = {
        {"part.explode", "there is no such command"},
        {"part.mute part=Bass", "the argument \"on\" is missing"},
        {"part.mute part=Bass on=maybe", "neither on nor off"},
        {"part.mute part=Bass on=on loud=yes", "no argument \"loud\""},
        {"part.mute part=Bass part=Bass on=on", "given twice"},
        {"part.mute part=Bass on", "not written as name=value"},
        {"field.set part=Bass field=level value=99dB", "is no value of \"Level\", which goes from −96.0 dB to 24.0 dB"},
        {"field.set part=Bass field=warmth value=1", "there is no field \"warmth\" there; there are level, pan"},
        {"field.set part=Bass layer=2 field=level value=1", "is no number from 1 to 1"},
        {"field.set part=Bass layer=1 field=octave value=1 section=verse", "it cannot be moved"},
        {"step.add part=Bass kind=warmer", "there is no step \"warmer\""},
        {"step.add kind=drive", "it does not say where"},
        {"step.remove part=Bass step=1", "there are no steps there"},
        {"send.add part=Bass bus=Room", "there is no bus yet"},
        {"section.copy section=solo to=9", "there is no section \"solo\"; there are verse, verse #2"},
        {"note.add part=Bass at=never pitch=C2", "is no place"},
        {"note.add part=Bass at=1 pitch=H2", "neither a note"},
        {"note.change part=Bass notes=1/C9 semitones=1", "has no note"},
        {"chord.set at=1 chord=Hm", "is not a chord this program knows"},
        {"meter.set meter=4/5", "is no meter"},
        {"part.add-layer part=Bass patch=Kazoo", "has no patch \"Kazoo\""},
        {"clip.from-original from=1 length=1/4 to=5 recipe=explode", "nothing that can be done to a sound"},
        {"note.change part=Bass from=1 move=\"2000 bars\"", "lies more than half an hour outside"},
        {"rival.choose part=Bass rival=2", "has no rival"},
        {"curve.set part=Bass field=level points=\"1 loud\"", "is no value"},
    };
    for (const auto& [line, why] : cases) {
        EXPECT_NE(refusal(line).find(why), std::string::npos) << refusal(line);
        EXPECT_NE(refusal(line).find("test.txt, line 1"), std::string::npos) << refusal(line);
    }
}

TEST(Commands, RandomLinesNeverBreakADocument) {
    std::mt19937 random(14);
    const auto pick = [&](std::size_t n) { return static_cast<std::size_t>(random() % n); };
    const std::vector<std::string> words{"Bass",
                                         "Drums",
                                         "Room",
                                         "verse",
                                         "verse 2",
                                         "1",
                                         "2.3",
                                         "9",
                                         "-3",
                                         "on",
                                         "off",
                                         "1/8",
                                         "-9dB",
                                         "2k",
                                         "50%",
                                         "drive",
                                         "duck",
                                         "reverb",
                                         "limiter",
                                         "equaliser",
                                         "synth",
                                         "soundfont",
                                         "Warm pad",
                                         "cutoff",
                                         "level",
                                         "D dorian",
                                         "Dm7",
                                         "C3",
                                         "Kick",
                                         "here",
                                         "1 0, 3 1 smooth",
                                         "",
                                         "x",
                                         "2",
                                         "3.5s",
                                         "fade 5 5, reverse",
                                         "confirmed",
                                         "first",
                                         "1/16",
                                         "lead"};
    const auto all = commands();
    Remake r = after("bus.add name=Room\nrival.add part=Bass name=other\nstep.add part=Bass kind=drive\n");
    int did = 0;
    for (int i = 0; i < 6000; ++i) {
        const Command& c = *all[pick(all.size())];
        Line line(c.id);
        for (const Argument& a : c.arguments)
            if (a.needed || pick(3) == 0) line.with(a.name, words[pick(words.size())]);
        const auto done = run_command(r, line);
        if (!done) {
            EXPECT_EQ(done.error().code, ErrorCode::CommandRefused) << line.text() << ": " << done.error().message();
            continue;
        }
        ++did;
        const auto wrong = what_is_wrong(done->remake);
        ASSERT_FALSE(wrong) << line.text() << ": " << *wrong;
        if (done->remake.parts.size() > 1 && done->remake.parts.size() < 6) r = done->remake;
    }
    EXPECT_GT(did, 200);
}

TEST(Commands, WhatWouldBeMoreThanARemakeMayHoldIsRefusedBeforeItIsMade) {
    Remake r = test::small_remake();
    r.song.edit().chords.clear();
    for (int i = 0; i < 100; ++i) r.song.edit().chords.push_back({i * 960, 960, Chord{0, 0, 0}, 1.0, Origin::Drawn, {}});
    for (const char* line :
         {"note.copy part=Bass from=1 to=9 by=\"1 bar\" times=10000", "chord.copy from=1 to=26 at=100 times=1000", "chord.copy from=90 to=91 at=1"}) {
        const auto parsed = parse_line(line);
        ASSERT_TRUE(parsed && *parsed) << line;
        const auto done = run_command(r, **parsed);
        ASSERT_FALSE(done) << line;
        EXPECT_EQ(done.error().code, ErrorCode::CommandRefused) << line;
    }
    // A text that is no notes is quoted in few words, however long it is.
    Line pasted("note.write");
    pasted.with("part", "Bass").with("at", "1").with("notes", std::string(100'000, 'x'));
    const auto done = run_command(r, pasted);
    ASSERT_FALSE(done);
    EXPECT_LT(done.error().message().size(), 300u);
}

TEST(Commands, NotesAreWrittenAsTheyAreCopied) {
    const Remake r = test::small_remake();
    std::vector<Note> notes;
    for (const PlacedNote& n : placed_notes(*r.part(test::kBass)))
        if (notes.size() < 5) notes.push_back(n.note);
    notes[2].bend.edit() = {{0, -50.0}, {120, 25.0}};
    Line line("note.write");
    line.with("part", "Drums").with("at", "3").with("notes", written_text(notes, 0)).with("origin", "played");
    const auto done = run_command(r, line);
    ASSERT_TRUE(done) << done.error().message();
    int found = 0;
    for (const PlacedNote& n : placed_notes(*done->remake.part(test::kDrums)))
        for (const Note& was : notes)
            found += n.note.origin == Origin::Played && n.note.start == was.start + 2 * 3840 && n.note.pitch == was.pitch && n.note.length == was.length &&
                     n.note.velocity == was.velocity && n.note.bend == was.bend;
    EXPECT_EQ(found, 5);
}

TEST(Commands, WhatIsNewOnTheTranscribeAndRebuildDesksDoesWhatItSays) {
    // A bend, a layout, a rate that changes, a spread bar.
    Remake r = after("note.bend part=Bass from=1 to=1.2 points=\"0:-100 240:0\" reach=here\nchord.voice at=1 pitches=\"D3 A3 F4\"\n");
    EXPECT_EQ(*placed_notes(*r.part(test::kBass)).front().note.bend, (std::vector<BendPoint>{{0, -100.0}, {240, 0.0}}));
    EXPECT_EQ(r.song->chords[0].voiced, (std::vector<int>{50, 57, 65}));
    r = after("chord.voice at=1 layout=open\nchord.voice at=1\n");
    EXPECT_TRUE(r.song->chords[0].voiced.empty()) << "nothing said gives the layout up";
    r = after("part.derive part=Bass kind=arpeggio every=1/4 every_at_end=1/16\n");
    EXPECT_EQ(r.part(test::kBass)->derived.every_at_end, 240);
    const auto notes = [](const Remake& of, int bar) {
        std::vector<std::pair<Ticks, int>> out;
        for (const PlacedNote& n : placed_notes(*of.part(test::kBass)))
            if (n.note.start >= (bar - 1) * 3840 - 100 && n.note.start < bar * 3840 - 100) out.emplace_back(n.note.start - (bar - 1) * 3840, n.note.pitch);
        return out;
    };
    const Remake before = test::small_remake();
    r = after("pattern.spread part=Bass from=1 length=\"1 bar\" to=\"3 -1.2.7/D#2, 5\" with=\"15600 C4 200 90\"\n");
    EXPECT_EQ(notes(r, 5).size(), notes(before, 1).size() + 1) << "with one note more";
    EXPECT_EQ(notes(r, 3).size(), notes(before, 1).size() - 1) << "and one fewer";
    EXPECT_EQ(notes(r, 2), notes(before, 2));
    // A piece of the original, a drum's own sound, a sheet for another part.
    r = after("layer.from-original part=Drums from=2.0s to=2.3s only=Kick root=Kick\npart.copy-sheet part=Drums to=Bass take=\"layers\"\n");
    ASSERT_EQ(r.clips->assets.size(), 1u);
    EXPECT_EQ(r.clips->assets[0].origin, AssetOrigin::Original);
    EXPECT_NEAR(r.clips->assets[0].end_s - r.clips->assets[0].start_s, 0.3, 0.002);
    EXPECT_EQ(r.part(test::kDrums)->layers.back().low_key, 36.0);
    EXPECT_EQ(r.part(test::kBass)->layers.size(), 2u);
    EXPECT_EQ(r.part(test::kBass)->layers.back().asset, r.clips->assets[0].id);
}

TEST(Commands, WhatCannotBeDoneWithThemIsSaidInAClause) {
    const std::pair<const char*, const char*> wrong[] = {
        {"note.bend part=Bass from=1 to=2 points=\"240:0 120:5\"", "order of time"},
        {"note.bend part=Bass from=1 to=2 points=\"soon\"", "is no bend"},
        {"note.bend part=Bass from=1 to=2 points=\"\"", "no point"},
        {"chord.voice at=90 layout=open", "no chord there"},
        {"chord.voice at=1 layout=wide", "is not known"},
        {"pattern.spread part=Bass from=1 length=\"1 bar\" to=\"nowhere\"", "is no place"},
        {"pattern.spread part=Bass from=1 length=\"1 bar\" to=\"3 -9.1/C9\"", "has no note"},
        {"pattern.spread part=Bass from=1 length=\"1 bar\" to=\"3\" with=\"90000 C4 200 90\"", "none of the places"},
        {"layer.from-original part=Bass from=2.0s to=2.001s", "shorter than 5 ms"},
        {"part.copy-sheet part=Bass to=Bass take=layers", "its own sheet"},
        {"part.copy-sheet part=Bass to=Drums take=notes", "notes of drums"},
        {"part.copy-sheet part=Bass to=Drums take=colours", "cannot be taken"}};
    for (const auto& [text, why] : wrong) {
        const auto line = parse_line(text);
        ASSERT_TRUE(line && *line) << text;
        const auto done = run_command(test::small_remake(), **line);
        ASSERT_FALSE(done) << text;
        EXPECT_EQ(done.error().code, ErrorCode::CommandRefused);
        EXPECT_NE(done.error().message().find(why), std::string::npos) << text << ": " << done.error().message();
    }
}

TEST(Commands, ATransitionEndsOnItsPlaceInTheKeyAndIsMadeAnewWhenChanged) {
    const Remake r = after(
        "transition.add kind=riser to=5 length=\"2 bars\"\ntransition.add kind=chord_swell to=5 length=\"1 bar\" level=-6dB\ntransition.add kind=crash to=5 "
        "length=\"1 bar\"\n");
    ASSERT_EQ(r.clips->clips.size(), 3u);
    const auto made = [&](std::size_t i) { return r.clips->asset(r.clips->clips[i].asset)->made; };
    EXPECT_TRUE(r.clips->clips[0].ends_here);
    EXPECT_EQ(r.clips->clips[0].start, 4 * 3840);
    EXPECT_EQ(r.clips->clips[0].name, "Riser to 5");
    EXPECT_EQ(made(0).beats, 8.0);
    EXPECT_EQ(made(0).pitches, std::vector<int>{62}) << "the song's key is D";
    EXPECT_EQ(made(1).pitches, laid_out(r.song->chords[2].chord, Voicing::Close, 0));
    EXPECT_EQ(r.clips->clips[1].gain_db, -6.0);
    EXPECT_FALSE(r.clips->clips[2].ends_here) << "a crash begins there";
    EXPECT_EQ(r.clips->asset(r.clips->clips[0].asset)->origin, AssetOrigin::Made);

    const Remake other = after("transition.change clip=\"Riser to 5\" kind=snare_build length=\"1 bar\" pitch=A3\n", r);
    const Making& now = other.clips->asset(other.clips->clips[0].asset)->made;
    EXPECT_EQ(now.kind, Transition::SnareBuild);
    EXPECT_EQ(now.beats, 4.0);
    EXPECT_EQ(now.pitches, std::vector<int>{57});
    EXPECT_NE(refusal("transition.add kind=whoosh to=5 length=\"1 bar\"\n").find("is no transition: say riser"), std::string::npos);
    EXPECT_NE(refusal("transition.add kind=riser to=5 length=\"100 bars\"\n").find("64 bars"), std::string::npos);
    EXPECT_NE(refusal("clip.from-original from=1 length=1/4 to=5 name=x\ntransition.change clip=x kind=riser\n").find("is no transition"), std::string::npos);
}

TEST(Commands, WhatPlaysWhereIsSaidInLines) {
    const Remake r = after("part.leave-out part=Bass section=#2\n");
    EXPECT_NE(refusal("part.leave-out part=Bass section=#2\npart.leave-out part=Bass section=#2\n").find("plays nothing there"), std::string::npos);
    EXPECT_NE(refusal("part.leave-out part=Bass section=#1\npart.play-as part=Bass section=#2 like=#1\n").find("plays nothing in"), std::string::npos);
    EXPECT_EQ(placed_notes(*r.part(kBass)).size(), 16u);
    EXPECT_EQ(placed_notes(*after("part.play-as part=Bass section=#2 like=#1\n", r).part(kBass)).size(), 32u);
    const Remake stop = after("part.fall-out from=8.3 to=9\n");
    for (const PartId p : {kBass, kDrums})
        for (const PlacedNote& n : placed_notes(*stop.part(p))) EXPECT_LT(n.note.start, 7 * 3840 + 1920);
    const Remake filled = after("original.fill from=5 to=7 alone=on\nclip.level clip=Original level=-3dB\nclip.mute clip=Original on=on\n");
    EXPECT_TRUE(filled.clips->clips[0].mute);
    EXPECT_EQ(filled.clips->clips[0].gain_db, -3.0);
    EXPECT_EQ(after("clip.from-original from=1 length=\"1 bar\" to=5 name=x\nclip.chop clip=x length=1/8\n").clips->clips.size(), 8u);
    EXPECT_EQ(recipe_text(after("clip.from-original from=1 length=1/4 to=5 name=x recipe=\"bars 2, gate 4 25%, stop 300, freeze 0 2000, pitch -3 1\"\n")
                              .clips->clips[0]
                              .recipe),
              "bars 2, gate 4 0.25, stop 300, freeze 0 2000, pitch -3 1");
}

TEST(Commands, AClipIsRetimedByMarksByAGridAndByAGroove) {
    const std::string cut = "clip.from-original from=1 length=\"1 bar\" to=5 name=x\n";
    const auto recipe = [&](const std::string& more) { return recipe_text(after(cut + more).clips->clips[0].recipe); };
    EXPECT_EQ(recipe("clip.warp clip=x marks=\"495:500 250:240\"\n"), "warp 250:240 495:500");
    EXPECT_EQ(recipe("clip.recipe clip=x recipe=\"reverse off, warp 250:240 495:500\"\n"), "reverse off, warp 250:240 495:500") << "read as it is written";
    EXPECT_EQ(recipe("clip.warp clip=x marks=\"495:500\"\nclip.warp clip=x marks=\"\"\n"), "");
    EXPECT_EQ(recipe("clip.retime clip=x hits=\"480 1030\" grid=1/4\n"), "warp 480:500 1030:1000");
    EXPECT_EQ(recipe("clip.retime clip=x hits=\"480 1030\" grid=1/4 strength=0.5\n"), "warp 480:490 1030:1015");
    EXPECT_EQ(recipe("groove.add name=g step=1/4 steps=\"96 96 96 96\"\nclip.retime clip=x hits=\"480 1030\" groove=g\n"), "warp 480:550 1030:1050");
    EXPECT_NE(refusal(cut + "clip.warp clip=x marks=\"495\"\n").find("is no mark of a warp"), std::string::npos);
    EXPECT_NE(refusal(cut + "clip.retime clip=x hits=\"480\"\n").find("does not say on what"), std::string::npos);
    EXPECT_NE(refusal(cut + "clip.retime clip=x hits=\"480\" groove=nobody\n").find("there is no groove"), std::string::npos);
    EXPECT_NE(refusal(cut + "clip.retime clip=x hits=\"99000\" grid=1/4\n").find("none of these times"), std::string::npos);
}

TEST(Commands, EachNoteMovesAFieldAnewAndLeavesItAloneAgain) {
    const std::string step = "step.add part=Bass kind=filter cutoff=200Hz\n", field = "field.by-notes part=Bass step=filter field=cutoff ";
    const Remake r = after(step + field + "to=3kHz attack=10ms sustain=40%\n" + field + "of=Drums decay=120ms\n");
    ASSERT_EQ(r.automation->by_notes.size(), 1u);
    const NoteMove& m = r.automation->by_notes[0];
    EXPECT_EQ(m.by, kDrums);
    EXPECT_EQ(m.to, 3000.0);
    EXPECT_EQ(m.attack_ms, 10.0);
    EXPECT_EQ(m.sustain, 0.4) << "what is not said stays";
    EXPECT_EQ(m.decay_ms, 120.0);
    EXPECT_TRUE(after(step + field + "to=3kHz\n" + field + "on=off\n").automation->by_notes.empty());
    EXPECT_EQ(after(step + field + "to=3kHz\n").automation->by_notes[0].by, kBass) << "its own notes, where nobody says whose";
    EXPECT_NE(refusal(step + field + "attack=1ms\n").find("does not say where"), std::string::npos);
    EXPECT_NE(refusal(step + field + "on=off\n").find("no note moves it"), std::string::npos);
    EXPECT_NE(refusal(step + field + "to=3kHz sustain=200%\n").find("200%"), std::string::npos);
    EXPECT_NE(refusal("macro.add name=m\nfield.by-notes macro=m field=amount to=1 of=Bass\n").find("not moved by notes"), std::string::npos);
    EXPECT_NE(refusal("field.by-notes master=on field=level to=-3dB\n").find("whose notes"), std::string::npos);
}

TEST(Commands, ABassFollowsAnotherPart) {
    const Remake r = after("part.follow part=Bass of=Drums pitch=roots sound=Kick\n");
    const auto notes = placed_notes(*r.part(kBass));
    ASSERT_EQ(notes.size(), 16u) << "a kick each half bar of eight";
    for (const PlacedNote& n : notes) EXPECT_EQ(n.note.start % 1920, 0);
    EXPECT_NE(refusal("part.follow part=Bass of=Drums\n").find("no line to follow"), std::string::npos);
    EXPECT_NE(refusal("part.follow part=Bass of=Bass\n").find("another one"), std::string::npos);
    EXPECT_NE(refusal("part.follow part=Bass of=Drums pitch=roots sound=Ride\n").find("plays nothing to follow"), std::string::npos);
    EXPECT_NE(refusal("part.follow part=Bass of=Drums pitch=roots from=3\n").find("both, or neither"), std::string::npos);
    EXPECT_NE(refusal("part.follow part=Bass of=Drums pitch=roots from=3 to=2\n").find("come after"), std::string::npos);
}

TEST(Commands, OneGestureAddsSeveralStepsThatCanBeSeenAndChanged) {
    const Remake r = after("steps.background part=Bass\n");
    ASSERT_EQ(r.part(kBass)->steps.size(), 3u);
    EXPECT_EQ(r.part(kBass)->steps[2].type, &kReverb);
    EXPECT_EQ(r.part(kBass)->gain_db, small_remake().part(kBass)->gain_db - 6.0);
    EXPECT_EQ(after("steps.thicken part=Bass\n", r).part(kBass)->steps.size(), 6u);
    EXPECT_NE(refusal("steps.thicken part=Nobody\n").find("no part"), std::string::npos);
}

TEST(Commands, ATransitionOfAnotherKindTurnsToTheOtherSideAndTakesTheChordsTones) {
    const Remake r = after("transition.add kind=riser to=5 length=\"1 bar\" name=x\n");
    const auto clip = [](const Remake& of) { return of.clips->clips[0]; };
    const auto asset = [](const Remake& of) { return *of.clips->asset(of.clips->clips[0].asset); };
    const Remake crash = after("transition.change clip=x kind=crash\n", r);
    EXPECT_FALSE(clip(crash).ends_here) << "what strikes begins there";
    EXPECT_EQ(clip(crash).start, clip(r).start);
    EXPECT_EQ(asset(crash).made.pitches, asset(r).made.pitches);
    const Remake chord = after("transition.change clip=x kind=chord_swell\n", crash);
    EXPECT_TRUE(clip(chord).ends_here);
    EXPECT_EQ(asset(chord).made.pitches, laid_out(r.song->chords[2].chord, Voicing::Close, 0));
    EXPECT_EQ(asset(after("transition.change clip=x kind=riser\n", chord)).made.pitches, asset(r).made.pitches) << "and back to the key";
    const Remake longer = after("transition.change clip=x length=\"2 bars\"\n", r);
    EXPECT_TRUE(clip(longer).ends_here);
    EXPECT_DOUBLE_EQ(asset(longer).end_s, 4.0) << "two bars at 120";
    EXPECT_EQ(longer.clips->assets.size(), 1u);
    // Told where it stands, it stays there whatever it is.
    EXPECT_TRUE(clip(after("transition.add kind=crash to=5 length=\"1 bar\" ends=on\n")).ends_here);
    // Where no chord is known, the key.
    const Remake keyed = after("transition.add kind=chord_swell to=20 length=\"1 bar\"\n");
    EXPECT_EQ(asset(keyed).made.pitches.size(), 1u);
}

TEST(Commands, ClipsRefuseWhatTheyAreNot) {
    EXPECT_NE(refusal("clip.chop clip=x length=1/8\n").find("there is no clip yet"), std::string::npos);
    const std::string cut = "clip.from-original from=1 length=1/8 to=5 name=x\n";
    EXPECT_NE(refusal(cut + "clip.chop clip=x length=1/4\n").find("not longer than one piece"), std::string::npos);
    EXPECT_NE(refusal(cut + "clip.recipe clip=x recipe=\"gate 4 200%\"\n").find("200%"), std::string::npos);
    EXPECT_NE(refusal(cut + "clip.recipe clip=x recipe=\"melt 3\"\n").find("nothing that can be done to a sound"), std::string::npos);
    EXPECT_NE(refusal(cut + "clip.recipe clip=x recipe=\"stop 1 2 3\"\n").find("fewer values"), std::string::npos);
    EXPECT_NE(refusal("original.fill from=7 to=5\n").find("nothing of the original"), std::string::npos);
    EXPECT_NE(refusal("part.fall-out from=3 to=2\n").find("has to come after"), std::string::npos);
    EXPECT_NE(refusal("part.play-as part=Bass section=#1 like=#1\n").find("same section"), std::string::npos);
    // What was cut into pieces can be undone piece by piece: each is a clip of its own.
    const Remake pieces = after(
        "clip.from-original from=1 length=\"1 bar\" to=5 name=x\nclip.chop clip=x length=1/4\nclip.mute clip=\"x 2\" on=on\nclip.move clip=\"x 3\" to=8\n");
    EXPECT_TRUE(pieces.clips->clips[1].mute);
    EXPECT_FALSE(pieces.clips->clips[0].mute);
    EXPECT_EQ(pieces.clips->clips[2].start, 7 * 3840);
    EXPECT_EQ(pieces.clips->assets.size(), 1u);
}

TEST(Commands, AMacroAMoveAThrowAndAnotherRateAreLines) {
    const Remake r = after(R"(macro.add name="Open up"
macro.target by="Open up" part=Bass layer=1 field=cutoff from=200Hz to=4kHz
field.set macro="Open up" field=amount value=100%
curve.set macro="Open up" field=amount section=#2 points="1 0%, 3 100%"
curve.lay part=Drums field=level from=2 to=3 points="2 -6dB, 2.3 0dB"
bus.add name=Echo
send.throw part=Bass bus=Echo level=-3dB from=1 to=1.2
note.rate part=Bass from=1 to=2 times=2 reach=here
steps.amp part=Bass
)");
    ASSERT_EQ(r.automation->macros.size(), 1u);
    EXPECT_NEAR(*field_value(r, {r.part(kBass)->layers[0].id, "cutoff"}), 4000.0, 1e-6);
    EXPECT_EQ(r.automation->curves.size(), 4u) << "the macro's, its field's, the drums' level, the send's";
    EXPECT_EQ(r.part(kBass)->sends.size(), 1u);
    EXPECT_EQ(r.part(kBass)->steps.size(), 3u);
    EXPECT_EQ(r.part(kBass)->steps[2].type, &kCabinet);
    // Each is named back by the words it was told with.
    Line line("field.set");
    EXPECT_EQ(name_owner(line, r, r.automation->macros[0].id).text(), "field.set macro=\"Open up\"");
    for (const char* wrong :
         {"macro.add name=\"Open up\"", "macro.target by=Nothing part=Bass field=level", "macro.target by=\"Open up\" part=Bass field=early_ms",
          "macro.target by=\"Open up\" macro=\"Open up\" field=amount", "curve.lay part=Bass field=level from=3 to=2 points=\"2 0dB\"",
          "curve.lay part=Bass field=level from=2 to=3 points=\"\"", "clip.from-file file=/a.wav to=1 seconds=1 origin=stolen"}) {
        const auto done = run_command(r, **parse_line(wrong));
        EXPECT_FALSE(done) << wrong;
    }
    EXPECT_EQ(after("clip.from-file file=/a.wav to=1 seconds=1 origin=recorded\n", r).clips->assets.back().origin, AssetOrigin::Recorded);
}

TEST(Commands, ACondensedVersionAndTurnsAreLines) {
    const Remake r = after("section.condense section=#1 on=on\npart.take-turns part=Bass with=Drums section=#2\n");
    EXPECT_TRUE(r.song->sections[0].condensed_out);
    EXPECT_FALSE(run_command(r, **parse_line("section.condense section=#2 on=on"))) << "something must be left";
    EXPECT_FALSE(run_command(r, **parse_line("part.take-turns part=Bass with=Bass section=#2")));
}

}  // namespace fw
