// SPDX-License-Identifier: GPL-3.0-or-later
// The Transcribe desk by mouse and keyboard: doubtful notes walked, gestures, tools among the facts, parts from chords.
#include "fixture.hpp"

#include "app/doubt_walk.hpp"
#include "formats/midi_file.hpp"
#include "model/edits/patterns.hpp"
#include "model/edits/phrasing.hpp"

#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <set>

namespace fw::app {

class TranscribeTest : public WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        session->walk().end();
        window->show_desk(Desk::Transcribe);
    }
    void TearDown() override { session->walk().end(); }

    NoteCloseUp* view() { return window->transcribe()->notes(); }
    static std::vector<PlacedNote> notes(PartRole role) { return placed_notes(*part(role)); }
    static PlacedNote note_of(PartRole role, const NoteRef& ref) {
        for (const PlacedNote& n : notes(role))
            if (n.ref() == ref) return n;
        ADD_FAILURE() << "no such note";
        return {};
    }
    void drag(QWidget* on, QPoint from, QPoint to, Qt::KeyboardModifiers held = {}) {
        QTest::qWait(QApplication::doubleClickInterval() + 50);
        QTest::mousePress(on, Qt::LeftButton, held, from);
        for (int i = 1; i <= 4; ++i) {
            QMouseEvent move(QEvent::MouseMove, QPointF(from + (to - from) * i / 4), on->mapToGlobal(QPointF(from + (to - from) * i / 4)), Qt::NoButton,
                             Qt::LeftButton, held);
            QApplication::sendEvent(on, &move);
        }
        QTest::mouseRelease(on, Qt::LeftButton, held, to);
    }
    /// Some notes in a row, from a time on.
    std::vector<NoteRef> choose(PartRole role, double from_s, std::size_t count) {
        std::vector<NoteRef> some;
        for (const PlacedNote& n : notes(role))
            if (session->remake().song->tempo.seconds(n.note.start) >= from_s && some.size() < count) some.push_back(n.ref());
        session->selection().select_notes(some);
        return some;
    }
};

TEST_F(TranscribeTest, DoubtfulNotesAreWalkedHeardAcceptedChangedAndQuestionedByKey) {
    select(PartRole::Lead);
    settle();
    DoubtWalk& walk = session->walk();
    const std::size_t before = walk.doubts().size();
    ASSERT_GT(before, 3u);
    session->transport().seek(0.0);
    const double speed = session->transport().player().speed();
    QTest::keyClick(view(), Qt::Key_D);
    ASSERT_TRUE(walk.current());
    const Doubt doubt = *walk.current();
    EXPECT_TRUE(session->transport().player().playing());
    EXPECT_LT(session->transport().player().speed(), 1.0) << "slowed";
    EXPECT_EQ(session->transport().lens().kind, LensKind::Pitch);
    EXPECT_LE(session->transport().loop_start(), doubt.start_s);
    EXPECT_GE(session->transport().loop_end(), std::min(doubt.end_s, doubt.start_s + 2.0));
    const double x = view()->x_at(doubt.start_s);
    EXPECT_GT(x, CloseUp::kLeft);
    EXPECT_LT(x, view()->width()) << "it is in view";
    // What else it may be sounds over the original, only where it would be played.
    QTest::keyClick(view(), Qt::Key_X);
    ASSERT_EQ(walk.candidate(), 0u);
    EXPECT_EQ(session->transport().drone().count, 1u);
    EXPECT_EQ(session->transport().drone().within_s.first, doubt.start_s);
    auto* button = fact<QPushButton>("candidate0");
    ASSERT_TRUE(button);
    EXPECT_TRUE(button->isChecked());
    // Right as it is: one key, and on.
    QTest::keyClick(view(), Qt::Key_A);
    ASSERT_TRUE(walk.current());
    EXPECT_GT(walk.current()->start_s + walk.current()->shown.pitch * 1e-6, doubt.start_s);
    ASSERT_TRUE(doubt.note);
    EXPECT_TRUE(note_of(PartRole::Lead, *doubt.note).note.accepted);
    EXPECT_EQ(walk.doubts().size(), before - 1);
    // Another pitch is taken.
    const Doubt second = *walk.current();
    std::size_t other = 0;
    QTest::keyClick(view(), Qt::Key_X);
    while (walk.current()->alternatives[*walk.candidate()].written && other++ < 5) QTest::keyClick(view(), Qt::Key_X);
    ASSERT_TRUE(walk.candidate());
    const int pitch = walk.current()->alternatives[*walk.candidate()].pitch;
    const std::size_t count = notes_of(PartRole::Lead);
    QTest::keyClick(view(), Qt::Key_Return);
    if (second.note) {
        EXPECT_EQ(note_of(PartRole::Lead, *second.note).note.pitch, pitch);
        EXPECT_EQ(notes_of(PartRole::Lead), count);
    } else {
        EXPECT_EQ(notes_of(PartRole::Lead), count + 1);
    }
    // A question, with words.
    const std::size_t remarks = session->remake().notebook->remarks.size();
    QTest::keyClick(view(), Qt::Key_O);
    ASSERT_EQ(session->remake().notebook->remarks.size(), remarks + 1);
    EXPECT_EQ(session->remake().notebook->remarks.back().kind, RemarkKind::Question);
    EXPECT_FALSE(session->remake().notebook->remarks.back().words.empty());
    QTest::keyClick(view(), Qt::Key_Backspace);
    EXPECT_FALSE(walk.current());
    EXPECT_EQ(session->transport().player().speed(), speed);
    EXPECT_EQ(session->transport().lens().kind, LensKind::Whole);
    EXPECT_EQ(session->transport().drone().count, 0u);
}

