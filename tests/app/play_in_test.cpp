// SPDX-License-Identifier: GPL-3.0-or-later
// Playing in: keyboards, the computer's keys, a voice; takes.
#include "fixture.hpp"

#include "app/doubt_walk.hpp"
#include "app/play_bar.hpp"
#include "app/play_in.hpp"

#include <QCheckBox>
#include <QPushButton>
#include <fstream>

namespace fw::app {

class PlayInTest : public WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        window->show_desk(Desk::Transcribe);
        select(PartRole::Lead);
        session->selection().set_reach(Reach::Here);
    }
    void TearDown() override { session->play_in().stop_listening(); }
    NoteCloseUp* view() { return window->transcribe()->notes(); }
    static std::vector<PlacedNote> notes(PartRole role) { return placed_notes(*part(role)); }
};

TEST_F(PlayInTest, AKeyboardIsRecordedWhereItWasPlayedAndTakesReplaceEachOther) {
    select(PartRole::Lead);
    session->selection().set_reach(Reach::Here);
    PlayIn& play = session->play_in();
    const std::size_t before = notes_of(PartRole::Lead);
    session->transport().set_loop(2.0, 3.5);
    session->transport().seek(2.0);
    std::vector<SimulatedKeyboard::Key> keys;
    for (int i = 0; i < 6; ++i) keys.push_back({0.25 + 0.5 * i, 0.2, 60 + i, 80 + i});
    auto keyboard = std::make_unique<SimulatedKeyboard>(keys, 0.0, 1);
    SimulatedKeyboard* hand = keyboard.get();
    play.listen(std::move(keyboard));
    play.record(true);
    ASSERT_TRUE(play.recording());
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->transport().position_s() > 2.02 && session->transport().position_s() < 2.6; }, 5000));
    const double offset = session->transport().position_s();
    hand->start(std::chrono::steady_clock::now());
    ASSERT_TRUE(QTest::qWaitFor([&] { return play.takes().size() >= 2; }, 15000)) << "each time round is a take";
    play.record(false);
    EXPECT_FALSE(play.recording());
    EXPECT_FALSE(session->transport().player().playing());
    const auto& played = play.takes().front().notes;
    ASSERT_GE(played.size(), 2u);
    const TempoMap& tempo = session->remake().song->tempo;
    EXPECT_NEAR(tempo.seconds(played[0].start), offset + 0.25, 0.1);
    EXPECT_NEAR(tempo.seconds(played[1].start) - tempo.seconds(played[0].start), 0.5, 0.05) << "the hand's own timing";
    EXPECT_EQ(played[0].velocity, 80);
    const std::size_t last = *play.taken();
    EXPECT_EQ(notes_of(PartRole::Lead), before + play.takes()[last].notes.size());
    play.take(0);
    EXPECT_EQ(notes_of(PartRole::Lead), before + played.size()) << "one take takes the place of the other";
    session->documents().undo();
    EXPECT_EQ(notes_of(PartRole::Lead), before) << "all takes are one step";
    play.stop_listening();
}

TEST_F(PlayInTest, TheComputersKeysWriteStepByStep) {
    select(PartRole::Lead);
    session->selection().set_reach(Reach::Here);
    QTest::keyClick(view(), Qt::Key_P, Qt::ControlModifier);
    auto* bar = window->findChild<PlayBar*>();
    ASSERT_TRUE(bar && bar->isVisible());
    QTest::mouseClick(bar->findChild<QCheckBox*>("play_steps"), Qt::LeftButton, {}, QPoint(8, 8));
    ASSERT_TRUE(session->play_in().step_entry());
    const Song& song = *session->remake().song;
    const Ticks at = song.meter.tick_of_bar(9);
    const double at_s = song.tempo.seconds(at);
    session->transport().seek(at_s);
    ASSERT_TRUE(QTest::qWaitFor([&] { return std::abs(session->transport().position_s() - at_s) < 0.01; }, 5000));
    const std::size_t before = notes_of(PartRole::Lead);
    view()->setFocus();
    for (const auto key : {Qt::Key_A, Qt::Key_D, Qt::Key_G}) {
        QTest::keyPress(view(), key);
        QTest::keyRelease(view(), key);
        QTest::qWait(30);
    }
    EXPECT_EQ(notes_of(PartRole::Lead), before + 3);
    std::vector<std::pair<Ticks, int>> drawn;
    for (const PlacedNote& n : notes(PartRole::Lead))
        if (n.note.start >= at && n.note.start < at + 960 && n.note.origin == Origin::Drawn) drawn.emplace_back(n.note.start - at, n.note.pitch);
    EXPECT_EQ(drawn, (std::vector<std::pair<Ticks, int>>{{0, 60}, {240, 64}, {480, 67}}));
    EXPECT_FALSE(session->walk().current()) << "while they play, letters are no commands";
    session->play_in().set_step_entry(false);
    QTest::keyClick(view(), Qt::Key_P, Qt::ControlModifier);
    EXPECT_FALSE(session->play_in().listening());
}

