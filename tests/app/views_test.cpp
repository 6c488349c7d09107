// SPDX-License-Identifier: GPL-3.0-or-later
// The single views on the demo: how they place time and pitch, and what mouse and keys do to them.
#include "app/changes.hpp"
#include "fixture.hpp"

#include "app/listening_bar.hpp"
#include "app/number_field.hpp"

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHelpEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QSignalSpy>
#include <QTableWidget>
#include <QToolTip>
#include <QWheelEvent>

namespace fw::app {

using CloseUpTest = WindowTest;
using PageTest = WindowTest;
using ListeningTest = WindowTest;

namespace {
void wheel(QWidget* w, const QPointF& at, int delta, Qt::KeyboardModifiers modifiers) {
    QWheelEvent e(at, w->mapToGlobal(at), {}, {0, delta}, Qt::NoButton, modifiers, Qt::NoScrollPhase, false);
    QApplication::sendEvent(w, &e);
}
}  // namespace

TEST_F(CloseUpTest, ZoomingKeepsTheTimeUnderThePointer) {
    select(PartRole::Lead);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(40.0);
    const QPointF at(500, 200);
    const double time = view->time_at(at.x()), wide = view->x_at(41.0) - view->x_at(40.0);
    wheel(view, at, 120, Qt::ControlModifier);
    EXPECT_NEAR(view->time_at(at.x()), time, 0.01);
    EXPECT_NEAR((view->x_at(41.0) - view->x_at(40.0)) / wide, 1.25, 0.01);
    wheel(view, at, -120, Qt::ControlModifier);
    EXPECT_NEAR(view->x_at(41.0) - view->x_at(40.0), wide, 0.01);
}

TEST_F(CloseUpTest, TheWheelScrollsInTimeAndWithShiftInPitch) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(40.0);
    wheel(view, {500, 200}, -120, Qt::NoModifier);
    EXPECT_GT(view->time_at(CloseUp::kLeft), 40.1);
    const int before = view->pitch_at(200);
    wheel(view, {500, 200}, 120, Qt::ShiftModifier);
    EXPECT_EQ(view->pitch_at(200), before + 2);
    for (int i = 0; i < 100; ++i) wheel(view, {500, 200}, 120, Qt::ShiftModifier);
    EXPECT_LE(view->pitch_at(CloseUp::kRuler + 1), 108) << "never beyond the evidence";
}

TEST_F(CloseUpTest, PlaceAndTimeAreInverseAndSoArePitchAndHeight) {
    select(PartRole::Lead);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(12.0);
    for (double t = 12.0; t < 16.0; t += 0.37) EXPECT_NEAR(view->time_at(view->x_at(t)), t, 1e-9);
    for (int p = view->pitch_at(400); p < view->pitch_at(60); ++p) EXPECT_EQ(view->pitch_at(view->y_of(p) + 1), p);
}

TEST_F(CloseUpTest, AClickInTheRulerGoesThere) {
    select(PartRole::Lead);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(40.0);
    QTest::mouseClick(view, Qt::LeftButton, {}, {static_cast<int>(view->x_at(42.0)), 10});
    EXPECT_TRUE(QTest::qWaitFor([] { return std::abs(session->transport().position_s() - 42.0) < 0.03; }, 2000));
}

