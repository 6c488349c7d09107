// SPDX-License-Identifier: GPL-3.0-or-later
// Sounds of one's own: dropped onto the arrangement, recorded over what plays, tuned, made an instrument; and macros on the sheet.
#include "app/arrangement_grid.hpp"
#include "app/clip_view.hpp"
#include "app/desks.hpp"
#include "app/record_panel.hpp"
#include "app/sound_sheet.hpp"
#include "app/source_search.hpp"
#include "audio/audio_file.hpp"
#include "fixture.hpp"

#include <QComboBox>
#include <QDir>
#include <QDropEvent>
#include <QFile>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>
#include <QUrl>
#include <algorithm>
#include <cmath>
#include <numbers>

namespace fw::app {

class OwnSoundsTest : public WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        window->show_desk(Desk::Rebuild);
        select(PartRole::Bass);
    }
    void TearDown() override {
        session->transport().player().stop();
        // What was unfolded is folded again: the sheet is shared with other tests.
        for (int i = 0; auto* b = in_sheet<QToolButton>("unfold", i); ++i)
            if (b->text() == "▾") QTest::mouseClick(b, Qt::LeftButton), i = -1;
    }
    /// A note of a voice, a third of a semitone too high, once or over and over; as a file.
    static QString voice(const char* name, double seconds, double every_s = 0.0) {
        Audio a{44100, 1, {}, {}};
        for (std::size_t i = 0; i < static_cast<std::size_t>(seconds * 44100); ++i) {
            const double t = static_cast<double>(i) / 44100.0, in = every_s > 0.0 ? std::fmod(t, every_s) : t;
            const double level = every_s > 0.0 ? std::exp(-in / 0.08) : 1.0;
            double s = 0.0;
            for (int k = 1; k < 8; ++k) s += 0.12 / k * std::sin(2.0 * std::numbers::pi * 220.0 * std::exp2(0.3 / 12.0) * k * t);
            a.samples.push_back(static_cast<float>(level * s));
        }
        const QString path = QDir::temp().filePath(name);
        EXPECT_TRUE(write_audio(path.toStdString(), a));
        return path;
    }
    static ArrangementGrid* grid() { return window->rebuild_desk()->findChild<ArrangementGrid*>(); }
    static void drop(const QString& path, double x) {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(path)});
        QDragEnterEvent enter(QPoint(static_cast<int>(x), 60), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(grid(), &enter);
        ASSERT_TRUE(enter.isAccepted());
        QDropEvent event(QPointF(x, 60), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(grid(), &event);
    }
    static const Clip& last_clip() { return session->remake().clips->clips.back(); }
    static void choose(const char* object) {
        const std::unique_ptr<QMenu> menu(grid()->clip_menu(last_clip().id));
        auto* action = menu->findChild<QAction*>(object);
        ASSERT_TRUE(action) << object;
        action->trigger();
    }
};

TEST_F(OwnSoundsTest, AFileDroppedOntoTheArrangementIsAClipAtThatBeatAndItsOwnerCanMendIt) {
    const QRectF second = grid()->cell_rect(0, 1);
    drop(voice("ferry call.wav", 1.5), second.left() + 2.0);
    ASSERT_EQ(session->remake().clips->clips.size(), 1u);
    EXPECT_EQ(last_clip().name, "ferry call");
    EXPECT_LE(std::abs(last_clip().start - session->remake().song->sections[1].start), 960) << "at the beat under the pointer";
    EXPECT_EQ(last_clip().start % 960, 0);
    EXPECT_NEAR(session->remake().clips->assets.back().end_s, 1.5, 1e-3);
    choose("clip_tune");
    ASSERT_EQ(last_clip().recipe.size(), 1u);
    EXPECT_EQ(last_clip().recipe[0].treatment, Treatment::Tune);
    EXPECT_NEAR(last_clip().recipe[0].second, session->remake().song->rebuild_tuning_cents(), 0.51) << "to the song's own semitones";
    choose("clip_clean");
    EXPECT_EQ(last_clip().recipe.size(), 2u);
    // What is no sound is told and changes nothing.
    const auto before = session->documents().document();
    drop(QString(FW_DEMO_DIR) + "/lantern_ferry.py", second.left() + 2.0);
    EXPECT_EQ(session->documents().document(), before);
    EXPECT_TRUE(window->last_message().contains("lantern_ferry.py")) << window->last_message().toStdString();
}

