// SPDX-License-Identifier: GPL-3.0-or-later
// Sounds of one's own: dropped onto the arrangement, recorded over what plays, tuned, made an instrument; and macros on the sheet.
#include "app/arrangement_grid.hpp"
#include "app/record_panel.hpp"
#include "app/sound_sheet.hpp"
#include "audio/audio_file.hpp"
#include "fixture.hpp"

#include <QDir>
#include <QDropEvent>
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
    EXPECT_NEAR(panel->recorder().takes()[1].seconds, 1.0, 0.12);
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
    const std::unique_ptr<QMenu> menu(sheet->macro_menu(level));
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

}  // namespace fw::app