TEST_F(CloseUpTest, ADraggedFrameSelectsWhatItTouchesAndControlAddsOne) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->show_from(20.0);
    int visible = 0;
    for (const PlacedNote& n : placed_notes(*part(PartRole::Bass))) {
        const double x0 = view->x_of(n.note.start), x1 = view->x_of(n.note.start + n.note.length);
        visible += x1 > CloseUp::kLeft + 2 && x0 < view->width() - 3;
    }
    ASSERT_GT(visible, 2);
    const QPoint a(CloseUp::kLeft + 1, CloseUp::kRuler + 2), b(view->width() - 2, view->height() - CloseUp::kFoot - 2);
    QTest::mousePress(view, Qt::LeftButton, {}, a);
    QTest::mouseMove(view, (a + b) / 2);
    QTest::mouseMove(view, b);
    QTest::mouseRelease(view, Qt::LeftButton, {}, b);
    EXPECT_NEAR(static_cast<double>(session->selection().notes().size()), visible, 2);
    const std::size_t many = session->selection().notes().size();
    for (const PlacedNote& n : placed_notes(*part(PartRole::Bass))) {
        if (!(n.ref() == session->selection().notes().front())) continue;
        const double x = std::max<double>(CloseUp::kLeft + 3, view->x_of(n.note.start) + 3);
        QTest::mouseClick(view, Qt::LeftButton, Qt::ControlModifier, {static_cast<int>(x), static_cast<int>(view->y_of(n.note.pitch) + 4)});
        break;
    }
    EXPECT_EQ(session->selection().notes().size(), many - 1) << "a second control-click takes it out again";
    QTest::keyClick(view, Qt::Key_A, Qt::ControlModifier);
    EXPECT_EQ(session->selection().notes().size(), notes_of(PartRole::Bass));
}

TEST_F(CloseUpTest, TheRightEdgeLengthensOnTheGrid) {
    select(PartRole::Bass);
    Note n;
    n.start = session->remake().song->meter.tick_of_bar(9);
    n.length = 240;
    n.pitch = 34;  // below everything the demo plays
    session->documents().edit(add_note(session->remake(), part(PartRole::Bass)->id, n), "Draw note");
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    view->fit_pitch();
    view->show_from(session->remake().song->tempo.seconds(n.start) - 0.5);
    const auto length = [&] {
        for (const PlacedNote& x : placed_notes(*part(PartRole::Bass)))
            if (x.note.pitch == 34) return x.note.length;
        return Ticks{-1};
    };
    const QPoint edge(static_cast<int>(view->x_of(n.start + n.length)) - 2, static_cast<int>(view->y_of(34) + 4));
    const QPoint to(edge.x() + static_cast<int>(view->x_of(n.start + 960) - view->x_of(n.start)), edge.y());
    QTest::mousePress(view, Qt::LeftButton, {}, edge);
    QTest::mouseMove(view, (edge + to) / 2);
    QTest::mouseMove(view, to);
    QTest::mouseRelease(view, Qt::LeftButton, {}, to);
    EXPECT_EQ(length(), 240 + 960);
}

TEST_F(CloseUpTest, ABendIsDrawnOverItsNoteAndShiftQTakesItOff) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    // A long note of its own that glides down to its pitch from five semitones above.
    Note n;
    n.start = session->remake().song->meter.tick_of_bar(9);
    n.length = 1920;
    n.pitch = view->pitch_at(view->height() / 2);
    const PartId id = part(PartRole::Bass)->id;
    session->documents().edit(add_note(session->remake(), id, n), "Add note");
    view->show_from(session->remake().song->tempo.seconds(n.start) - 1.0);
    QCoreApplication::processEvents();
    const auto high_up = [&] {
        // Rebuild ink well above the note, in its first tenth.
        const QImage shot = view->grab().toImage();
        int inked = 0;
        for (int x = static_cast<int>(view->x_of(n.start)); x < static_cast<int>(view->x_of(n.start + 192)); ++x)
            for (int y = static_cast<int>(view->y_of(n.pitch + 5)); y < static_cast<int>(view->y_of(n.pitch + 2)); ++y) {
                const QColor c = shot.pixelColor(x, y);
                inked += c.red() > c.blue() + 60;
            }
        return inked;
    };
    const int before = high_up();
    session->documents().edit(with_part(session->remake(), id,
                                        [&](Part& p) {
                                            for (auto& pattern : p.patterns)
                                                for (Note& x : pattern.edit().notes)
                                                    if (x.pitch == n.pitch && x.length == n.length) x.bend.edit() = {{0, 500.0}, {960, 0.0}};
                                        }),
                              "Bend");
    QCoreApplication::processEvents();
    EXPECT_GT(high_up(), before + 4);
    QTest::mouseClick(view, Qt::LeftButton, {}, QPoint(static_cast<int>(view->x_of(n.start + 960)), static_cast<int>(view->y_of(n.pitch) + 4)));
    ASSERT_EQ(session->selection().notes().size(), 1u);
    QTest::keyClick(view, Qt::Key_Q, Qt::ShiftModifier);
    EXPECT_EQ(high_up(), before);
    QSignalSpy changes(session, &Session::document_changed);
    QTest::keyClick(view, Qt::Key_Q, Qt::ShiftModifier);
    EXPECT_EQ(changes.count(), 0) << "nothing left to straighten";
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_GT(high_up(), before + 4);
}