TEST_F(TranscribeTest, TheWalkOfAPartWithoutDoubtsSaysSo) {
    select(PartRole::Bass);
    settle();
    session->selection().select_notes({});
    std::vector<NoteRef> all;
    for (const PlacedNote& n : notes(PartRole::Bass)) all.push_back(n.ref());
    session->selection().select_notes(all);
    ASSERT_TRUE(window->transcribe()->on_notes("note.accept", {{"on", "on"}}));
    for (const Doubt& d : std::vector<Doubt>(session->walk().doubts()))
        if (!d.note) {
            session->walk().go(1);
            session->walk().accept();
        }
    session->walk().end();
    EXPECT_TRUE(session->walk().doubts().empty());
    QTest::keyClick(view(), Qt::Key_D);
    EXPECT_FALSE(session->walk().current());
    EXPECT_TRUE(window->last_message().contains("Nothing of")) << window->last_message().toStdString();
}

TEST_F(TranscribeTest, VelocitiesAreDraggedInTheirLaneOneByOneAndAsARamp) {
    select(PartRole::Bass);
    session->selection().set_reach(Reach::Here);
    view()->show_from(20.0);
    QCoreApplication::processEvents();
    session->selection().select_notes({});
    std::vector<PlacedNote> seen;
    for (const PlacedNote& n : notes(PartRole::Bass))
        if (view()->x_of(n.note.start) > CloseUp::kLeft + 10 && view()->x_of(n.note.start) < view()->width() - 10) seen.push_back(n);
    ASSERT_GE(seen.size(), 4u);
    const auto at = [&](const PlacedNote& n, int velocity) {
        return QPoint(static_cast<int>(std::lround(view()->x_of(n.note.start))), static_cast<int>(std::lround(view()->y_of_velocity(velocity))));
    };
    drag(view(), at(seen[0], 60), at(seen[0], 30));
    const auto velocity = [&](const PlacedNote& was) {
        for (const PlacedNote& n : notes(PartRole::Bass))
            if (n.note.start == was.note.start && n.note.pitch == was.note.pitch) return n.note.velocity;
        return -1;
    };
    EXPECT_NEAR(velocity(seen[0]), 30, 3);
    EXPECT_EQ(velocity(seen[1]), seen[1].note.velocity);
    drag(view(), at(seen[0], 20), at(seen[3], 120));
    EXPECT_NEAR(velocity(seen[0]), 20, 4);
    EXPECT_NEAR(velocity(seen[3]), 120, 4);
    EXPECT_GT(velocity(seen[2]), velocity(seen[1]));
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_NEAR(velocity(seen[0]), 30, 3) << "a drag is one step";
}

TEST_F(TranscribeTest, TheLassoTheLeftEdgeAndTripletsFollowTheHand) {
    select(PartRole::Bass);
    session->selection().set_reach(Reach::Here);
    view()->show_from(20.0);
    view()->zoom(2.0, CloseUp::kLeft + 10);
    QCoreApplication::processEvents();
    PlacedNote target;
    for (const PlacedNote& n : notes(PartRole::Bass))
        if (view()->x_of(n.note.start) > CloseUp::kLeft + 100 && view()->x_of(n.note.start + n.note.length) < view()->width() - 60 && n.note.length > 300) {
            target = n;
            break;
        }
    ASSERT_TRUE(target.note.id);
    const auto middle = [&](const Note& n) {
        return QPointF((view()->x_of(n.start) + view()->x_of(n.start + n.length)) / 2,
                       view()->y_of(n.pitch) + (view()->y_of(n.pitch) - view()->y_of(n.pitch + 1)) / 2);
    };
    const QPoint around = middle(target.note).toPoint();
    session->selection().select_notes({});
    QTest::mousePress(view(), Qt::LeftButton, Qt::ShiftModifier, around + QPoint(-60, -30));
    for (const QPoint& to : {around + QPoint(60, -30), around + QPoint(60, 30), around + QPoint(-60, 30)}) {
        QMouseEvent move(QEvent::MouseMove, QPointF(to), view()->mapToGlobal(QPointF(to)), Qt::NoButton, Qt::LeftButton, Qt::ShiftModifier);
        QApplication::sendEvent(view(), &move);
    }
    QTest::mouseRelease(view(), Qt::LeftButton, Qt::ShiftModifier, around + QPoint(-60, 30));
    const auto& chosen = session->selection().notes();
    EXPECT_TRUE(std::find(chosen.begin(), chosen.end(), target.ref()) != chosen.end());
    // The left edge begins it earlier and ends it where it ended.
    session->selection().select_notes({});
    const QPoint edge(static_cast<int>(view()->x_of(target.note.start)) + 3, around.y());
    drag(view(), edge, edge - QPoint(static_cast<int>(view()->x_of(target.note.start + 240) - view()->x_of(target.note.start)), 0));
    Note moved;
    for (const PlacedNote& n : notes(PartRole::Bass))
        if (n.note.pitch == target.note.pitch && n.note.start == target.note.start - 240) moved = n.note;
    ASSERT_TRUE(moved.id);
    EXPECT_EQ(moved.start + moved.length, target.note.start + target.note.length);
    QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
    // With Shift a dragged note goes by triplets of the grid.
    drag(view(), around, around + QPoint(static_cast<int>(view()->x_of(target.note.start + 170) - view()->x_of(target.note.start)), 0), Qt::ShiftModifier);
    bool there = false;
    for (const PlacedNote& n : notes(PartRole::Bass)) there = there || (n.note.pitch == target.note.pitch && n.note.start == target.note.start + 160);
    EXPECT_TRUE(there);
}

