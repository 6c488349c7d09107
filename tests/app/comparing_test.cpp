// SPDX-License-Identifier: GPL-3.0-or-later
// The sheet against the original and against itself: before and behind a step, how the original moves, plug-ins, buses in buses.
#include "app/sound_sheet.hpp"
#include "fixture.hpp"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>

namespace fw::app {

TEST_F(WindowTest, BeforeAStepIsHeardAsLoudAsBehindItUntilItIsPressedAgainOrSomethingIsEdited) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    run("step.add part=Bass kind=drive drive=20dB level=6dB\nstep.add part=Bass kind=equaliser low=6dB\n");
    const auto document = session->documents().document();
    auto* before = in_sheet<QToolButton>("before", 1);  // behind the one of all steps
    QTest::mouseClick(before, Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->instead() != nullptr; }, 30000));
    const Part& heard = *session->instead()->part(part(PartRole::Bass)->id);
    EXPECT_EQ(heard.steps[0].on, 0.0);
    EXPECT_EQ(heard.steps[1].on, 1.0);
    EXPECT_GT(heard.gain_db, part(PartRole::Bass)->gain_db + 3.0);
    EXPECT_EQ(session->documents().document(), document) << "nothing is edited";
    EXPECT_TRUE(in_sheet<QToolButton>("before", 1)->isChecked());
    QTest::mouseClick(in_sheet<QToolButton>("before", 1), Qt::LeftButton);
    EXPECT_FALSE(session->instead());
    QTest::mouseClick(in_sheet<QToolButton>("before", 0), Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->instead() != nullptr; }, 30000));
    EXPECT_EQ(session->instead()->part(part(PartRole::Bass)->id)->steps[1].on, 0.0);
    in_sheet<QDoubleSpinBox>("low")->setValue(3.0);
    EXPECT_FALSE(session->instead()) << "what is edited is heard";
    EXPECT_FALSE(in_sheet<QToolButton>("before", 0)->isChecked());
}

TEST_F(WindowTest, HowTheOriginalMovesStandsBehindACurveAndIsFollowed) {
    select(PartRole::Bass);
    const PartId bass = part(PartRole::Bass)->id;
    window->show_desk(Desk::Rebuild);
    CurveView* curve = window->rebuild_desk()->curve();
    auto* follow = curve->findChild<QToolButton*>("follow_original");
    curve->show_field(FieldRef{bass, "pan"});
    EXPECT_FALSE(follow->isVisible()) << "nothing of the original's pan is measured";
    const FieldRef level{bass, "level"};
    curve->show_field(level);
    ASSERT_TRUE(QTest::qWaitFor([&] { return follow->isVisible(); }, 60000));
    ASSERT_GT(curve->asked().size(), 40u);
    QTest::mouseClick(follow, Qt::LeftButton);
    const auto& curves = session->remake().automation->curves;
    ASSERT_GE(curves.size(), 2u) << "one in each section it touches";
    // It lies near what was asked, and measures as followed: what is asked now does not move by itself.
    double off = 0.0;
    for (const CurvePoint& p : curve->asked()) off += std::abs(p.value - value_moved(session->remake(), level, p.tick));
    EXPECT_LT(off / static_cast<double>(curve->asked().size()), 2.5);
    session->documents().undo();
    EXPECT_TRUE(session->remake().automation->curves.empty()) << "one step of undo";
}

