// SPDX-License-Identifier: GPL-3.0-or-later
// The map of the recording, mended by hand in the real window; and how it is listened to.
#include "fixture.hpp"

#include "app/lens_panel.hpp"
#include "app/listening_bar.hpp"
#include "app/record_notes.hpp"
#include "app/survey.hpp"
#include "app/survey_desk.hpp"
#include "app/tempo_lane.hpp"
#include "formats/beat_text.hpp"
#include "formats/remake_file.hpp"

#include <QAbstractButton>
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFile>
#include <QInputDialog>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QTemporaryDir>
#include <QTimer>
#include <QWheelEvent>
#include <cmath>

namespace fw::app {

class SurveyTest : public WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        session->selection().select_element(ElementId::tempo());
        session->survey().set_lens({});
        session->survey().set_click({});
        session->survey().hear_reading(nullptr);
        window->page()->set_phrase(0);
        window->page()->verticalScrollBar()->setValue(0);
    }
    void TearDown() override {
        session->transport().player().stop();
        session->survey().hear_reading(nullptr);
        session->survey().set_lens({});
    }
    static const Song& song() { return *session->remake().song; }
    static Ticks bar(int n) { return song().meter.tick_of_bar(n); }
    static void key(int k, Qt::KeyboardModifiers m = Qt::NoModifier) {
        // A dialog that has closed may have left the window without the keyboard.
        if (!window->isActiveWindow()) window->activateWindow(), (void)QTest::qWaitForWindowActive(window);
        QTest::keyClick(window, static_cast<Qt::Key>(k), m);
    }
    static void drag(const QPoint& from, const QPoint& to, Qt::KeyboardModifiers m = Qt::NoModifier) {
        QWidget* page = window->page()->viewport();
        QTest::mousePress(page, Qt::LeftButton, m, from);
        QTest::mouseMove(page, (from + to) / 2);
        QTest::mouseMove(page, to);
        QTest::mouseRelease(page, Qt::LeftButton, m, to);
    }
    static bool judged() {
        return QTest::qWaitFor([] { return !session->survey().readings().empty(); }, 30000);
    }
};

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
    meter->setCurrentText("3/4");
    emit meter->textActivated("3/4");
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

TEST_F(SurveyTest, SectionsAreSplitMergedAndMovedByKey) {
    const std::size_t count = song().sections.size();
    session->transport().seek(song().tempo.seconds(bar(9)) + 0.05);
    QTest::qWait(60);
    key(Qt::Key_S);
    ASSERT_EQ(song().sections.size(), count + 1);
    EXPECT_EQ(song().sections[2].start, bar(9));
    key(Qt::Key_S);
    EXPECT_TRUE(window->last_message().contains("a section begins there already")) << window->last_message().toStdString();
    session->transport().seek(song().tempo.seconds(bar(10)) + 0.05);
    QTest::qWait(60);
    key(Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(song().sections[2].start, bar(10));
    session->transport().seek(song().tempo.seconds(bar(6)));
    QTest::qWait(60);
    key(Qt::Key_S, Qt::ShiftModifier);
    EXPECT_EQ(song().sections.size(), count);
    session->selection().select_element(ElementId::sections());
    auto* repeats = fact<QComboBox>("repeats4");
    ASSERT_TRUE(repeats);
    repeats->setCurrentIndex(1);
    emit repeats->activated(1);
    EXPECT_EQ(song().sections[4].repeat_of, song().sections[0].id);
    EXPECT_EQ(song().sections[4].label, song().sections[0].label);
}

TEST_F(SurveyTest, TheListOfChangesIsHeardTickedQuestionedAndDismissed) {
    session->selection().select_element(ElementId::sections());
    auto* line = fact<QPushButton>("change1");
    ASSERT_TRUE(line);
    QTest::mouseClick(line, Qt::LeftButton);
    EXPECT_TRUE(session->transport().player().playing());
    EXPECT_GT(session->transport().loop_end(), session->transport().loop_start());
    QTest::mouseClick(fact<QPushButton>("seen_change1"), Qt::LeftButton);
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u);
    EXPECT_EQ(session->remake().notebook->remarks[0].kind, RemarkKind::Seen);
    EXPECT_TRUE(fact<QPushButton>("seen_change1")->isChecked());
    QTest::mouseClick(fact<QPushButton>("question_change1"), Qt::LeftButton);
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u) << "one word on each";
    EXPECT_EQ(session->remake().notebook->remarks[0].kind, RemarkKind::Question);
    key(Qt::Key_Z, Qt::ControlModifier);
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u);
    EXPECT_EQ(session->remake().notebook->remarks[0].kind, RemarkKind::Seen) << "the change of word is one step";
    key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    QTest::mouseClick(fact<QPushButton>("dismissed_move1"), Qt::LeftButton);
    EXPECT_FALSE(fact<QPushButton>("move1")) << "it is off the list";
    QTest::mouseClick(fact<QPushButton>("question_change1"), Qt::LeftButton);
    EXPECT_EQ(session->remake().notebook->remarks.size(), 1u) << "a second click takes it back";
}