TEST_F(TranscribeTest, ChosenNotesAreShapedByKeyAndUndone) {
    select(PartRole::Bass);
    session->selection().set_reach(Reach::Here);
    const auto some = choose(PartRole::Bass, 12.0, 4);
    ASSERT_EQ(some.size(), 4u);
    const auto starts = [&] {
        std::vector<Note> out;
        for (const PlacedNote& n : notes_meant(*part(PartRole::Bass), session->selection().notes())) out.push_back(n.note);
        return out;
    };
    const auto before = starts();
    const std::size_t count = notes_of(PartRole::Bass);
    const auto undo = [&] {
        QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
        EXPECT_EQ(notes_of(PartRole::Bass), count);
        choose(PartRole::Bass, 12.0, 4);
    };
    QTest::keyClick(view(), Qt::Key_K);
    EXPECT_EQ(starts()[0].start + starts()[0].length, before[1].start) << "legato";
    undo();
    QTest::keyClick(view(), Qt::Key_Up, Qt::ControlModifier);
    EXPECT_GE(starts()[0].pitch, before[0].pitch + 1);
    EXPECT_LE(starts()[0].pitch, before[0].pitch + 2);
    undo();
    QTest::keyClick(view(), Qt::Key_Up, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(notes_of(PartRole::Bass), count + 4);
    undo();
    QTest::keyClick(view(), Qt::Key_W);
    EXPECT_EQ(notes_of(PartRole::Bass), count + 4);
    undo();
    QTest::keyClick(view(), Qt::Key_W, Qt::ShiftModifier);
    EXPECT_GT(notes_of(PartRole::Bass), count + 4) << "to the section's end";
    undo();
    QTest::keyClick(view(), Qt::Key_G, Qt::ControlModifier);
    EXPECT_FALSE(starts()[0].bend.empty());
    EXPECT_EQ(starts()[0].bend.back().cents, 100.0 * (before[1].pitch - before[0].pitch));
    undo();
    QTest::keyClick(view(), Qt::Key_Y, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(starts()[0].roll.strokes, 2);
    EXPECT_EQ(notes_of(PartRole::Bass), count) << "a flam is one object";
    undo();
    QTest::keyClick(view(), Qt::Key_Delete, Qt::ShiftModifier);
    EXPECT_TRUE(starts()[0].muted);
    QTest::keyClick(view(), Qt::Key_Delete, Qt::ShiftModifier);
    EXPECT_FALSE(starts()[0].muted);
    // Copied and pasted by bar.
    QTest::keyClick(view(), Qt::Key_C, Qt::ControlModifier);
    EXPECT_FALSE(QApplication::clipboard()->text().isEmpty());
    const Song& song = *session->remake().song;
    const int bar = song.meter.position(before[0].start).bar;
    const double there_s = song.tempo.seconds(song.meter.tick_of_bar(bar + 2)) + 0.01;
    session->transport().seek(there_s);
    ASSERT_TRUE(QTest::qWaitFor([&] { return std::abs(session->transport().position_s() - there_s) < 0.01; }, 5000));
    const std::size_t now = notes_of(PartRole::Bass);
    QTest::keyClick(view(), Qt::Key_V, Qt::ControlModifier);
    EXPECT_EQ(notes_of(PartRole::Bass), now + 4);
    bool there = false;
    for (const PlacedNote& n : notes(PartRole::Bass))
        there = there || (n.note.pitch == before[0].pitch && n.note.start == before[0].start + song.meter.tick_of_bar(bar + 2) - song.meter.tick_of_bar(bar));
    EXPECT_TRUE(there);
}

TEST_F(TranscribeTest, ToolsAmongTheFactsUseTheirNumbers) {
    select(PartRole::Bass);
    session->selection().set_reach(Reach::Here);
    choose(PartRole::Bass, 30.0, 3);
    auto* strokes = fact<QDoubleSpinBox>("roll.strokes");
    ASSERT_TRUE(strokes);
    strokes->setValue(6);
    QTest::mouseClick(fact<QPushButton>("roll"), Qt::LeftButton);
    EXPECT_EQ(notes_meant(*part(PartRole::Bass), session->selection().notes())[0].note.roll.strokes, 6);
    EXPECT_EQ(fact<QDoubleSpinBox>("roll.strokes")->value(), 6) << "a number stays as it was set";
    fact<QDoubleSpinBox>("nudge.ms")->setValue(40);
    const Ticks before = notes_meant(*part(PartRole::Bass), session->selection().notes())[0].note.start;
    QTest::mouseClick(fact<QPushButton>("nudge"), Qt::LeftButton);
    const TempoMap& tempo = session->remake().song->tempo;
    EXPECT_NEAR(tempo.seconds(notes_meant(*part(PartRole::Bass), session->selection().notes())[0].note.start) - tempo.seconds(before), 0.040, 0.001);
    // A groove is taken and laid on.
    QTest::mouseClick(fact<QPushButton>("take_groove"), Qt::LeftButton);
    ASSERT_EQ(session->remake().song->grooves.size(), 1u);
    ASSERT_TRUE(fact<QPushButton>("lay_groove0"));
    QTest::mouseClick(fact<QPushButton>("original_groove"), Qt::LeftButton);
    EXPECT_EQ(session->remake().song->grooves.size(), 2u);
    // Several notes have a chord's name.
    choose(PartRole::Chords, 12.0, 3);
}

TEST_F(TranscribeTest, RepeatsAreFoldedIntoPatternsAndWhatChangesIsTold) {
    select(PartRole::Drums);
    QTest::mouseClick(fact<QPushButton>("find_patterns"), Qt::LeftButton);
    const Part& drums = *part(PartRole::Drums);
    EXPECT_GT(drums.placements.size(),
              2 * static_cast<std::size_t>(std::count_if(drums.patterns.begin(), drums.patterns.end(), [](const auto& p) { return !p->parent; })));
    if (!variations(drums).empty()) {
        auto* one = fact<QPushButton>("variation0");
        ASSERT_TRUE(one);
        QTest::mouseClick(one, Qt::LeftButton);
        const auto v = variations(drums).front();
        EXPECT_TRUE(session->transport().player().looping());
        (void)v;
        session->transport().player().stop();
    }
}

TEST_F(TranscribeTest, ABassFollowsTheLeadLowInTheLoopAndTheKickOnTheChordsEverywhere) {
    select(PartRole::Bass);
    const auto& tempo = session->remake().song->tempo;
    const auto choose = [&](const QString& words) {
        auto* open = fact<QPushButton>("follow_line");
        ASSERT_TRUE(open && open->menu());
        for (QAction* a : open->menu()->actions())
            if (a->text().contains(words)) return a->trigger();
        FAIL() << words.toStdString();
    };
    const Section& section = session->remake().song->sections[1];
    const Ticks from = section.start, to = section.start + section.length;
    session->transport().set_loop(tempo.seconds(from), tempo.seconds(to));
    const auto outside = [&] {
        std::vector<std::pair<Ticks, int>> all;
        for (const PlacedNote& n : notes(PartRole::Bass))
            if (n.note.start < from || n.note.start >= to) all.emplace_back(n.note.start, n.note.pitch);
        return all;
    };
    const auto before = outside();
    choose("the notes of Lead, low");
    EXPECT_EQ(outside(), before) << "only in the loop";
    std::set<Ticks> lead;
    for (const PlacedNote& n : notes(PartRole::Lead)) lead.insert(n.note.start);
    int there = 0;
    for (const PlacedNote& n : notes(PartRole::Bass)) {
        if (n.note.start < from || n.note.start >= to) continue;
        ++there;
        EXPECT_TRUE(lead.contains(n.note.start));
        EXPECT_LT(n.note.pitch, 40);
    }
    EXPECT_GT(there, 4);
    session->transport().set_loop(0.0, 0.0, false);
    choose("the kick of Drums");
    std::set<Ticks> kicks;
    for (const PlacedNote& n : notes(PartRole::Drums))
        if (n.note.pitch == 36 || n.note.pitch == 35) kicks.insert(n.note.start);
    ASSERT_FALSE(notes(PartRole::Bass).empty());
    for (const PlacedNote& n : notes(PartRole::Bass)) EXPECT_TRUE(kicks.contains(n.note.start)) << n.note.start;
    session->documents().undo();
    session->documents().undo();
    EXPECT_EQ(outside(), before);
}

TEST_F(TranscribeTest, APartIsMadeOfTheChordsAndFollowsThem) {
    select(PartRole::Chords);
    auto* open = fact<QPushButton>("derive");
    ASSERT_TRUE(open);
    QTest::mouseClick(open, Qt::LeftButton);
    QWidget* panel = nullptr;
    for (QWidget* w : QApplication::topLevelWidgets())
        if (w->objectName() == "derive_panel" && w->isVisible()) panel = w;
    if (!panel)
        for (QWidget* w : window->facts()->findChildren<QWidget*>("derive_panel")) panel = w;
    ASSERT_TRUE(panel);
    auto* kind = panel->findChild<QComboBox*>("derive_kind");
    kind->setCurrentIndex(kind->findData("arpeggio"));
    emit kind->activated(kind->currentIndex());
    EXPECT_EQ(part(PartRole::Chords)->derived.kind, FromChords::Arpeggio);
    auto* every = panel->findChild<QComboBox*>("derive_every");
    every->setCurrentIndex(every->findData("1/16"));
    emit every->activated(every->currentIndex());
    EXPECT_EQ(part(PartRole::Chords)->derived.every, 240);
    EXPECT_TRUE(part(PartRole::Chords)->derived.linked);
    panel->close();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    const auto earlier = notes(PartRole::Chords).front().note;
    run("chord.set at=" + place_text(session->remake().song->meter, session->remake().song->chords.front().start) + " chord=F#m");
    EXPECT_NE(notes(PartRole::Chords).front().note.pitch, earlier.pitch) << "it follows";
    auto* cut = fact<QPushButton>("unlink");
    ASSERT_TRUE(cut);
    QTest::mouseClick(cut, Qt::LeftButton);
    EXPECT_FALSE(part(PartRole::Chords)->derived.linked);
}

TEST_F(TranscribeTest, ChordsAreTypedExtendedFollowedAndEnteredInARow) {
    session->selection().select_element(ElementId::chords());
    const ChordEvent third = session->remake().song->chords[2];
    window->transcribe()->chords()->select_tick(third.start + 10);
    auto* name = fact<QLineEdit>("chord_name");
    ASSERT_TRUE(name);
    name->setFocus();
    name->setText("iv");
    QTest::keyClick(name, Qt::Key_Return);
    const auto chord = [&] { return session->remake().song->chords[2].chord; };
    EXPECT_EQ(chord_kinds()[static_cast<std::size_t>(chord().kind)].sign, "m") << "a degree of the key";
    EXPECT_GT(session->transport().drone().count, 0u) << "heard on entry";
    QTest::mouseClick(fact<QPushButton>("extend"), Qt::LeftButton);
    EXPECT_EQ(chord_kinds()[static_cast<std::size_t>(chord().kind)].tones().size(), 4u);
    QTest::mouseClick(fact<QPushButton>("reduce"), Qt::LeftButton);
    EXPECT_EQ(chord_kinds()[static_cast<std::size_t>(chord().kind)].sign, "m");
    auto* next = fact<QPushButton>("next0");
    ASSERT_TRUE(next);
    const QString wanted = next->text();
    QTest::mouseClick(next, Qt::LeftButton);
    EXPECT_EQ(QString::fromStdString(session->remake().song->chords[3].chord.name(session->remake().song->flats_at(third.start))), wanted);
    QCoreApplication::processEvents();
    EXPECT_EQ(window->transcribe()->chords()->selected_tick(), third.start + third.length) << "and on to it";
    auto* several = fact<QLineEdit>("several_chords");
    several->setFocus();
    several->setText("Dm7 G7 | C . | nonsense");
    const auto before = session->documents().document();
    QTest::keyClick(several, Qt::Key_Return);
    EXPECT_EQ(session->documents().document(), before) << "nothing is written where one is no chord";
    EXPECT_TRUE(window->last_message().contains("nonsense"));
    several = fact<QLineEdit>("several_chords");
    several->setFocus();
    several->setText("Dm7 G7 | C .");
    QTest::keyClick(several, Qt::Key_Return);
    EXPECT_NE(session->documents().document(), before);
    session->transport().set_drone({});
}

TEST_F(TranscribeTest, HitsAreMadeHarderByDraggingUpAndReadyPatternsAreWritten) {
    select(PartRole::Drums);
    session->selection().set_reach(Reach::Here);
    DrumCloseUp* view = window->transcribe()->drums();
    view->show_from(30.0);
    QCoreApplication::processEvents();
    PlacedNote hit;
    int row = 0;
    for (const PlacedNote& n : notes(PartRole::Drums))
        if (view->x_of(n.note.start) > CloseUp::kLeft + 200 && n.note.velocity < 100) {
            hit = n;
            break;
        }
    ASSERT_TRUE(hit.note.id);
    const auto keys = view->rows();
    row = static_cast<int>(std::find(keys.begin(), keys.end(), drum_sound_of_key(hit.note.pitch)->key) - keys.begin());
    const QPoint on(static_cast<int>(std::lround(view->x_of(hit.note.start))), static_cast<int>(view->row_rect(row).bottom() - 5));
    drag(view, on, on - QPoint(0, 12));
    int velocity = 0;
    for (const PlacedNote& n : notes(PartRole::Drums))
        if (n.note.start == hit.note.start && n.note.pitch == hit.note.pitch) velocity = n.note.velocity;
    EXPECT_GT(velocity, hit.note.velocity + 5);
    const std::size_t before = notes_of(PartRole::Drums);
    session->transport().seek(30.0);
    session->selection().select_notes({});
    auto* ready = fact<QPushButton>("ready0");
    ASSERT_TRUE(ready);
    QTest::mouseClick(ready, Qt::LeftButton);
    EXPECT_GT(notes_of(PartRole::Drums), before + 3);
}

TEST_F(TranscribeTest, APartIsDraggedOutAsAFile) {
    select(PartRole::Bass);
    int row = -1;
    const auto ids = session->remake().element_ids();
    for (std::size_t i = 0; i < ids.size(); ++i)
        if (ids[i] == ElementId(part(PartRole::Bass)->id)) row = static_cast<int>(i);
    const QPoint from = window->ledger()->row_rect(row).center() - QPoint(40, 8);
    // Nobody takes it here: the drag ends by itself once the button is let go.
    QTimer::singleShot(300, [] { QTest::keyClick(window, Qt::Key_Escape); });
    QTest::mousePress(window->ledger(), Qt::LeftButton, {}, from);
    for (int i = 1; i < 4; ++i) {
        QMouseEvent move(QEvent::MouseMove, QPointF(from + QPoint(12 * i, 0)), window->ledger()->mapToGlobal(QPointF(from + QPoint(12 * i, 0))), Qt::NoButton,
                         Qt::LeftButton, {});
        QApplication::sendEvent(window->ledger(), &move);
    }
    QTest::mouseRelease(window->ledger(), Qt::LeftButton, {}, from + QPoint(36, 0));
    ASSERT_FALSE(window->ledger()->last_dragged().isEmpty());
    const auto song = read_midi(window->ledger()->last_dragged().toStdString());
    ASSERT_TRUE(song);
    ASSERT_EQ(song->parts.size(), 1u);
    EXPECT_EQ(song->parts[0].notes.size(), notes_of(PartRole::Bass));
}

TEST_F(TranscribeTest, EveryOtherBarOfWhatIsChosenIsKeptAndLockedToTheKick) {
    select(PartRole::Bass);
    session->selection().set_reach(Reach::Here);
    choose(PartRole::Bass, 12.0, 24);
    QTest::keyClick(view(), Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
    const auto kept = notes_meant(*part(PartRole::Bass), session->selection().notes());
    ASSERT_GT(kept.size(), 2u);
    ASSERT_LT(kept.size(), 24u);
    const MeterMap& meter = session->remake().song->meter;
    const auto bar = [&](const PlacedNote& n) { return meter.position(n.note.start + 120).bar; };
    for (const PlacedNote& n : kept) EXPECT_EQ((bar(n) - bar(kept.front())) % 2, 0);
    std::vector<Ticks> kicks;
    for (const PlacedNote& n : notes(PartRole::Drums))
        if (drum_sound_of_key(n.note.pitch) && drum_sound_of_key(n.note.pitch)->kind == DrumKind::Kick) kicks.push_back(n.note.start);
    const auto on_kick = [&] {
        std::size_t on = 0;
        for (const PlacedNote& n : notes_meant(*part(PartRole::Bass), session->selection().notes()))
            on += std::binary_search(kicks.begin(), kicks.end(), n.note.start);
        return on;
    };
    const std::size_t before = on_kick();
    QTest::mouseClick(fact<QPushButton>("lock"), Qt::LeftButton);
    EXPECT_GT(on_kick(), before);
}

TEST_F(TranscribeTest, ANoteDrawnOnStrokesHeardBeginsWhereOneWas) {
    select(PartRole::Bass);
    session->selection().set_reach(Reach::Here);
    auto* grid = window->transcribe()->findChild<QComboBox*>("grid");
    const int usual = grid->currentIndex();
    grid->setCurrentIndex(grid->findText("strokes heard"));
    const auto heard = session->recording().analysis;
    const PlacedNote target = [&] {
        for (const PlacedNote& n : notes(PartRole::Bass))
            if (n.note.confidence > 0.95 && session->remake().song->tempo.seconds(n.note.start) > 20.0) return n;
        return PlacedNote{};
    }();
    ASSERT_TRUE(target.note.id);
    const double at_s = session->remake().song->tempo.seconds(target.note.start);
    const auto stroke = heard->evidence->onset_near(target.note.pitch, at_s + 0.05, 0.12);
    ASSERT_TRUE(stroke);
    session->selection().select_notes({target.ref()});
    QTest::keyClick(view(), Qt::Key_Delete);
    view()->show_from(at_s - 1.0);
    QCoreApplication::processEvents();
    const QPoint spot(static_cast<int>(std::lround(view()->x_at(at_s + 0.05))), static_cast<int>(view()->y_of(target.note.pitch)) + 4);
    QTest::mouseDClick(view(), Qt::LeftButton, {}, spot);
    bool there = false;
    for (const PlacedNote& n : notes(PartRole::Bass))
        there = there || (n.note.origin == Origin::Drawn && n.note.pitch == target.note.pitch &&
                          std::abs(session->remake().song->tempo.seconds(n.note.start) - *stroke) < 0.01);
    EXPECT_TRUE(there);
    grid->setCurrentIndex(usual);
}

TEST_F(TranscribeTest, RivalsStandSideBySideWithTheirFigures) {
    select(PartRole::Lead);
    run("rival.add part=Lead name=second");
    run("note.change part=Lead from=1 to=200 semitones=1");
    settle();
    QPushButton* other = nullptr;
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
            other = fact<QPushButton>("rival0");
            return other && other->text().contains('%');
        },
        30000))
        << "its figure comes";
    const auto figure = [](const QString& text) { return text.section(' ', -2, -2).toInt(); };
    EXPECT_GT(figure(other->text()), 30) << "what was right before stays right beside";
    QTest::mouseClick(other, Qt::LeftButton);
    EXPECT_EQ(part(PartRole::Lead)->version_name, "first");
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
            other = fact<QPushButton>("rival0");
            return other && other->text().contains('%');
        },
        30000));
    EXPECT_LT(figure(other->text()), 30) << "a semitone off it is hardly heard";
}

