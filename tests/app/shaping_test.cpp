// SPDX-License-Identifier: GPL-3.0-or-later
// Moves recorded while it plays, the equaliser's picture and its match, throws, the reckoner: by mouse and keys in the real window.
#include "app/move_recorder.hpp"
#include "app/reckoner.hpp"
#include "app/tone_picture.hpp"
#include "fixture.hpp"
#include "model/edits/automation.hpp"
#include "sound/tone_curve.hpp"

#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>
#include <cmath>

namespace fw::app {

class ShapingTest : public WindowTest {
protected:
    void TearDown() override {
        session->moves().arm(false);
        session->transport().player().stop();
    }
    static void drag(QWidget* field, int pixels) {
        auto* line = field->findChild<QLineEdit*>();
        const QPoint at(line->width() / 2, line->height() / 2);
        QTest::mousePress(line, Qt::LeftButton, {}, at);
        for (int moved = 4; moved <= pixels; moved += 4) {
            QTest::mouseMove(line, at - QPoint(0, moved));
            QTest::qWait(40);
        }
        QTest::mouseRelease(line, Qt::LeftButton, {}, at - QPoint(0, pixels));
        QCoreApplication::processEvents();
    }
};

TEST_F(ShapingTest, WhatIsMovedWhileItPlaysBecomesACurveInOneStep) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    auto* record = window->findChild<QToolButton*>("record_moves");
    ASSERT_TRUE(record && record->isVisible());
    QTest::mouseClick(record, Qt::LeftButton);
    ASSERT_TRUE(session->moves().armed());
    const auto before = session->documents().document();
    const double level = part(PartRole::Bass)->gain_db;
    // Nothing plays: the field is set as ever.
    drag(fact<QDoubleSpinBox>("level"), 8);
    EXPECT_DOUBLE_EQ(part(PartRole::Bass)->gain_db, level + 1.0);
    EXPECT_TRUE(session->remake().automation->curves.empty());
    session->documents().undo();
    ASSERT_EQ(session->documents().document(), before);

    session->transport().seek(20.0);
    session->transport().toggle_play();
    ASSERT_TRUE(QTest::qWaitFor([] { return session->transport().position_s() > 20.2; }, 5000));
    drag(fact<QDoubleSpinBox>("level"), 40);
    session->transport().toggle_play();
    EXPECT_DOUBLE_EQ(part(PartRole::Bass)->gain_db, level) << "the field itself stays";
    const FieldRef field{part(PartRole::Bass)->id, "level"};
    const auto& curves = session->remake().automation->curves;
    ASSERT_EQ(curves.size(), 1u);
    EXPECT_EQ(curves[0].field, field);
    EXPECT_TRUE(curves[0].section) << "it goes with its section";
    double most = -100.0;
    for (const CurvePoint& p : curves[0].points) most = std::max(most, p.value);
    EXPECT_NEAR(most, level + 5.0, 0.1);
    EXPECT_LE(curves[0].points.size(), 8u) << "thinned: an even move is a line";
    EXPECT_DOUBLE_EQ(value_moved(session->remake(), field, 0), level);
    EXPECT_TRUE(window->last_message().contains("recorded")) << window->last_message().toStdString();
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before) << "one step";
}

