// SPDX-License-Identifier: GPL-3.0-or-later
// Edits by mouse and keyboard in the real window: notes, hits, chords, levels, and what undo takes back.
#include "fixture.hpp"

#include <QApplication>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

namespace fw::app {

TEST_F(WindowTest, NotesAreDrawnMovedTransposedDeletedAndUndone) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(20.0);
    QCoreApplication::processEvents();
    const std::size_t before = notes_of(PartRole::Bass);
    // Draw: a double-click where nothing is.
    const double x = view->x_at(22.03);
    int pitch = view->pitch_at(60);
    const QPoint spot(static_cast<int>(x), static_cast<int>(view->y_of(pitch) + 4));
    QTest::mouseDClick(view, Qt::LeftButton, {}, spot);
    ASSERT_EQ(notes_of(PartRole::Bass), before + 1);
    const auto drawn = [&]() -> Note {
        for (const PlacedNote& n : placed_notes(*part(PartRole::Bass)))
            if (n.note.origin == Origin::Drawn) return n.note;
        return {};
    };
    EXPECT_EQ(drawn().pitch, pitch);
    EXPECT_EQ(drawn().start % 240, 0) << "on the grid";
    // Select it and transpose by keys.
    const QPoint on(static_cast<int>(view->x_of(drawn().start)) + 4, spot.y());
    QTest::mouseClick(view, Qt::LeftButton, {}, on);
    ASSERT_EQ(session->selected_notes.size(), 1u);
    QTest::keyClick(view, Qt::Key_Down);
    EXPECT_EQ(drawn().pitch, pitch - 1);
    QTest::keyClick(view, Qt::Key_Right);
    EXPECT_EQ(drawn().start % 240, 15);
    QTest::keyClick(view, Qt::Key_Q);
    EXPECT_EQ(drawn().start % 240, 0);
    // Move by dragging two grid steps.
    const Ticks start = drawn().start;
    const QPoint from(static_cast<int>(view->x_of(start)) + 3, static_cast<int>(view->y_of(drawn().pitch) + 4));
    const QPoint to(from.x() + static_cast<int>(view->x_of(start + 480) - view->x_of(start)), from.y());
    QTest::mousePress(view, Qt::LeftButton, {}, from);
    QTest::mouseMove(view, (from + to) / 2);
    QTest::mouseMove(view, to);
    QTest::mouseRelease(view, Qt::LeftButton, {}, to);
    EXPECT_EQ(drawn().start, start + 480);
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(drawn().start, start) << "a drag is one step";
    // Delete it; not so soon after the drag that the press counts as the second of a double-click.
    QTest::qWait(QApplication::doubleClickInterval() + 100);
    QTest::mouseClick(view, Qt::LeftButton, {}, from);
    QTest::keyClick(view, Qt::Key_Delete);
    EXPECT_EQ(notes_of(PartRole::Bass), before);
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(notes_of(PartRole::Bass), before + 1);
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(notes_of(PartRole::Bass), before);
}

TEST_F(WindowTest, ADrawnWrongNoteIsFoundAndItsRemedyApplied) {
    select(PartRole::Bass);
    const auto notes = placed_notes(*part(PartRole::Bass));
    PlacedNote n = notes.front();
    for (const PlacedNote& x : notes)
        if (x.note.confidence > n.note.confidence) n = x;
    session->edit(remove_notes(session->remake(), part(PartRole::Bass)->id, {{n.placement, n.index}}), "Delete notes");
    const double at = session->remake().tempo.seconds(n.note.start);
    window->show_desk(Desk::Check);
    QTableWidget* table = window->check_desk()->findings();
    ASSERT_TRUE(QTest::qWaitFor([&] { return table->rowCount() > 0; }, 5000));
    int row = -1;
    for (std::size_t i = 0; i < session->report()->findings.size(); ++i)
        if (session->report()->findings[i].kind == FindingKind::MissingNote && std::abs(session->report()->findings[i].start_s - at) < 0.1)
            row = static_cast<int>(i);
    ASSERT_GE(row, 0);
    table->setCurrentCell(row, 0);
    emit table->cellClicked(row, 0);
    EXPECT_TRUE(session->player().playing()) << "a click hears it";
    EXPECT_LE(session->loop_start(), at);
    EXPECT_GE(session->loop_end(), at);
    session->player().stop();
    const std::size_t before = notes_of(PartRole::Bass);
    for (auto* b : window->check_desk()->findChildren<QPushButton*>())
        if (b->text() == "Apply remedy") QTest::mouseClick(b, Qt::LeftButton);
    EXPECT_EQ(notes_of(PartRole::Bass), before + 1);
}