TEST_F(WindowTest, PlugInsAreChosenOnTheSheetAndOneThatCrashesIsNamedWhileItPlays) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    const auto choose = [](QMenu* menu, const QString& name) {
        emit menu->aboutToShow();
        for (QAction* a : menu->actions())
            if (a->text() == name) return a->trigger();
        FAIL() << name.toStdString() << " is not offered";
    };
    const auto effects = [&] { return in_sheet<QPushButton>("add_step")->menu()->findChild<QMenu*>("plug_ins"); };
    choose(effects(), "Test gain");
    ASSERT_EQ(part(PartRole::Bass)->steps.size(), 1u);
    in_sheet<QDoubleSpinBox>("gain")->setValue(0.5);
    EXPECT_EQ(part(PartRole::Bass)->steps[0].value(0), 0.5);

    auto* instrument = in_sheet<QComboBox>("instrument");
    const int plays = instrument->currentIndex();
    emit instrument->activated(instrument->findText("Plug-in…"));
    EXPECT_EQ(instrument->currentIndex(), plays) << "until one is chosen";
    QMenu* instruments = nullptr;
    for (QMenu* m : window->findChildren<QMenu*>("instrument_plug_ins")) instruments = m;
    ASSERT_TRUE(instruments);
    choose(instruments, "Test tone");
    instruments->close();
    EXPECT_STREQ(part(PartRole::Bass)->layers[0].source->label, "Test tone");
    EXPECT_EQ(in_sheet<QComboBox>("instrument")->currentText(), "Test tone");

    QStringList told;
    const auto listening = QObject::connect(session, &Session::failed, [&](const QString& sentence) { told += sentence; });
    choose(effects(), "Test crash");
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->settled(); }, 20000));
    // Played on: the plug-in ends a tenth of a second in, the rest is heard.
    session->toggle_play();
    ASSERT_TRUE(QTest::qWaitFor([&] { return !told.isEmpty(); }, 30000));
    QTest::qWait(1200);
    EXPECT_EQ(told.filter("The plug-in Test crash has crashed").size(), 1) << told.join("; ").toStdString();
    session->transport().player().stop();
    QObject::disconnect(listening);
    for (int i = 0; i < 4; ++i) session->documents().undo();
    EXPECT_TRUE(part(PartRole::Bass)->steps.empty());
    EXPECT_EQ(part(PartRole::Bass)->layers[0].source, &kSynth);
}

TEST_F(WindowTest, APlugInsPresetAndItsFileAreChosenOnTheSheet) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    const auto before = session->documents().document();
    run("step.add part=Bass kind=lv2:urn:fakturwerk:test:keeper\n");
    settle();
    const auto step = [&]() -> const Step& { return part(PartRole::Bass)->steps[0]; };
    EXPECT_FALSE(in_sheet<QLabel>("own_state"));
    QTest::mouseClick(in_sheet<QPushButton>("presets"), Qt::LeftButton);
    QMenu* menu = nullptr;
    const auto opened = [&] {
        for (QMenu* m : window->findChildren<QMenu*>("preset_menu")) menu = m;
        return menu != nullptr;
    };
    ASSERT_TRUE(QTest::qWaitFor(opened, 20000));
    ASSERT_EQ(menu->actions().size(), 2);
    EXPECT_EQ(menu->actions()[0]->text(), "Heavy");
    menu->actions()[0]->trigger();
    menu->close();
    EXPECT_EQ(step().value(0), 0.5);
    EXPECT_FALSE(step().state.empty());
    settle();
    EXPECT_TRUE(in_sheet<QLabel>("own_state"));
    EXPECT_EQ(in_sheet<QPushButton>("plug_in_file")->text(), "File…");
    window->rebuild_desk()->sheet()->give_file(step().id, QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
    settle();
    EXPECT_EQ(in_sheet<QPushButton>("plug_in_file")->text(), "lantern-ferry.ogg");
    EXPECT_FALSE(step().state.empty()) << "the file leaves the state as it is";
    for (int i = 0; i < 3; ++i) session->documents().undo();
    EXPECT_EQ(session->documents().document(), before);
}

TEST_F(WindowTest, ABusGoesToAnotherOneThatDoesNotComeBackToIt) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    run("bus.add name=Inner\nbus.add name=Outer\n");
    const auto buses = [&] { return session->remake().mixer->buses; };
    auto* inner = in_sheet<QComboBox>("bus_output", 0);
    inner->setCurrentIndex(inner->findText("to Outer"));
    emit inner->activated(inner->currentIndex());
    EXPECT_EQ(buses()[0].output, buses()[1].id);
    EXPECT_EQ(in_sheet<QComboBox>("bus_output", 1)->count(), 1) << "to the master only: it would go round in a circle";
    EXPECT_EQ(in_sheet<QComboBox>("bus_output", 0)->currentText(), "to Outer");
    session->documents().undo();
    EXPECT_EQ(buses()[0].output, BusId{});
}

}  // namespace fw::app