TEST_F(ShapingTest, AnEqualiserIsBroughtToWhatTheOriginalAsksForInOneStep) {
    // What is asked for is asked of the whole equaliser: turning it changes what it does, not what it should do.
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    const auto asked = [&](const char* fields) {
        run(std::string("step.add part=Bass kind=equaliser ") + fields + "\n");
        EXPECT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
        if (!in_sheet<QWidget>("tone_picture"))  // else it is still unfolded
            QTest::mouseClick(in_sheet<QToolButton>("unfold", static_cast<int>(part(PartRole::Bass)->layers.size())), Qt::LeftButton);
        auto* picture = in_sheet<QWidget>("tone_picture");
        EXPECT_TRUE(picture);
        return picture ? static_cast<TonePicture*>(picture)->wanted() : std::vector<WantedGain>();
    };
    const auto of_neutral = asked("");
    session->documents().undo();
    const auto of_bright = asked("mid=9dB mid_hz=400Hz mid_q=0.7");
    ASSERT_GE(of_neutral.size(), 3u);
    std::vector<double> apart;
    double mean = 0.0;
    for (const WantedGain& a : of_neutral)
        for (const WantedGain& b : of_bright)
            if (std::abs(a.hz - b.hz) < 1.0) apart.push_back(b.db - a.db), mean += apart.back();
    ASSERT_GE(apart.size(), 3u);
    mean /= static_cast<double>(apart.size());  // of the level, which is left out
    for (const double d : apart) EXPECT_NEAR(d - mean, 0.0, 4.0);
    const auto before = session->documents().document();
    auto* match = in_sheet<QPushButton>("match_tone");
    ASSERT_TRUE(match && match->isEnabled()) << match->toolTip().toStdString();
    QTest::mouseClick(match, Qt::LeftButton);
    const Step& eq = part(PartRole::Bass)->steps.back();
    std::vector<double> values;
    for (std::size_t f = 0; f < kEqualiser.fields.size(); ++f) values.push_back(eq.value(f));
    double off = 0.0, was_off = 0.0, weights = 0.0;
    for (const WantedGain& w : of_bright) {
        off += w.weight * std::abs(equaliser_db(values, w.hz, 44100.0) - w.db), was_off += w.weight * std::abs(w.db), weights += w.weight;
    }
    EXPECT_LT(off, 0.6 * was_off) << "nearer to it than no equaliser: " << off / weights << " against " << was_off / weights << " dB";
    EXPECT_NE(session->documents().document(), before);
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before) << "all fields in one step";
}

TEST_F(ShapingTest, AFilterIsDrawnOverWhatTheOriginalAsksForToo) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    run("step.add part=Bass kind=filter cutoff=900\n");
    const StepId id = part(PartRole::Bass)->steps.back().id;
    if (!in_sheet<QWidget>("tone_picture"))
        QTest::mouseClick(in_sheet<QToolButton>("unfold", static_cast<int>(part(PartRole::Bass)->layers.size())), Qt::LeftButton);
    auto* picture = in_sheet<QWidget>("tone_picture");
    ASSERT_TRUE(picture);
    EXPECT_FALSE(in_sheet<QPushButton>("match_tone")->isVisible()) << "only an equaliser can be matched";
    const QImage open = picture->grab().toImage();
    run("field.set part=Bass step=filter field=cutoff value=200\n");
    EXPECT_NE(in_sheet<QWidget>("tone_picture")->grab().toImage(), open) << "the curve follows";
    session->documents().undo();
    session->documents().undo();
    EXPECT_FALSE(find_step(session->remake(), id));
}

TEST_F(ShapingTest, ANoteIsThrownIntoAnEchoThatIsMadeForIt) {
    select(PartRole::Lead);
    window->show_desk(Desk::Transcribe);
    const auto notes = placed_notes(*part(PartRole::Lead));
    ASSERT_GT(notes.size(), 4u);
    session->selection().select_notes({notes[3].ref()});
    const auto before = session->documents().document();
    auto* button = fact<QPushButton>("throw_new");
    ASSERT_TRUE(button);
    QTest::mouseClick(button, Qt::LeftButton);
    ASSERT_EQ(session->remake().mixer->buses.size(), 1u);
    const BusId echo = session->remake().mixer->buses[0].id;
    const FieldRef level{SendRef{part(PartRole::Lead)->id, echo}, "level"};
    EXPECT_DOUBLE_EQ(value_moved(session->remake(), level, notes[3].note.start + 5), 0.0);
    EXPECT_DOUBLE_EQ(value_moved(session->remake(), level, notes[2].note.start), -96.0);
    session->documents().undo();
    EXPECT_EQ(session->documents().document(), before) << "bus, delay, send and curve are one step";
    // Where there is a bus it is offered by name.
    run("bus.add name=Quay\n");
    session->selection().select_notes({notes[3].ref()});
    ASSERT_TRUE(fact<QPushButton>("throw0"));
    EXPECT_EQ(fact<QPushButton>("throw0")->text(), "Throw to Quay");
}

TEST_F(ShapingTest, ANoteTellsItsFrequencyAndThePartialsThatStandOut) {
    select(PartRole::Bass);
    window->show_desk(Desk::Transcribe);
    const auto notes = placed_notes(*part(PartRole::Bass));
    session->selection().select_notes({notes[4].ref()});
    QString all;
    const auto read = [&] {
        (void)fact<QWidget>("velocity");
        all.clear();
        for (const QLabel* l : window->facts()->widget()->findChildren<QLabel*>()) all += l->text() + "\n";
        return all.contains("partials");
    };
    EXPECT_TRUE(QTest::qWaitFor(read, 20000)) << "heard off the window's thread";
    EXPECT_TRUE(all.contains(" Hz in the original's tuning")) << all.toStdString();
    EXPECT_TRUE(all.contains(" 1 (") && all.contains(" 2 (")) << "the bass's own first partials: " << all.toStdString();
}

