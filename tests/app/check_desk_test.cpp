// SPDX-License-Identifier: GPL-3.0-or-later
// The Check desk by mouse and keyboard: from a figure down to a bar and its findings, heard, mended, meant or asked.
#include "fixture.hpp"

#include "base/pitch.hpp"
#include "model/edits.hpp"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QWheelEvent>
#include <cmath>

namespace fw::app {

namespace {

class CheckDeskTest : public WindowTest {
protected:
    static CheckDesk* desk() { return window->check_desk(); }
    static QTableWidget* lines() { return desk()->findings(); }
    static int listed() {
        return static_cast<int>(
            std::count_if(session->report()->findings.begin(), session->report()->findings.end(), [](const Finding& f) { return f.listed(); }));
    }
    /// The surest note of the bass written a semitone off: something the check is sure of.
    static PlacedNote make_wrong() {
        PlacedNote n = placed_notes(*part(PartRole::Bass)).front();
        for (const PlacedNote& x : placed_notes(*part(PartRole::Bass)))
            if (x.note.confidence > n.note.confidence) n = x;
        session->documents().edit(change_notes(session->remake(), part(PartRole::Bass)->id, {n.ref()}, {.semitones = -1}, Reach::Here), "Transpose");
        settle();
        return n;
    }
    /// The row of the finding about it; -1 for none.
    static int row_of(const PlacedNote& n) {
        const std::string want = "Bass plays " + note_name(n.note.pitch - 1, session->remake().song->flats_at(n.note.start));
        for (int r = 0; r < lines()->rowCount(); ++r)
            if (lines()->item(r, 1) && lines()->item(r, 1)->text().toStdString().starts_with(want)) return r;
        return -1;
    }
    void SetUp() override {
        WindowTest::SetUp();
        settle();
        window->show_desk(Desk::Check);
        desk()->show_list(CheckDesk::List::Findings);
        desk()->table()->choose({});
        for (const char* name : {"element-filter", "cause-filter", "what"}) desk()->findChild<QComboBox*>(name)->setCurrentIndex(0);
        lines()->setCurrentCell(-1, -1);
    }
};

}  // namespace

TEST_F(CheckDeskTest, AWrongNoteIsWalkedToHeardMendedAndUndoneByKeys) {
    const PlacedNote n = make_wrong();
    const double at = session->remake().song->tempo.seconds(n.note.start);
    const int row = row_of(n);
    ASSERT_GE(row, 0);
    int steps = 0;
    do QTest::keyClick(window, Qt::Key_Period);
    while (lines()->currentRow() != row && ++steps < 400);
    ASSERT_EQ(lines()->currentRow(), row) << "next, again and again, comes by each";
    EXPECT_TRUE(session->transport().player().playing()) << "what is walked to is heard";
    EXPECT_LE(session->transport().loop_start(), at);
    EXPECT_GE(session->transport().loop_end(), at);
    EXPECT_EQ(session->selection().element(), ElementId(part(PartRole::Bass)->id));
    QTest::keyClick(window, Qt::Key_Comma);
    EXPECT_NE(lines()->currentRow(), row);
    QTest::keyClick(window, Qt::Key_Period);
    session->transport().player().stop();
    session->transport().set_loop(0, 0, false);
    QTest::keyClick(window, Qt::Key_H);
    EXPECT_TRUE(session->transport().player().looping()) << "and heard again by a key";
    session->transport().player().stop();
    QTest::keyClick(window, Qt::Key_Return, Qt::ControlModifier);
    settle();
    EXPECT_EQ(row_of(n), -1) << "what is mended is gone";
    const auto pitch_there = [&] {
        for (const PlacedNote& x : placed_notes(*part(PartRole::Bass)))
            if (x.note.start == n.note.start) return x.note.pitch;
        return -1;
    };
    EXPECT_EQ(pitch_there(), n.note.pitch);
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_EQ(pitch_there(), n.note.pitch - 1);
    EXPECT_GE(row_of(n), 0) << "undone, it is told again";
}

TEST_F(CheckDeskTest, ADifferenceThatIsMeantIsNotToldAgainAndAQuestionStaysAtItsPlace) {
    const PlacedNote n = make_wrong();
    lines()->setCurrentCell(row_of(n), 0);
    QTest::keyClick(window, Qt::Key_U);
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u);
    EXPECT_EQ(session->remake().notebook->remarks[0].kind, RemarkKind::Question);
    EXPECT_EQ(session->remake().notebook->remarks[0].start, n.note.start);
    EXPECT_NE(session->remake().notebook->remarks[0].words.find("Bass plays"), std::string::npos);
    settle();
    session->transport().player().stop();
    EXPECT_GE(row_of(n), 0) << "a question is no answer";
    lines()->setCurrentCell(row_of(n), 0);
    QTest::mouseClick(desk()->findChild<QPushButton*>("intended"), Qt::LeftButton);
    settle();
    EXPECT_EQ(row_of(n), -1);
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_GE(row_of(n), 0);
}

