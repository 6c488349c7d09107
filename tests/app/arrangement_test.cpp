// SPDX-License-Identifier: GPL-3.0-or-later
// What plays where, transitions and clips, by mouse, menu and keyboard in the real window.
#include "fixture.hpp"

#include "app/duck_picture.hpp"
#include "app/kept_file.hpp"
#include "app/sound_sheet.hpp"
#include "model/edits/arrangement.hpp"
#include "model/recipe.hpp"
#include "support/ducked_song.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>

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
    bool plays(PartRole role, int s) const { return placement_in(*part(role), section(s)) != nullptr; }
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
    // The demo's maker ducked nothing: the picture shows what its level does, and that it is nothing to be like.
    DuckPicture picture(*session, part(PartRole::Bass)->steps[0].id);
    session->transport().seek(session->remake().song->tempo.seconds(section(2).start) + 0.5);
    ASSERT_TRUE(QTest::qWaitFor([&] { return picture.ready(); }, 60000));
    EXPECT_FALSE(picture.original() && picture.original()->dip);
    EXPECT_FALSE(picture.findChild<QPushButton*>("duck_like")->isEnabled());
    EXPECT_NEAR(picture.mine()[4], -6.0, 0.1);
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
    const auto all = after_strokes(session->remake(), *session->recording().sound, kicks_of(session->remake()));
    EXPECT_FALSE(all.empty()) << "it was listened to";
    for (const auto& [section, after] : all)
        if (after.dip)
            ADD_FAILURE() << section_text(session->remake(), section) << ": " << after.dip->depth_db << " dB, " << after.dip->release_s << " s, "
                          << after.strokes << "; whoever made the demo ducked nothing";
    select(PartRole::Bass);
    settle();
    auto* facts = window->findChild<FactsPanel*>();
    QTest::qWait(500);
    EXPECT_FALSE(facts->findChild<QPushButton*>("duck_so"));
}

TEST_F(ArrangementTest, HeadsCellsAndClipsAreReachedByKeysAndClipsMovedByThem) {
    run("transition.add kind=riser to=5 length=\"1 bar\" name=one\ntransition.add kind=crash to=13 length=\"1 bar\" name=two\n");
    QCoreApplication::processEvents();
    grid->setFocus();
    QTest::mouseClick(grid, Qt::LeftButton, {}, grid->cell_rect(ArrangementGrid::kHeads, 1).center().toPoint());
    const auto before = session->remake();
    QTest::keyClick(grid, Qt::Key_Delete);
    QTest::keyClick(grid, Qt::Key_Return);
    EXPECT_EQ(session->remake(), before) << "a head is nothing that is muted or left out";
    const auto parts = static_cast<int>(session->remake().parts.size());
    for (int i = 0; i < parts; ++i) QTest::keyClick(grid, Qt::Key_Down);
    EXPECT_EQ(session->selection().part(), session->remake().parts.back().get());
    EXPECT_FALSE(grid->chosen_clip());
    QTest::keyClick(grid, Qt::Key_Down);
    const auto& clips = [&]() -> const std::vector<Clip>& { return session->remake().clips->clips; };
    ASSERT_TRUE(grid->chosen_clip()) << "beneath the last part are the clips";
    QTest::keyClick(grid, Qt::Key_Left);
    QTest::keyClick(grid, Qt::Key_Left);
    EXPECT_EQ(grid->chosen_clip(), clips()[0].id);
    QTest::keyClick(grid, Qt::Key_Right);
    EXPECT_EQ(grid->chosen_clip(), clips()[1].id);
    const Ticks start = clips()[1].start;
    QTest::keyClick(grid, Qt::Key_Right, Qt::ShiftModifier);
    EXPECT_EQ(clips()[1].start, start + 960) << "a beat later";
    QTest::keyClick(grid, Qt::Key_Left, Qt::ShiftModifier);
    EXPECT_EQ(clips()[1].start, start);
    QTest::keyClick(grid, Qt::Key_Delete);
    EXPECT_EQ(clips().size(), 1u);
    QTest::mouseClick(grid, Qt::LeftButton, {}, grid->clip_rect(clips()[0].id).center().toPoint());
    QTest::keyClick(grid, Qt::Key_Up);
    EXPECT_FALSE(grid->chosen_clip());
    EXPECT_EQ(session->selection().part(), session->remake().parts.back().get()) << "and back to the cells";
}

