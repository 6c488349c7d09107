// SPDX-License-Identifier: GPL-3.0-or-later
// Edits by mouse and keyboard in the real window: notes, hits, chords, levels, and what undo takes back.
#include "fixture.hpp"

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDoubleSpinBox>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>
#include <QToolButton>

namespace fw::app {

TEST_F(WindowTest, NotesAreDrawnMovedTransposedDeletedAndUndone) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(20.0);
    QCoreApplication::processEvents();
    session->selection().set_reach(Reach::Here);
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
    ASSERT_EQ(session->selection().notes().size(), 1u);
    QTest::keyClick(view, Qt::Key_Down);
    EXPECT_EQ(drawn().pitch, pitch - 1);
    QTest::keyClick(view, Qt::Key_Right);
    EXPECT_EQ(drawn().start % 240, 15);
    QTest::keyClick(view, Qt::Key_Q);
    EXPECT_EQ(drawn().start % 240, 0);
    EXPECT_EQ(session->selection().notes().size(), 1u) << "it stays selected whatever it passes";
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
    session->selection().select_element(ElementId::chords());
    window->show_desk(Desk::Transcribe);
    ChordCloseUp* view = window->transcribe()->chords();
    view->show_from(20.0);
    QTest::mouseClick(view, Qt::LeftButton, {}, {static_cast<int>(view->x_at(24.0)), 60});
    const Ticks tick = view->selected_tick();
    const auto chord_at = [&] {
        for (const ChordEvent& c : session->remake().song->chords)
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
    const auto was = session->documents().document();
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, "no chord");
    QTest::keyClick(name, Qt::Key_Return);
    EXPECT_TRUE(window->last_message().contains("no chord"));
    EXPECT_EQ(session->documents().document(), was) << "bad input changes nothing";
}

TEST_F(WindowTest, SoloAndMuteInTheLedgerAndCellsInTheGrid) {
    const auto ids = session->remake().element_ids();
    const int row = static_cast<int>(std::find(ids.begin(), ids.end(), ElementId(part(PartRole::Drums)->id)) - ids.begin());
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
    auto* instrument = in_sheet<QComboBox>("instrument");
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
    session->documents().undo();
    EXPECT_EQ(drawn().start, start + 480) << "the second drag alone is taken back";
    session->documents().undo();
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
    session->documents().undo();
    EXPECT_DOUBLE_EQ(part(PartRole::Lead)->gain_db, lead);
    EXPECT_DOUBLE_EQ(part(PartRole::Bass)->gain_db, bass + 5.0) << "the other part's drag is another step";
    session->documents().undo();
    EXPECT_DOUBLE_EQ(part(PartRole::Bass)->gain_db, bass);
}

TEST_F(WindowTest, AnEditLeavesTheToneAtMatchedLoudness) {
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    const double gain = session->report()->sound.match_gain_db;
    ASSERT_NE(gain, 0.0);
    session->documents().edit(rename_section(session->remake(), session->remake().song->sections[0].id, "other"), "Rename section");
    settle();
    EXPECT_EQ(session->report()->sound.match_gain_db, gain) << "before the sound is measured anew";
}

TEST_F(WindowTest, ANoteMovedPastItsNeighbourStaysTheOneThatMoves) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    const auto notes = placed_notes(*part(PartRole::Bass));
    std::size_t i = notes.size() / 2;
    while (notes[i + 1].note.start - notes[i].note.start > 400 || notes[i + 1].placement != notes[i].placement) ++i;
    session->selection().select_notes({notes[i].ref()});
    view->setFocus();
    const int presses = static_cast<int>((notes[i + 1].note.start - notes[i].note.start) / 15) + 3;
    for (int k = 0; k < presses; ++k) QTest::keyClick(view, Qt::Key_Right);
    std::map<NoteRef, Ticks> now;
    for (const PlacedNote& n : placed_notes(*part(PartRole::Bass))) now[n.ref()] = n.note.start;
    EXPECT_EQ(now[notes[i].ref()], notes[i].note.start + 15 * presses);
    EXPECT_EQ(now[notes[i + 1].ref()], notes[i + 1].note.start) << "the neighbour stays where it is";
    session->documents().undo();
    for (const PlacedNote& n : placed_notes(*part(PartRole::Bass)))
        EXPECT_EQ(n.note.start, std::find_if(notes.begin(), notes.end(), [&](const PlacedNote& x) { return x.ref() == n.ref(); })->note.start);
}