TEST_F(CheckDeskTest, ADifferenceOfSoundThatIsMeantIsNotToldAgain) {
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    auto* cause = desk()->findChild<QComboBox*>("cause-filter");
    cause->setCurrentIndex(cause->findText("Sound"));
    ASSERT_GT(lines()->rowCount(), 1);
    const QString first_line = lines()->item(0, 0)->text() + lines()->item(0, 1)->text();
    const auto is_told = [&] {
        for (int r = 0; r < lines()->rowCount(); ++r)
            if (lines()->item(r, 0) && lines()->item(r, 0)->text() + lines()->item(r, 1)->text() == first_line) return true;
        return false;
    };
    const int others = lines()->rowCount() - 1;
    lines()->setCurrentCell(0, 0);
    QTest::keyClick(window, Qt::Key_I);
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u) << window->last_message().toStdString();
    settle();
    EXPECT_FALSE(is_told()) << "at once";
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    EXPECT_FALSE(is_told()) << "nor when the sound is compared anew";
    EXPECT_EQ(lines()->rowCount(), others) << "and nothing else was silenced";
}

TEST_F(CheckDeskTest, AFigureLeadsToItsSectionAndABarToItself) {
    make_wrong();
    MatchTable* table = desk()->table();
    OverprintView* overprint = desk()->overprint();
    QTest::mouseClick(table, Qt::LeftButton, {}, table->cell_rect(0, 2).topLeft().toPoint() + QPoint(8, 6));
    EXPECT_EQ(table->place().section, 2);
    EXPECT_EQ(table->place().bar, 0);
    ASSERT_TRUE(table->place().element);
    EXPECT_EQ(session->selection().element(), *table->place().element);
    const auto [from, to] = table->span(table->place());
    EXPECT_NEAR(overprint->from_s(), from, 0.01);
    EXPECT_NEAR(overprint->to_s(), to, 0.01);
    for (int r = 0; r < lines()->rowCount(); ++r)
        if (lines()->item(r, 0)) {
            EXPECT_TRUE(lines()->item(r, 0)->text().endsWith(QString::fromStdString(session->remake().element_name(*table->place().element))))
                << lines()->item(r, 0)->text().toStdString();
        }
    const QRectF cell = table->cell_rect(0, 2);
    QTest::mouseClick(table, Qt::LeftButton, {}, QPoint(static_cast<int>(cell.left() + 5), static_cast<int>(cell.bottom() - 3)));
    EXPECT_EQ(table->place().bar, session->remake().song->meter.position(session->remake().song->sections[2].start).bar);
    EXPECT_LT(overprint->to_s() - overprint->from_s(), 0.6 * (to - from)) << "nearer";
    EXPECT_NE(table->words(table->place()).indexOf(QString("bar %1").arg(table->place().bar)), -1);
    QTest::keyClick(table, Qt::Key_Right);
    EXPECT_EQ(table->place().section, 3);
    QTest::keyClick(table, Qt::Key_Backspace);
    EXPECT_EQ(table->place().section, -1);
    EXPECT_NEAR(overprint->from_s(), 0.0, 1e-9);
}

TEST_F(CheckDeskTest, FiltersShowAnElementOrACauseAndTheCountsFollow) {
    const PlacedNote n = make_wrong();
    ASSERT_GE(row_of(n), 0);
    auto* cause = desk()->findChild<QComboBox*>("cause-filter");
    cause->setCurrentIndex(cause->findText("Sound"));
    EXPECT_EQ(row_of(n), -1);
    cause->setCurrentIndex(cause->findText("Pitch"));
    EXPECT_GE(row_of(n), 0);
    auto* element = desk()->findChild<QComboBox*>("element-filter");
    ASSERT_GE(element->findText("Bass"), 1);
    element->setCurrentIndex(element->findText("Bass"));
    EXPECT_GE(row_of(n), 0);
    int pitch_in_bass = 0;
    for (const Finding& f : session->report()->findings) pitch_in_bass += f.listed() && f.name == "Bass" && f.kind == FindingKind::WrongPitch;
    EXPECT_EQ(lines()->rowCount(), pitch_in_bass);
    EXPECT_TRUE(desk()->findChild<QLabel*>("counts")->text().startsWith(QString::number(pitch_in_bass)));
}