TEST_F(SurveyTest, ThePageComesNearerAndGoesFarther) {
    PageView* page = window->page();
    const auto rows = page->rows();
    for (int k = 0; k < 9; ++k) key(Qt::Key_Minus, Qt::ControlModifier);
    EXPECT_LT(page->rows().back().top + 30, page->viewport()->height()) << "the whole song on one screen";
    EXPECT_EQ(page->rows().back().end, rows.back().end);
    for (int k = 0; k < 18; ++k) {
        QWheelEvent e({300, 200}, page->viewport()->mapToGlobal(QPointF(300, 200)), {}, {0, 120}, Qt::NoButton, Qt::ControlModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(page->viewport(), &e);
    }
    ASSERT_GE(page->rows().size(), 2u);
    EXPECT_EQ(page->bars_per_row(), 4);
    EXPECT_GT(page->rows()[1].top - page->rows()[0].top, page->viewport()->height() / 3) << "a phrase fills much of it";
    key(Qt::Key_0, Qt::ControlModifier);
    EXPECT_EQ(page->bars_per_row(), 8);
    auto* phrase = window->findChild<QComboBox*>("phrase");
    ASSERT_TRUE(phrase);
    phrase->setCurrentIndex(1);
    emit phrase->activated(1);
    EXPECT_EQ(page->bars_per_row(), 2);
    for (const auto& row : page->rows()) EXPECT_LE(row.end - row.start, 2 * song().meter.at_bar(1).bar_ticks());
    auto* strips = window->findChild<QCheckBox*>("strips");
    const int with = page->rows()[1].top - page->rows()[0].top;
    strips->setChecked(false);
    EXPECT_LT(page->rows()[1].top - page->rows()[0].top, with);
    strips->setChecked(true);
    phrase->setCurrentIndex(0);
    page->set_phrase(0);
}

TEST_F(SurveyTest, APlaceIsTypedAsPeopleSayIt) {
    const auto go = [](const QString& text) {
        QTimer::singleShot(60, [&] {
            auto* dialog = window->findChild<QInputDialog*>("go to");
            ASSERT_TRUE(dialog);
            dialog->setTextValue(text);
            dialog->accept();
        });
        key(Qt::Key_G);
        QTest::qWait(60);
        return session->transport().position_s();
    };
    EXPECT_NEAR(go("the and of 2 in 7"), song().tempo.seconds(bar(7) + 1440), 0.002);
    EXPECT_NEAR(go("bar 40"), song().tempo.seconds(bar(40)), 0.002);
    const QPoint there = window->page()->point_of(bar(40));
    EXPECT_TRUE(there.y() > 0 && there.y() < window->page()->viewport()->height()) << "the page goes there, too";
    EXPECT_NEAR(go("verse 2"), song().tempo.seconds(find_section(session->remake(), "verse 2")->start), 0.002);
    go("nowhere");
    EXPECT_TRUE(window->last_message().contains("is no place here")) << window->last_message().toStdString();
}

TEST_F(SurveyTest, LensesAreChosenByKeyAndFromThePanel) {
    key(Qt::Key_2);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Low);
    select(PartRole::Bass);
    key(Qt::Key_0);
    ASSERT_EQ(session->transport().lens().kind, LensKind::Element);
    const auto bass = session->transport().lens().share;
    ASSERT_TRUE(bass);
    select(PartRole::Drums);
    EXPECT_NE(session->transport().lens().share, bass) << "the share goes with the choice";
    session->selection().select_element(ElementId::tempo());
    EXPECT_FALSE(session->transport().lens().share) << "tempo has none: all is heard";
    key(Qt::Key_V);
    LensPanel* panel = window->listening()->panel();
    ASSERT_TRUE(panel->isVisible());
    QTest::mouseClick(panel->findChild<QPushButton*>("lens.sides"), Qt::LeftButton);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Sides);
    panel->findChild<QDoubleSpinBox*>("band_high")->setValue(900);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Band);
    EXPECT_EQ(session->transport().lens().high_hz, 900.0);
    EXPECT_TRUE(window->findChild<QPushButton*>("lens")->text().contains("900 Hz"));
    panel->findChild<QCheckBox*>("click_on")->setChecked(true);
    EXPECT_TRUE(session->transport().click().on);
    panel->hide();
    key(Qt::Key_C);
    EXPECT_FALSE(session->transport().click().on);
    key(Qt::Key_1);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Whole);
}

