// SPDX-License-Identifier: GPL-3.0-or-later
// Tempo, beats and bars of the recording, mended by hand in the real window.
#include "survey_fixture.hpp"

#include "app/survey_desk.hpp"
#include "app/tempo_lane.hpp"
#include "formats/beat_text.hpp"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QPushButton>
#include <cmath>

namespace fw::app {

TEST_F(SurveyTest, AReadingIsHeardAsClicksAndThenTaken) {
    ASSERT_TRUE(judged());
    auto* hear = fact<QPushButton>("hear_reading1");
    ASSERT_TRUE(hear);
    QTest::mouseClick(hear, Qt::LeftButton);
    ASSERT_TRUE(session->survey().heard_reading());
    EXPECT_EQ(session->survey().heard_reading()->words, session->survey().readings()[1].words);
    EXPECT_TRUE(session->transport().player().playing());
    EXPECT_EQ(session->documents().document(), first) << "nothing is changed by hearing it";
    QTest::mouseClick(fact<QPushButton>("hear_reading1"), Qt::LeftButton);
    EXPECT_FALSE(session->survey().heard_reading());
    // Double the tempo, wherever it stands in the list.
    int at = 0;
    for (std::size_t i = 1; i < session->survey().readings().size(); ++i)
        if (session->survey().readings()[i].words == "double") at = static_cast<int>(i);
    ASSERT_GT(at, 0);
    const double was = song().tempo.bpm_at(0), note_s = song().tempo.seconds(placed_notes(*part(PartRole::Bass)).front().note.start);
    QTest::mouseClick(fact<QPushButton>(QString("reading%1").arg(at)), Qt::LeftButton);
    EXPECT_NEAR(song().tempo.bpm_at(0), 2.0 * was, 0.5);
    EXPECT_NEAR(song().tempo.seconds(placed_notes(*part(PartRole::Bass)).front().note.start), note_s, 0.002);
    ASSERT_TRUE(judged()) << "the new count is judged in its turn";
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_DOUBLE_EQ(song().tempo.bpm_at(0), was);
}

TEST_F(SurveyTest, ATempoIsTypedWithDecimals) {
    auto* bpm = fact<QDoubleSpinBox>("bpm");
    ASSERT_TRUE(bpm);
    bpm->setFocus();
    bpm->selectAll();
    QTest::keyClicks(bpm, "98.125");
    QTest::keyClick(bpm, Qt::Key_Return);
    EXPECT_NEAR(song().tempo.bpm_at(bar(20)), 98.125, 1e-6);
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(session->documents().document(), first);
}

TEST_F(SurveyTest, TappingAlongCountsAsItWasTapped) {
    const double was = song().tempo.bpm_at(0);
    // At three halves of the tempo, by the recording's own time. A machine that stands still meanwhile taps late: then it is done again.
    bool even = false;
    for (int tries = 0; tries < 4 && !even; ++tries) {
        session->transport().player().stop();
        ASSERT_TRUE(QTest::qWaitFor([] { return session->survey().taps() == 0; }, 4000));
        while (session->documents().history().can_undo()) session->documents().undo();
        session->transport().seek(12.0);
        ASSERT_TRUE(QTest::qWaitFor([] { return std::abs(session->transport().position_s() - 12.0) < 0.01; }, 2000));
        key(Qt::Key_Y);
        EXPECT_TRUE(session->transport().player().playing()) << "the first starts the recording";
        const double step_s = 60.0 / was / 1.5, begin_s = session->transport().position_s() + 0.3;
        even = true;
        for (int k = 0; k < 6; ++k) {
            const double at_s = begin_s + k * step_s;
            ASSERT_TRUE(QTest::qWaitFor([&] { return session->transport().position_s() >= at_s; }, 5000));
            even = even && session->transport().position_s() < at_s + 0.1;
            key(Qt::Key_Y);
        }
    }
    ASSERT_TRUE(even);
    EXPECT_EQ(session->survey().taps(), 6u);
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->documents().document() != first; }, 4000));
    EXPECT_NEAR(song().tempo.bpm_at(0), 1.5 * was, 0.01) << "to the hundredth, whatever the hand did";
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(session->documents().document(), first);
}

TEST_F(SurveyTest, TooFewTapsSayWhatIsMissing) {
    session->transport().seek(12.0);
    key(Qt::Key_Y);
    QTest::qWait(200);
    key(Qt::Key_Y);
    QTest::qWait(300);
    key(Qt::Key_Y);
    EXPECT_TRUE(QTest::qWaitFor([] { return window->last_message().startsWith("Four taps"); }, 4000));
    EXPECT_EQ(session->documents().document(), first);
}