TEST_F(WindowTest, WhatWasDoneIsAScriptThatDoesItAgain) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(20.0);
    QCoreApplication::processEvents();
    QTest::mouseDClick(view, Qt::LeftButton, {}, QPoint(static_cast<int>(view->x_at(22.03)), static_cast<int>(view->y_of(view->pitch_at(60)) + 4)));
    view->setFocus();
    for (int k = 0; k < 5; ++k) QTest::keyClick(view, Qt::Key_Right);
    QTest::keyClick(view, Qt::Key_Up);
    fact<QDoubleSpinBox>("level")->setValue(-9);
    QTest::keyClick(window, Qt::Key_D, Qt::ControlModifier);
    QTest::keyClick(window, Qt::Key_K, Qt::ControlModifier);
    const auto again = run_script(*first, session->documents().what_was_done().toStdString(), "what was done");
    ASSERT_TRUE(again) << again.error().message() << session->documents().what_was_done().toStdString();
    EXPECT_EQ(*again, session->remake()) << session->documents().what_was_done().toStdString();
}

TEST_F(WindowTest, ASecondLayerIsMadeOnTheSheet) {
    select(PartRole::Lead);
    window->show_desk(Desk::Rebuild);
    QTest::mouseClick(in_sheet<QPushButton>("add_layer"), Qt::LeftButton);
    ASSERT_EQ(part(PartRole::Lead)->layers.size(), 2u);
    auto* instrument = in_sheet<QComboBox>("instrument", 1);
    instrument->setCurrentIndex(instrument->findText("Warm pad"));
    emit instrument->activated(instrument->currentIndex());
    in_sheet<QDoubleSpinBox>("octave", 1)->setValue(-1);
    in_sheet<QDoubleSpinBox>("offset_ms", 1)->setValue(10);
    auto* level = in_sheet<FieldBox>("level", 1);
    auto* typed = level->findChild<QLineEdit*>();
    typed->setFocus();
    typed->selectAll();
    QTest::keyClicks(typed, "-9 dB");
    QTest::keyClick(typed, Qt::Key_Return);
    QTest::mouseClick(in_sheet<QToolButton>("unfold", 1), Qt::LeftButton);
    QTest::qWait(20);
    auto* lowest = in_sheet<FieldBox>("low_key");
    ASSERT_TRUE(lowest) << "all fields of the unfolded layer are there";
    typed = lowest->findChild<QLineEdit*>();
    typed->setFocus();
    typed->selectAll();
    QTest::keyClicks(typed, "C4");
    QTest::keyClick(typed, Qt::Key_Return);
    const Remake by_hand = session->remake();
    while (session->documents().history().can_undo()) session->documents().undo();
    run("part.add-layer part=Lead\nlayer.source part=Lead layer=2 source=synth patch=\"Warm pad\" octave=-1 offset_ms=10 level=-9dB low_key=C4\n");
    EXPECT_EQ(session->remake(), by_hand) << "the script does the same";
}