TEST_F(CheckDeskTest, TheOverprintComesNearerByWheelMovesByDragAndItsMarksChoose) {
    const PlacedNote n = make_wrong();
    ASSERT_GE(row_of(n), 0);
    OverprintView* view = desk()->overprint();
    const double at = session->remake().song->tempo.seconds(n.note.start);
    view->show_span(at - 4.0, at + 4.0);
    const Finding* f = nullptr;
    for (const Finding& x : session->report()->findings)
        if (x.kind == FindingKind::WrongPitch && std::abs(x.start_s - at) < 0.01) f = &x;
    ASSERT_TRUE(f);
    QTest::mouseClick(view, Qt::LeftButton, {}, view->mark_at(*f).toPoint());
    EXPECT_EQ(lines()->currentRow(), row_of(n));
    session->transport().player().stop();
    view->show_span(0.0, 0.0);
    const double whole = view->to_s();
    const QPoint middle = view->rect().center();
    QWheelEvent nearer(middle, view->mapToGlobal(middle), {}, {0, 480}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
    QCoreApplication::sendEvent(view, &nearer);
    const double length = view->to_s() - view->from_s();
    EXPECT_NEAR(length, whole * std::pow(0.8, 4), 0.01);
    const double before = view->from_s();
    const QPoint free(middle.x(), view->height() - 10);
    QTest::mousePress(view, Qt::LeftButton, {}, free);
    QTest::mouseMove(view, free - QPoint(100, 0));
    QTest::mouseRelease(view, Qt::LeftButton, {}, free - QPoint(100, 0));
    EXPECT_GT(view->from_s(), before);
    EXPECT_NEAR(view->to_s() - view->from_s(), length, 1e-6) << "moving is not zooming";
    QTest::mouseDClick(view, Qt::LeftButton, {}, free);
    EXPECT_NEAR(view->from_s(), 0.0, 1e-9);
    EXPECT_NEAR(view->to_s(), whole, 1e-6);
    // Each way of looking draws something of its own.
    std::vector<QImage> pictures;
    for (int what = 0; what < OverprintView::kWhats; ++what) {
        desk()->findChild<QComboBox*>("what")->setCurrentIndex(what);
        pictures.push_back(view->grab().toImage());
        for (std::size_t i = 0; i + 1 < pictures.size(); ++i) EXPECT_NE(pictures.back(), pictures[i]) << what << " looks as " << i;
    }
}

TEST_F(CheckDeskTest, WhatIsLeftIsHeardAsTheRemainderAndWhatIsNextIsRanked) {
    // Without the bass its octaves are what is left most.
    session->documents().edit(with_part(session->remake(), part(PartRole::Bass)->id, [](Part& p) { p.mute = true; }), "Mute");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    desk()->show_list(CheckDesk::List::Next);
    ASSERT_GT(lines()->rowCount(), 0);
    EXPECT_EQ(lines()->item(0, 1)->text(), "Bass is not heard");
    desk()->show_list(CheckDesk::List::Left);
    ASSERT_GT(lines()->rowCount(), 0);
    ASSERT_TRUE(session->left());
    ASSERT_FALSE(session->left()->moments.empty());
    QTest::mouseClick(lines()->viewport(), Qt::LeftButton, {}, lines()->visualItemRect(lines()->item(0, 1)).center());
    EXPECT_EQ(session->transport().player().source(), Source::Remainder);
    EXPECT_TRUE(session->transport().player().looping());
    session->transport().player().stop();
    desk()->show_list(CheckDesk::List::Findings);
    int row = -1;
    for (int r = 0; r < lines()->rowCount(); ++r)
        if (lines()->item(r, 1)->text().contains("muted or silent")) row = r;
    ASSERT_GE(row, 0) << "a muted part is told";
    lines()->setCurrentCell(row, 0);
    QTest::mouseClick(desk()->findChild<QPushButton*>("remedy"), Qt::LeftButton);
    EXPECT_FALSE(part(PartRole::Bass)->mute);
}

TEST_F(CheckDeskTest, AnEmptyListSaysSoAndKeysSayWhatTheyNeed) {
    desk()->show_list(CheckDesk::List::Findings);
    auto* cause = desk()->findChild<QComboBox*>("cause-filter");
    cause->setCurrentIndex(cause->findText("Time"));
    MatchPlace place;
    place.section = 0;
    place.bar = 1;
    desk()->table()->choose(place);
    ASSERT_EQ(lines()->rowCount(), 1);
    EXPECT_TRUE(lines()->item(0, 1)->text().startsWith("Nothing is found here"));
    QTest::keyClick(window, Qt::Key_Period);
    EXPECT_NE(window->last_message().indexOf("nothing in this list"), -1);
    QTest::keyClick(window, Qt::Key_I);
    EXPECT_NE(window->last_message().indexOf("Select a finding"), -1);
}

}  // namespace fw::app
