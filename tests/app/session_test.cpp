// SPDX-License-Identifier: GPL-3.0-or-later
// What a session does with files, full disks and drops, in a window of its own.
#include "app/desks.hpp"
#include "app/main_window.hpp"
#include "formats/remake_file.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <QApplication>
#include <QDropEvent>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QSettings>
#include <QTest>
#include <csignal>
#include <fstream>
#include <gtest/gtest.h>
#include <sys/resource.h>

namespace fw::app {

namespace {

struct Rig {
    Rig() : session(std::make_unique<SimulatedOutput>(44100.0)), window(session) { window.show(); }
    bool wait_for_document() {
        return QTest::qWaitFor([this] { return session.has_reference() && !session.busy(); }, 60000);
    }
    Session session;
    MainWindow window;
    test::TemporaryFolder folder;
};

/// Ten seconds of a little tune with clicks, so that there are beats and notes.
Audio tune() {
    std::vector<test::Tone> list;
    for (int i = 0; i < 20; ++i) list.push_back({0.5 + i * 0.5, 0.45, 48 + (i * 5) % 17});
    Audio a = test::tones(list, 11);
    std::vector<double> beats;
    for (int i = 0; i < 20; ++i) beats.push_back(0.5 + i * 0.5);
    const Audio c = test::clicks(beats, 11);
    for (std::size_t i = 0; i < a.samples.size(); ++i) a.samples[i] += 0.5F * c.samples[i];
    return a;
}

}  // namespace

TEST(EmptyWindow, SaysWhatToDoAndSurvivesEveryCommand) {
    Rig rig;
    EXPECT_FALSE(rig.session.has_reference());
    for (int d = 0; d < 5; ++d) {
        rig.window.show_desk(static_cast<Desk>(d));
        QCoreApplication::processEvents();
        rig.window.grab();
        // Every key that means something, with nothing open.
        for (const auto key : {Qt::Key_Space, Qt::Key_F, Qt::Key_L, Qt::Key_T, Qt::Key_Home, Qt::Key_B, Qt::Key_Delete, Qt::Key_Up, Qt::Key_Q}) QTest::keyClick(&rig.window, key);
        for (const auto key : {Qt::Key_H, Qt::Key_D, Qt::Key_K, Qt::Key_M, Qt::Key_Z}) QTest::keyClick(&rig.window, key, Qt::ControlModifier);
    }
    EXPECT_FALSE(rig.session.player().playing());
    EXPECT_TRUE(rig.window.close()) << "nothing is open, so nothing is asked";
}

TEST(DropTest, ARecordingDroppedOnTheWindowIsOpened) {
    Rig rig;
    ASSERT_TRUE(write_audio(rig.folder / "tune.wav", tune()));
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(QString::fromStdString((rig.folder / "tune.wav").string()))});
    QDragEnterEvent enter({400, 300}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&rig.window, &enter);
    EXPECT_TRUE(enter.isAccepted());
    QDropEvent drop({400, 300}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&rig.window, &drop);
    ASSERT_TRUE(rig.wait_for_document());
    EXPECT_NEAR(rig.session.remake().reference.duration_s, 11.0, 0.01);
    EXPECT_TRUE(rig.session.unsaved()) << "a new draft has never been saved";
    // It is remembered among the recent files.
    EXPECT_TRUE(QSettings().value("recent").toStringList().first().endsWith("tune.wav"));
    rig.session.save(QString::fromStdString((rig.folder / "tune.fakturwerk").string()));
}

