// SPDX-License-Identifier: GPL-3.0-or-later
// What plays where, transitions and clips, by mouse, menu and keyboard in the real window.
#include "fixture.hpp"

#include "model/edits/arrangement.hpp"
#include "model/recipe.hpp"

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>

namespace fw::app {

namespace {

class ArrangementTest : public WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        window->show_desk(Desk::Rebuild);
        QCoreApplication::processEvents();
        grid = window->rebuild_desk()->grid();
    }
    int row(PartRole role) const {
        const auto& parts = session->remake().parts;
        for (std::size_t i = 0; i < parts.size(); ++i)
            if (parts[i]->role == role) return static_cast<int>(i);
        return -1;
    }
    const Section& section(int i) const { return session->remake().song->sections[static_cast<std::size_t>(i)]; }
    QPoint cell(PartRole role, int s) const { return grid->cell_rect(row(role), s).center().toPoint(); }
    bool plays(PartRole role, int s) const { return plays_in(*part(role), section(s)); }
    /// The entry of a menu, and of the menus in it, by the names of what leads there.
    static QAction* entry(QMenu* menu, std::initializer_list<const char*> path) {
        QAction* found = nullptr;
        for (const char* name : path) {
            found = nullptr;
            for (QAction* a : menu->actions())
                if (a->objectName() == name || a->text() == name || (a->menu() && (a->menu()->objectName() == name || a->menu()->title() == name))) found = a;
            if (!found) return nullptr;
            if (found->menu()) menu = found->menu();
        }
        return found;
    }
    ArrangementGrid* grid = nullptr;
};

}  // namespace

TEST_F(ArrangementTest, ACellIsMutedLeftOutAndPlayedAsAnotherByMouseMenuAndKeys) {
    const int last = static_cast<int>(session->remake().song->sections.size()) - 1;
    ASSERT_TRUE(plays(PartRole::Bass, last));
    int other = 0;
    while (!plays(PartRole::Bass, other)) ++other;
    const auto before = session->remake();
    QTest::mouseClick(grid, Qt::LeftButton, {}, cell(PartRole::Bass, last));
    EXPECT_EQ(session->selection().part()->role, PartRole::Bass);
    EXPECT_NE(session->remake(), before) << "muted";
    QTest::keyClick(grid, Qt::Key_Return);
    EXPECT_EQ(session->remake(), before) << "and sounding again, by key";
    QTest::keyClick(grid, Qt::Key_Delete);
    EXPECT_FALSE(plays(PartRole::Bass, last));
    EXPECT_EQ(entry(grid->cell_menu(row(PartRole::Bass), last), {"cell_mute"})->isEnabled(), false);
    // Dragged along its row it plays the same there; in another row nothing happens.
    QTest::mousePress(grid, Qt::LeftButton, {}, cell(PartRole::Bass, other));
    QTest::mouseMove(grid, cell(PartRole::Bass, last));
    QTest::mouseRelease(grid, Qt::LeftButton, {}, cell(PartRole::Bass, last));
    EXPECT_TRUE(plays(PartRole::Bass, last));
    const Ticks shorter = std::min(section(other).length, section(last).length);
    const auto notes = [&](int s) {
        std::vector<std::pair<Ticks, int>> out;
        for (const PlacedNote& n : placed_notes(*part(PartRole::Bass)))
            if (n.note.start >= section(s).start && n.note.start < section(s).start + shorter - 480)
                out.emplace_back(n.note.start - section(s).start, n.note.pitch);
        return out;
    };
    EXPECT_EQ(notes(last), notes(other));
    session->documents().undo();
    session->documents().undo();
    EXPECT_EQ(session->remake(), before);
    // By menu.
    entry(grid->cell_menu(row(PartRole::Bass), last), {"cell_leave_out"})->trigger();
    EXPECT_FALSE(plays(PartRole::Bass, last));
    const std::string like = section_text(session->remake(), section(other).id);
    entry(grid->cell_menu(row(PartRole::Bass), last), {"cell_play_as", like.c_str()})->trigger();
    EXPECT_TRUE(plays(PartRole::Bass, last));
    const std::size_t all = notes_of(PartRole::Bass);
    entry(grid->cell_menu(row(PartRole::Bass), other), {"cell_fall_out", "a bar"})->trigger();
    EXPECT_LT(notes_of(PartRole::Bass), all);
    QTest::keyClick(grid, Qt::Key_Right);
    QTest::keyClick(grid, Qt::Key_Down);
    EXPECT_NE(session->selection().part()->role, PartRole::Bass) << "the arrows choose another cell";
}