TEST_F(OwnSoundsTest, AClipIsTrimmedToWhatRepeatsInItOrLeftAsItIs) {
    drop(voice("strokes.wav", 2.3, 0.5), grid()->cell_rect(0, 1).left() + 2.0);
    choose("clip_repeat");
    ASSERT_TRUE(QTest::qWaitFor([] { return last_clip().recipe.size() == 1; }, 20000));
    EXPECT_EQ(last_clip().recipe[0].treatment, Treatment::Trim);
    EXPECT_NEAR(last_clip().recipe[0].second, 500.0, 5.0);
    drop(voice("held.wav", 2.0), grid()->cell_rect(0, 2).left() + 2.0);
    const auto before = session->documents().document();
    choose("clip_repeat");
    ASSERT_TRUE(QTest::qWaitFor([] { return window->last_message().contains("Nothing in held repeats"); }, 20000)) << window->last_message().toStdString();
    EXPECT_EQ(session->documents().document(), before);
}

TEST_F(OwnSoundsTest, ALongNoteBecomesAnInstrumentInTuneThatCanBeHeld) {
    drop(voice("one note.wav", 1.5), grid()->cell_rect(0, 1).left() + 2.0);
    const auto before = session->documents().document();
    choose("clip_instrument");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->remake().parts.back()->name == "one note"; }, 20000));
    settle();
    const Layer& l = session->remake().parts.back()->layers.front();
    EXPECT_EQ(l.source, &kSampler);
    const auto value = [&](const char* field) { return l.value(*index_of_field(kSampler.fields, field)); };
    EXPECT_EQ(value("root"), 57.0);
    EXPECT_NEAR(value("tune"), -30.0, 3.0);
    EXPECT_EQ(value("loop"), 1.0);
    EXPECT_LT(value("loop_start"), 0.99);
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before) << "one step";
}

TEST_F(OwnSoundsTest, TakesAreRecordedRoundTheLoopAndTheChosenOneStands) {
    QTest::mouseClick(in_sheet<QPushButton>("record"), Qt::LeftButton);
    auto* panel = window->findChild<RecordPanel*>("record_panel");
    ASSERT_TRUE(panel);
    panel->hear_file(voice("sung.wav", 10.0));
    const auto before = session->documents().document();
    session->transport().set_loop(20.0, 21.0);
    session->transport().seek(20.0);
    auto* button = panel->findChild<QPushButton*>("record_sound");
    ASSERT_TRUE(button->isEnabled());
    QTest::mouseClick(button, Qt::LeftButton);
    auto* takes = panel->findChild<QListWidget*>("takes");
    ASSERT_TRUE(QTest::qWaitFor([&] { return takes->count() >= 2; }, 10000)) << "a take each time round";
    EXPECT_TRUE(panel->findChild<QLabel*>("record_level")->text().contains("dBFS"));
    QTest::mouseClick(button, Qt::LeftButton);
    session->transport().toggle_play();
    ASSERT_EQ(session->remake().clips->clips.size(), 1u) << "one in the place of the other";
    EXPECT_EQ(session->remake().clips->assets.back().origin, AssetOrigin::Recorded);
    const Ticks loop = session->remake().song->tempo.nearest_tick(20.0);
    EXPECT_NEAR(static_cast<double>(last_clip().start), static_cast<double>(loop), 120.0) << "where it was sung";
    const auto& all = panel->recorder().takes();
    EXPECT_TRUE(std::any_of(all.begin(), all.end(), [](const auto& t) { return std::abs(t.seconds - 1.0) < 0.12; })) << "one lasts the whole loop";
    takes->setCurrentRow(0);
    ASSERT_EQ(session->remake().clips->clips.size(), 1u);
    EXPECT_EQ(last_clip().name, "Take 1");
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before) << "all takes are one step";
    // Silence is no take.
    Audio quiet{44100, 1, std::vector<float>(44100, 0.0F), {}};
    const QString path = QDir::temp().filePath("silence.wav");
    ASSERT_TRUE(write_audio(path.toStdString(), quiet));
    panel->hear_file(path);
    session->transport().set_loop(0, 0, false);
    QTest::mouseClick(button, Qt::LeftButton);
    QTest::qWait(400);
    QTest::mouseClick(button, Qt::LeftButton);
    EXPECT_EQ(takes->count(), 0);
    QTest::mouseClick(button, Qt::LeftButton);
    ASSERT_TRUE(panel->recorder().recording());
    panel->hide();
    EXPECT_FALSE(panel->recorder().recording()) << "what is not seen does not record";
    EXPECT_TRUE(window->last_message().contains("Nothing was heard")) << window->last_message().toStdString();
    panel->close();
}