TEST_F(CloseUpTest, DraggingThereAndBackIsNoChange) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    NoteCloseUp* view = window->transcribe()->notes();
    const auto notes = placed_notes(*part(PartRole::Bass));
    const PlacedNote n = notes[notes.size() / 2];
    view->show_from(session->remake().song->tempo.seconds(n.note.start) - 1.0);
    const QPoint at(static_cast<int>(view->x_of(n.note.start)) + 3, static_cast<int>(view->y_of(n.note.pitch) + 4));
    QTest::mousePress(view, Qt::LeftButton, {}, at);
    QTest::mouseMove(view, at + QPoint(60, -40));
    QTest::mouseMove(view, at + QPoint(30, 10));
    QTest::mouseMove(view, at + QPoint(3, 0));
    QTest::mouseMove(view, at);
    QTest::mouseRelease(view, Qt::LeftButton, {}, at);
    const auto after = placed_notes(*part(PartRole::Bass));
    ASSERT_EQ(after.size(), notes.size());
    for (std::size_t i = 0; i < notes.size(); ++i) {
        EXPECT_EQ(after[i].note.start, notes[i].note.start);
        EXPECT_EQ(after[i].note.pitch, notes[i].note.pitch);
    }
}

TEST_F(CloseUpTest, HitsMoveOnTheGridAndOffItWithAlt) {
    select(PartRole::Drums);
    Note n;
    n.start = session->remake().song->meter.tick_of_bar(9) + 480;
    n.length = 100;
    n.pitch = drum_sounds()[9].key;
    session->documents().edit(add_note(session->remake(), part(PartRole::Drums)->id, n), "Add hit");
    window->show_desk(Desk::Transcribe);
    DrumCloseUp* view = window->transcribe()->drums();
    view->show_from(session->remake().song->tempo.seconds(n.start) - 0.5);
    const auto place = [&] {
        for (const PlacedNote& x : placed_notes(*part(PartRole::Drums)))
            if (x.note.pitch == n.pitch) return x.note.start;
        return Ticks{-1};
    };
    const auto drag = [&](int by, Qt::KeyboardModifiers modifiers) {
        const QPoint at(static_cast<int>(std::lround(view->x_of(place()))), static_cast<int>(view->row_rect(9).center().y()));
        QTest::mousePress(view, Qt::LeftButton, modifiers, at);
        for (const int step : {by / 2, by}) {
            QMouseEvent move(QEvent::MouseMove, at + QPoint(step, 0), view->mapToGlobal(at + QPoint(step, 0)), Qt::NoButton, Qt::LeftButton, modifiers);
            QApplication::sendEvent(view, &move);
        }
        QTest::mouseRelease(view, Qt::LeftButton, modifiers, at + QPoint(by, 0));
    };
    const int grid = static_cast<int>(std::lround(view->x_of(n.start + 240) - view->x_of(n.start)));
    drag(grid, Qt::NoModifier);
    EXPECT_EQ(place(), n.start + 240);
    drag(7, Qt::AltModifier);
    EXPECT_NE(place() % 240, 0);
    EXPECT_GT(place(), n.start + 240);
}

TEST_F(PageTest, EverySectionStartsARowAndRowsHoldEightBars) {
    const auto& rows = window->page()->rows();
    const Remake& r = session->remake();
    std::size_t starts = 0;
    for (const auto& row : rows) {
        starts += row.first_of_section && row.section >= 0;
        if (row.first_of_section && row.section >= 0) {
            EXPECT_EQ(row.start, r.song->sections[static_cast<std::size_t>(row.section)].start);
        }
        EXPECT_LE(row.end - row.start, window->page()->bars_per_row() * r.song->meter.at_bar(1).bar_ticks());
    }
    EXPECT_EQ(starts, r.song->sections.size());
    for (std::size_t i = 1; i < rows.size(); ++i) EXPECT_EQ(rows[i].start, rows[i - 1].end) << "nothing of the song is left out";
}