TEST_F(ArrangementTest, TransitionsAreAddedFromASectionsHeadChangedOnTheSheetMovedAndTakenAway) {
    const int s = 2;
    const Ticks at = section(s).start;
    const auto& clips = [&]() -> const std::vector<Clip>& { return session->remake().clips->clips; };
    entry(grid->head_menu(s), {"lead_into", "riser", "over 2 bars"})->trigger();
    entry(grid->head_menu(s), {"begin_with", "crash", "over 1 bar"})->trigger();
    ASSERT_EQ(clips().size(), 2u);
    EXPECT_TRUE(clips()[0].ends_here);
    EXPECT_EQ(clips()[0].start, at);
    EXPECT_FALSE(clips()[1].ends_here);
    QCoreApplication::processEvents();
    const QRectF riser = grid->clip_rect(clips()[0].id), crash = grid->clip_rect(clips()[1].id);
    EXPECT_NEAR(riser.right(), grid->cell_rect(0, s).left(), 1.5) << "it ends where the section begins";
    EXPECT_NEAR(crash.left(), grid->cell_rect(0, s).left(), 1.5);
    EXPECT_LE(crash.bottom(), grid->height());
    settle();
    // On the sheet it becomes another one, shorter, softer.
    auto* kind = window->rebuild_desk()->sheet()->findChild<QComboBox*>("clip_kind");
    ASSERT_TRUE(kind);
    kind->setCurrentIndex(kind->findData("snare_build"));
    emit kind->activated(kind->currentIndex());
    QCoreApplication::processEvents();
    EXPECT_EQ(session->remake().clips->asset(clips()[0].asset)->made.kind, Transition::SnareBuild);
    const auto type = [&](const char* object, const char* text) {
        auto* edit = window->rebuild_desk()->sheet()->findChild<QLineEdit*>(object);
        ASSERT_TRUE(edit) << object;
        edit->setText(text);
        emit edit->editingFinished();
        QCoreApplication::processEvents();
    };
    type("clip_length", "1 bar");
    EXPECT_EQ(session->remake().clips->asset(clips()[0].asset)->made.beats, 4.0);
    type("clip_level", "-9dB");
    EXPECT_EQ(clips()[0].gain_db, -9.0);
    // Dragged two beats later, chopped, one piece reversed and taken away by key.
    const QPoint from = grid->clip_rect(clips()[1].id).center().toPoint();
    const double beat = grid->cell_rect(0, s).width() * 960.0 / static_cast<double>(section(s).length);
    const QPoint to = from + QPoint(static_cast<int>(std::lround(2.0 * beat)), 0);
    QTest::mousePress(grid, Qt::LeftButton, {}, from);
    QTest::mouseMove(grid, (from + to) / 2);
    QTest::mouseMove(grid, to);
    QTest::mouseRelease(grid, Qt::LeftButton, {}, to);
    EXPECT_EQ(clips()[1].start, at + 2 * 960);
    entry(grid->clip_menu(clips()[1].id), {"clip_chop", "quarters"})->trigger();
    ASSERT_EQ(clips().size(), 5u);
    entry(grid->clip_menu(clips()[2].id), {"clip_reverse"})->trigger();
    EXPECT_EQ(clips()[2].recipe.back().treatment, Treatment::Reverse);
    QTest::mouseClick(grid, Qt::LeftButton, {}, grid->clip_rect(clips()[4].id).center().toPoint());
    QTest::keyClick(grid, Qt::Key_Delete);
    EXPECT_EQ(clips().size(), 4u);
    settle();
}