TEST_F(PlayInTest, AnotherTakeTakesNothingBackThatWasDoneSince) {
    PlayIn& play = session->play_in();
    const std::size_t before = notes_of(PartRole::Lead);
    Note n;
    n.start = 3840 * 20, n.length = 240, n.pitch = 90, n.origin = Origin::Played;
    play.add_take({n});
    n.pitch = 91;
    play.add_take({n});
    EXPECT_EQ(notes_of(PartRole::Lead), before + 1) << "in the place of the first";
    run("part.rename part=Bass name=Keel");
    const std::size_t last = play.takes().size() - 1;
    play.take(last - 1);
    EXPECT_EQ(part(PartRole::Bass)->name, "Keel") << "the edit stays";
    EXPECT_EQ(notes_of(PartRole::Lead), before + 2) << "beside what is there";
    play.take(last);
    EXPECT_EQ(notes_of(PartRole::Lead), before + 2) << "from here on they take each other's place again";
    EXPECT_EQ(part(PartRole::Bass)->name, "Keel");
    session->documents().undo();
    EXPECT_EQ(part(PartRole::Bass)->name, "Keel");
    EXPECT_EQ(notes_of(PartRole::Lead), before + 1);
}

TEST_F(PlayInTest, AVoiceFromAFileIsWrittenAsATake) {
    const test::TemporaryFolder folder;
    const auto file = folder / "voice.wav";
    ASSERT_TRUE(write_audio(file, test::tones({{0.3, 0.5, 62}, {0.9, 0.5, 65}, {1.5, 0.5, 69}}, 3)));
    const std::size_t before = notes_of(PartRole::Lead);
    session->transport().set_loop(20.0, 24.0, false);
    auto* bar = window->findChild<PlayBar*>();
    bar->hear_voice(QString::fromStdString(file.string()));
    ASSERT_TRUE(QTest::qWaitFor([&] { return notes_of(PartRole::Lead) == before + 3; }, 30000)) << window->last_message().toStdString();
    std::vector<int> pitches;
    double first_s = 0.0;
    for (const PlacedNote& n : notes(PartRole::Lead))
        if (n.note.origin == Origin::Played) {
            if (pitches.empty()) first_s = session->remake().song->tempo.seconds(n.note.start);
            pitches.push_back(n.note.pitch);
        }
    EXPECT_EQ(pitches, (std::vector<int>{62, 65, 69}));
    EXPECT_NEAR(first_s, 20.3, 0.06) << "from where the loop begins";
    // Before and after: the voice itself sounds with its notes, and is taken away again.
    auto* voice = bar->findChild<QPushButton*>("hear_voice");
    ASSERT_TRUE(voice);
    bar->show();
    QTest::mouseClick(voice, Qt::LeftButton);
    ASSERT_EQ(session->remake().clips->clips.size(), 1u) << window->last_message().toStdString();
    EXPECT_NEAR(session->remake().song->tempo.seconds(session->remake().clips->clips[0].start), 20.0, 0.01);
    QTest::mouseClick(voice, Qt::LeftButton);
    EXPECT_TRUE(session->remake().clips->clips.empty());
    bar->hide();
    std::ofstream(folder / "none.wav") << "nothing";
    bar->hear_voice(QString::fromStdString((folder / "none.wav").string()));
    ASSERT_TRUE(QTest::qWaitFor([&] { return window->last_message().contains("none.wav"); }, 30000)) << "one sentence says what is wrong with it";
    EXPECT_EQ(notes_of(PartRole::Lead), before + 3);
}

TEST_F(PlayInTest, AFaderIsRecordedAsTheLevelsCurveAndTakesAreJudgedByTheOriginal) {
    PlayIn& play = session->play_in();
    session->transport().seek(2.0);
    auto keyboard = std::make_unique<SimulatedKeyboard>(std::vector<SimulatedKeyboard::Key>{{0.1, 0.2, 62, 90}, {0.6, 0.2, 65, 90}}, 0.0, 1);
    keyboard->move_controller(0.2, 7, 127);
    keyboard->move_controller(0.4, 7, 64);
    keyboard->move_controller(0.7, 7, 40);
    SimulatedKeyboard* hand = keyboard.get();
    play.listen(std::move(keyboard));
    play.record(true);
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->transport().position_s() > 2.02; }, 5000));
    hand->start(std::chrono::steady_clock::now());
    QTest::qWait(1300);
    play.record(false);
    ASSERT_EQ(play.takes().size(), 1u);
    ASSERT_GE(play.takes()[0].level.size(), 2u);
    EXPECT_NEAR(play.takes()[0].level.front().value, 0.0, 0.1) << "full is the part's own level";
    EXPECT_NEAR(play.takes()[0].level.back().value, 40.0 * std::log10(40.0 / 127.0), 0.6);
    const FieldRef level{part(PartRole::Lead)->id, "level"};
    const auto& curves = session->remake().automation->curves;
    ASSERT_TRUE(std::any_of(curves.begin(), curves.end(), [&](const Curve& c) { return c.field == level; }));
    ASSERT_TRUE(QTest::qWaitFor([&] { return play.takes()[0].right.has_value(); }, 60000));
    EXPECT_GE(*play.takes()[0].right, 0.0);
    EXPECT_LE(*play.takes()[0].right, 1.0);
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), first) << "notes and fader are one step";
    play.stop_listening();
}

}  // namespace fw::app