TEST_F(SurveyTest, ALensIsHeardInTheDevice) {
    const auto loudness = [](int k) {
        key(k);
        session->transport().seek(15.0);
        session->transport().player().play();
        QTest::qWait(800);
        const auto heard = output->captured(16000);
        session->transport().player().stop();
        double sum = 0.0;
        for (const float v : heard) sum += static_cast<double>(v) * v;
        return 10.0 * std::log10(sum / static_cast<double>(std::max<std::size_t>(1, heard.size())) + 1e-12);
    };
    const double whole = loudness(Qt::Key_1), air = loudness(Qt::Key_4), centre = loudness(Qt::Key_7);
    EXPECT_GT(whole, -40.0);
    EXPECT_LT(air, whole - 6.0);
    EXPECT_GT(air, -80.0);
    EXPECT_GT(centre, air);
}

TEST_F(SurveyTest, LoopsOfBarSectionAndNotesAndPlacesThatAreRemembered) {
    session->transport().seek(song().tempo.seconds(bar(6)) + 0.1);
    QTest::qWait(60);
    key(Qt::Key_L, Qt::ControlModifier);
    EXPECT_NEAR(session->transport().loop_start(), song().tempo.seconds(bar(6)), 1e-6);
    EXPECT_NEAR(session->transport().loop_end(), song().tempo.seconds(bar(7)), 1e-6);
    key(Qt::Key_2);
    key(Qt::Key_M);
    ASSERT_EQ(session->remake().notebook->spots.size(), 1u);
    EXPECT_EQ(session->remake().notebook->spots[0].lens, "low");
    key(Qt::Key_L, Qt::ShiftModifier);
    EXPECT_NEAR(session->transport().loop_end() - session->transport().loop_start(), song().tempo.seconds(bar(13)) - song().tempo.seconds(bar(5)), 0.01);
    key(Qt::Key_1);
    session->transport().seek(60.0);
    QTest::qWait(60);
    key(Qt::Key_M, Qt::ShiftModifier);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Low);
    EXPECT_NEAR(session->transport().loop_start(), song().tempo.seconds(bar(6)), 1e-6);
    select(PartRole::Bass);
    const auto notes = placed_notes(*part(PartRole::Bass));
    session->selection().select_notes({notes[4].ref(), notes[6].ref()});
    key(Qt::Key_L, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_NEAR(session->transport().loop_start(), song().tempo.seconds(notes[4].note.start), 1e-6);
    key(Qt::Key_BracketLeft);
    EXPECT_EQ(session->transport().player().speed(), 0.75);
    key(Qt::Key_BracketRight);
    EXPECT_EQ(session->transport().player().speed(), 1.0);
}