TEST_F(ArrangementTest, ManyPartsAndManyClipsStandBesideEachOther) {
    std::string script;
    for (int i = 0; i < 19; ++i) script += "part.add name=\"more " + std::to_string(i) + "\" role=other source=synth\n";
    script += "clip.from-original from=5 length=\"8 bars\" to=5 name=long\nclip.chop clip=long length=1/8\n";
    run(script);
    QCoreApplication::processEvents();
    ASSERT_EQ(session->remake().parts.size(), 24u);
    ASSERT_GE(session->remake().clips->clips.size(), 60u);
    const QRectF last = grid->cell_rect(23, 0);
    EXPECT_GE(last.height(), 15.0);
    double right = 0.0;
    for (const Clip& c : session->remake().clips->clips) {
        const QRectF box = grid->clip_rect(c.id);
        EXPECT_GE(box.top(), last.bottom()) << "clips hide no part";
        EXPECT_LE(box.bottom(), grid->sizeHint().height());
        right = std::max(right, box.right());
    }
    EXPECT_LE(right, grid->width() + 14.0);
    // A cell low enough for one line is still one that is clicked.
    QTest::mouseClick(grid, Qt::LeftButton, {}, grid->cell_rect(20, 1).center().toPoint());
    EXPECT_EQ(session->selection().part()->name, session->remake().parts[20]->name);
}

TEST(DuckingFacts, TheOriginalsDipsAreToldBySectionAndAPartIsDuckedSo) {
    const test::TemporaryFolder folder;
    const std::string file = (folder / "ducked.wav").string();
    const auto mono = test::ducked_song(8.0, 0.25);
    ASSERT_TRUE(write_audio(file, Audio{44100, 1, mono, {}}));
    Session session(std::make_unique<SimulatedOutput>(44100.0));
    MainWindow window(session);
    window.resize(1280, 800);
    window.show();
    window.open(QString::fromStdString(file));
    ASSERT_TRUE(QTest::qWaitFor([&] { return session.has_reference() && !session.busy(); }, 120000));
    // The map and the kicks as they are, whatever was heard of so little.
    const auto run = [&](const std::string& text) {
        const auto line = parse_line(text);
        ASSERT_TRUE(line && *line);
        EXPECT_TRUE(session.documents().run(**line)) << text << ": " << window.last_message().toStdString();
    };
    while (!session.remake().parts.empty()) run("part.remove part=\"" + session.remake().parts.front()->name + "\"");
    run("part.add name=Pad role=chords source=synth");
    run("part.add name=Kit role=drums source=drum_kit");
    const Section whole = session.remake().song->sections.front();
    const Ticks end = session.remake().song->sections.back().start + session.remake().song->sections.back().length;
    while (session.remake().song->sections.size() > 1) run("section.merge section=\"#1\"");
    for (int k = 1; k < 31; ++k) {
        const Ticks at = session.remake().song->tempo.nearest_tick(0.5 * k);
        if (at >= whole.start && at < end) run("note.add part=Kit at=" + place_text(session.remake().song->meter, at) + " pitch=Kick");
    }
    session.selection().select_element(find_part(session.remake(), "Pad")->id);
    auto* facts = window.findChild<FactsPanel*>();
    QPushButton* so = nullptr;
    ASSERT_TRUE(QTest::qWaitFor([&] { return (so = facts->findChild<QPushButton*>("duck_so")) != nullptr; }, 60000));
    QTest::mouseClick(so, Qt::LeftButton);
    const Part& pad = *find_part(session.remake(), "Pad");
    ASSERT_EQ(pad.steps.size(), 1u);
    EXPECT_EQ(pad.steps[0].type, &kDuck);
    EXPECT_EQ(pad.steps[0].trigger.part, find_part(session.remake(), "Kit")->id);
    EXPECT_NEAR(*field_value(session.remake(), {pad.steps[0].id, "depth"}), 8.0, 1.5);
    // Its picture lies over the dip; a step set otherwise is brought there.
    window.show_desk(Desk::Rebuild);
    run("field.set part=Pad step=duck field=depth value=20");
    run("field.set part=Pad step=duck field=release value=2");
    auto* sheet = window.rebuild_desk()->sheet();  // what is on it is made anew
    QToolButton* unfold = nullptr;
    const auto fold = [&] {
        for (auto* line : sheet->findChildren<QToolButton*>("unfold"))
            if (line->toolTip().contains("step")) unfold = line;
        return unfold != nullptr;
    };
    ASSERT_TRUE(QTest::qWaitFor(fold, 10000));
    QTest::mouseClick(unfold, Qt::LeftButton);
    DuckPicture* picture = nullptr;
    ASSERT_TRUE(QTest::qWaitFor([&] { return (picture = sheet->findChild<DuckPicture*>("duck_picture")) && picture->ready(); }, 60000));
    ASSERT_TRUE(picture->original());
    const auto off = [&] {
        const auto ours = picture->mine();
        double most = 0.0;
        for (std::size_t i = 9; i < std::min<std::size_t>(ours.size(), 80); ++i) most = std::max(most, std::abs(ours[i] - picture->original()->db[i]));
        return most;
    };
    EXPECT_GT(off(), 8.0);
    const auto pad_duck = [&] { return find_part(session.remake(), "Pad")->steps[0].id; };
    const auto before = session.documents().document();
    QTest::mouseClick(picture->findChild<QPushButton*>("duck_like"), Qt::LeftButton);
    EXPECT_LT(off(), 2.5);
    session.documents().undo();
    EXPECT_EQ(session.documents().document(), before) << "one step of undo";
    // Where the section has a depth of its own, that is the one that is set.
    run("field.set part=Pad step=duck field=depth value=20 section=\"#1\"");
    QTest::mouseClick(picture->findChild<QPushButton*>("duck_like"), Qt::LeftButton);
    EXPECT_LT(off(), 2.5);
    EXPECT_EQ(*field_value(session.remake(), {pad_duck(), "depth"}), 20.0) << "elsewhere it stays";
    // Of the lows nothing can be said under a kick.
    run("field.set part=Pad step=duck field=below value=120");
    EXPECT_FALSE(picture->original());
    EXPECT_FALSE(picture->findChild<QPushButton*>("duck_like")->isEnabled());
}