TEST_F(WindowTest, HitsAreAddedAndRemovedByDoubleClick) {
    select(PartRole::Drums);
    window->show_desk(Desk::Transcribe);
    DrumCloseUp* view = window->transcribe()->drums();
    view->show_from(30.0);
    const std::size_t before = notes_of(PartRole::Drums);
    const QRectF row = view->row_rect(9);  // percussion: nothing is heard there at this time
    const QPoint spot(static_cast<int>(view->x_at(33.0)), static_cast<int>(row.center().y()));
    QTest::mouseDClick(view, Qt::LeftButton, {}, spot);
    ASSERT_EQ(notes_of(PartRole::Drums), before + 1);
    int x = -1000;
    for (const PlacedNote& n : placed_notes(*part(PartRole::Drums)))
        if (const int at = static_cast<int>(view->x_of(n.note.start)); n.note.pitch == drum_sounds()[9].key && std::abs(at - spot.x()) < std::abs(x - spot.x()))
            x = at;
    QTest::mouseDClick(view, Qt::LeftButton, {}, {x, spot.y()});
    EXPECT_EQ(notes_of(PartRole::Drums), before);
}

TEST_F(WindowTest, AChordIsRelabelledByTypingAndFromItsAlternatives) {
    session->select_element("chords");
    window->show_desk(Desk::Transcribe);
    ChordCloseUp* view = window->transcribe()->chords();
    view->show_from(20.0);
    QTest::mouseClick(view, Qt::LeftButton, {}, {static_cast<int>(view->x_at(24.0)), 60});
    const Ticks tick = view->selected_tick();
    const auto chord_at = [&] {
        for (const ChordEvent& c : session->remake().chords)
            if (tick >= c.start && tick < c.start + c.length) return c.chord;
        return Chord{};
    };
    auto* name = fact<QLineEdit>("chord_name");
    ASSERT_TRUE(name);
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, "Ebmaj7/G");
    QTest::keyClick(name, Qt::Key_Return);
    EXPECT_EQ(chord_at().label(), "D#:maj7/3");
    auto* alternative = fact<QPushButton>("alternative0");
    ASSERT_TRUE(alternative);
    QTest::mouseClick(alternative, Qt::LeftButton);
    EXPECT_NE(chord_at().label(), "D#:maj7/3") << "the old reading came back";
    name = fact<QLineEdit>("chord_name");
    const auto was = session->document();
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, "no chord");
    QTest::keyClick(name, Qt::Key_Return);
    EXPECT_TRUE(window->last_message().contains("no chord"));
    EXPECT_EQ(session->document(), was) << "bad input changes nothing";
}

TEST_F(WindowTest, SoloAndMuteInTheLedgerAndCellsInTheGrid) {
    const auto ids = session->remake().element_ids();
    const int row = static_cast<int>(std::find(ids.begin(), ids.end(), "part:" + std::to_string(part(PartRole::Drums)->id)) - ids.begin());
    QTest::mouseClick(window->ledger(), Qt::LeftButton, {}, window->ledger()->mute_rect(row).center());
    EXPECT_TRUE(part(PartRole::Drums)->mute);
    QTest::keyClick(window, Qt::Key_M, Qt::ControlModifier);
    EXPECT_FALSE(part(PartRole::Drums)->mute) << "cleared in one go";
    window->show_desk(Desk::Rebuild);
    QCoreApplication::processEvents();
    int drums = 0;
    while (session->remake().parts[static_cast<std::size_t>(drums)]->role != PartRole::Drums) ++drums;
    const auto muted = [&] {
        return std::count_if(part(PartRole::Drums)->placements.begin(), part(PartRole::Drums)->placements.end(), [](const Placement& p) { return p.muted; });
    };
    QTest::mouseClick(window->rebuild_desk()->grid(), Qt::LeftButton, {}, window->rebuild_desk()->grid()->cell_rect(drums, 1).center().toPoint());
    EXPECT_EQ(muted(), 1);
    QTest::mouseClick(window->rebuild_desk()->grid(), Qt::LeftButton, {}, window->rebuild_desk()->grid()->cell_rect(drums, 1).center().toPoint());
    EXPECT_EQ(muted(), 0);
}