TEST_F(SurveyTest, ItCountsInWhenAsked) {
    key(Qt::Key_C, Qt::ShiftModifier);
    ASSERT_TRUE(session->transport().click().count_in);
    session->transport().seek(20.0);
    key(Qt::Key_Space);
    QTest::qWait(500);
    EXPECT_NEAR(session->transport().position_s(), 20.0, 0.01) << "a bar is counted first";
    key(Qt::Key_Space);
    key(Qt::Key_C, Qt::ShiftModifier);
    EXPECT_FALSE(session->transport().click().count_in);
}

TEST_F(SurveyTest, TheClearestMomentsOfAPartAreHeardOneByOneAndKept) {
    key(Qt::Key_N);
    EXPECT_TRUE(window->last_message().startsWith("Choose a part")) << "tempo has none";
    select(PartRole::Bass);
    key(Qt::Key_N);
    EXPECT_TRUE(session->transport().player().playing());
    const double first_s = session->transport().loop_start();
    ASSERT_FALSE(session->survey().clearest().empty());
    const ClearMoment m = session->survey().clearest()[0];
    // Truly a bass note there, by the part as it was heard.
    bool there = false;
    for (const PlacedNote& n : placed_notes(*part(PartRole::Bass)))
        there |= n.note.pitch == m.pitch && std::abs(song().tempo.seconds(n.note.start) - m.start_s) < 0.05;
    EXPECT_TRUE(there);
    key(Qt::Key_N);
    EXPECT_NE(session->transport().loop_start(), first_s);
    session->selection().select_element(ElementId::tempo());
    select(PartRole::Bass);
    auto* keep = fact<QPushButton>("keep_clearest");
    ASSERT_TRUE(keep);
    QTest::mouseClick(keep, Qt::LeftButton);
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u);
    EXPECT_EQ(session->remake().notebook->remarks[0].kind, RemarkKind::Clearest);
}

TEST_F(SurveyTest, APitchIsProbedWithNoteCentsAndHertz) {
    select(PartRole::Bass);
    key(Qt::Key_N);
    session->transport().player().stop();
    const ClearMoment m = session->survey().clearest().at(0);
    session->transport().set_loop(m.start_s + 0.08, m.end_s - 0.02);
    Lens low;
    low.kind = LensKind::Low;
    session->survey().set_lens(low);
    key(Qt::Key_J);
    ASSERT_TRUE(QTest::qWaitFor([] { return session->survey().probed().has_value(); }, 10000)) << window->last_message().toStdString();
    const double pitch = 69.0 + 12.0 * std::log2(session->survey().probed()->hz / 440.0);
    EXPECT_NEAR(pitch, m.pitch + song().tuning_cents / 100.0, 0.35) << session->survey().probed_words().toStdString();
    EXPECT_TRUE(session->survey().probed_words().contains(" Hz"));
}

TEST_F(SurveyTest, KeysHaveAreasDronesAndTuning) {
    session->selection().select_element(ElementId::key());
    const std::size_t areas = song().keys.size();
    session->transport().seek(song().tempo.seconds(bar(13)) + 0.1);
    QTest::qWait(60);
    auto* add = fact<QPushButton>("add_key");
    ASSERT_TRUE(add);
    QTest::mouseClick(add, Qt::LeftButton);
    ASSERT_EQ(song().keys.size(), areas + 1);
    EXPECT_EQ(song().keys[1].start, bar(13));
    QTest::mouseClick(fact<QPushButton>("remove_key1"), Qt::LeftButton);
    EXPECT_EQ(song().keys.size(), areas);
    QTest::mouseClick(fact<QPushButton>("drone0"), Qt::LeftButton);
    EXPECT_EQ(session->transport().drone().count, 3u);
    EXPECT_TRUE(fact<QPushButton>("drone0")->isChecked());
    QTest::mouseClick(fact<QPushButton>("drone0"), Qt::LeftButton);
    EXPECT_EQ(session->transport().drone().count, 0u);
    QTest::mouseClick(fact<QPushButton>("reference_tone"), Qt::LeftButton);
    EXPECT_NEAR(session->transport().drone().hz[0], 440.0 * std::exp2(song().tuning_cents / 1200.0), 0.01);
    QTest::mouseClick(fact<QPushButton>("reference_tone"), Qt::LeftButton);
    QTest::mouseClick(fact<QCheckBox>("at_440"), Qt::LeftButton, {}, {8, 8});
    EXPECT_TRUE(song().at_440);
    EXPECT_EQ(song().rebuild_tuning_cents(), 0.0);
    auto* tuning = fact<QDoubleSpinBox>("tuning");
    tuning->setValue(-12.5);
    emit tuning->editingFinished();
    EXPECT_NEAR(song().tuning_cents, -12.5, 1e-9);
}

