// SPDX-License-Identifier: GPL-3.0-or-later
// The facts: told in place, with the same widgets as before and nothing taken from a hand that holds or types, and what is set among them.
#include "fixture.hpp"

#include "app/facts_column.hpp"
#include "model/edits/notes.hpp"

#include <QApplication>
#include <QLayout>
#include <QMenu>
#include <QScrollBar>

namespace fw::app {
namespace {

/// All that a fact shows and how it behaves, one a line.
QStringList shown(const QWidget* w) {
    const auto* b = qobject_cast<const QAbstractButton*>(w);
    const auto* push = qobject_cast<const QPushButton*>(w);
    QStringList out{w->objectName(), w->toolTip(), w->property("compact").toString(), w->property("fromLeft").toString(), w->property("byItself").toString()};
    out << QString::number(w->minimumWidth()) << QString::number(w->sizePolicy().horizontalPolicy());
    if (const auto* l = qobject_cast<const QLabel*>(w)) out << l->text() << l->font().toString();
    if (b) out << b->text() << QString::number(b->isCheckable()) << QString::number(b->isChecked());
    if (push && push->menu())
        for (const QAction* a : push->menu()->actions()) out << a->text();
    if (const auto* e = qobject_cast<const QLineEdit*>(w)) out << e->text() << e->placeholderText();
    if (const auto* n = qobject_cast<const QDoubleSpinBox*>(w)) out << n->text() << QString::number(n->minimum()) << QString::number(n->maximum());
    if (const auto* c = qobject_cast<const QComboBox*>(w)) {
        out << QString::number(c->currentIndex());
        for (int i = 0; i < c->count(); ++i) out << c->itemText(i) << c->itemData(i).toString();
    }
    return {out.join(" | ")};
}

QStringList shown(const QLayout* layout) {
    QStringList out;
    for (int i = 0; i < layout->count(); ++i) {
        const QWidget* w = layout->itemAt(i)->widget();
        if (!w) continue;
        if (w->layout() && !qobject_cast<const QAbstractSpinBox*>(w)) out << "[" << shown(w->layout()) << "]";
        else out << shown(w);
    }
    return out;
}

class FactsTest : public WindowTest {
protected:
    static FactsColumn* column(FactsPanel* panel = window->facts()) { return qobject_cast<FactsColumn*>(panel->widget()); }
    static QStringList told(FactsPanel* panel = window->facts()) { return shown(column(panel)->layout()); }
    static void wait_until_told() {
        EXPECT_TRUE(QTest::qWaitFor([] { return !window->facts()->pending() && session->settled(); }, 60000));
    }
};

TEST_F(FactsTest, TheyAreWhatANewPanelTellsWhateverCameBefore) {
    window->show_desk(Desk::Transcribe);
    const auto same = [](const char* after) {
        wait_until_told();
        FactsPanel fresh(*session, window->commands());
        fresh.set_chord_tick(window->transcribe()->chords()->selected_tick());
        // What is measured behind the window comes to each in its own time.
        if (QTest::qWaitFor([&] { return !window->facts()->pending() && !fresh.pending() && told() == told(&fresh); }, 8000)) return;
        const QStringList a = told(), b = told(&fresh);
        for (int i = 0; i < std::max(a.size(), b.size()); ++i)
            if (i >= a.size() || i >= b.size() || a[i] != b[i]) {
                ADD_FAILURE() << after << ", row " << i << ":\n  in place " << (i < a.size() ? a[i].toStdString() : "none") << "\n  anew     "
                              << (i < b.size() ? b[i].toStdString() : "none");
                return;
            }
    };
    const auto go = [](ElementId id) { session->selection().select_element(id); };
    for (const ElementId& id : {ElementId::tempo(), ElementId::key(), ElementId::sections(), ElementId::chords()}) {
        go(id);
        same(id.text().c_str());
    }
    for (const auto& p : session->remake().parts) {
        go(p->id);
        same(p->name.c_str());
    }
    select(PartRole::Lead);
    const auto notes = placed_notes(*part(PartRole::Lead));
    session->selection().select_notes({notes[3].ref()});
    same("a chosen note");
    session->selection().select_notes({notes[3].ref(), notes[4].ref(), notes[5].ref()});
    same("three of them");
    run("bus.add name=Room");
    same("a bus to throw to");
    run("part.rename part=Lead name=Fiddle\nelement.note element=Fiddle question=\"which bow\" budget=5");
    same("another name, and a question");
    run("remark.add kind=question element=Fiddle at=5.1 words=\"a trill?\"\nremark.add kind=question element=Fiddle at=9.1 words=\"a slide?\"");
    same("two questions at places");
    run("remark.remove kind=question element=Fiddle at=5.1");
    same("the first of them answered");
    session->selection().select_notes({});
    same("no note chosen");
    run("part.add name=Answer role=lead");
    same("another part to follow");
    go(ElementId::sections());
    run("section.rename section=\"" + section_text(session->remake(), session->remake().song->sections[1].id) + "\" name=Quay");
    same("a section's other name");
    session->documents().undo();
    same("undone");
    go(ElementId::key());
    run("key.add key=\"D minor\" from=9");
    same("a second key");
    go(ElementId::tempo());
    run("meter.set meter=3/4 from=5");
    same("another meter");
    go(ElementId::chords());
    run("chord.set at=1.1 chord=F#m7b5\nchord.voice at=1.1 layout=open inversion=1");
    window->transcribe()->chords()->select_tick(0);
    same("a chord laid out");
    window->transcribe()->chords()->select_tick(session->remake().song->chords[2].start);
    same("another chord");
    while (session->documents().history().can_undo()) session->documents().undo();
    same("all undone");
}

TEST_F(FactsTest, AnEditLeavesTheirWidgetsAndWhereOneHadScrolledTo) {
    window->show_desk(Desk::Transcribe);
    select(PartRole::Lead);
    const auto notes = placed_notes(*part(PartRole::Lead));
    session->selection().select_notes({notes[3].ref()});
    auto* quantise = fact<QPushButton>("quantise");
    ASSERT_TRUE(quantise);
    QScrollBar* bar = window->facts()->verticalScrollBar();
    ASSERT_GT(bar->maximum(), 50);
    bar->setValue(50);
    window->transcribe()->transpose(1);
    wait_until_told();
    EXPECT_EQ(fact<QPushButton>("quantise"), quantise);
    EXPECT_EQ(bar->value(), 50);
    select(PartRole::Bass);
    wait_until_told();
    EXPECT_EQ(bar->value(), 0) << "another element is read from its beginning";
}

TEST_F(FactsTest, TheyAreAsHighAsTheirLinesNeedAtOnce) {
    window->show_desk(Desk::Transcribe);
    session->selection().select_element(ElementId::chords());
    wait_until_told();
    const auto fits = [] { return column()->height() >= column()->heightForWidth(column()->width()); };
    for (const ChordEvent& c : session->remake().song->chords) {
        window->facts()->set_chord_tick(c.start);
        ASSERT_TRUE(fits()) << "the chord at " << c.start;
    }
    // The same subject with lines more than before.
    const ChordEvent first_chord = session->remake().song->chords.front();
    window->facts()->set_chord_tick(first_chord.start);
    session->transport().set_loop(1.0, 3.0, false);
    run("element.note element=chords budget=0.0001");
    session->documents().spend(ElementId::chords(), 60.0);
    window->facts()->set_chord_tick(first_chord.start);
    EXPECT_TRUE(fits());
    wait_until_told();
    EXPECT_TRUE(fits());
}

TEST_F(FactsTest, TabGoesFromTopToBottomThoughSomeCameLater) {
    window->show_desk(Desk::Transcribe);
    select(PartRole::Lead);
    wait_until_told();
    session->selection().select_notes({placed_notes(*part(PartRole::Lead))[3].ref()});
    run("remark.add kind=question element=Lead at=5.1 words=\"a trill?\"");
    wait_until_told();
    QWidget* w = fact<QLineEdit>("part_name");
    w->setFocus();
    int y = -1, x = -1, count = 0;
    for (; column()->isAncestorOf(w); ++count) {
        const QPoint at = w->mapTo(column(), w->rect().center());
        EXPECT_TRUE(at.y() > y + 6 || (std::abs(at.y() - y) <= 6 && at.x() > x)) << "fact " << count << ", " << w->objectName().toStdString();
        x = at.x(), y = at.y();
        QTest::keyClick(w, Qt::Key_Tab);
        w = QApplication::focusWidget();
        ASSERT_TRUE(w);
    }
    EXPECT_GT(count, 30);
}

TEST_F(FactsTest, WhatIsBeingTypedStaysWhileTheDocumentChanges) {
    select(PartRole::Lead);
    auto* question = fact<QLineEdit>("question");
    question->setFocus();
    QTest::keyClicks(question, "is it plucked");
    run("part.add name=Answer role=lead");
    wait_until_told();
    EXPECT_EQ(fact<QLineEdit>("question"), question);
    EXPECT_EQ(question->text(), "is it plucked");
    EXPECT_TRUE(question->hasFocus());
    QTest::keyClick(question, Qt::Key_Return);
    EXPECT_EQ(session->remake().element(part(PartRole::Lead)->id).question, "is it plucked");
}

TEST_F(FactsTest, WhatWasTypedIsEnteredForTheElementItWasTypedFor) {
    select(PartRole::Lead);
    const PartId lead = part(PartRole::Lead)->id, bass = part(PartRole::Bass)->id;
    auto* question = fact<QLineEdit>("question");
    question->setFocus();
    QTest::keyClicks(question, "is it plucked");
    select(PartRole::Bass);
    wait_until_told();
    EXPECT_EQ(session->remake().element(lead).question, "is it plucked");
    EXPECT_EQ(session->remake().element(bass).question, "");
    EXPECT_EQ(fact<QLineEdit>("question")->text(), "");
}

TEST_F(FactsTest, AHeldButtonWaitsForTheHand) {
    select(PartRole::Lead);
    session->selection().select_notes({placed_notes(*part(PartRole::Lead))[3].ref()});
    auto* velocity = fact<QPushButton>("velocity");
    const int before = placed_notes(*part(PartRole::Lead))[3].note.velocity;
    QTest::mousePress(velocity, Qt::LeftButton);
    session->selection().select_element(ElementId::key());  // as by a key, meanwhile
    QTest::qWait(200);
    EXPECT_TRUE(window->facts()->pending());
    EXPECT_EQ(window->facts()->widget()->findChild<QPushButton*>("velocity"), velocity);
    select(PartRole::Lead);
    session->selection().select_notes({placed_notes(*part(PartRole::Lead))[3].ref()});
    QTest::mouseRelease(velocity, Qt::LeftButton);
    EXPECT_NE(placed_notes(*part(PartRole::Lead))[3].note.velocity, before) << "the click counts";
    wait_until_told();
}

TEST_F(FactsTest, WhatIsRefusedGivesWayToWhatHolds) {
    select(PartRole::Lead);
    auto* name = fact<QLineEdit>("part_name");
    const QString before = name->text();
    name->setFocus();
    name->selectAll();
    QTest::keyClick(name, Qt::Key_Delete);
    QTest::keyClick(name, Qt::Key_Return);
    EXPECT_EQ(fact<QLineEdit>("part_name")->text(), before) << "a part has a name";
    session->selection().select_element(ElementId::chords());
    auto* chord = fact<QLineEdit>("chord_name");
    chord->setFocus();
    chord->selectAll();
    QTest::keyClicks(chord, "Hm7");
    QTest::keyClick(chord, Qt::Key_Return);
    EXPECT_EQ(fact<QLineEdit>("chord_name")->text(), "Hm7") << "to be mended";
}

TEST_F(FactsTest, MeterKeyAndStateAreSetFromTheirBoxes) {
    session->selection().select_element(ElementId::tempo());
    auto* meter = fact<QComboBox>("meter");
    ASSERT_TRUE(meter);
    emit meter->activated(meter->findText("3/4"));
    EXPECT_EQ(session->remake().song->meter.at_bar(1).numerator, 3);
    session->selection().select_element(ElementId::key());
    auto* tonic = fact<QComboBox>("tonic0");
    ASSERT_TRUE(tonic);
    tonic->setCurrentIndex(7);
    emit tonic->activated(7);
    EXPECT_EQ(session->remake().song->keys[0].key.tonic, 7);
    auto* state = fact<QComboBox>("state");
    ASSERT_TRUE(state);
    state->setCurrentIndex(3);
    emit state->activated(3);
    EXPECT_EQ(session->remake().element(ElementId::key()).state, State::LeftOut);
}

TEST_F(FactsTest, AnIntendedDifferenceSilencesItsFindings) {
    select(PartRole::Bass);
    const PartId id = part(PartRole::Bass)->id;
    std::vector<NoteRef> many;
    for (const PlacedNote& n : placed_notes(*part(PartRole::Bass))) many.push_back(n.ref());
    session->documents().edit(change_notes(session->remake(), id, many, {.semitones = 6}), "Transpose notes");
    const auto findings = [&] {
        return std::count_if(session->report()->findings.begin(), session->report()->findings.end(),
                             [&](const Finding& f) { return f.element == ElementId(id); });
    };
    settle();
    EXPECT_GE(findings(), 1);
    auto* intended = fact<QLineEdit>("intended");
    ASSERT_TRUE(intended);
    intended->setFocus();
    QTest::keyClicks(intended, "a tritone, for fun");
    QTest::keyClick(intended, Qt::Key_Return);
    settle();
    EXPECT_EQ(findings(), 0);
}

TEST_F(FactsTest, VelocityChangesForTheSelectedNotes) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    QTest::keyClick(window->transcribe()->notes(), Qt::Key_A, Qt::ControlModifier);
    const int before = placed_notes(*part(PartRole::Bass))[0].note.velocity;
    QCoreApplication::processEvents();
    auto* field = fact<QDoubleSpinBox>("velocity.by");
    ASSERT_TRUE(field);
    field->setValue(-8);
    QTest::mouseClick(fact<QPushButton>("velocity"), Qt::LeftButton);
    EXPECT_EQ(placed_notes(*part(PartRole::Bass))[0].note.velocity, std::max(1, before - 8));
}

}  // namespace
}  // namespace fw::app