TEST_F(WindowTest, InstrumentLevelAndPanChangeTheSound) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    auto* instrument = fact<QComboBox>("instrument");
    ASSERT_TRUE(instrument);
    instrument->setCurrentIndex(instrument->findText("Sub bass"));
    emit instrument->activated(instrument->currentIndex());
    EXPECT_EQ(part(PartRole::Bass)->layers.front().patch, "Sub bass");
    auto* level = fact<QDoubleSpinBox>("level");
    ASSERT_TRUE(level);
    level->setValue(-12);
    EXPECT_DOUBLE_EQ(part(PartRole::Bass)->gain_db, -12.0);
    EXPECT_FALSE(session->rebuild_is_current());
    EXPECT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000)) << "the rebuild follows by itself";
}

TEST_F(WindowTest, EachDragIsAStepOfItsOwn) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(20.0);
    QCoreApplication::processEvents();
    QTest::mouseDClick(view, Qt::LeftButton, {}, QPoint(static_cast<int>(view->x_at(22.03)), static_cast<int>(view->y_of(view->pitch_at(60)) + 4)));
    const auto drawn = [&]() -> Note {
        for (const PlacedNote& n : placed_notes(*part(PartRole::Bass)))
            if (n.note.origin == Origin::Drawn) return n.note;
        return {};
    };
    const Ticks start = drawn().start;
    for (int times = 1; times <= 2; ++times) {
        QTest::qWait(QApplication::doubleClickInterval() + 100);
        const QPoint from(static_cast<int>(view->x_of(drawn().start)) + 3, static_cast<int>(view->y_of(drawn().pitch) + 4));
        const QPoint to(from.x() + static_cast<int>(view->x_of(start + 480) - view->x_of(start)), from.y());
        QTest::mousePress(view, Qt::LeftButton, {}, from);
        QTest::mouseMove(view, (from + to) / 2);
        QTest::mouseMove(view, to);
        QTest::mouseRelease(view, Qt::LeftButton, {}, to);
        ASSERT_EQ(drawn().start, start + times * 480);
    }
    session->undo();
    EXPECT_EQ(drawn().start, start + 480) << "the second drag alone is taken back";
    session->undo();
    EXPECT_EQ(drawn().start, start);
}

TEST_F(WindowTest, ALevelIsDraggedToWhereTheHandStopsAsOneStepAPart) {
    window->show_desk(Desk::Rebuild);
    const auto drag_up = [&](int pixels) {
        auto* level = fact<QDoubleSpinBox>("level");
        auto* line = level->findChild<QLineEdit*>();
        const QPoint at(line->width() / 2, line->height() / 2);
        QTest::mousePress(line, Qt::LeftButton, {}, at);
        for (int moved = 4; moved <= pixels; moved += 4) {
            QTest::mouseMove(line, at - QPoint(0, moved));
            QTest::qWait(5);  // the panel has time to rebuild itself, which it must not do under the hand
        }
        QTest::mouseRelease(line, Qt::LeftButton, {}, at - QPoint(0, pixels));
        QCoreApplication::processEvents();
    };
    select(PartRole::Bass);
    const double bass = part(PartRole::Bass)->gain_db;
    drag_up(40);
    EXPECT_DOUBLE_EQ(part(PartRole::Bass)->gain_db, bass + 10 * 0.5) << "ten steps of half a decibel";
    EXPECT_DOUBLE_EQ(fact<QDoubleSpinBox>("level")->value(), bass + 5.0);
    select(PartRole::Lead);
    const double lead = part(PartRole::Lead)->gain_db;
    drag_up(20);
    EXPECT_DOUBLE_EQ(part(PartRole::Lead)->gain_db, lead + 2.5);
    session->undo();
    EXPECT_DOUBLE_EQ(part(PartRole::Lead)->gain_db, lead);
    EXPECT_DOUBLE_EQ(part(PartRole::Bass)->gain_db, bass + 5.0) << "the other part's drag is another step";
    session->undo();
    EXPECT_DOUBLE_EQ(part(PartRole::Bass)->gain_db, bass);
}

TEST_F(WindowTest, AnEditLeavesTheToneAtMatchedLoudness) {
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    const double gain = session->report()->match_gain_db;
    ASSERT_NE(gain, 0.0);
    session->edit(rename_section(session->remake(), 0, "other"), "Rename section");
    EXPECT_EQ(session->report()->match_gain_db, gain) << "before the sound is measured anew";
}

}  // namespace fw::app