TEST_F(SurveyTest, ABarLineIsDraggedPinnedAndLetGo) {
    PageView* page = window->page();
    const double was_s = song().tempo.seconds(bar(7)), before_s = song().tempo.seconds(bar(6)), behind_s = song().tempo.seconds(bar(8));
    const QPoint at = page->handle_of(bar(7));
    ASSERT_GE(at.x(), 0);
    const double wanted_s = song().tempo.seconds(page->tick_at(at + QPoint(9, 0)));
    drag(at, at + QPoint(9, 0));
    EXPECT_NEAR(song().tempo.seconds(bar(7)), wanted_s, 0.002);
    EXPECT_GT(wanted_s, was_s + 0.05);
    EXPECT_NEAR(song().tempo.seconds(bar(6)), before_s, 1e-9) << "bars beside it stay";
    EXPECT_NEAR(song().tempo.seconds(bar(8)), behind_s, 1e-9);
    ASSERT_EQ(song().pins.size(), 1u);
    QTest::mouseDClick(page->viewport(), Qt::LeftButton, {}, page->handle_of(bar(7)));
    EXPECT_TRUE(song().pins.empty());
    EXPECT_NEAR(song().tempo.seconds(bar(7)), wanted_s, 0.002);
    key(Qt::Key_Z, Qt::ControlModifier);
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(session->documents().document(), first);
    // With Shift all goes along.
    drag(at, at + QPoint(9, 0), Qt::ShiftModifier);
    EXPECT_NEAR(song().tempo.seconds(bar(8)) - behind_s, wanted_s - was_s, 0.003);
}

TEST_F(SurveyTest, TheBeatAtThePlayheadIsPinnedByKey) {
    const double wanted_s = song().tempo.seconds(bar(9)) + 0.08;
    session->transport().seek(wanted_s);
    QTest::qWait(60);
    key(Qt::Key_P);
    // A stop that is still fading out may have moved the playhead by a block or two.
    EXPECT_NEAR(song().tempo.seconds(bar(9)), wanted_s, 0.02);
    key(Qt::Key_P, Qt::ShiftModifier);
    EXPECT_TRUE(song().pins.empty());
}

TEST_F(SurveyTest, BarsAreCountedMetersSetAndUpbeatsTyped) {
    const int last = song().meter.position(session->remake().end_tick() - 1).bar;
    session->transport().set_loop(song().tempo.seconds(bar(9)), song().tempo.seconds(bar(11)));
    const double end_s = song().tempo.seconds(bar(11));
    key(Qt::Key_Right, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(song().meter.position(session->remake().end_tick() - 1).bar, last + 1);
    EXPECT_NEAR(song().tempo.seconds(bar(12)), end_s, 1e-6);
    key(Qt::Key_Left, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(song().meter.position(session->remake().end_tick() - 1).bar, last);
    key(Qt::Key_Left, Qt::ControlModifier | Qt::ShiftModifier);
    key(Qt::Key_Left, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(window->last_message().contains("One bar has to be left")) << window->last_message().toStdString();
    while (session->documents().history().can_undo()) session->documents().undo();
    session->transport().set_loop(0, 0, false);
    session->transport().seek(song().tempo.seconds(bar(5)) + 0.1);
    QTest::qWait(60);
    auto* meter = fact<QComboBox>("meter_from_here");
    ASSERT_TRUE(meter);
    emit meter->activated(meter->findText("3/4"));
    EXPECT_EQ(song().meter.at_bar(4).numerator, 4);
    EXPECT_EQ(song().meter.at_bar(5).numerator, 3);
    key(Qt::Key_Z, Qt::ControlModifier);
    auto* upbeat = fact<QDoubleSpinBox>("upbeat");
    ASSERT_TRUE(upbeat);
    upbeat->setValue(1);
    emit upbeat->editingFinished();
    EXPECT_EQ(song().meter.position(song().tempo.anchors().front().tick).beat, 4);
}

TEST_F(SurveyTest, AStretchIsMadeSteadyFollowsTheRecordingOrIsFree) {
    session->transport().set_loop(song().tempo.seconds(bar(5)), song().tempo.seconds(bar(9)));
    key(Qt::Key_T, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(window->last_message().contains("BPM; their beats lay within")) << window->last_message().toStdString();
    EXPECT_LT(fit_steady(song(), bar(5), bar(9)).rms_ms, 1e-3);
    key(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    for (int b = 5; b <= 9; ++b) EXPECT_NEAR(song().tempo.seconds(bar(b)), first->song->tempo.seconds(first->song->meter.tick_of_bar(b)), 0.03) << b;
    key(Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(song().is_free(bar(6)));
    key(Qt::Key_M, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_FALSE(song().is_free(bar(6)));
}

}  // namespace fw::app