TEST_F(SurveyTest, ARowOfOnesOwnNotesOnTheRecordAndAReason) {
    QTimer::singleShot(60, [] {
        auto* dialog = window->findChild<QInputDialog*>("add row");
        ASSERT_TRUE(dialog);
        dialog->setTextValue("Harbour noise");
        dialog->accept();
    });
    key(Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_EQ(session->remake().notebook->rows.size(), 1u);
    session->selection().select_element(ElementId(session->remake().notebook->rows[0].id));
    auto* reason = fact<QLineEdit>("reason");
    ASSERT_TRUE(reason);
    reason->setText("close enough: nobody hears it");
    emit reason->editingFinished();
    EXPECT_EQ(session->remake().element(ElementId(session->remake().notebook->rows[0].id)).reason, "close enough: nobody hears it");
    QTimer::singleShot(60, [] {
        auto* dialog = window->findChild<QDialog*>("research");
        ASSERT_TRUE(dialog);
        dialog->findChild<QPlainTextEdit*>("words")->setPlainText("Recorded on the quay");
        dialog->accept();
    });
    key(Qt::Key_I, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(session->remake().notebook->research, "Recorded on the quay");
}

TEST_F(SurveyTest, WhatIsFaintIsLookedForHeardThroughItsBandAndKept) {
    key(Qt::Key_K, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_TRUE(QTest::qWaitFor([] { return session->survey().faint().has_value(); }, 20000));
    ASSERT_FALSE(session->survey().faint()->empty()) << "the demo's rows go on below the drums";
    EXPECT_EQ(session->selection().element(), ElementId::sections());
    QTest::mouseClick(fact<QPushButton>("faint1"), Qt::LeftButton);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Band);
    EXPECT_TRUE(session->transport().player().playing());
    QTest::mouseClick(fact<QPushButton>("keep_faint1"), Qt::LeftButton);
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u);
    EXPECT_EQ(session->remake().notebook->remarks[0].kind, RemarkKind::Faint);
    EXPECT_TRUE(fact<QPushButton>("keep_faint1")->isChecked());
    QTest::mouseClick(fact<QPushButton>("keep_faint1"), Qt::LeftButton);
    EXPECT_TRUE(session->remake().notebook->remarks.empty());
}

TEST_F(SurveyTest, TimeIsTakenForTheChosenElementWhileSomethingIsDone) {
    select(PartRole::Lead);
    const ElementId lead = session->selection().element();
    const double was = session->documents().spent_s(lead);
    session->transport().seek(5.0);
    session->transport().player().play();
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->documents().spent_s(lead) > was; }, 12000));
    EXPECT_EQ(session->documents().document(), first) << "it is no step of the history";
    // A budget that the next seconds use up is told of, once.
    const double budget_min = (session->documents().spent_s(lead) + 0.1) / 60.0;
    ASSERT_TRUE(session->documents().run(Line("element.note").with("element", "Lead").with("budget", QString::number(budget_min, 'g', 12).toStdString())));
    QStringList told;
    const auto listens = QObject::connect(session, &Session::told, [&](const QString& sentence) { told << sentence; });
    const double then = session->documents().spent_s(lead);
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->documents().spent_s(lead) > then; }, 12000));
    QObject::disconnect(listens);
    session->transport().player().stop();
    ASSERT_EQ(told.size(), 1);
    EXPECT_TRUE(told[0].contains("Lead")) << told[0].toStdString();
    DocumentStore store;
    DocumentStore::Contents contents;
    contents.history.reset(session->documents().document());
    (void)store.exchange(std::move(contents));
    store.spend(lead, 90.0);
    const auto file = std::filesystem::temp_directory_path() / "fakturwerk-time.fakturwerk";
    ASSERT_TRUE(store.save(QString::fromStdString(file.string())));
    const auto saved = load_remake(file);
    ASSERT_TRUE(saved);
    EXPECT_EQ(saved->element(lead).time_spent_s, 90.0) << "and is kept with what is saved";
    std::filesystem::remove(file);
}