TEST_F(ArrangementTest, TheOriginalFillsASectionIsSeenAsSuchAndEverythingStopsBeforeOne) {
    const int s = 1;
    const std::size_t bass = notes_of(PartRole::Bass);
    entry(grid->head_menu(s), {"head_fill"})->trigger();
    ASSERT_EQ(session->remake().clips->clips.size(), 1u);
    const Clip& clip = session->remake().clips->clips[0];
    EXPECT_EQ(session->remake().clips->asset(clip.asset)->origin, AssetOrigin::Original);
    EXPECT_EQ(clip.start, section(s).start);
    for (const auto& p : session->remake().parts)
        for (const Placement& x : p->placements)
            if (x.start >= section(s).start && x.start < section(s).start + section(s).length) {
                EXPECT_TRUE(x.muted);
            }
    EXPECT_EQ(notes_of(PartRole::Bass), bass) << "muted, not gone";
    session->documents().undo();
    EXPECT_TRUE(session->remake().clips->clips.empty());
    const Ticks line = section(2).start;
    entry(grid->head_menu(2), {"head_stop", "a beat"})->trigger();
    for (const auto& p : session->remake().parts)
        for (const PlacedNote& n : placed_notes(*p)) EXPECT_FALSE(n.note.start >= line - 960 && n.note.start < line - 100) << p->name;
}

TEST_F(ArrangementTest, APartIsPrintedInPlaceAndPlaysAsSoundThen) {
    const int s = 1;
    const auto before = session->remake();
    ASSERT_TRUE(plays(PartRole::Bass, s));
    entry(grid->cell_menu(row(PartRole::Bass), s), {"cell_print"})->trigger();
    ASSERT_TRUE(QTest::qWaitFor([&] { return !session->remake().clips->clips.empty() && !grid->busy(); }, 60000));
    const Clip& clip = session->remake().clips->clips[0];
    const Asset& asset = *session->remake().clips->asset(clip.asset);
    EXPECT_EQ(clip.start, section(s).start);
    EXPECT_TRUE(asset.kept) << "the remake file holds it";
    const auto& tempo = session->remake().song->tempo;
    const double long_s = tempo.seconds(section(s).start + section(s).length) - tempo.seconds(section(s).start);
    EXPECT_GE(asset.end_s, long_s - 0.01);
    EXPECT_LE(asset.end_s, long_s + 4.1);
    for (const Placement& x : part(PartRole::Bass)->placements)
        EXPECT_EQ(x.muted, x.start >= section(s).start && x.start < section(s).start + section(s).length);
    session->documents().undo();
    EXPECT_EQ(session->remake(), before) << "one step of undo";
}

TEST_F(ArrangementTest, WhatADuckLeavesStandsBesideItAndOneGestureAddsSeveralSteps) {
    select(PartRole::Bass);
    run("step.add part=Bass kind=duck by=Drums sound=Kick depth=6\n");
    QCoreApplication::processEvents();
    auto* sheet = window->rebuild_desk()->sheet();
    auto* left = sheet->findChild<QLabel*>("duck_leaves");
    ASSERT_TRUE(left);
    EXPECT_TRUE(left->text().startsWith("leaves 50 %"));
    run("field.set part=Bass step=1 field=depth value=12\n");
    EXPECT_TRUE(left->text().startsWith("leaves 25 %"));
    QAction* thicken = nullptr;
    for (QAction* a : sheet->findChildren<QAction*>("steps.thicken")) thicken = a;
    ASSERT_TRUE(thicken);
    thicken->trigger();
    EXPECT_EQ(part(PartRole::Bass)->steps.size(), 4u);
    session->documents().undo();
    EXPECT_EQ(part(PartRole::Bass)->steps.size(), 1u) << "one step of undo";
}

TEST_F(ArrangementTest, NoDuckingIsToldOfARecordingThatHasNone) {
    const auto dips = kick_dips(session->remake(), *session->recording().sound);
    for (const auto& [section, dip] : dips)
        ADD_FAILURE() << section_text(session->remake(), section) << ": " << dip.depth_db << " dB, " << dip.release_s << " s, " << dip.strokes;
    EXPECT_TRUE(dips.empty()) << "whoever made the demo ducked nothing";
    select(PartRole::Bass);
    settle();
    auto* facts = window->findChild<FactsPanel*>();
    QTest::qWait(500);
    EXPECT_FALSE(facts->findChild<QPushButton*>("duck_so"));
}

}  // namespace fw::app