TEST_F(OwnSoundsTest, AMacroIsMadeFromAFieldsNameAndMovesIt) {
    auto* sheet = window->rebuild_desk()->sheet();
    QTimer::singleShot(300, [] {
        for (QWidget* w : QApplication::topLevelWidgets())
            if (auto* dialog = qobject_cast<QInputDialog*>(w); dialog && dialog->isVisible()) {
                dialog->setTextValue("Open up");
                dialog->accept();
            }
    });
    const FieldRef level{part(PartRole::Bass)->layers.front().id, "level"};
    const std::unique_ptr<QMenu> menu(sheet->movers_menu(level));
    menu->actions().back()->trigger();
    ASSERT_EQ(session->remake().automation->macros.size(), 1u);
    ASSERT_EQ(session->remake().automation->macros[0].targets.size(), 1u);
    run("macro.target by=\"Open up\" part=Bass field=pan from=0% to=100%\n");
    auto* amount = in_sheet<QDoubleSpinBox>("amount");
    ASSERT_TRUE(amount);
    amount->setValue(0.5);
    EXPECT_NEAR(part(PartRole::Bass)->pan, 0.5, 1e-6);
    EXPECT_GT(*field_value(session->remake(), level), 5.0);
    // Its ranges unfold beneath it.
    const int folds = static_cast<int>(sheet->widget()->findChildren<QToolButton*>("unfold").size());
    for (int i = 0; i < folds && !in_sheet<QDoubleSpinBox>("macro_to"); ++i) QTest::mouseClick(in_sheet<QToolButton>("unfold", i), Qt::LeftButton);
    auto* to = in_sheet<QDoubleSpinBox>("macro_to", 1);
    ASSERT_TRUE(to);
    to->setValue(0.2);
    EXPECT_NEAR(part(PartRole::Bass)->pan, 0.1, 1e-6) << "half way of the new range";
    QTest::mouseClick(in_sheet<QToolButton>("remove_target", 1), Qt::LeftButton);
    EXPECT_EQ(session->remake().automation->macros[0].targets.size(), 1u);
}

TEST_F(OwnSoundsTest, ASamplersLoopIsFoundByLikeness) {
    run("layer.source part=Bass layer=1 source=sampler file=\"" + voice("hum.wav", 1.6).toStdString() + "\"\n");
    if (!in_sheet<QPushButton>("find_loop")) QTest::mouseClick(in_sheet<QToolButton>("unfold", 0), Qt::LeftButton);
    auto* find = in_sheet<QPushButton>("find_loop");
    ASSERT_TRUE(find);
    const auto before = session->documents().document();
    QTest::mouseClick(find, Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->documents().document() != before; }, 20000));
    const Layer& l = part(PartRole::Bass)->layers.front();
    EXPECT_EQ(l.value(*index_of_field(kSampler.fields, "loop")), 1.0);
    EXPECT_TRUE(window->last_message().contains("alike")) << window->last_message().toStdString();
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before);
}

TEST_F(OwnSoundsTest, EachLayersShareIsDrawnAndALayerSwitchedOffHasNone) {
    run("part.add-layer part=Bass source=synth patch=\"Sub bass\" level=-12dB\n");
    const auto share = [](int i) {
        auto* w = in_sheet<QWidget>("layer_share", i);
        return w ? w->accessibleName() : QString();
    };
    ASSERT_TRUE(QTest::qWaitFor([&] { return share(0).endsWith("%") && share(1).endsWith("%"); }, 20000));
    EXPECT_EQ(share(0).chopped(2).toInt() + share(1).chopped(2).toInt(), 100) << share(0).toStdString() << " and " << share(1).toStdString();
    EXPECT_GT(share(0).chopped(2).toInt(), share(1).chopped(2).toInt());
    run("field.set part=Bass layer=2 field=on value=off\n");
    EXPECT_TRUE(QTest::qWaitFor([&] { return share(1).isEmpty(); }, 20000));
}

