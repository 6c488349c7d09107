// SPDX-License-Identifier: GPL-3.0-or-later
// The form of the recording in the real window: sections, what changes, keys, the page and places on it.
#include "survey_fixture.hpp"

#include "app/survey_desk.hpp"

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QInputDialog>
#include <QPushButton>
#include <QTimer>
#include <QWheelEvent>

namespace fw::app {

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

}  // namespace fw::app