TEST_F(WindowTest, StepsAreAddedSwappedSwitchedAndTakenAwayOnTheSheet) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    const auto add = [&](const QString& kind) {
        for (QAction* a : in_sheet<QPushButton>("add_step")->menu()->actions())
            if (a->text() == kind) a->trigger();
    };
    add("Equaliser");
    add("Drive");
    const auto steps = [&] { return part(PartRole::Bass)->steps; };
    ASSERT_EQ(steps().size(), 2u);
    in_sheet<QDoubleSpinBox>("low")->setValue(3.0);
    EXPECT_EQ(steps()[0].value(2), 3.0);
    QTest::mouseClick(in_sheet<QToolButton>("step_down", 0), Qt::LeftButton);
    EXPECT_EQ(steps()[0].type, &kDrive);
    QTest::mouseClick(in_sheet<QPushButton>("all_steps"), Qt::LeftButton);
    for (const Step& s : steps()) EXPECT_EQ(s.on, 0.0);
    QTest::mouseClick(in_sheet<QPushButton>("all_steps"), Qt::LeftButton);
    for (const Step& s : steps()) EXPECT_EQ(s.on, 1.0);
    auto* on = in_sheet<QCheckBox>("on", 2);  // behind the layer's and the drive's
    on->click();
    EXPECT_EQ(steps()[1].on, 0.0);
    EXPECT_EQ(steps()[0].on, 1.0);
    QTest::mouseClick(in_sheet<QToolButton>("remove", 1), Qt::LeftButton);
    ASSERT_EQ(steps().size(), 1u);
    EXPECT_EQ(steps()[0].type, &kEqualiser);
    for (int i = 0; i < 7; ++i) session->documents().undo();
    EXPECT_EQ(steps().size(), 1u) << "undone back to the equaliser alone";
}

TEST_F(WindowTest, AFieldHeldInOneSectionAndACurveAreDrawnOnTheBars) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    run("step.add part=Bass kind=duck by=Drums sound=Kick depth=6dB release=1/8\n");
    auto* where = in_sheet<QComboBox>("values_in");
    const SectionId third = session->remake().song->sections[2].id;
    where->setCurrentIndex(3);
    emit where->activated(3);
    in_sheet<QDoubleSpinBox>("depth")->setValue(12.0);
    ASSERT_EQ(session->remake().automation->settings.size(), 1u);
    EXPECT_EQ(session->remake().automation->settings[0].section, third);
    EXPECT_EQ(part(PartRole::Bass)->steps[0].value(0), 6.0) << "the song's value stays";
    window->rebuild_desk()->sheet()->set_section({});
    // The curve: a click in the second section, a drag, a double-click.
    CurveView* curve = window->rebuild_desk()->curve();
    const FieldRef cutoff{part(PartRole::Bass)->layers[0].id, "cutoff"};
    curve->show_field(cutoff);
    const Section second = session->remake().song->sections[1];
    QTest::mouseClick(curve, Qt::LeftButton, {}, curve->place_of(second.start + 960, 400.0).toPoint());
    const auto points = [&] {
        const Curve* c = find_curve(session->remake(), cutoff, second.id);
        return c ? c->points : std::vector<CurvePoint>();
    };
    ASSERT_EQ(points().size(), 1u);
    EXPECT_EQ(points()[0].tick % 960, 0) << "on a beat";
    EXPECT_NEAR(points()[0].value, 400.0, 40.0);
    QTest::qWait(QApplication::doubleClickInterval() + 50);
    QTest::mouseClick(curve, Qt::LeftButton, {}, curve->place_of(second.start + 4 * 3840, 3000.0).toPoint());
    ASSERT_EQ(points().size(), 2u);
    const QPoint at = curve->place_of(second.start + points()[1].tick, points()[1].value).toPoint();
    QTest::qWait(QApplication::doubleClickInterval() + 50);
    QTest::mousePress(curve, Qt::LeftButton, {}, at);
    QTest::mouseMove(curve, at + QPoint(0, 10));
    QTest::mouseMove(curve, at + QPoint(0, 20));
    QTest::mouseRelease(curve, Qt::LeftButton, {}, at + QPoint(0, 20));
    EXPECT_LT(points()[1].value, 2000.0);
    session->documents().undo();
    EXPECT_NEAR(points()[1].value, 3000.0, 200.0) << "the drag is one step";
    QTest::qWait(QApplication::doubleClickInterval() + 50);
    QTest::mouseDClick(curve, Qt::LeftButton, {}, at);
    EXPECT_EQ(points().size(), 1u);
}