TEST(SaveTest, AFullDiskIsToldAndTheOldFileStaysWhole) {
    Rig rig;
    ASSERT_TRUE(write_audio(rig.folder / "tune.wav", tune()));
    rig.window.open(QString::fromStdString((rig.folder / "tune.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    const QString file = QString::fromStdString((rig.folder / "tune.fakturwerk").string());
    ASSERT_TRUE(rig.session.save(file));
    const auto before = load_remake(rig.folder / "tune.fakturwerk");
    ASSERT_TRUE(before);
    rig.session.edit(set_key(rig.session.remake(), 0, {3, Mode::Lydian}), "Set key");
    // A limit on file sizes fails writes as a full disk does.
    rlimit was{};
    getrlimit(RLIMIT_FSIZE, &was);
    std::signal(SIGXFSZ, SIG_IGN);
    const rlimit tight{512, was.rlim_max};
    setrlimit(RLIMIT_FSIZE, &tight);
    const bool saved = rig.session.save(file);
    setrlimit(RLIMIT_FSIZE, &was);
    EXPECT_FALSE(saved);
    EXPECT_TRUE(rig.window.last_message().contains("disk is full")) << rig.window.last_message().toStdString();
    EXPECT_TRUE(rig.session.unsaved());
    const auto after = load_remake(rig.folder / "tune.fakturwerk");
    ASSERT_TRUE(after);
    EXPECT_EQ(after->keys, before->keys);
    ASSERT_TRUE(rig.session.save(file)) << "with room again it works";
    EXPECT_EQ(load_remake(rig.folder / "tune.fakturwerk")->keys[0].key, (Key{3, Mode::Lydian}));
}

TEST(OpenTest, ATruncatedRecordingIsUsedAsFarAsItGoesAndSaidSo) {
    Rig rig;
    Audio a = tune();
    unsigned n = 3;
    for (float& s : a.samples) n = n * 1664525u + 1013904223u, s += 0.02F * (static_cast<float>(n >> 8) / 8388608.0F - 1.0F);
    ASSERT_TRUE(write_audio(rig.folder / "cut.flac", a));
    std::filesystem::resize_file(rig.folder / "cut.flac", std::filesystem::file_size(rig.folder / "cut.flac") * 2 / 3);
    rig.window.open(QString::fromStdString((rig.folder / "cut.flac").string()));
    ASSERT_TRUE(rig.wait_for_document());
    EXPECT_TRUE(QTest::qWaitFor([&] { return rig.window.last_message().contains("cut.flac"); }, 2000));
    EXPECT_LT(rig.session.remake().reference.duration_s, 9.0);
    rig.session.save(QString::fromStdString((rig.folder / "x.fakturwerk").string()));
}

TEST(OpenTest, ARemakeFromTheFutureIsRefusedWithASentence) {
    Rig rig;
    std::string text = remake_to_json(test::small_remake());
    text.replace(text.find("remake/1"), 8, "remake/9");
    const auto r = remake_from_json(text, "later.fakturwerk");
    ASSERT_FALSE(r);
    EXPECT_NE(r.error().message().find("newer version"), std::string::npos);
}

TEST(HandOffTest, StoppingLeavesAMessageAndTheDeskUsable) {
    Rig rig;
    ASSERT_TRUE(write_audio(rig.folder / "tune.wav", tune()));
    rig.window.open(QString::fromStdString((rig.folder / "tune.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    bool done = false, ok = true;
    QString sentence;
    QObject::connect(rig.window.hand_off(), &HandOffDesk::done, [&](bool o, const QString& s) { done = true, ok = o, sentence = s; });
    rig.window.hand_off()->deliver("/proc/nowhere/hand-off");
    ASSERT_TRUE(QTest::qWaitFor([&] { return done; }, 30000));
    EXPECT_FALSE(ok);
    EXPECT_TRUE(sentence.contains("/proc/nowhere"));
    done = false;
    rig.window.hand_off()->deliver(QString::fromStdString((rig.folder / "out").string()));
    ASSERT_TRUE(QTest::qWaitFor([&] { return done; }, 60000));
    EXPECT_TRUE(ok) << sentence.toStdString();
    rig.session.save(QString::fromStdString((rig.folder / "x.fakturwerk").string()));
}

TEST(MenuTest, EveryShortcutIsUsedOnce) {
    Rig rig;
    std::map<QString, QString> seen;
    for (const QAction* menu : rig.window.menuBar()->actions())
        for (const QAction* a : menu->menu()->actions()) {
            if (a->shortcut().isEmpty()) continue;
            const QString keys = a->shortcut().toString();
            EXPECT_FALSE(seen.contains(keys)) << keys.toStdString() << " means both " << a->text().toStdString() << " and " << seen[keys].toStdString();
            seen[keys] = a->text();
        }
    EXPECT_GT(seen.size(), 25u);
}

}  // namespace fw::app
