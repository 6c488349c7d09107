// SPDX-License-Identifier: GPL-3.0-or-later
// Work that was not saved when the program ended.
#include "fixture.hpp"

#include "app/recovery.hpp"
#include "formats/remake_file.hpp"

#include <QAbstractButton>
#include <QDir>
#include <QMessageBox>
#include <QTemporaryDir>

namespace fw::app {

using RecoveryTest = WindowTest;

TEST_F(RecoveryTest, WorkThatWasNotSavedIsThereAgain) {
    QTemporaryDir folder;
    std::shared_ptr<const Remake> lost;
    {
        Recovery recovery(*session, folder.path());
        EXPECT_TRUE(recovery.left_behind().empty());
        run("part.rename part=Bass name=Keel");
        lost = session->documents().document();
        EXPECT_TRUE(recovery.keep_now());
        Recovery another(*session, folder.path());
        EXPECT_TRUE(another.left_behind().empty()) << "what another program works on is no loss";
    }
    Recovery next(*session, folder.path());
    const auto left = next.left_behind();
    ASSERT_GE(left.size(), 1u);
    const auto kept = load_remake(left.front().copy.toStdString());
    ASSERT_TRUE(kept);
    EXPECT_EQ(*kept, *lost);
    for (const auto& l : left) next.throw_away(l);
    EXPECT_TRUE(next.left_behind().empty());
    next.give_up();
}

TEST_F(RecoveryTest, ItIsOfferedOpenedAsUnsavedWhereItBelongsAndItsCopyGoesOnceItIsSaved) {
    QTemporaryDir folder;
    const QString file = folder.filePath("ferry.fakturwerk");
    std::shared_ptr<const Remake> lost;
    {
        Recovery recovery(*session, folder.filePath("copies"));
        ASSERT_TRUE(session->documents().save(file));
        run("part.rename part=Bass name=Keel");
        lost = session->documents().document();
    }  // ended without being asked: what is unsaved stays
    Session other(std::make_unique<SimulatedOutput>(44100.0));
    MainWindow fresh(other);
    fresh.show();
    Recovery next(other, folder.filePath("copies"));
    fresh.offer(next);
    auto* box = fresh.findChild<QMessageBox*>("recovery");
    ASSERT_TRUE(box);
    EXPECT_TRUE(box->text().contains("ferry.fakturwerk")) << box->text().toStdString();
    for (QAbstractButton* b : box->buttons())
        if (b->text() == "Open it") b->click();
    ASSERT_TRUE(QTest::qWaitFor([&] { return other.has_reference() && !other.busy(); }, 60000));
    EXPECT_EQ(other.remake().parts.front()->name, "Keel");
    EXPECT_EQ(other.documents().file(), file) << "it belongs where it was saved last";
    EXPECT_TRUE(other.documents().unsaved());
    EXPECT_TRUE(next.left_behind().empty()) << "it is taken up";
    ASSERT_TRUE(other.documents().save(file));
    QCoreApplication::processEvents();
    EXPECT_TRUE(QDir(folder.filePath("copies")).entryList({"*.fakturwerk"}).isEmpty());
    const auto saved = load_remake(file.toStdString());
    ASSERT_TRUE(saved);
    EXPECT_EQ(saved->parts.front()->name, "Keel");
}

TEST_F(RecoveryTest, ACopyThatCannotBeOpenedIsNotLostByWhatIsOpenedInstead) {
    QTemporaryDir folder;
    const QString copies = folder.filePath("copies");
    Remake homeless = session->remake();
    homeless.reference.path = "/nowhere/at-all.wav";
    QDir().mkpath(copies);
    const QString copy = copies + "/left.fakturwerk";
    ASSERT_TRUE(save_remake(copy.toStdString(), homeless));
    Session other(std::make_unique<SimulatedOutput>(44100.0));
    Recovery recovery(other, copies);
    ASSERT_EQ(recovery.left_behind().size(), 1u);
    recovery.open(recovery.left_behind().front());
    QString wanted;
    QObject::connect(&other, &Session::reference_wanted, [&](const QString& path, const QString&) { wanted = path; });
    ASSERT_TRUE(QTest::qWaitFor([&] { return !wanted.isEmpty() && !other.busy(); }, 30000));
    other.open_recording(QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
    ASSERT_TRUE(QTest::qWaitFor([&] { return other.has_reference() && !other.busy(); }, 60000));
    EXPECT_TRUE(QFile::exists(copy));
    EXPECT_EQ(recovery.left_behind().size(), 1u) << "and is offered again";
}

TEST_F(RecoveryTest, WhatIsGivenUpLeavesNothing) {
    QTemporaryDir folder;
    {
        Recovery recovery(*session, folder.path());
        run("part.rename part=Bass name=Keel");
        ASSERT_TRUE(recovery.keep_now());
        recovery.give_up();
    }
    EXPECT_TRUE(QDir(folder.path()).entryList(QDir::Files).isEmpty());
}

}  // namespace fw::app