TEST_F(SurveyTest, AChangeThatTheRebuildFollowsIsTickedByItself) {
    session->selection().select_element(ElementId::sections());
    const auto by_themselves = [] {
        (void)fact<QPushButton>("move1");
        QList<QPushButton*> found;
        for (QPushButton* b : window->facts()->widget()->findChildren<QPushButton*>())
            if (b->property("byItself").toBool()) found << b;
        return found;
    };
    const auto ticked = by_themselves();
    ASSERT_FALSE(ticked.isEmpty()) << "the draft enters and leaves where it was heard to";
    EXPECT_TRUE(ticked.front()->isChecked());
    const QString name = ticked.front()->objectName();
    EXPECT_TRUE(session->remake().notebook->remarks.empty()) << "nothing is said in the user's name";
    QTest::mouseClick(ticked.front(), Qt::LeftButton);
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u);
    EXPECT_EQ(session->remake().notebook->remarks[0].kind, RemarkKind::Seen) << "a click says that it was heard";
    EXPECT_EQ(by_themselves().size(), ticked.size() - 1);
    EXPECT_TRUE(fact<QPushButton>(name)->isChecked());
    session->documents().undo();
    for (const auto& p : std::vector(session->remake().parts)) ASSERT_TRUE(session->documents().run(Line("part.mute").with("part", p->name).with("on", "on")));
    EXPECT_TRUE(by_themselves().isEmpty()) << "where nothing sounds, nothing is followed";
}

TEST_F(SurveyTest, AnElementsTimeIsGivenUsedUpAndItIsCloseEnough) {
    select(PartRole::Bass);
    const ElementId bass = session->selection().element();
    auto* budget = fact<QDoubleSpinBox>("budget");
    EXPECT_EQ(budget->text(), "no end");
    budget->setValue(20.0);
    emit budget->editingFinished();
    EXPECT_EQ(session->remake().element(bass).budget_min, 20.0);
    settle();
    EXPECT_FALSE(fact<QPushButton>("close_enough")) << "nothing is used up yet";
    session->documents().spend(bass, 20.0 * 60.0);
    session->selection().select_element(ElementId::chords());
    session->selection().select_element(bass);
    QTest::mouseClick(fact<QPushButton>("more_time"), Qt::LeftButton);
    EXPECT_EQ(session->remake().element(bass).budget_min, 30.0);
    settle();
    EXPECT_FALSE(fact<QPushButton>("close_enough")) << "there is time again";
    session->documents().undo();
    QTest::mouseClick(fact<QPushButton>("close_enough"), Qt::LeftButton);
    EXPECT_EQ(session->remake().element(bass).state, State::Confirmed);
    EXPECT_EQ(session->remake().element(bass).reason, "close enough for its time");
    settle();
    EXPECT_FALSE(fact<QPushButton>("close_enough"));
    session->documents().undo();
    EXPECT_NE(session->remake().element(bass).state, State::Confirmed);
}

