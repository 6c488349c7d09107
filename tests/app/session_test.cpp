// SPDX-License-Identifier: GPL-3.0-or-later
// What a session does with files, full disks and drops, in a window of its own.
#include "app/desks.hpp"
#include "app/main_window.hpp"
#include "app/theme.hpp"
#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"
#include "support/float_wav.hpp"
#include "support/remakes.hpp"
#include "support/signals.hpp"

#include <gtest/gtest.h>
#include <sys/resource.h>
#include <zip.h>
#include <QAbstractButton>
#include <QApplication>
#include <QDialog>
#include <QDropEvent>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QTest>
#include <QTimer>
#include <csignal>
#include <fstream>
#include <limits>
#include <set>
#include <stdexcept>

namespace fw::app {

namespace {

struct Rig {
    Rig() : session(std::make_unique<SimulatedOutput>(44100.0)), window(session) { window.show(); }
    bool wait_for_document() {
        return QTest::qWaitFor([this] { return session.has_reference() && !session.busy(); }, 900000);
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

/// A window with a tune open that was heard just now, in a store of its own.
struct TuneOpened : Rig {
    TuneOpened() {
        session.set_evidence_store(EvidenceStore(folder / "evidence"));
        EXPECT_TRUE(write_audio(file, tune()));
        session.open_recording(QString::fromStdString(file.string()));
        EXPECT_TRUE(wait_for_document());
    }
    std::filesystem::path file = folder / "tune.wav";
};

TEST(KnownRecording, IsThereBeforeItsSoundAndTheSoundFollows) {
    TuneOpened rig;
    const auto first = rig.session.recording().analysis;
    const QString remake = QString::fromStdString((rig.folder / "tune.fakturwerk").string());
    ASSERT_TRUE(rig.session.documents().save(remake));

    std::vector<bool> sound_there;  // at each time an analysis was shown
    const auto watch = QObject::connect(&rig.session, &Session::analysis_changed, [&] { sound_there.push_back(rig.session.recording().sound != nullptr); });
    rig.session.open_remake(remake);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !sound_there.empty() && rig.session.recording().sound; }, 60000));
    EXPECT_EQ(sound_there, std::vector<bool>{false}) << "what is shown stays as it is when the sound comes";
    ASSERT_TRUE(rig.wait_for_document());
    QObject::disconnect(watch);
    EXPECT_EQ(rig.session.recording().analysis->notes.size(), first->notes.size());
    EXPECT_FALSE(rig.session.documents().unsaved());
    EXPECT_GT(rig.session.recording().summary.lufs, -60.0);
    ASSERT_TRUE(QTest::qWaitFor([&] { return rig.session.rebuild_is_current(); }, 60000)) << "and the rebuild is compared with it";
}

TEST(KnownRecording, ThatSoundsOtherwiseThanItWasKnownIsToldAndListenedToAnew) {
    TuneOpened rig;
    const auto file = rig.file;
    // Other sound under the same outside: written in place, of the same size, and its time put back.
    const auto when = std::filesystem::last_write_time(file);
    Audio other = tune();
    for (float& s : other.samples) s *= 0.5F;
    const auto spare = rig.folder / "other.wav";
    ASSERT_TRUE(write_audio(spare, other));
    ASSERT_EQ(std::filesystem::file_size(spare), std::filesystem::file_size(file));
    {
        std::ifstream from(spare, std::ios::binary);
        std::fstream to(file, std::ios::binary | std::ios::in | std::ios::out);
        to << from.rdbuf();
    }
    std::filesystem::last_write_time(file, when);
    QStringList told;
    QObject::connect(&rig.session, &Session::failed, [&](const QString& s) { told << s; });
    rig.session.open_recording(QString::fromStdString(file.string()));
    ASSERT_TRUE(QTest::qWaitFor([&] { return !told.isEmpty() && !rig.session.busy(); }, 60000));
    EXPECT_TRUE(told.join(' ').contains("tune.wav")) << told.join(' ').toStdString();
    EXPECT_EQ(rig.session.recording().sound, nullptr) << "what is shown is not passed off as what would be heard";
    rig.session.open_recording(QString::fromStdString(file.string()));
    ASSERT_TRUE(QTest::qWaitFor([&] { return rig.session.recording().sound && !rig.session.busy(); }, 60000)) << "nobody is locked out";
}

TEST(EmptyWindow, PaintsEveryDeskAndSurvivesEveryCommandThatOpensNoDialog) {
    Rig rig;
    EXPECT_FALSE(rig.session.has_reference());
    const bool night = theme().night;
    int commands = 0;
    for (int d = 0; d < 5; ++d) {
        rig.window.show_desk(static_cast<Desk>(d));
        QCoreApplication::processEvents();
        EXPECT_FALSE(rig.window.grab().isNull());
        for (const QAction* menu : rig.window.menuBar()->actions())
            for (QAction* a : menu->menu()->actions()) {
                const QString text = a->text().remove('&');
                if (a->menu() || text.isEmpty() || text.contains("…") || text == "Quit" || text == "Shortcuts" || text.startsWith("About")) continue;
                a->trigger();
                ++commands;
                rig.window.show_desk(static_cast<Desk>(d));
                QCoreApplication::processEvents();
            }
    }
    set_night(night);
    EXPECT_GT(commands, 5 * 20);
    EXPECT_FALSE(rig.session.transport().player().playing());
    EXPECT_FALSE(rig.session.documents().history().can_undo()) << "nothing was changed where there is nothing";
    EXPECT_TRUE(rig.window.last_message().contains("open a recording or a remake first")) << rig.window.last_message().toStdString();
    EXPECT_TRUE(rig.window.close()) << "nothing is open, so nothing is asked";
}

TEST(OpenTest, EverythingOddAboutAFileIsToldOnceItIsOpen) {
    Rig rig;
    const Audio one = test::tones({{0.5, 1.0, 60}, {2.0, 1.0, 64}}, 4, 0.0, 8000);
    Audio three{8000, 3, {}, {}};
    for (std::size_t f = 0; f < static_cast<std::size_t>(one.frames()); ++f)
        for (int c = 0; c < 3; ++c) three.samples.push_back(one.samples[f * static_cast<std::size_t>(one.channels)]);
    ASSERT_TRUE(write_audio(rig.folder / "odd.wav", three));
    rig.window.open(QString::fromStdString((rig.folder / "odd.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    for (const ErrorCode remark : {ErrorCode::AudioManyChannels, ErrorCode::AudioLowRate}) {
        const QString sentence = QString::fromStdString(Error{remark, (rig.folder / "odd.wav").string(), {}}.message());
        EXPECT_TRUE(QTest::qWaitFor([&] { return rig.window.last_message().contains(sentence); }, 20000)) << sentence.toStdString();
    }
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
    EXPECT_TRUE(rig.session.documents().unsaved()) << "a new draft has never been saved";
    // It is remembered among the recent files.
    EXPECT_TRUE(QSettings().value("recent").toStringList().first().endsWith("tune.wav"));
    rig.session.documents().save(QString::fromStdString((rig.folder / "tune.fakturwerk").string()));
}

TEST(SaveTest, AFullDiskIsToldAndTheOldFileStaysWhole) {
    Rig rig;
    ASSERT_TRUE(write_audio(rig.folder / "tune.wav", tune()));
    rig.window.open(QString::fromStdString((rig.folder / "tune.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    const QString file = QString::fromStdString((rig.folder / "tune.fakturwerk").string());
    ASSERT_TRUE(rig.session.documents().save(file));
    const auto before = load_remake(rig.folder / "tune.fakturwerk");
    ASSERT_TRUE(before);
    rig.session.documents().edit(set_key(rig.session.remake(), 0, {3, Mode::Lydian}), "Set key");
    // A limit on file sizes fails writes as a full disk does.
    rlimit was{};
    getrlimit(RLIMIT_FSIZE, &was);
    std::signal(SIGXFSZ, SIG_IGN);
    const rlimit tight{512, was.rlim_max};
    setrlimit(RLIMIT_FSIZE, &tight);
    const bool saved = rig.session.documents().save(file);
    setrlimit(RLIMIT_FSIZE, &was);
    EXPECT_FALSE(saved);
    EXPECT_TRUE(rig.window.last_message().contains("disk is full")) << rig.window.last_message().toStdString();
    EXPECT_TRUE(rig.session.documents().unsaved());
    const auto after = load_remake(rig.folder / "tune.fakturwerk");
    ASSERT_TRUE(after);
    EXPECT_EQ(after->song->keys, before->song->keys);
    ASSERT_TRUE(rig.session.documents().save(file)) << "with room again it works";
    EXPECT_EQ(load_remake(rig.folder / "tune.fakturwerk")->song->keys[0].key, (Key{3, Mode::Lydian}));
}

TEST(OpenTest, ATruncatedRecordingIsUsedAsFarAsItGoesAndSaidSo) {
    Rig rig;
    test::write_truncated(rig.folder / "cut.flac", tune(), 0.67);
    rig.window.open(QString::fromStdString((rig.folder / "cut.flac").string()));
    ASSERT_TRUE(rig.wait_for_document());
    EXPECT_TRUE(QTest::qWaitFor([&] { return rig.window.last_message().contains("cut.flac"); }, 2000));
    EXPECT_LT(rig.session.remake().reference.duration_s, 9.0);
    rig.session.documents().save(QString::fromStdString((rig.folder / "x.fakturwerk").string()));
}

TEST(OpenTest, ARemakeFromTheFutureIsRefusedWithASentence) {
    Rig rig;
    std::string text = remake_to_json(test::small_remake());
    text.replace(text.find("remake/2"), 8, "remake/9");
    const std::string path = (rig.folder / "later.fakturwerk").string();
    zip_t* zip = zip_open(path.c_str(), ZIP_CREATE, nullptr);
    ASSERT_TRUE(zip);
    zip_file_add(zip, "remake.json", zip_source_buffer(zip, text.data(), text.size(), 0), 0);
    ASSERT_EQ(zip_close(zip), 0);
    rig.window.open(QString::fromStdString(path));
    ASSERT_TRUE(QTest::qWaitFor([&] { return rig.window.last_message().contains("newer version"); }, 5000)) << rig.window.last_message().toStdString();
    EXPECT_TRUE(rig.window.last_message().contains("later.fakturwerk"));
    EXPECT_FALSE(rig.session.has_reference());
}

TEST(OpenTest, UnusualRecordingsOpenWithASentence) {
    const auto channels = [](const Audio& mono, int count, int rate) {
        Audio out{rate, count, {}, {}};
        for (std::size_t f = 0; f < static_cast<std::size_t>(11 * rate); ++f)
            for (int c = 0; c < count; ++c) out.samples.push_back(mono.samples[f * 44100 / static_cast<std::size_t>(rate)]);
        return out;
    };
    Audio broken = tune();
    for (std::size_t i = 7; i < broken.samples.size(); i += 5000)
        broken.samples[i] = i % 2 ? std::numeric_limits<float>::quiet_NaN() : std::numeric_limits<float>::infinity();
    for (const auto& [name, sound] : {std::pair{"low.wav", channels(tune(), 1, 8000)},
                                      {"high.wav", channels(tune(), 2, 192000)},
                                      {"six.wav", channels(tune(), 6, 48000)},
                                      {"nan.wav", broken}}) {
        Rig rig;
        test::write_float_wav(rig.folder / name, sound);
        rig.window.open(QString::fromStdString((rig.folder / name).string()));
        ASSERT_TRUE(rig.wait_for_document()) << name;
        EXPECT_TRUE(QTest::qWaitFor([&] { return rig.window.last_message().contains(name); }, 2000)) << name << ": " << rig.window.last_message().toStdString();
        EXPECT_NEAR(rig.session.remake().reference.duration_s, 11.0, 0.05);
        EXPECT_FALSE(rig.session.remake().parts.empty()) << name;
        ASSERT_TRUE(rig.session.documents().save(QString::fromStdString((rig.folder / "x.fakturwerk").string())));
    }
}

TEST(MidiTest, PartsAreAddedFromAFileAndTakenBackAndABrokenFileIsToldOf) {
    Rig rig;
    ASSERT_TRUE(write_audio(rig.folder / "tune.wav", tune()));
    ASSERT_TRUE(write_midi(rig.folder / "parts.mid", test::small_remake()));
    std::filesystem::copy_file(rig.folder / "parts.mid", rig.folder / "cut.mid");
    std::filesystem::resize_file(rig.folder / "cut.mid", 100);
    const auto drop = [&](const char* name, bool accept) {
        // The dialog asks where the file begins; the offer (bar 1) is taken.
        QTimer answer;  // goes with this drop: where no dialog comes, none is answered
        QObject::connect(&answer, &QTimer::timeout, &rig.window, [accept] {
            if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget())) QTest::keyClick(dialog, accept ? Qt::Key_Return : Qt::Key_Escape);
        });
        answer.start(150);
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(QString::fromStdString((rig.folder / name).string()))});
        QDragEnterEvent enter({400, 300}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&rig.window, &enter);
        QDropEvent event({400, 300}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&rig.window, &event);
    };
    drop("parts.mid", true);
    EXPECT_TRUE(rig.window.last_message().contains("open its recording")) << "with no song open there is nothing to add to";
    rig.window.open(QString::fromStdString((rig.folder / "tune.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    const auto before = rig.session.documents().document();
    drop("cut.mid", true);
    EXPECT_TRUE(rig.window.last_message().contains("cut.mid")) << rig.window.last_message().toStdString();
    EXPECT_EQ(rig.session.documents().document(), before);
    drop("parts.mid", false);
    EXPECT_EQ(rig.session.documents().document(), before) << "cancelled";
    drop("parts.mid", true);
    ASSERT_EQ(rig.session.remake().parts.size(), before->parts.size() + 2);
    const Part& bass = *rig.session.remake().parts[before->parts.size()];
    EXPECT_EQ(bass.name, "Bass");
    EXPECT_EQ(rig.session.selection().part(), &bass);
    EXPECT_EQ(rig.session.remake().element(bass.id).state, State::Draft);
    // The file says that it begins half a second into its recording, which the dialog offers; its first note comes at once.
    EXPECT_NEAR(rig.session.remake().song->tempo.seconds(placed_notes(bass).front().note.start), 0.5, 0.001);
    EXPECT_EQ(placed_notes(bass).front().note.origin, Origin::Imported);
    rig.session.documents().undo();
    EXPECT_EQ(rig.session.documents().document()->parts.size(), before->parts.size());
    rig.session.documents().save(QString::fromStdString((rig.folder / "x.fakturwerk").string()));
}

TEST(HandOffTest, StoppingSaysSoLeavesNoHalfFileAndTheDeskUsable) {
    Rig rig;
    ASSERT_TRUE(write_audio(rig.folder / "tune.wav", tune()));
    rig.window.open(QString::fromStdString((rig.folder / "tune.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    // So long that the hand-off is still at it when it is stopped.
    Remake longer = rig.session.remake();
    longer.reference.duration_s = 1800;
    rig.session.documents().edit(longer, "Lengthen");
    bool done = false, ok = true;
    QString sentence;
    QObject::connect(rig.window.hand_off(), &HandOffDesk::done, [&](bool o, const QString& s) { done = true, ok = o, sentence = s; });
    rig.window.show_desk(Desk::HandOff);
    auto* stop = rig.window.hand_off()->findChild<QPushButton*>("stop");
    ASSERT_TRUE(stop);
    EXPECT_FALSE(stop->isEnabled());
    rig.window.hand_off()->deliver(QString::fromStdString((rig.folder / "out").string()));
    QTest::qWait(100);
    QTest::mouseClick(stop, Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return done; }, 30000));
    EXPECT_FALSE(ok);
    EXPECT_TRUE(sentence.startsWith("Stopped before")) << sentence.toStdString();
    EXPECT_TRUE(std::filesystem::is_empty(rig.folder / "out"));
    rig.session.documents().undo();
    done = false;
    rig.window.hand_off()->deliver(QString::fromStdString((rig.folder / "out").string()));
    ASSERT_TRUE(QTest::qWaitFor([&] { return done; }, 900000));
    EXPECT_TRUE(ok) << sentence.toStdString();
    EXPECT_TRUE(std::filesystem::exists(rig.folder / "out" / "check.json"));
    rig.session.documents().save(QString::fromStdString((rig.folder / "x.fakturwerk").string()));
}

TEST(HandOffTest, AFolderThatCannotBeWrittenOrHoldsTheOriginalIsToldAndNothingIsLost) {
    Rig rig;
    // The original has the very name the mix would get.
    ASSERT_TRUE(write_audio(rig.folder / "mix.wav", tune()));
    rig.window.open(QString::fromStdString((rig.folder / "mix.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    bool done = false, ok = true;
    QString sentence;
    QObject::connect(rig.window.hand_off(), &HandOffDesk::done, [&](bool o, const QString& s) { done = true, ok = o, sentence = s; });
    for (const auto& [folder, words] :
         {std::pair{std::string("/proc/nowhere/hand-off"), "/proc/nowhere"}, {rig.folder.path().string(), "nothing was written over it"}}) {
        done = false;
        rig.window.hand_off()->deliver(QString::fromStdString(folder));
        ASSERT_TRUE(QTest::qWaitFor([&] { return done; }, 30000));
        EXPECT_FALSE(ok);
        EXPECT_TRUE(sentence.contains(words)) << sentence.toStdString();
    }
    EXPECT_TRUE(read_audio(rig.folder / "mix.wav"));
    EXPECT_FALSE(rig.session.documents().save(QString::fromStdString((rig.folder / "mix.wav").string()))) << "nor does saving";
    rig.session.documents().save(QString::fromStdString((rig.folder / "x.fakturwerk").string()));
}

TEST(SessionTest, WhatAJobThrowsIsASentenceAndTheWindowLivesOn) {
    Rig rig;
    ASSERT_TRUE(write_audio(rig.folder / "tune.wav", tune()));
    rig.window.open(QString::fromStdString((rig.folder / "tune.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    const auto before = rig.session.documents().document();
    rig.session.start_job("the great work", [](const Progress&, int) -> Status { throw std::runtime_error("the roof fell in"); });
    ASSERT_TRUE(QTest::qWaitFor([&] { return !rig.session.busy(); }, 30000));
    QCoreApplication::processEvents();
    EXPECT_TRUE(rig.window.last_message().contains("the great work (the roof fell in)")) << rig.window.last_message().toStdString();
    EXPECT_EQ(rig.session.documents().document(), before);
    rig.session.documents().edit(rename_section(rig.session.remake(), rig.session.remake().song->sections[0].id, "still here"), "Rename");
    EXPECT_TRUE(rig.session.documents().history().can_undo());
    rig.session.documents().save(QString::fromStdString((rig.folder / "x.fakturwerk").string()));
}

TEST(SessionTest, AnEditWhoseResultWouldBeNoRemakeIsRefusedWithAReason) {
    Rig rig;
    ASSERT_TRUE(write_audio(rig.folder / "tune.wav", tune()));
    rig.window.open(QString::fromStdString((rig.folder / "tune.wav").string()));
    ASSERT_TRUE(rig.wait_for_document());
    // Again and again, as a key that stuck would.
    for (int i = 0; i < 40; ++i) QTest::keyClick(&rig.window, Qt::Key_D, Qt::ControlModifier);
    EXPECT_TRUE(rig.window.last_message().contains("was not done, because afterwards the tempo")) << rig.window.last_message().toStdString();
    EXPECT_LT(rig.session.remake().song->tempo.bpm_at(0), 2001.0);
    EXPECT_GT(rig.session.remake().song->tempo.bpm_at(0), 900.0);
    rig.session.documents().save(QString::fromStdString((rig.folder / "x.fakturwerk").string()));
}

TEST(MenuTest, EveryShortcutIsUsedOnce) {
    Rig rig;
    std::map<QString, QString> seen;
    const auto use = [&](const QKeySequence& keys, const QString& by) {
        if (keys.isEmpty()) return;
        EXPECT_FALSE(seen.contains(keys.toString())) << keys.toString().toStdString() << " means both " << by.toStdString() << " and "
                                                     << seen[keys.toString()].toStdString();
        seen[keys.toString()] = by;
    };
    for (const QAction* a : rig.window.findChildren<QAction*>()) use(a->shortcut(), a->text());
    for (const QAbstractButton* b : rig.window.findChildren<QAbstractButton*>()) use(b->shortcut(), b->text());
    EXPECT_GT(seen.size(), 25u);
}

TEST(MenuTest, EveryCommandIsInAMenuAndItsKeysStandInTooltips) {
    Rig rig;
    std::set<const QAction*> in_menus;
    for (const QAction* menu : rig.window.menuBar()->actions())
        for (const QAction* a : menu->menu()->actions()) in_menus.insert(a);
    for (const WindowCommand& c : rig.window.commands().all()) {
        if (std::string(c.id) == "message.dismiss") continue;  // it is a button where there is something to dismiss
        EXPECT_TRUE(in_menus.contains(rig.window.commands().action(c.id))) << c.id;
    }
    QStringList tips;
    for (const QWidget* w : rig.window.findChildren<QWidget*>()) tips << w->toolTip();
    for (const char* id : {"listen.play", "listen.loop", "listen.flip", "listen.turns", "note.reach", "check.remedy", "desk.check"}) {
        const QString keys = "(" + rig.window.commands().action(id)->shortcut().toString(QKeySequence::NativeText) + ")";
        EXPECT_FALSE(tips.filter(keys).isEmpty()) << id << " " << keys.toStdString();
    }
    QStringList told;
    QObject::connect(&rig.session, &Session::failed, [&](const QString& s) { told << s; });
    rig.window.commands().action("check.remedy")->trigger();
    EXPECT_TRUE(told.join(' ').contains("nothing to check yet")) << told.join(' ').toStdString();
}

}  // namespace fw::app