TEST_F(TranscribeTest, RivalsAreToldByHowTheWholeSoundsWithEach) {
    select(PartRole::Drums);
    run("rival.add part=Drums name=silent");
    run("field.set part=Drums field=level value=-60dB");
    const auto told = [] {
        for (const QLabel* l : window->facts()->findChildren<QLabel*>())
            if (l->text().startsWith("The whole's sound")) return l->text();
        return QString();
    };
    ASSERT_TRUE(QTest::qWaitFor([&] { return !told().isEmpty(); }, 60000)) << "its figure comes";
    const auto figure = [&](const QString& behind) {
        const QString text = told().mid(told().indexOf(behind) + behind.size());
        return text.left(text.indexOf(' ')).toInt();
    };
    EXPECT_GT(figure("with “first” "), figure("now ") + 5) << told().toStdString() << ": without its drums the whole is farther away";
}

TEST_F(TranscribeTest, ChosenNotesAreGivenThePitchTheyHaveInTheOriginal) {
    select(PartRole::Lead);
    window->show_desk(Desk::Transcribe);
    QTest::keyClick(view(), Qt::Key_B, Qt::ControlModifier | Qt::AltModifier);
    EXPECT_TRUE(window->last_message().contains("Choose notes first")) << window->last_message().toStdString();
    // The demo's lead glides and wobbles where its notes are long; what the draft has heard of that is taken away first.
    std::vector<NoteRef> bent;
    for (const PlacedNote& n : placed_notes(*part(PartRole::Lead)))
        if (!n.note.bend.empty() && bent.size() < 5) bent.push_back(n.ref());
    ASSERT_GE(bent.size(), 2u);
    session->selection().select_notes(bent);
    const auto heard = notes_meant(*part(PartRole::Lead), bent);
    ASSERT_TRUE(window->transcribe()->on_notes("note.straighten"));
    for (const PlacedNote& n : notes_meant(*part(PartRole::Lead), bent)) ASSERT_TRUE(n.note.bend.empty());
    const auto before = session->documents().document();
    QTest::keyClick(view(), Qt::Key_B, Qt::ControlModifier | Qt::AltModifier);
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->documents().document() != before; }, 10000));
    const auto now = notes_meant(*part(PartRole::Lead), bent);
    for (std::size_t i = 0; i < now.size(); ++i) {
        ASSERT_FALSE(now[i].note.bend.empty()) << i << " " << window->last_message().toStdString() << " " << now[i].note.length << " "
                                               << heard[i].note.bend.front().cents << " .. " << heard[i].note.bend.back().cents << " x"
                                               << heard[i].note.bend.size();
        const auto furthest = [](const Note& n) {
            double most = 0.0;
            for (const BendPoint& b : n.bend) most = std::abs(b.cents) > std::abs(most) ? b.cents : most;
            return most;
        };
        EXPECT_NEAR(furthest(now[i].note), furthest(heard[i].note), 30.0) << "as it was heard in the whole recording";
    }
    EXPECT_TRUE(window->last_message().contains("pitch as in the original")) << window->last_message().toStdString();
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before) << "all of it is one step";
}

