// SPDX-License-Identifier: GPL-3.0-or-later
// What is kept of the work in the real window: rows of one's own, time, questions, notes on the record and its pictures.
#include "survey_fixture.hpp"

#include "app/record_notes.hpp"
#include "app/survey_desk.hpp"
#include "formats/remake_file.hpp"

#include <QDoubleSpinBox>
#include <QFile>
#include <QInputDialog>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTimer>

namespace fw::app {

TEST_F(SurveyTest, ARowOfOnesOwnNotesOnTheRecordAndAReason) {
    QTimer::singleShot(60, [] {
        auto* dialog = window->findChild<QInputDialog*>("add row");
        ASSERT_TRUE(dialog);
        dialog->setTextValue("Harbour noise");
        dialog->accept();
    });
    key(Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_EQ(session->remake().notebook->rows.size(), 1u);
    session->selection().select_element(ElementId(session->remake().notebook->rows[0].id));
    auto* reason = fact<QLineEdit>("reason");
    ASSERT_TRUE(reason);
    reason->setText("close enough: nobody hears it");
    emit reason->editingFinished();
    EXPECT_EQ(session->remake().element(ElementId(session->remake().notebook->rows[0].id)).reason, "close enough: nobody hears it");
    QTimer::singleShot(60, [] {
        auto* dialog = window->findChild<QDialog*>("research");
        ASSERT_TRUE(dialog);
        dialog->findChild<QPlainTextEdit*>("words")->setPlainText("Recorded on the quay");
        dialog->accept();
    });
    key(Qt::Key_I, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(session->remake().notebook->research, "Recorded on the quay");
}

TEST_F(SurveyTest, TimeIsTakenForTheChosenElementWhileSomethingIsDone) {
    select(PartRole::Lead);
    const ElementId lead = session->selection().element();
    const double was = session->documents().spent_s(lead);
    session->transport().seek(5.0);
    session->transport().player().play();
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->documents().spent_s(lead) > was; }, 12000));
    EXPECT_EQ(session->documents().document(), first) << "it is no step of the history";
    // A budget that the next seconds use up is told of, once.
    const double budget_min = (session->documents().spent_s(lead) + 0.1) / 60.0;
    ASSERT_TRUE(session->documents().run(Line("element.note").with("element", "Lead").with("budget", QString::number(budget_min, 'g', 12).toStdString())));
    QStringList told;
    const auto listens = QObject::connect(session, &Session::told, [&](const QString& sentence) { told << sentence; });
    const double then = session->documents().spent_s(lead);
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->documents().spent_s(lead) > then; }, 12000));
    QObject::disconnect(listens);
    session->transport().player().stop();
    ASSERT_EQ(told.size(), 1);
    EXPECT_TRUE(told[0].contains("Lead")) << told[0].toStdString();
    DocumentStore store;
    DocumentStore::Contents contents;
    contents.history.reset(session->documents().document());
    (void)store.exchange(std::move(contents));
    store.spend(lead, 90.0);
    const auto file = std::filesystem::temp_directory_path() / "fakturwerk-time.fakturwerk";
    ASSERT_TRUE(store.save(QString::fromStdString(file.string())));
    const auto saved = load_remake(file);
    ASSERT_TRUE(saved);
    EXPECT_EQ(saved->element(lead).time_spent_s, 90.0) << "and is kept with what is saved";
    std::filesystem::remove(file);
}

TEST_F(SurveyTest, AnElementsTimeIsGivenUsedUpAndItIsCloseEnough) {
    select(PartRole::Bass);
    const ElementId bass = session->selection().element();
    auto* budget = fact<QDoubleSpinBox>("budget");
    EXPECT_EQ(budget->text(), "no end");
    budget->setValue(20.0);
    emit budget->editingFinished();
    EXPECT_EQ(session->remake().element(bass).budget_min, 20.0);
    settle();
    EXPECT_FALSE(fact<QPushButton>("close_enough")) << "nothing is used up yet";
    session->documents().spend(bass, 20.0 * 60.0);
    session->selection().select_element(ElementId::chords());
    session->selection().select_element(bass);
    QTest::mouseClick(fact<QPushButton>("more_time"), Qt::LeftButton);
    EXPECT_EQ(session->remake().element(bass).budget_min, 30.0);
    settle();
    EXPECT_FALSE(fact<QPushButton>("close_enough")) << "there is time again";
    session->documents().undo();
    QTest::mouseClick(fact<QPushButton>("close_enough"), Qt::LeftButton);
    EXPECT_EQ(session->remake().element(bass).state, State::Confirmed);
    EXPECT_EQ(session->remake().element(bass).reason, "close enough for its time");
    settle();
    EXPECT_FALSE(fact<QPushButton>("close_enough"));
    session->documents().undo();
    EXPECT_NE(session->remake().element(bass).state, State::Confirmed);
}

TEST_F(SurveyTest, AQuestionAtAPlaceIsWordedAnewGoneToAndAnswered) {
    select(PartRole::Lead);
    const ElementId lead = session->selection().element();
    ASSERT_TRUE(session->documents().run(
        Line("remark.add").with("kind", "question").with("element", "Lead").with("at", "7.3").with("length", "1/4").with("words", "a grace note?")));
    ASSERT_TRUE(fact<QLineEdit>("question.words"));
    EXPECT_EQ(fact<QLineEdit>("question.words")->text(), "a grace note?");
    QTest::mouseClick(fact<QPushButton>("question.go"), Qt::LeftButton);
    EXPECT_NEAR(session->transport().loop_start(), song().tempo.seconds(bar(7) + 2 * kTicksPerQuarter), 1e-6);
    auto* words = fact<QLineEdit>("question.words");
    words->setText("two notes, or one that is bent?");
    emit words->editingFinished();
    ASSERT_EQ(session->remake().notebook->remarks.size(), 1u);
    EXPECT_EQ(session->remake().notebook->remarks[0].words, "two notes, or one that is bent?");
    EXPECT_EQ(session->remake().notebook->remarks[0].element, lead);
    settle();
    QTest::mouseClick(fact<QPushButton>("question.answered"), Qt::LeftButton);
    EXPECT_TRUE(session->remake().notebook->remarks.empty());
    settle();
    EXPECT_FALSE(fact<QLineEdit>("question.words"));
    session->documents().undo();
    EXPECT_EQ(session->remake().notebook->remarks.size(), 1u);
}