TEST_F(WindowTest, AnEditHereOnlyAndOneEverywhereBothSurvive) {
    // One bar of a chorus changed here only by key, then the pattern everywhere.
    select(PartRole::Bass);
    run("section.copy section=#2 to=#4\n");  // the same pattern twice
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->setFocus();
    const Song& song = *session->remake().song;
    const Ticks shift = song.sections[3].start - song.sections[1].start;
    const auto notes = placed_notes(*part(PartRole::Bass));
    const auto in = [&](const Section& s) {
        std::vector<PlacedNote> out;
        for (const PlacedNote& n : notes)
            if (n.note.start >= s.start && n.note.start < s.start + 3840) out.push_back(n);
        return out;
    };
    const auto a = in(song.sections[1]), b = in(song.sections[3]);
    ASSERT_EQ(a.size(), b.size());
    ASSERT_GT(a.size(), 1u);
    QTest::keyClick(view, Qt::Key_R);
    EXPECT_EQ(session->selection().reach(), Reach::Here);
    session->selection().select_notes({b[0].ref()});
    QTest::keyClick(view, Qt::Key_Up);
    QTest::keyClick(view, Qt::Key_R);
    EXPECT_EQ(session->selection().reach(), Reach::Everywhere);
    session->selection().select_notes({a[1].ref()});
    QTest::keyClick(view, Qt::Key_Down);
    const auto pitch_at = [&](Ticks t, int near) {
        for (const PlacedNote& n : placed_notes(*part(PartRole::Bass)))
            if (n.note.start == t && std::abs(n.note.pitch - near) < 2) return n.note.pitch;
        return -1;
    };
    EXPECT_EQ(pitch_at(a[0].note.start, a[0].note.pitch), a[0].note.pitch);
    EXPECT_EQ(pitch_at(a[0].note.start + shift, a[0].note.pitch), a[0].note.pitch + 1);
    EXPECT_EQ(pitch_at(a[1].note.start, a[1].note.pitch), a[1].note.pitch - 1);
    EXPECT_EQ(pitch_at(a[1].note.start + shift, a[1].note.pitch), a[1].note.pitch - 1);
}

TEST_F(WindowTest, RivalsAreSwitchedWhileItPlays) {
    select(PartRole::Lead);
    window->show_desk(Desk::Rebuild);
    run("rival.add part=Lead name=brighter\nlayer.source part=Lead layer=1 patch=\"Bright lead\"\n");
    session->transport().set_source(Source::Rebuild);
    session->transport().seek(20.0);
    session->toggle_play();
    EXPECT_TRUE(QTest::qWaitFor([] { return session->transport().position_s() > 20.1; }, 5000));
    auto* rivals = in_sheet<QPushButton>("rivals");
    ASSERT_EQ(rivals->text(), "Rivals (1)");
    rivals->menu()->actions().last()->trigger();
    EXPECT_EQ(part(PartRole::Lead)->layers[0].patch, "Reed lead");
    EXPECT_TRUE(QTest::qWaitFor([] { return session->transport().position_s() > 20.3; }, 5000)) << "it plays on";
    session->toggle_play();
    EXPECT_EQ(part(PartRole::Lead)->rivals[0]->version_name, "brighter");
}