TEST_F(SurveyTest, AQuestionAtAPlaceIsWordedAnewGoneToAndAnswered) {
    select(PartRole::Lead);
    const ElementId lead = session->selection().element();
    ASSERT_TRUE(session->documents().run(
        Line("remark.add").with("kind", "question").with("element", "Lead").with("at", "7.3").with("length", "1/4").with("words", "a grace note?")));
    ASSERT_TRUE(fact<QLineEdit>("question.words"));
    EXPECT_EQ(fact<QLineEdit>("question.words")->text(), "a grace note?");
    QTest::mouseClick(fact<QPushButton>("question.go"), Qt::LeftButton);
    EXPECT_NEAR(session->transport().loop_start(), song().tempo.seconds(bar(7) + 2 * kTicksPerQuarter), 1e-6);
    auto* words = fact<QLineEdit>("question.words");
    words->setText("two notes, or one that is bent?");
    emit words->editingFinished();
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u);
    EXPECT_EQ(session->remake().notebook->remarks[0].words, "two notes, or one that is bent?");
    EXPECT_EQ(session->remake().notebook->remarks[0].element, lead);
    settle();
    QTest::mouseClick(fact<QPushButton>("question.answered"), Qt::LeftButton);
    EXPECT_TRUE(session->remake().notebook->remarks.empty());
    settle();
    EXPECT_FALSE(fact<QLineEdit>("question.words"));
    session->documents().undo();
    EXPECT_EQ(session->remake().notebook->remarks.size(), 1u);
}

TEST_F(SurveyTest, TheLedgerStandsInWorkingOrderOrByFamilyAndScrollsToWhatIsChosen) {
    Ledger* ledger = window->ledger();
    ASSERT_EQ(ledger->shown(), session->remake().element_ids());
    const int before = ledger->row_rect(5).top();
    QTest::mouseClick(ledger, Qt::LeftButton, {}, {60, 10});
    ASSERT_TRUE(ledger->by_family());
    EXPECT_GT(ledger->row_rect(5).top(), before) << "headings stand between the families";
    const auto ids = ledger->shown();
    EXPECT_EQ(ids[4], ElementId(part(PartRole::Drums)->id)) << "drums stand first among the parts";
    EXPECT_EQ(ids[5], ElementId(part(PartRole::Bass)->id));
    QTest::mouseClick(ledger, Qt::LeftButton, {}, ledger->row_rect(4).center() - QPoint(60, 8));
    EXPECT_EQ(session->selection().element(), ids[4]);
    QTest::keyClick(ledger, Qt::Key_Down);
    EXPECT_EQ(session->selection().element(), ids[5]) << "keys walk as it stands";
    QTest::mouseClick(ledger, Qt::LeftButton, {}, {60, 10});
    ASSERT_FALSE(ledger->by_family());
    // More than fit: the last is reached, and is in view once it is chosen.
    for (int i = 0; i < 12; ++i) ASSERT_TRUE(session->documents().run(Line("row.add").with("name", "Layer " + std::to_string(i))));
    settle();
    const int last = static_cast<int>(ledger->shown().size()) - 1;
    EXPECT_GT(ledger->row_rect(last).bottom(), ledger->parentWidget()->height());
    session->selection().select_element(ledger->shown().back());
    EXPECT_TRUE(QTest::qWaitFor([&] { return ledger->visibleRegion().boundingRect().contains(ledger->row_rect(last).center()); }, 2000));
    session->selection().select_element(ElementId::tempo());
    EXPECT_TRUE(QTest::qWaitFor([&] { return ledger->visibleRegion().boundingRect().contains(ledger->row_rect(0).center()); }, 2000));
}