TEST(KeptFile, TheSameSoundIsOneFileAndAnotherOneIsAnother) {
    Audio a{44100, 1, std::vector<float>(4410, 0.25F), {}};
    const auto first = kept_as_file(a, "kept-test"), again = kept_as_file(a, "kept-test");
    ASSERT_TRUE(first && again);
    EXPECT_EQ(*first, *again);
    const auto back = read_audio(*first);
    ASSERT_TRUE(back);
    EXPECT_EQ(back->frames(), 4410u);
    a.samples[7] = 0.5F;
    const auto other = kept_as_file(a, "kept-test");
    ASSERT_TRUE(other);
    EXPECT_NE(*first, *other);
    std::filesystem::remove_all(std::filesystem::path(*first).parent_path());
}

TEST_F(ArrangementTest, ASectionIsLeftOutOfTheCondensedVersionAndTwoPartsTakeTurns) {
    settle();
    const int s = 1;
    const auto before = session->documents().document();
    entry(grid->head_menu(s), {"head_condense"})->trigger();
    EXPECT_TRUE(section(s).condensed_out);
    window->show_desk(Desk::HandOff);
    auto* box = window->hand_off()->findChild<QCheckBox*>("deliver_Condensed mix");
    ASSERT_TRUE(box);
    EXPECT_TRUE(box->isEnabled());
    window->show_desk(Desk::Rebuild);
    entry(grid->head_menu(s), {"head_condense"})->trigger();
    EXPECT_FALSE(box->isEnabled()) << "nothing is left out any more";
    const QByteArray lead = part(PartRole::Lead)->name.c_str();
    entry(grid->cell_menu(row(PartRole::Bass), s), {"cell_turns", lead.constData()})->trigger();
    const Ticks bar = session->remake().song->meter.at_bar(session->remake().song->meter.position(section(s).start).bar).bar_ticks();
    const auto plays_in = [&](PartRole role, int n) {
        int count = 0;
        for (const PlacedNote& x : placed_notes(*part(role)))
            count += !x.muted && x.note.start >= section(s).start + n * bar + 60 && x.note.start < section(s).start + (n + 1) * bar - 60;
        return count;
    };
    EXPECT_GT(plays_in(PartRole::Bass, 0), 0);
    EXPECT_EQ(plays_in(PartRole::Lead, 0), 0);
    EXPECT_EQ(plays_in(PartRole::Bass, 1), 0);
    while (session->documents().document() != before && session->documents().history().can_undo()) session->documents().undo();
    EXPECT_EQ(session->documents().document(), before);
}

}  // namespace fw::app