TEST_F(TranscribeTest, ABendIsDrawnAlongANoteAndArrivesOnTheSemitone) {
    select(PartRole::Lead);
    session->selection().set_reach(Reach::Here);
    PlacedNote long_note;
    for (const PlacedNote& n : notes(PartRole::Lead))
        if (n.note.length > long_note.note.length) long_note = n;
    view()->show_stretch(session->remake().song->tempo.seconds(long_note.note.start),
                         session->remake().song->tempo.seconds(long_note.note.start + long_note.note.length), long_note.note.pitch);
    auto* toggle = window->findChild<QCheckBox*>("draw_pitch");
    ASSERT_TRUE(toggle && toggle->isVisible());
    QTest::keyClick(view(), Qt::Key_B, Qt::ControlModifier);
    EXPECT_TRUE(toggle->isChecked());
    const double row = view()->y_of(long_note.note.pitch) - view()->y_of(long_note.note.pitch + 1), middle = view()->y_of(long_note.note.pitch) + row / 2;
    const double x0 = view()->x_of(long_note.note.start) + 3, x1 = view()->x_of(long_note.note.start + long_note.note.length) - 3;
    // From a semitone below up to the note.
    drag(view(), QPoint(static_cast<int>(x0), static_cast<int>(middle)), QPoint(static_cast<int>(x1), static_cast<int>(middle)));
    drag(view(), QPoint(static_cast<int>(x0), static_cast<int>(middle)), QPoint(static_cast<int>(x0 + (x1 - x0) / 2), static_cast<int>(middle + row)));
    const Note bent = note_of(PartRole::Lead, long_note.ref()).note;
    ASSERT_FALSE(bent.bend.empty());
    EXPECT_EQ(bent.start, long_note.note.start) << "it is not moved";
    EXPECT_EQ(bent.pitch, long_note.note.pitch);
    double lowest = 0.0;
    for (const BendPoint& b : bent.bend) lowest = std::min(lowest, b.cents);
    EXPECT_NEAR(lowest, -100.0, 1.0) << "it arrives on the semitone nearby";
    session->documents().undo();
    session->documents().undo();
    EXPECT_EQ(note_of(PartRole::Lead, long_note.ref()).note.bend, long_note.note.bend) << "each drag is a step";
    toggle->setChecked(false);
}