TEST_F(OwnSoundsTest, AClipIsChoppedAtItsHitsAndAHeldToneIsLeftWhole) {
    drop(voice("strokes.wav", 2.0, 0.45), grid()->cell_rect(0, 1).left() + 2.0);
    const Ticks at = last_clip().start;
    choose("clip_hits_onto");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->remake().clips->clips.size() == 5; }, 20000)) << session->remake().clips->clips.size();
    for (const Clip& c : session->remake().clips->clips) EXPECT_EQ((c.start - at) % 240, 0);
    drop(voice("held.wav", 2.0), grid()->cell_rect(0, 2).left() + 2.0);
    const auto before = session->documents().document();
    choose("clip_hits");
    ASSERT_TRUE(QTest::qWaitFor([] { return window->last_message().contains("No hit stands out in held"); }, 20000)) << window->last_message().toStdString();
    EXPECT_EQ(session->documents().document(), before);
}

TEST_F(OwnSoundsTest, AChosenClipIsRetimedByDraggingWhatBeginsInIt) {
    drop(voice("strokes.wav", 2.0, 0.45), grid()->cell_rect(0, 1).left() + 2.0);
    settle();
    ClipView* view = window->rebuild_desk()->clip();
    QTest::mouseClick(grid(), Qt::LeftButton, Qt::NoModifier, grid()->clip_rect(last_clip().id).center().toPoint());
    ASSERT_TRUE(view->isVisible());
    EXPECT_FALSE(window->rebuild_desk()->curve()->isVisible());
    ASSERT_TRUE(QTest::qWaitFor([&] { return view->ready(); }, 20000));
    ASSERT_EQ(view->handles().size(), 4u) << "a stroke each 450 ms, not at " << view->handles().front().from_ms;
    for (std::size_t i = 0; i < 4; ++i) EXPECT_NEAR(view->handles()[i].from_ms, 450.0 * static_cast<double>(i + 1), 6.0);
    const auto before = session->documents().document();
    // The second stroke, dragged freely by some pixels: it moves, those beside it stay, and it is one step.
    const QPoint from = view->place_of(view->handles()[1]).toPoint();
    const auto drag = [&](const QPoint& start, const QPoint& end, Qt::KeyboardModifiers held) {
        QTest::mousePress(view, Qt::LeftButton, held, start);
        for (int k = 1; k <= 4; ++k) {
            QMouseEvent move(QEvent::MouseMove, QPointF(start + (end - start) * k / 4), view->mapToGlobal(QPointF(start + (end - start) * k / 4)), Qt::NoButton,
                             Qt::LeftButton, held);
            QApplication::sendEvent(view, &move);
        }
        QTest::mouseRelease(view, Qt::LeftButton, held, end);
    };
    drag(from, from + QPoint(40, 0), Qt::AltModifier);
    ASSERT_EQ(last_clip().recipe.size(), 1u);
    EXPECT_EQ(last_clip().recipe[0].treatment, Treatment::Warp);
    const auto after = view->handles();
    EXPECT_NEAR(view->place_of(after[1]).x(), from.x() + 40, 1.5);
    for (const std::size_t i : {0u, 2u, 3u}) EXPECT_NEAR(after[i].to_ms, after[i].from_ms, 0.01) << i;
    // Keys: a little later still; then back.
    view->setFocus();
    QTest::keyClick(view, Qt::Key_Right, Qt::ShiftModifier);
    EXPECT_NEAR(view->handles()[1].to_ms, after[1].to_ms + 5.0, 0.01);
    session->documents().undo();
    EXPECT_NEAR(view->handles()[1].to_ms, after[1].to_ms, 0.01);
    QTest::keyClick(view, Qt::Key_Delete);
    EXPECT_EQ(session->remake(), *before) << "what is put back leaves no trace";
    // Without Alt it arrives at the nearest sixteenth.
    const auto place_of = [&](const ClipView::Handle& h) {
        const auto& tempo = session->remake().song->tempo;
        return tempo.ticks(tempo.seconds(last_clip().start) + h.to_ms / 1000.0);
    };
    const double tick = place_of(view->handles()[1]), nearest = 240.0 * std::round(tick / 240.0);
    const double px = view->place_of({0.0, 100.0, false}).x() - view->place_of({0.0, 0.0, false}).x();
    const double off_ms = (nearest - tick) / 240.0 * 60'000.0 / session->remake().song->tempo.bpm_at(last_clip().start) / 4.0;
    drag(from, from + QPoint(static_cast<int>(std::lround(off_ms / 100.0 * px)) + 3, 0), Qt::NoModifier);
    EXPECT_NEAR(place_of(view->handles()[1]), nearest, 2.0);
    session->documents().undo();
    // All at once, and back.
    const std::unique_ptr<QMenu> menu(view->onto_menu());
    for (QAction* a : menu->actions())
        if (a->text() == "eighths") a->trigger();
    ASSERT_EQ(ending_marks(last_clip()).size(), 4u);
    for (const auto& h : view->handles()) EXPECT_NEAR(std::remainder(place_of(h), 480.0), 0.0, 2.0);
    QTest::mouseClick(view->findChild<QPushButton*>("clip_back"), Qt::LeftButton);
    EXPECT_EQ(session->remake(), *before);
    // A cell is chosen: the curve comes back.
    QTest::mouseClick(grid(), Qt::LeftButton, Qt::NoModifier, grid()->cell_rect(ArrangementGrid::kHeads, 0).center().toPoint());
    EXPECT_FALSE(view->isVisible());
    EXPECT_TRUE(window->rebuild_desk()->curve()->isVisible());
}