TEST_F(PageTest, PlacesAndTicksAreInverse) {
    PageView* page = window->page();
    for (int bar = 1; bar <= 12; ++bar) {
        const Ticks t = session->remake().song->meter.tick_of_bar(bar) + 960;
        const QPoint p = page->point_of(t);
        ASSERT_GE(p.x(), 0);
        EXPECT_NEAR(static_cast<double>(page->tick_at(p)), static_cast<double>(t), 30);
    }
}

TEST_F(PageTest, ABarOfARepeatThatDiffersIsToldOnThePageAndLedToFromTheFacts) {
    const BarDifference* change = nullptr;
    for (const SectionSpan& s : session->recording().analysis->sections)
        if (!change && !s.differences.empty()) change = &s.differences.front();
    ASSERT_TRUE(change) << "the demo's repeats differ in places";
    session->selection().select_element(ElementId::sections());
    auto* go = fact<QPushButton>("change1");
    ASSERT_TRUE(go);
    EXPECT_TRUE(go->text().startsWith(QString("%1 ≠ %2").arg(change->bar).arg(change->of_bar))) << go->text().toStdString();
    QTest::mouseClick(go, Qt::LeftButton);
    EXPECT_NEAR(session->transport().loop_start(), change->start_s, 1e-6) << "both bars are heard in turn";
    EXPECT_TRUE(session->transport().player().playing());
    session->transport().player().stop();
    PageView* page = window->page();
    const QPoint at = page->point_of(session->remake().song->tempo.nearest_tick(0.5 * (change->start_s + change->end_s)));
    ASSERT_GE(at.x(), 0);
    QHelpEvent help(QEvent::ToolTip, at, page->viewport()->mapToGlobal(at));
    QCoreApplication::sendEvent(page->viewport(), &help);
    EXPECT_TRUE(QToolTip::text().startsWith(QString("Bar %1 against bar %2: ").arg(change->bar).arg(change->of_bar))) << QToolTip::text().toStdString();
    EXPECT_TRUE(QToolTip::text().contains(heard_element_name(change->element)));
}

TEST_F(PageTest, TheFactsOfSectionsTellEntriesAndExits) {
    session->selection().select_element(ElementId::sections());
    QCoreApplication::processEvents();
    QStringList told;
    for (const QPushButton* b : window->facts()->widget()->findChildren<QPushButton*>()) told << b->text();
    const Song& song = *session->remake().song;
    for (const Presence& p : session->recording().analysis->presence) {
        const int bar = song.meter.position(song.tempo.nearest_tick(p.start_s + 0.05)).bar;
        if (bar <= 1) continue;
        const auto line = std::find_if(told.begin(), told.end(), [&](const QString& t) { return t.startsWith(QString("%1 in: ").arg(bar)); });
        ASSERT_NE(line, told.end()) << bar;
        EXPECT_TRUE(line->contains(heard_element_name(p.element))) << line->toStdString();
    }
}

TEST_F(PageTest, ADoubleClickOnAChordPutsItsNameUnderTheFingers) {
    PageView* page = window->page();
    const QPoint bar = page->point_of(session->remake().song->meter.tick_of_bar(5) + 100);
    QTest::mouseDClick(page->viewport(), Qt::LeftButton, {}, {bar.x() + 8, bar.y() - 34});
    EXPECT_EQ(session->selection().element(), ElementId::chords());
    auto* name = fact<QLineEdit>("chord_name");
    ASSERT_TRUE(name);
    EXPECT_FALSE(name->text().isEmpty());
}