TEST_F(TranscribeTest, ABarIsSpreadOverTheSongAndWhatDiffersIsListed) {
    select(PartRole::Bass);
    const Song& song = *session->remake().song;
    int bar = 0;
    for (const PlacedNote& n : notes(PartRole::Bass))
        if (bar == 0 && song.meter.position(n.note.start).bar > 8) bar = song.meter.position(n.note.start).bar;
    session->transport().set_loop(song.tempo.seconds(song.meter.tick_of_bar(bar)), song.tempo.seconds(song.meter.tick_of_bar(bar + 1)));
    auto* spread = fact<QPushButton>("spread");
    ASSERT_TRUE(spread);
    EXPECT_TRUE(spread->text().contains(QString::number(bar)));
    QTest::mouseClick(spread, Qt::LeftButton);
    ASSERT_TRUE(window->last_message().contains("more places")) << window->last_message().toStdString();
    const Part& p = *part(PartRole::Bass);
    const Ticks from = session->remake().song->meter.tick_of_bar(bar);
    PatternId pattern;
    for (const Placement& x : p.placements)
        if (x.start == from) pattern = x.pattern;
    ASSERT_TRUE(pattern);
    const PatternId parent = p.pattern(pattern)->parent ? p.pattern(pattern)->parent : pattern;
    const auto places = std::count_if(p.placements.begin(), p.placements.end(),
                                      [&](const Placement& x) { return x.pattern == parent || p.pattern(x.pattern)->parent == parent; });
    EXPECT_GT(places, 1) << "it plays elsewhere, too";
    session->documents().undo();
}