TEST_F(OwnSoundsTest, AClipIsBroughtOntoAGrooveFromItsMenuAndAHeldToneSaysThatNothingBegins) {
    ASSERT_TRUE(session->documents().run(Line("groove.add").with("name", "late").with("step", "1/16").with("steps", "30")));
    drop(voice("strokes.wav", 2.0, 0.45), grid()->cell_rect(0, 1).left() + 2.0);
    const auto retime = [&](const QString& name) {
        const std::unique_ptr<QMenu> menu(grid()->clip_menu(last_clip().id));
        for (QAction* a : menu->findChild<QMenu*>("clip_retime")->actions())
            if (a->text() == name) a->trigger();
    };
    retime("the groove late");
    ASSERT_TRUE(QTest::qWaitFor([] { return !last_clip().recipe.empty(); }, 20000));
    const auto& tempo = session->remake().song->tempo;
    ASSERT_EQ(ending_marks(last_clip()).size(), 4u);
    for (const WarpMark& m : ending_marks(last_clip())) {
        const double tick = tempo.ticks(tempo.seconds(last_clip().start) + m.to_ms / 1000.0);
        EXPECT_NEAR(std::remainder(tick - 30.0, 240.0), 0.0, 2.0);
    }
    Audio rumble{44100, 1, std::vector<float>(44100, 0.0F), {}};
    const QString path = QDir::temp().filePath("nothing.wav");
    ASSERT_TRUE(write_audio(path.toStdString(), rumble));
    drop(path, grid()->cell_rect(0, 2).left() + 2.0);
    const auto before = session->documents().document();
    retime("sixteenths");
    ASSERT_TRUE(QTest::qWaitFor([] { return window->last_message().contains("Nothing that stands out begins in nothing"); }, 20000))
        << window->last_message().toStdString();
    EXPECT_EQ(session->documents().document(), before);
}

TEST_F(OwnSoundsTest, AClipIsBroughtAShareOfTheWay) {
    drop(voice("strokes.wav", 2.0, 0.45), grid()->cell_rect(0, 1).left() + 2.0);
    ClipView* view = window->rebuild_desk()->clip();
    grid()->choose(last_clip().id);
    ASSERT_TRUE(QTest::qWaitFor([&] { return view->ready(); }, 20000));
    const auto onto_sixteenths = [&](double share) {
        auto* far = view->findChild<QComboBox*>("clip_far");
        far->setCurrentIndex(far->findData(share));
        const std::unique_ptr<QMenu> menu(view->onto_menu());
        for (QAction* a : menu->actions())
            if (a->text() == "sixteenths") a->trigger();
        const auto marks = ending_marks(last_clip());
        session->documents().undo();
        return marks;
    };
    const auto all = onto_sixteenths(1.0), half = onto_sixteenths(0.5);
    ASSERT_EQ(all.size(), half.size());
    ASSERT_GE(all.size(), 3u);
    double moved = 0.0;
    for (std::size_t i = 0; i < all.size(); ++i) {
        EXPECT_NEAR(half[i].to_ms - half[i].from_ms, 0.5 * (all[i].to_ms - all[i].from_ms), 0.06);
        moved = std::max(moved, std::abs(all[i].to_ms - all[i].from_ms));
    }
    EXPECT_GT(moved, 5.0);
}