TEST_F(SurveyTest, TheLedgerStandsInWorkingOrderOrByFamilyAndScrollsToWhatIsChosen) {
    Ledger* ledger = window->ledger();
    ASSERT_EQ(ledger->shown(), session->remake().element_ids());
    const int before = ledger->row_rect(5).top();
    QTest::mouseClick(ledger, Qt::LeftButton, {}, {60, 10});
    ASSERT_TRUE(ledger->by_family());
    EXPECT_GT(ledger->row_rect(5).top(), before) << "headings stand between the families";
    const auto ids = ledger->shown();
    EXPECT_EQ(ids[4], ElementId(part(PartRole::Drums)->id)) << "drums stand first among the parts";
    EXPECT_EQ(ids[5], ElementId(part(PartRole::Bass)->id));
    QTest::mouseClick(ledger, Qt::LeftButton, {}, ledger->row_rect(4).center() - QPoint(60, 8));
    EXPECT_EQ(session->selection().element(), ids[4]);
    QTest::keyClick(ledger, Qt::Key_Down);
    EXPECT_EQ(session->selection().element(), ids[5]) << "keys walk as it stands";
    QTest::mouseClick(ledger, Qt::LeftButton, {}, {60, 10});
    ASSERT_FALSE(ledger->by_family());
    // More than fit: the last is reached, and is in view once it is chosen.
    for (int i = 0; i < 12; ++i) ASSERT_TRUE(session->documents().run(Line("row.add").with("name", "Layer " + std::to_string(i))));
    settle();
    const int last = static_cast<int>(ledger->shown().size()) - 1;
    EXPECT_GT(ledger->row_rect(last).bottom(), ledger->parentWidget()->height());
    session->selection().select_element(ledger->shown().back());
    EXPECT_TRUE(QTest::qWaitFor([&] { return ledger->visibleRegion().boundingRect().contains(ledger->row_rect(last).center()); }, 2000));
    session->selection().select_element(ElementId::tempo());
    EXPECT_TRUE(QTest::qWaitFor([&] { return ledger->visibleRegion().boundingRect().contains(ledger->row_rect(0).center()); }, 2000));
}

TEST_F(SurveyTest, PicturesOfTheRecordAreKeptInTheRemakesFile) {
    QTemporaryDir folder;
    const QString file = folder.filePath("desk.png"), text = folder.filePath("letter.png");
    QImage photo(640, 400, QImage::Format_RGB32);
    photo.fill(QColor(120, 60, 30));
    ASSERT_TRUE(photo.save(file));
    {
        QFile wrong(text);
        ASSERT_TRUE(wrong.open(QIODevice::WriteOnly));
        wrong.write("no picture at all");
    }
    {
        RecordNotes notes(*session, window);
        EXPECT_TRUE(notes.add_picture(text)) << "what is no picture is refused with a sentence";
        EXPECT_FALSE(notes.add_picture(file));
        EXPECT_FALSE(notes.add_picture(file));
        auto* shelf = notes.findChild<QListWidget*>("pictures");
        ASSERT_EQ(shelf->count(), 2);
        shelf->item(0)->setText("The desk");
        EXPECT_TRUE(session->remake().notebook->pictures.empty()) << "nothing is done before it is accepted";
        notes.accept();
    }
    ASSERT_EQ(session->remake().notebook->pictures.size(), 2u);
    EXPECT_EQ(session->remake().notebook->pictures[0].words, "The desk");
    EXPECT_FALSE(session->documents().run(Line("picture.add").with("file", folder.filePath("gone.png").toStdString())))
        << "one that is not there is told at once";
    EXPECT_TRUE(window->last_message().contains("gone.png")) << window->last_message().toStdString();
    // From then on it hangs on no file: neither the first saving nor a later one needs it.
    ASSERT_TRUE(QFile::remove(file));
    const auto remake = std::filesystem::path(folder.filePath("a.fakturwerk").toStdString());
    ASSERT_TRUE(save_remake(remake, session->remake()));
    const auto saved = load_remake(remake);
    ASSERT_TRUE(saved);
    QImage kept;
    ASSERT_TRUE(kept.loadFromData(QByteArray::fromStdString(*saved->notebook->pictures[0].bytes)));
    EXPECT_EQ(kept.size(), photo.size()) << "the file it came from is gone, and the picture is there";
    // One is taken away, the other gets words; undo brings both back.
    RecordNotes notes(*session, window);
    auto* shelf = notes.findChild<QListWidget*>("pictures");
    shelf->setCurrentRow(0);
    QTest::mouseClick(notes.findChild<QPushButton*>("remove picture"), Qt::LeftButton);
    ASSERT_EQ(shelf->count(), 1);
    shelf->item(0)->setText("The other desk");
    notes.accept();
    ASSERT_EQ(session->remake().notebook->pictures.size(), 1u);
    EXPECT_EQ(session->remake().notebook->pictures[0].words, "The other desk");
    session->documents().undo();
    EXPECT_EQ(session->remake().notebook->pictures.size(), 2u);
}

}  // namespace fw::app