TEST_F(PageTest, AChordHeldOverIntoARowIsNamedThere) {
    PageView* page = window->page();
    const Ticks bar = session->remake().song->meter.tick_of_bar(2), start = session->remake().song->sections.at(1).start;
    const auto name_area = [&](std::vector<ChordEvent> chords) {
        Remake r = session->remake();
        r.song.edit().chords = std::move(chords);
        session->documents().edit(r, "Chords for a test");
        QCoreApplication::processEvents();
        const QPoint at = page->point_of(start);
        return page->viewport()->grab(QRect(at.x() + 4, at.y() - 45, 30, 20)).toImage();
    };
    const QImage none = name_area({}), held = name_area({{start - bar, 2 * bar, Chord{2}, 1.0, Origin::Heard, {}}}),
                 early = name_area({{start - bar, bar, Chord{2}, 1.0, Origin::Heard, {}}});
    EXPECT_EQ(none, early) << "it has ended before the row begins";
    EXPECT_NE(none, held);
}

TEST_F(PageTest, DraggingAcrossBarsLoopsThem) {
    PageView* page = window->page();
    const Remake& r = session->remake();
    const QPoint a = page->point_of(r.song->meter.tick_of_bar(5)) + QPoint(1, 0), b = page->point_of(r.song->meter.tick_of_bar(7));
    QTest::mousePress(page->viewport(), Qt::LeftButton, {}, a);
    QTest::mouseMove(page->viewport(), (a + b) / 2);
    QTest::mouseMove(page->viewport(), b);
    QTest::mouseRelease(page->viewport(), Qt::LeftButton, {}, b);
    EXPECT_NEAR(session->transport().loop_start(), r.song->tempo.seconds(r.song->meter.tick_of_bar(5)), 0.05);
    EXPECT_NEAR(session->transport().loop_end(), r.song->tempo.seconds(r.song->meter.tick_of_bar(7)), 0.05);
}

TEST_F(ListeningTest, SourcesSpeedAndLoudnessFollowTheirControls) {
    auto* bar = window->findChild<ListeningBar*>();
    ASSERT_TRUE(bar);
    for (auto* b : bar->findChildren<QPushButton*>()) {
        if (b->text() == "Take turns") {
            QTest::mouseClick(b, Qt::LeftButton);
            EXPECT_EQ(session->transport().player().source(), Source::TakeTurns);
        } else if (b->text() == "Left/right") {
            QTest::mouseClick(b, Qt::LeftButton);
            EXPECT_EQ(session->transport().player().source(), Source::LeftRight);
        } else if (b->text() == "Loop") {
            EXPECT_FALSE(b->isEnabled()) << "there is nothing to loop yet";
        }
    }
    auto* speed = bar->findChild<NumberField*>();
    ASSERT_TRUE(speed);
    speed->setValue(50);
    EXPECT_DOUBLE_EQ(session->transport().player().speed(), 0.5);
    speed->setValue(100);
    auto* match = bar->findChild<QCheckBox*>();
    ASSERT_TRUE(match);
    QTest::mouseClick(match, Qt::LeftButton, {}, {8, match->height() / 2});
    EXPECT_FALSE(session->transport().loudness_match());
    QTest::mouseClick(match, Qt::LeftButton, {}, {8, match->height() / 2});
    EXPECT_TRUE(session->transport().loudness_match());
}

TEST_F(ListeningTest, AnUndoneDocumentIsWhatPlays) {
    // All parts emptied, then undone: the device must hear the rebuild again.
    Remake empty = session->remake();
    for (const auto& p : first->parts) empty = with_part(empty, p->id, [](Part& x) { x.placements.clear(); });
    session->documents().edit(empty, "Empty");
    session->transport().set_source(Source::Rebuild);
    session->transport().seek(20.0);
    session->toggle_play();
    const auto energy = [] {
        double sum = 0;
        for (const float s : output->captured(4000)) sum += s * s;
        return sum;
    };
    EXPECT_TRUE(QTest::qWaitFor([&] { return session->transport().player().position_s() > 20.3 && energy() < 1e-6; }, 5000))
        << energy() << " at " << session->transport().player().position_s() << ", source " << source_name(session->transport().player().source());
    session->documents().undo();
    EXPECT_TRUE(QTest::qWaitFor([&] { return energy() > 1.0; }, 3000));
    session->toggle_play();
}

