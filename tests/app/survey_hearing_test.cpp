// SPDX-License-Identifier: GPL-3.0-or-later
// How the recording is listened to in the real window: lenses, loops, moments, probes.
#include "survey_fixture.hpp"

#include "app/lens_panel.hpp"
#include "app/listening_bar.hpp"
#include "app/survey_desk.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QPushButton>
#include <cmath>

namespace fw::app {

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
    auto* pitch = panel->findChild<QDoubleSpinBox*>("lens_pitch");
    EXPECT_EQ(pitch->text(), "A3");
    pitch->setFocus();
    pitch->selectAll();
    QTest::keyClicks(pitch, "C4");
    QTest::keyClick(pitch, Qt::Key_Return);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Pitch);
    EXPECT_NEAR(session->transport().lens().pitch_hz, 261.63 * std::exp2(song().tuning_cents / 1200.0), 0.01);
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