TEST_F(SurveyTest, PicturesOfTheRecordAreKeptInTheRemakesFile) {
    QTemporaryDir folder;
    const QString file = folder.filePath("desk.png"), text = folder.filePath("letter.png");
    QImage photo(640, 400, QImage::Format_RGB32);
    photo.fill(QColor(120, 60, 30));
    ASSERT_TRUE(photo.save(file));
    {
        QFile wrong(text);
        ASSERT_TRUE(wrong.open(QIODevice::WriteOnly));
        wrong.write("no picture at all");
    }
    {
        RecordNotes notes(*session, window);
        EXPECT_TRUE(notes.add_picture(text)) << "what is no picture is refused with a sentence";
        EXPECT_FALSE(notes.add_picture(file));
        EXPECT_FALSE(notes.add_picture(file));
        auto* shelf = notes.findChild<QListWidget*>("pictures");
        ASSERT_EQ(shelf->count(), 2);
        shelf->item(0)->setText("The desk");
        EXPECT_TRUE(session->remake().notebook->pictures.empty()) << "nothing is done before it is accepted";
        notes.accept();
    }
    ASSERT_EQ(session->remake().notebook->pictures.size(), 2u);
    EXPECT_EQ(session->remake().notebook->pictures[0].words, "The desk");
    EXPECT_FALSE(session->documents().run(Line("picture.add").with("file", folder.filePath("gone.png").toStdString())))
        << "one that is not there is told at once";
    EXPECT_TRUE(window->last_message().contains("gone.png")) << window->last_message().toStdString();
    // From then on it hangs on no file: neither the first saving nor a later one needs it.
    ASSERT_TRUE(QFile::remove(file));
    const auto remake = std::filesystem::path(folder.filePath("a.fakturwerk").toStdString());
    ASSERT_TRUE(save_remake(remake, session->remake()));
    const auto saved = load_remake(remake);
    ASSERT_TRUE(saved);
    QImage kept;
    ASSERT_TRUE(kept.loadFromData(QByteArray::fromStdString(*saved->notebook->pictures[0].bytes)));
    EXPECT_EQ(kept.size(), photo.size()) << "the file it came from is gone, and the picture is there";
    // One is taken away, the other gets words; undo brings both back.
    RecordNotes notes(*session, window);
    auto* shelf = notes.findChild<QListWidget*>("pictures");
    shelf->setCurrentRow(0);
    QTest::mouseClick(notes.findChild<QPushButton*>("remove picture"), Qt::LeftButton);
    ASSERT_EQ(shelf->count(), 1);
    shelf->item(0)->setText("The other desk");
    notes.accept();
    ASSERT_EQ(session->remake().notebook->pictures.size(), 1u);
    EXPECT_EQ(session->remake().notebook->pictures[0].words, "The other desk");
    session->documents().undo();
    EXPECT_EQ(session->remake().notebook->pictures.size(), 2u);
}

TEST_F(SurveyTest, TheLedgersShareSwitchPutsTheLensOnItsPart) {
    const auto ids = session->remake().element_ids();
    const int row = static_cast<int>(std::find(ids.begin(), ids.end(), ElementId(part(PartRole::Bass)->id)) - ids.begin());
    QTest::mouseClick(window->ledger(), Qt::LeftButton, {}, window->ledger()->share_rect(row).center());
    EXPECT_EQ(session->transport().lens().kind, LensKind::Element);
    ASSERT_TRUE(session->transport().lens().share);
    EXPECT_EQ(session->selection().element(), ElementId(part(PartRole::Bass)->id));
    QTest::mouseClick(window->ledger(), Qt::LeftButton, {}, window->ledger()->share_rect(row).center());
    EXPECT_EQ(session->transport().lens().kind, LensKind::Whole);
}

TEST_F(SurveyTest, AFindingIsHeardThroughItsOwnLensAndAgainThroughNone) {
    // A bass note a tritone off is sure to be told.
    const PartId bass = part(PartRole::Bass)->id;
    const auto notes = placed_notes(*part(PartRole::Bass));
    session->documents().edit(change_notes(session->remake(), bass, {notes[6].ref()}, {.semitones = 6}, Reach::Here), "Transpose notes");
    settle();
    window->show_desk(Desk::Check);
    CheckDesk& check = *window->check_desk();
    check.show_list(CheckDesk::List::Findings);
    check.table()->choose({});
    for (auto* filter : check.findChildren<QComboBox*>())
        if (filter->objectName() != "list" && filter->objectName() != "what") filter->setCurrentIndex(0);
    key(Qt::Key_Period);
    key(Qt::Key_H, Qt::ShiftModifier);
    EXPECT_NE(session->transport().lens().kind, LensKind::Whole);
    EXPECT_TRUE(session->transport().player().playing());
    key(Qt::Key_H, Qt::ShiftModifier);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Whole);
}

}  // namespace fw::app