TEST_F(WindowTest, TheToolsOverACloseUpHaveRoomAtTheUsualSizeWhateverThePartIsCalled) {
    window->show_desk(Desk::Transcribe);
    for (const auto& p : session->remake().parts) {
        session->selection().select_element(p->id);
        QCoreApplication::processEvents();
        for (const char* name : {"reach", "read_as", "neighbours", "draw_pitch"}) {
            const auto* tool = window->transcribe()->findChild<QWidget*>(name);
            ASSERT_TRUE(tool) << name;
            if (!tool->isVisible()) continue;
            EXPECT_GE(tool->width(), tool->sizeHint().width()) << name << " beside " << p->name;
        }
    }
}

/// What is kept beneath the notes must be what would be painted now.
TEST_F(WindowTest, ACloseUpShowsWhatANewOneShowsWhateverWasSeenBefore) {
    window->show_desk(Desk::Transcribe);
    const auto image = [](QWidget& view) {
        QImage out(view.size(), QImage::Format_RGB32);
        view.render(&out);
        return out;
    };
    const auto compare = [&]<class View>(View& kept) {
        const auto same = [&](const char* after, Ticks grid, DrawnBars bars, double nearer) {
            View fresh(*session);
            fresh.resize(kept.size());
            fresh.setFont(kept.font());
            if constexpr (std::is_same_v<View, NoteCloseUp>) kept.fit_pitch(), fresh.fit_pitch();
            if constexpr (std::is_same_v<View, ChordCloseUp>) fresh.select_tick(kept.selected_tick());
            QEvent leave(QEvent::Leave);
            QCoreApplication::sendEvent(&kept, &leave);
            for (CloseUp* view : std::initializer_list<CloseUp*>{&kept, &fresh}) {
                view->set_grid(grid);
                view->draw_bars(bars);
                view->set_neighbours(true);
                view->zoom(1e-6, CloseUp::kLeft);  // as far as it goes, from wherever other tests left it
                view->zoom(12.0 * nearer, CloseUp::kLeft);
                view->show_from(8.0);
            }
            EXPECT_EQ(image(kept), image(fresh)) << after;
        };
        const Ticks sixteenth = kTicksPerQuarter / 4;
        same("as it is", sixteenth, DrawnBars::AsCounted, 1.0);
        same("another grid", kTicksPerQuarter, DrawnBars::AsCounted, 1.0);
        same("half time", kTicksPerQuarter, DrawnBars::HalfTime, 1.0);
        same("nearer", sixteenth, DrawnBars::AsCounted, 2.0);
        run("meter.set meter=3/4 from=5");
        same("another meter", sixteenth, DrawnBars::AsCounted, 1.0);
        session->documents().undo();
        set_night(true);
        same("at night", sixteenth, DrawnBars::AsCounted, 1.0);
        set_night(false);
        same("by day", sixteenth, DrawnBars::AsCounted, 1.0);
    };
    select(PartRole::Lead);
    compare(*window->transcribe()->notes());
    select(PartRole::Bass);
    compare(*window->transcribe()->notes());
    select(PartRole::Drums);
    compare(*window->transcribe()->drums());
    session->selection().select_element(ElementId::chords());
    compare(*window->transcribe()->chords());
}

TEST_F(WindowTest, WhatIsHeardBeneathAPartIsOfItsRoleThoughItBearsTheNumberOfOneThatIsGone) {
    window->show_desk(Desk::Transcribe);
    const auto image_of_new = [](const char* role) {
        run(std::string("part.add name=Answer role=") + role);
        session->selection().select_element(session->remake().parts.back()->id);
        NoteCloseUp* view = window->transcribe()->notes();
        view->show_from(8.0);
        QImage out(view->size(), QImage::Format_RGB32);
        view->render(&out);
        return out;
    };
    const QImage bass = image_of_new("bass");
    const PartId number = session->remake().parts.back()->id;
    session->documents().undo();
    const QImage lead = image_of_new("lead");
    ASSERT_EQ(session->remake().parts.back()->id, number);
    EXPECT_NE(bass, lead);
}

}  // namespace fw::app