TEST_F(TranscribeTest, AChordsOwnLayoutIsTriedInPlaceAndPartsMadeOfItFollow) {
    session->selection().select_element(ElementId::chords());
    window->transcribe()->chords()->select_tick(session->remake().song->chords[3].start);
    auto* layout = fact<QComboBox>("chord_layout");
    ASSERT_TRUE(layout);
    const Ticks start = session->remake().song->chords[3].start;
    const auto voiced_now = [&] {
        for (const ChordEvent& c : session->remake().song->chords)
            if (c.start == start) return c.voiced;
        return std::vector<int>();
    };
    layout->setCurrentIndex(5);
    emit layout->activated(5);
    const auto open = voiced_now();
    EXPECT_GE(open.size(), 3u);
    layout = fact<QComboBox>("chord_layout");
    layout->setCurrentIndex(2);
    emit layout->activated(2);
    EXPECT_NE(voiced_now(), open);
    auto* inversion = fact<QComboBox>("chord_inversion");
    const auto close = voiced_now();
    inversion->setCurrentIndex(1);
    emit inversion->activated(1);
    EXPECT_NE(voiced_now(), close);
    // Another chord has no layout of its own and is not told to have this one's.
    window->transcribe()->chords()->select_tick(session->remake().song->chords[4].start);
    EXPECT_EQ(fact<QComboBox>("chord_layout")->currentIndex(), 0);
    window->transcribe()->chords()->select_tick(start);
    EXPECT_EQ(fact<QComboBox>("chord_layout")->currentIndex(), 2) << "close";
    EXPECT_EQ(fact<QComboBox>("chord_inversion")->currentIndex(), 1);
    run("part.derive part=Bass kind=block low=C3\n");
    const auto now = voiced_now();
    std::vector<int> played;
    for (const PlacedNote& n : notes(PartRole::Bass))
        if (n.note.start == start) played.push_back(n.note.pitch);
    EXPECT_EQ(played, now) << "a part made of the chords has its pitches";
    layout = fact<QComboBox>("chord_layout");
    layout->setCurrentIndex(0);
    emit layout->activated(0);
    EXPECT_TRUE(voiced_now().empty());
}

TEST_F(TranscribeTest, DrumsAreReadInHalfTimeWithoutAnyChangeAndAFillIsWrittenBeforeASection) {
    select(PartRole::Drums);
    auto* read = window->findChild<QComboBox*>("read_as");
    ASSERT_TRUE(read && read->isVisible());
    const auto before = session->documents().document();
    const QImage counted = window->transcribe()->drums()->grab().toImage();
    read->setCurrentIndex(1);
    const QImage half = window->transcribe()->drums()->grab().toImage();
    EXPECT_NE(half, counted);
    read->setCurrentIndex(2);
    EXPECT_NE(window->transcribe()->drums()->grab().toImage(), half);
    EXPECT_EQ(session->documents().document(), before) << "only the drawing";
    read->setCurrentIndex(0);
    auto* fill = fact<QPushButton>("fill0");
    ASSERT_TRUE(fill);
    const std::size_t count = notes_of(PartRole::Drums);
    QTest::mouseClick(fill, Qt::LeftButton);
    EXPECT_GT(notes_of(PartRole::Drums), count);
    QTest::mouseClick(fact<QPushButton>("hear_fill0"), Qt::LeftButton);
    EXPECT_GT(session->transport().loop_end(), session->transport().loop_start());
}

}  // namespace fw::app