TEST_F(OwnSoundsTest, ADroppedFileIsSentThroughABusOnTheSheet) {
    ASSERT_TRUE(session->documents().run(Line("bus.add").with("name", "Quay")));
    drop(voice("gull.wav", 1.0), grid()->cell_rect(0, 1).left() + 2.0);
    settle();
    const auto before = session->documents().document();
    auto* to = in_sheet<QComboBox>("clip_output");
    ASSERT_TRUE(to);
    const int quay = to->findText("to Quay");
    ASSERT_GE(quay, 0);
    to->setCurrentIndex(quay);
    emit to->activated(quay);
    EXPECT_EQ(last_clip().output, session->remake().mixer->buses.back().id);
    settle();
    to = in_sheet<QComboBox>("clip_output");
    EXPECT_EQ(to->currentText(), "to Quay");
    to->setCurrentIndex(0);
    emit to->activated(0);
    EXPECT_FALSE(last_clip().output);
    session->documents().undo();
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before);
}

TEST_F(OwnSoundsTest, EachNoteMovesAFieldFromItsNamesMenuAndItsLinesAreOnTheSheet) {
    auto* sheet = window->rebuild_desk()->sheet();
    const FieldRef level{part(PartRole::Bass)->layers.front().id, "level"};
    const auto before = session->documents().document();
    {
        const std::unique_ptr<QMenu> menu(sheet->movers_menu(level));
        menu->findChild<QAction*>("move_by_notes")->trigger();
    }
    ASSERT_EQ(session->remake().automation->by_notes.size(), 1u);
    EXPECT_EQ(session->remake().automation->by_notes[0].by, part(PartRole::Bass)->id);
    settle();
    auto* to = in_sheet<QDoubleSpinBox>("note_move_to");
    auto* decay = in_sheet<QDoubleSpinBox>("note_move_decay");
    ASSERT_TRUE(to && decay && in_sheet<QWidget>("note_way"));
    to->setValue(6.0);
    decay->setValue(80.0);
    EXPECT_EQ(session->remake().automation->by_notes[0].to, 6.0);
    EXPECT_NEAR(session->remake().automation->by_notes[0].decay_ms, 80.0, 1e-6);
    auto* of = in_sheet<QComboBox>("note_move_of");
    ASSERT_TRUE(of);
    const int drums = of->findText("Drums");
    ASSERT_GE(drums, 0);
    of->setCurrentIndex(drums);
    emit of->activated(drums);
    EXPECT_EQ(session->remake().part(session->remake().automation->by_notes[0].by)->role, PartRole::Drums);
    EXPECT_TRUE(sheet->as_text().contains("with each note of Drums")) << sheet->as_text().toStdString();
    settle();
    QTest::mouseClick(in_sheet<QToolButton>("remove_note_move"), Qt::LeftButton);
    EXPECT_EQ(session->remake(), *before);
    settle();
    EXPECT_FALSE(in_sheet<QWidget>("note_way"));
}