TEST_F(WindowTest, TheSheetIsCopiedAsText) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    run("bus.add name=Room\nsend.add part=Bass bus=Room level=-9dB\nstep.add part=Bass kind=equaliser low=3dB\nfield.set part=Bass step=1 field=low value=6dB "
        "section=#2\n");
    const QString text = window->rebuild_desk()->sheet()->as_text();
    EXPECT_TRUE(text.contains("Equaliser, low shelf 3.0 dB, in chorus low shelf 6.0 dB")) << text.toStdString();
    EXPECT_TRUE(text.contains("and to Room, level −9.0 dB")) << text.toStdString();
    EXPECT_TRUE(text.contains("Round bass")) << text.toStdString();
}

TEST_F(WindowTest, AHitIsCutFromTheOriginalReversedAndPutBeforeASection) {
    window->show_desk(Desk::Survey);
    QTest::keyClick(window, Qt::Key_X, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(window->last_message().startsWith("Loop what is to be cut first"));
    const Song& song = *session->remake().song;
    session->transport().set_loop(song.tempo.seconds(song.meter.tick_of_bar(5)), song.tempo.seconds(song.meter.tick_of_bar(5) + 480));
    const Ticks third = song.sections[2].start;
    bool asked = false;
    QTimer::singleShot(0, [&] {
        auto* dialog = window->findChild<QDialog*>("cut");
        ASSERT_TRUE(dialog);
        asked = true;
        dialog->findChild<QLineEdit*>("cut_name")->setText("Whoosh");
        dialog->findChild<QLineEdit*>("cut_to")->setText("#3");
        dialog->findChild<QCheckBox*>("cut_ends")->click();
        dialog->findChild<QLineEdit*>("cut_recipe")->setText("fade 2 20, reverse");
        dialog->accept();
    });
    QTest::keyClick(window, Qt::Key_X, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_TRUE(asked);
    ASSERT_EQ(session->remake().clips->clips.size(), 1u) << window->last_message().toStdString();
    const Clip clip = session->remake().clips->clips[0];
    EXPECT_EQ(clip.start, third);
    EXPECT_TRUE(clip.ends_here);
    EXPECT_EQ(clip.recipe.size(), 2u);
    EXPECT_EQ(session->remake().clips->assets[0].origin, AssetOrigin::Original);
    // On the sheet: its recipe and its place are text, and it can be taken away.
    EXPECT_EQ(window->desk(), Desk::Rebuild);
    auto* recipe = in_sheet<QLineEdit>("clip_recipe");
    ASSERT_TRUE(recipe);
    EXPECT_EQ(recipe->text(), "fade 2 20, reverse");
    recipe->setFocus();
    recipe->selectAll();
    QTest::keyClicks(recipe, "reverse, gain -6");
    QTest::keyClick(recipe, Qt::Key_Return);
    EXPECT_EQ(session->remake().clips->clips[0].recipe[1].first, -6.0);
    QTest::mouseClick(in_sheet<QToolButton>("remove_clip"), Qt::LeftButton);
    EXPECT_TRUE(session->remake().clips->clips.empty());
    QTest::qWait(20);          // the line goes, and with it the field that had the keys
    window->activateWindow();  // the dialog had it last
    ASSERT_TRUE(QTest::qWaitForWindowActive(window));
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(session->remake().clips->clips.size(), 1u);
}

TEST_F(WindowTest, ASectionIsCopiedFromItsFacts) {
    session->selection().select_element(ElementId::sections());
    run("curve.set part=Bass layer=1 field=cutoff section=#2 points=\"1 250, 4 900\"\n");
    auto* copy = fact<QPushButton>("copy_section1");
    ASSERT_TRUE(copy);
    QTimer::singleShot(0, [&] {
        auto* dialog = window->findChild<QInputDialog*>("copy section");
        ASSERT_TRUE(dialog);
        dialog->setTextValue("#4");
        dialog->accept();
    });
    QTest::mouseClick(copy, Qt::LeftButton);
    EXPECT_EQ(session->remake().automation->curves.size(), 2u) << "the curve came along";
    EXPECT_EQ(session->remake().automation->curves[1].section, session->remake().song->sections[3].id);
}

}  // namespace fw::app