TEST_F(ShapingTest, TheReckonerGoesBothWays) {
    Reckoner reckoner(*session, window);
    reckoner.show();
    const auto box = [&](const char* name) { return reckoner.findChild<QDoubleSpinBox*>(name); };
    box("pitch left")->setValue(12.0);
    EXPECT_NEAR(box("pitch right")->value(), 2.0, 1e-6);
    box("pitch right")->setValue(1.5);
    EXPECT_NEAR(box("pitch left")->value(), 7.02, 0.01) << "a pure fifth is two cents more than seven semitones";
    session->transport().seek(10.0);
    const Song& song = *session->remake().song;
    const Ticks at = song.tempo.nearest_tick(10.0);
    box("time left")->setValue(1.0);
    EXPECT_NEAR(box("time right")->value(), 1000.0 * (song.tempo.seconds(at + 960) - song.tempo.seconds(at)), 0.1);
    box("time left")->setValue(0.5);
    EXPECT_NEAR(box("ticks right")->value() / box("ticks left")->value(), box("time right")->value() / 480.0, 0.01);
    box("note left")->setValue(69.0);
    const double a4 = 440.0 * std::exp2(song.rebuild_tuning_cents() / 1200.0);
    EXPECT_NEAR(box("note right")->value(), a4, 0.01);
    box("partial left")->setValue(5.0);
    EXPECT_NEAR(box("partial right")->value(), 5.0 * a4, 0.05);
    EXPECT_TRUE(reckoner.findChild<QLabel*>("partial nearest")->text().startsWith("C#7 −14"))
        << reckoner.findChild<QLabel*>("partial nearest")->text().toStdString();
    box("note left")->setValue(57.0);
    EXPECT_NEAR(box("partial right")->value(), 2.5 * a4, 0.05) << "a partial follows its note";
    box("level left")->setValue(-6.0206);
    EXPECT_NEAR(box("level right")->value(), 0.5, 1e-3);
    box("bend left")->setValue(50.0);
    EXPECT_NEAR(box("bend right")->value(), 0.25, 1e-6) << "of a range of two semitones";
    box("range")->setValue(12.0);
    EXPECT_NEAR(box("bend right")->value(), 50.0 / 1200.0, 1e-6);
    EXPECT_TRUE(session->documents().document() == first) << "it changes nothing";
}

TEST_F(ShapingTest, TheWholeIsMadeAsLoudAsTheOriginalByOneButtonAndACurveGoesToRepeats) {
    select(PartRole::Bass);
    window->show_desk(Desk::Rebuild);
    run("field.set master=on field=level value=-9dB\n");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    const double off = session->report()->sound.match_gain_db;
    ASSERT_GT(off, 3.0);
    QTest::mouseClick(in_sheet<QPushButton>("match_loudness"), Qt::LeftButton);
    EXPECT_NEAR(session->remake().mixer->master.gain_db, -9.0 + off, 0.26);
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    EXPECT_LT(std::abs(session->report()->sound.match_gain_db), 2.0) << "the limiter may take a little of it";
    // A curve of a section that comes again.
    const auto& sections = session->remake().song->sections;
    std::size_t once = 0, again = 0;
    for (std::size_t i = 0; i < sections.size() && again == 0; ++i)
        for (std::size_t k = i + 1; k < sections.size() && again == 0; ++k)
            if (sections[k].label == sections[i].label) once = i, again = k;
    ASSERT_GT(again, 0u);
    const FieldRef pan{part(PartRole::Bass)->id, "pan"};
    run("curve.set part=Bass field=pan section=#" + std::to_string(once + 1) + " points=\"1 -50%, 3 50%\"\n");
    auto* curve = window->rebuild_desk()->curve();
    curve->show_field(pan);
    curve->reuse_in_repeats(static_cast<int>(once));
    EXPECT_TRUE(find_curve(session->remake(), pan, session->remake().song->sections[again].id));
}

}  // namespace fw::app