TEST_F(OwnSoundsTest, ASourceIsFoundInAnotherRecordingAndOneThatIsNoneIsSaidToBeNone) {
    const double from_s = 12.0, to_s = 20.0;
    SourceSearch search(*session);
    int placed = 0;
    QObject::connect(&search, &SourceSearch::placed, window, [&] { ++placed; });
    // The recording is its own source where nothing was done to it.
    search.look(QString(FW_DEMO_DIR) + "/lantern-ferry.ogg", from_s, to_s);
    EXPECT_TRUE(search.busy());
    ASSERT_TRUE(QTest::qWaitFor([&] { return !search.busy() && placed == 1; }, 120000)) << window->last_message().toStdString();
    EXPECT_TRUE(window->last_message().contains("as fast and as high")) << window->last_message().toStdString();
    const Clip& clip = last_clip();
    EXPECT_EQ(clip.name, "Source lantern-ferry");
    EXPECT_EQ(clip.start, session->remake().song->tempo.nearest_tick(from_s));
    ASSERT_EQ(clip.recipe.size(), 1u);
    EXPECT_NEAR(clip.recipe[0].first, 1000.0 * from_s, 3.0);
    const auto before = session->documents().document();
    search.look(voice("strokes.wav", 12.0, 0.37), from_s, to_s);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !search.busy(); }, 120000));
    EXPECT_TRUE(window->last_message().contains("Nothing of the stretch stands out in strokes.wav")) << window->last_message().toStdString();
    EXPECT_EQ(session->documents().document(), before);
    // What is no sound is told, and a loop that is too short is asked for.
    search.look(QString(FW_DEMO_DIR) + "/lantern_ferry.py", from_s, to_s);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !search.busy(); }, 20000));
    EXPECT_TRUE(window->last_message().contains("lantern_ferry.py")) << window->last_message().toStdString();
    session->transport().set_loop(3.0, 4.0);
    window->commands().action("song.source")->trigger();
    EXPECT_TRUE(window->last_message().contains("two seconds or more")) << window->last_message().toStdString();
}

TEST_F(OwnSoundsTest, ASampledInstrumentIsRecalledAsLayersAndABrokenOneIsTold) {
    auto* sheet = window->rebuild_desk()->sheet();
    const QString low = voice("sfz low.wav", 1.0), high = voice("sfz high.wav", 1.0);
    const auto write = [](const char* name, const QString& text) {
        QFile file(QDir::temp().filePath(name));
        EXPECT_TRUE(file.open(QIODevice::WriteOnly));
        file.write(text.toUtf8());
        return file.fileName();
    };
    const auto before = session->documents().document();
    sheet->recall_sound_from(write("quay organ.sfz",
                                   "<group> ampeg_release=0.4\n<region> sample=sfz low.wav hikey=b3 pitch_keycenter=a3\n"
                                   "<region> sample=sfz high.wav lokey=c4 pitch_keycenter=a4 volume=-3\n"));
    ASSERT_EQ(part(PartRole::Bass)->layers.size(), 2u) << window->last_message().toStdString();
    EXPECT_EQ(part(PartRole::Bass)->layers[0].source, &kSampler);
    EXPECT_EQ(part(PartRole::Bass)->layers[1].low_key, 60.0);
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before);
    sheet->recall_sound_from(write("lost.sfz", "<region> sample=gone.wav\n"));
    EXPECT_TRUE(window->last_message().contains("its sample gone.wav cannot be read")) << window->last_message().toStdString();
    EXPECT_EQ(session->documents().document(), before);
}

TEST_F(OwnSoundsTest, OfTwoTakesOneIsChosenInTheLoop) {
    const double x = grid()->cell_rect(0, 1).left() + 2.0;
    drop(voice("take one.wav", 3.0), x);
    const ClipId one = last_clip().id;
    drop(voice("take two.wav", 3.0), x);
    const ClipId two = last_clip().id;
    settle();
    const auto before = session->documents().document();
    ClipView* view = window->rebuild_desk()->clip();
    grid()->choose(two);
    ASSERT_TRUE(QTest::qWaitFor([&] { return view->ready(); }, 20000));
    QTest::mouseClick(view->findChild<QPushButton*>("clip_alone"), Qt::LeftButton);
    EXPECT_TRUE(session->remake().clips->clip(one)->mute);
    EXPECT_FALSE(session->remake().clips->clip(two)->mute);
    EXPECT_EQ(session->remake().clips->clips.size(), 2u);
    session->documents().undo();
    const double begins = session->remake().song->tempo.seconds(session->remake().clips->clip(two)->start);
    session->transport().set_loop(begins + 1.0, begins + 2.0);
    QTest::mouseClick(view->findChild<QPushButton*>("clip_alone"), Qt::LeftButton);
    // The other take is cut in three, its middle silent; the chosen one sounds all along and need not be cut.
    ASSERT_EQ(session->remake().clips->clips.size(), 4u);
    int silent = 0;
    for (const Clip& c : session->remake().clips->clips) silent += c.mute;
    EXPECT_EQ(silent, 1);
    session->transport().set_loop(0.0, 0.0, false);
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before);
}

}  // namespace fw::app
