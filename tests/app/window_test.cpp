// SPDX-License-Identifier: GPL-3.0-or-later
// The real window on the demo, driven by mouse and keyboard, with the simulated audio device listening.
#include "fixture.hpp"
#include "support/remakes.hpp"

#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"

#include <sys/stat.h>
#include <QApplication>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFontMetrics>
#include <QHash>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>
#include <fstream>

namespace fw::app {

namespace {

double channel_energy(const std::vector<float>& s, int channel) {
    double sum = 0;
    for (std::size_t i = static_cast<std::size_t>(channel); i < s.size(); i += 2) sum += s[i] * s[i];
    return sum;
}

}  // namespace

TEST_F(WindowTest, FlippingTheSourceIsHeardAtTheSamePlaceInTheDevice) {
    session->transport().set_loudness_match(false);
    session->transport().seek(20.0);
    QTest::keyClick(window, Qt::Key_Space);
    ASSERT_TRUE(session->transport().player().playing());
    QTest::qWait(500);
    auto heard = output->captured(8000);
    // The original's own samples must be among what the device was given.
    const Audio& original = *session->recording().sound;
    const auto place = [&](const std::vector<float>& block, const Audio& source, double around_s) {
        double best = 1e9;
        const auto from = static_cast<std::size_t>((around_s - 1.5) * 44100), to = static_cast<std::size_t>((around_s + 1.5) * 44100);
        for (std::size_t f = from; f < to; ++f) {
            double off = 0;
            for (std::size_t i = 0; i < 64 && off < best; ++i) off += std::abs(source.samples[2 * (f + i)] - block[2 * i]);
            best = std::min(best, off);
        }
        return best;
    };
    EXPECT_LT(place(heard, original, session->transport().position_s()), 0.05);
    const double before = session->transport().position_s();
    QTest::keyClick(window, Qt::Key_F);
    EXPECT_EQ(session->transport().player().source(), Source::Rebuild);
    QTest::qWait(400);
    heard = output->captured(4000);
    EXPECT_GT(place(heard, original, session->transport().position_s()), 0.2) << "the original is gone";
    EXPECT_GT(channel_energy(heard, 0), 0.01) << "and the rebuild sounds";
    EXPECT_NEAR(session->transport().position_s() - before, 0.4, 0.35) << "the transport ran on";
    QTest::keyClick(window, Qt::Key_Space);
    EXPECT_FALSE(session->transport().player().playing());
    EXPECT_TRUE(QTest::qWaitFor([] { return channel_energy(output->captured(1000), 0) < 1e-6; }, 2000));
    session->transport().set_loudness_match(true);
}

TEST_F(WindowTest, TheDownbeatIsSetAtTheCursorAndTheTempoReadTwiceAsFast) {
    const Remake& r = session->remake();
    const double second_beat = r.song->tempo.seconds(r.song->meter.tick_of_bar(5) + r.song->meter.at_bar(5).beat_ticks());
    // A click on the page puts the cursor there.
    PageView* page = window->page();
    const QPoint at = page->point_of(r.song->meter.tick_of_bar(5) + r.song->meter.at_bar(5).beat_ticks());
    ASSERT_GT(at.x(), 0);
    QTest::mouseClick(page->viewport(), Qt::LeftButton, {}, at);
    ASSERT_TRUE(QTest::qWaitFor([&] { return std::abs(session->transport().position_s() - second_beat) < 0.05; }, 2000));
    session->selection().select_element(ElementId::tempo());
    auto* button = fact<QPushButton>("downbeat");
    ASSERT_TRUE(button);
    QTest::mouseClick(button, Qt::LeftButton);
    EXPECT_EQ(session->remake().song->meter.position(session->remake().song->tempo.nearest_tick(second_beat)).beat, 1);
    const double bpm = session->remake().song->tempo.bpm_at(960);
    const std::size_t notes = notes_of(PartRole::Drums);
    QTest::keyClick(window, Qt::Key_D, Qt::ControlModifier);
    EXPECT_NEAR(session->remake().song->tempo.bpm_at(960), 2 * bpm, 0.01);
    EXPECT_EQ(notes_of(PartRole::Drums), notes);
    QTest::keyClick(window, Qt::Key_H, Qt::ControlModifier);
    EXPECT_NEAR(session->remake().song->tempo.bpm_at(960), bpm, 0.01);
}

TEST_F(WindowTest, ASectionIsRenamedAndAnElementConfirmedAndQuestioned) {
    session->selection().select_element(ElementId::sections());
    auto* name = fact<QLineEdit>("section1");
    ASSERT_TRUE(name);
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, "landing stage");
    QTest::keyClick(name, Qt::Key_Return);
    EXPECT_EQ(session->remake().song->sections[1].name, "landing stage");
    QTest::mouseClick(window->ledger(), Qt::LeftButton, {}, window->ledger()->state_rect(2).center());
    EXPECT_EQ(session->remake().element(ElementId::sections()).state, State::Confirmed);
    auto* question = fact<QLineEdit>("question");
    ASSERT_TRUE(question);
    question->setFocus();
    QTest::keyClicks(question, "is the break four bars?");
    QTest::keyClick(question, Qt::Key_Return);
    EXPECT_EQ(session->remake().element(ElementId::sections()).question, "is the break four bars?");
}

TEST_F(WindowTest, EveryViewShowsAnEditAndItsUndoing) {
    // What does not move with the playhead is kept as pictures; none may outlive what it shows.
    select(PartRole::Bass);
    const auto painted = [](QWidget* view) {
        QCoreApplication::processEvents();
        return view->grab().toImage();
    };
    const auto follows = [&](QWidget* view, const char* name, const Remake& edited) {
        settle();  // what earlier edits left to be checked shows in it, too
        const QImage before = painted(view);
        session->documents().edit(edited, "Test edit");
        settle();
        EXPECT_NE(painted(view), before) << name;
        QTest::keyClick(window, Qt::Key_Z, Qt::ControlModifier);
        settle();
        EXPECT_EQ(painted(view), before) << name << ", undone";
    };
    const Remake renamed = rename_section(session->remake(), session->remake().song->sections[0].id, "quay");
    follows(window->strip(), "song strip", renamed);
    Remake muted = session->remake();
    muted.parts.front().edit().mute = true;
    muted.parts.front().edit().placements.front().muted = true;
    follows(window->ledger(), "ledger", muted);
    window->show_desk(Desk::Rebuild);
    follows(window->rebuild_desk()->grid(), "arrangement grid", muted);
    window->show_desk(Desk::Transcribe);
    const PlacedNote n = placed_notes(*part(PartRole::Bass)).front();
    window->transcribe()->notes()->show_from(session->remake().song->tempo.seconds(n.note.start));
    const Remake moved = change_notes(session->remake(), part(PartRole::Bass)->id, {n.ref()}, {.semitones = 2});
    follows(window->transcribe()->notes(), "close-up", moved);
    window->show_desk(Desk::Survey);
    follows(window->page()->viewport(), "page", renamed);
    // Tone and waveforms follow the rebuilt sound.
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    auto* tone = window->findChild<ToneView*>();
    ASSERT_TRUE(tone);
    window->show_desk(Desk::Check);
    const QImage before = painted(tone);
    run("field.set part=Bass field=level value=-21dB\n");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    EXPECT_NE(painted(tone), before);
}

TEST_F(WindowTest, TheSongStripSeeksAndLoops) {
    SongStrip* strip = window->strip();
    QTest::mouseClick(strip, Qt::LeftButton, {}, {static_cast<int>(strip->axis().x_at(50.0)), 30});
    EXPECT_TRUE(QTest::qWaitFor([] { return std::abs(session->transport().position_s() - 50.0) < 0.2; }, 1000));
    const QPoint a(static_cast<int>(strip->axis().x_at(30.0)), 30), b(static_cast<int>(strip->axis().x_at(40.0)), 30);
    QTest::mousePress(strip, Qt::LeftButton, {}, a);
    QTest::mouseMove(strip, (a + b) / 2);
    QTest::mouseMove(strip, b);
    QTest::mouseRelease(strip, Qt::LeftButton, {}, b);
    EXPECT_TRUE(session->transport().player().looping());
    EXPECT_NEAR(session->transport().loop_start(), 30.0, 0.2);
    EXPECT_NEAR(session->transport().loop_end(), 40.0, 0.2);
    const Section& s = session->remake().song->sections[1];
    const double middle = session->remake().song->tempo.seconds(s.start + s.length / 2);
    QTest::mouseDClick(strip, Qt::LeftButton, {}, {static_cast<int>(strip->axis().x_at(middle)), 60});
    EXPECT_NEAR(session->transport().loop_start(), session->remake().song->tempo.seconds(s.start), 0.01);
}

TEST_F(WindowTest, ARemakeIsSavedReopenedAndExported) {
    const test::TemporaryFolder folder;
    select(PartRole::Bass);
    const auto n = placed_notes(*part(PartRole::Bass)).front();
    session->documents().edit(change_notes(session->remake(), part(PartRole::Bass)->id, {n.ref()}, {.semitones = 2}), "Transpose notes");
    const QString file = QString::fromStdString((folder / "ferry.fakturwerk").string());
    ASSERT_TRUE(session->documents().save(file));
    EXPECT_FALSE(session->documents().unsaved());
    const auto saved = session->documents().document();
    // Another session opens it: the same document, heard afresh.
    Session second(std::make_unique<SimulatedOutput>(44100.0));
    MainWindow other(second);
    other.open(file);
    ASSERT_TRUE(QTest::qWaitFor([&] { return second.has_reference() && !second.busy(); }, 900000));
    ASSERT_EQ(second.remake().parts.size(), saved->parts.size());
    for (std::size_t i = 0; i < saved->parts.size(); ++i) EXPECT_EQ(*second.remake().parts[i], *saved->parts[i]);
    EXPECT_EQ(second.remake().song->chords, saved->song->chords);
    EXPECT_FALSE(second.documents().unsaved());
    // And hands it off through its own desk.
    bool done = false, ok = false;
    QObject::connect(other.hand_off(), &HandOffDesk::done, [&](bool o, const QString&) { done = true, ok = o; });
    other.hand_off()->deliver(QString::fromStdString((folder / "out").string()));
    ASSERT_TRUE(QTest::qWaitFor([&] { return done; }, 900000));
    EXPECT_TRUE(ok);
    for (const char* name : {"mix.wav", "parts.mid", "analysis.json", "check.json"})
        EXPECT_TRUE(std::filesystem::exists(folder / "out" / std::filesystem::path(name))) << name;
    const auto parts = read_midi(folder / "out/parts.mid");
    ASSERT_TRUE(parts);
    EXPECT_EQ(parts->parts.size(), saved->parts.size());
    EXPECT_EQ(parts->parts.front().notes.front().pitch, placed_notes(*saved->parts.front()).front().note.pitch);
}

TEST_F(WindowTest, BadFilesGiveASentenceAndLoseNothing) {
    const test::TemporaryFolder folder;
    const auto write = [&](const char* name, const std::string& content) {
        std::ofstream(folder / name, std::ios::binary) << content;
        return QString::fromStdString((folder / name).string());
    };
    session->documents().save(QString::fromStdString((folder / "kept.fakturwerk").string()));  // so that nothing asks about unsaved changes
    const auto before = session->documents().document();
    const auto try_open = [&](const QString& path, const char* names) {
        window->open(path);
        ASSERT_TRUE(QTest::qWaitFor([&] { return window->last_message().contains(names) && !session->busy(); }, 20000))
            << names << " / " << window->last_message().toStdString();
        EXPECT_EQ(session->documents().document(), before);
        EXPECT_TRUE(window->isEnabled());
    };
    try_open(QString::fromStdString((folder / "missing.wav").string()), "missing.wav");
    try_open(write("text.flac", std::string(5000, 'z')), "text.flac");
    try_open(write("empty.wav", ""), "empty.wav");
    try_open(write("bad.fakturwerk", "no zip"), "bad.fakturwerk");
    Audio silent = test::sine(440, 2, 44100, 2, 0.0F), blip = test::sine(440, 0.2);
    ASSERT_TRUE(write_audio(folder / "silent.wav", silent));
    ASSERT_TRUE(write_audio(folder / "blip.wav", blip));
    try_open(QString::fromStdString((folder / "silent.wav").string()), "silent.wav");
    try_open(QString::fromStdString((folder / "blip.wav").string()), "blip.wav");
    // What never ends or never begins, and remakes whose parts make no sense or would take all memory.
    ASSERT_EQ(::mkfifo((folder / "pipe.wav").c_str(), 0600), 0);
    try_open(QString::fromStdString((folder / "pipe.wav").string()), "pipe.wav is a folder, device or pipe");
    try_open("/dev/zero", "/dev/zero is a folder, device or pipe");
    const auto try_remake = [&](const char* name, const std::function<void(Remake&)>& spoil, const char* words) {
        Remake bad = *first;
        spoil(bad);
        ASSERT_TRUE(save_remake(folder / name, bad));
        try_open(QString::fromStdString((folder / name).string()), words);
    };
    try_remake(
        "far.fakturwerk", [](Remake& r) { r.song.edit().sections.back().length = Ticks{1} << 40; },
        "far.fakturwerk cannot be opened, because the length of a section is");
    try_remake(
        "doubled.fakturwerk", [](Remake& r) { r.parts.push_back(r.parts.front()); }, "two of its things have the number");
    try_remake(
        "many.fakturwerk", [](Remake& r) { r = with_part(r, r.parts[0]->id, [](Part& p) { p.layers.assign(400, p.layers.front()); }); },
        "holds 400 layers, and there can be 16");
    EXPECT_FALSE(session->documents().save("/dev/null"));
    EXPECT_TRUE(window->last_message().contains("/dev/null is a folder, device or pipe, which is never written over"));
    EXPECT_FALSE(session->documents().save("/proc/nowhere/x.fakturwerk"));
    EXPECT_TRUE(window->last_message().contains("/proc/nowhere"));
    // A remake whose reference is gone asks where it is, and can be told.
    Remake moved = *before;
    moved.reference.path = "/nowhere/moved.ogg";
    ASSERT_TRUE(save_remake(folder / "moved.fakturwerk", moved));
    window->open(QString::fromStdString((folder / "moved.fakturwerk").string()));
    ASSERT_TRUE(QTest::qWaitFor([] { return window->findChild<QMessageBox*>("reference") != nullptr; }, 20000));
    window->findChild<QMessageBox*>("reference")->close();
    EXPECT_TRUE(window->last_message().contains("moved.ogg"));
    EXPECT_EQ(session->documents().document(), before);
    session->open_remake(QString::fromStdString((folder / "moved.fakturwerk").string()), QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->documents().document() != before && !session->busy(); }, 900000));
    EXPECT_TRUE(session->documents().unsaved()) << "the file does not know yet where the recording is now";
    session->documents().save(QString::fromStdString((folder / "moved.fakturwerk").string()));
    first = session->documents().document();
}

TEST_F(WindowTest, AFirstLookComesEarlyAndCancellingBringsTheOldDocumentBack) {
    const test::TemporaryFolder folder;
    session->set_evidence_store({});  // a recording nobody has listened to before
    session->documents().save(QString::fromStdString((folder / "kept.fakturwerk").string()));
    const auto before = session->documents().document();
    window->open(QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->provisional(); }, 900000));
    ASSERT_TRUE(session->busy()) << "the first look comes while the analysis goes on";
    EXPECT_NEAR(session->remake().song->tempo.bpm_at(session->remake().song->tempo.nearest_tick(30.0)), 97.3, 0.1);
    EXPECT_GT(session->recording().peaks.between(20.0, 21.0).second, 0.05F);
    for (const auto& p : session->remake().parts) EXPECT_EQ(p->role, PartRole::Drums) << "what needs pitch comes later";
    EXPECT_FALSE(session->documents().unsaved());
    // It plays, and it paints on every desk; it is not changed or saved yet.
    QTest::keyClick(window, Qt::Key_Space);
    EXPECT_TRUE(session->transport().player().playing());
    for (int d = 0; d < 5; ++d) {
        window->show_desk(static_cast<Desk>(d));
        window->grab();
    }
    const auto shown = session->documents().document();
    QTest::keyClick(window, Qt::Key_B);
    EXPECT_EQ(session->documents().document(), shown);
    EXPECT_TRUE(window->last_message().contains("still being listened to"));
    EXPECT_FALSE(session->documents().save(QString::fromStdString((folder / "early.fakturwerk").string())));
    session->cancel_job();
    ASSERT_TRUE(QTest::qWaitFor([] { return !session->busy(); }, 5000));
    EXPECT_FALSE(session->provisional());
    EXPECT_EQ(session->documents().document(), before);
    EXPECT_FALSE(session->transport().player().playing());
    EXPECT_EQ(session->documents().file(), QString::fromStdString((folder / "kept.fakturwerk").string()));
}

TEST_F(WindowTest, PlayingGoesOnWhenTheWholeFollowsTheFirstLook) {
    const test::TemporaryFolder folder;
    session->set_evidence_store({});
    session->documents().save(QString::fromStdString((folder / "kept.fakturwerk").string()));
    window->open(QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->provisional(); }, 900000));
    session->transport().set_loop(30.0, 34.0);  // so that it still plays however long the listening takes
    session->transport().seek(30.0);
    session->toggle_play();
    ASSERT_TRUE(QTest::qWaitFor([] { return !session->busy(); }, 900000));
    EXPECT_FALSE(session->provisional());
    EXPECT_TRUE(session->transport().player().playing());
    EXPECT_TRUE(session->transport().player().looping());
    EXPECT_GE(session->transport().position_s(), 30.0);
    EXPECT_LE(session->transport().position_s(), 34.0);
    EXPECT_FALSE(session->remake().parts.empty());
    session->toggle_play();
    // A second opening overtakes the first one.
    session->documents().save(QString::fromStdString((folder / "kept.fakturwerk").string()));
    window->open(QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->provisional(); }, 900000));
    window->open(QString(FW_DEMO_DIR) + "/lantern-ferry.ogg");
    ASSERT_TRUE(QTest::qWaitFor([] { return !session->busy(); }, 900000));
    EXPECT_FALSE(session->provisional());
    EXPECT_FALSE(session->remake().parts.empty());
    first = session->documents().document();
}

TEST_F(WindowTest, UnsavedChangesAreGuarded) {
    session->documents().edit(rename_section(session->remake(), session->remake().song->sections[0].id, "x"), "Rename section");
    ASSERT_TRUE(session->documents().unsaved());
    bool asked = false;
    QTimer::singleShot(100, [&] {
        if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget())) {
            asked = true;
            box->button(QMessageBox::Cancel)->click();
        }
    });
    EXPECT_FALSE(window->close());
    EXPECT_TRUE(asked);
    EXPECT_TRUE(window->isVisible());
}

TEST_F(WindowTest, EveryDeskPaintsInBothThemes) {
    for (const bool night : {false, true}) {
        set_night(night);
        for (int d = 0; d < 5; ++d) {
            window->show_desk(static_cast<Desk>(d));
            QCoreApplication::processEvents();
            const QImage picture = window->grab().toImage();
            QHash<QRgb, int> colors;
            for (int y = 0; y < picture.height(); ++y)
                for (int x = 0; x < picture.width(); ++x) ++colors[picture.pixel(x, y)];
            const int all = picture.width() * picture.height();
            EXPECT_GT(colors[theme().ground.rgb()] + colors[theme().raised.rgb()], all / 4) << "desk " << d << " stands on the theme's ground";
            EXPECT_GT(colors[theme().text.rgb()], 100) << "desk " << d << " has words";
            set_night(!night);
            const Theme other = theme();
            set_night(night);
            for (const QColor& wrong : {other.ground, other.raised, other.hairline})
                EXPECT_LT(colors[wrong.rgb()], 20) << "desk " << d << (night ? " at night" : " by day") << " keeps the other theme's "
                                                   << wrong.name().toStdString();
        }
    }
    set_night(false);
}

TEST_F(WindowTest, AtItsSmallestNoTextRunsUnderAnother) {
    select(PartRole::Bass);
    window->resize(window->minimumSize());
    window->show_desk(Desk::Check);
    // Long findings: a note far from any that was heard.
    session->documents().edit(
        change_notes(session->remake(), part(PartRole::Bass)->id, test::refs(session->remake(), part(PartRole::Bass)->id, {0, 1, 2}), {.semitones = 6}),
        "Transpose");
    ASSERT_TRUE(QTest::qWaitFor([] { return session->rebuild_is_current(); }, 900000));
    QCoreApplication::processEvents();
    EXPECT_LE(window->width(), 1100);
    auto* summary = window->check_desk()->findChild<QLabel*>("summary");
    auto* button = window->check_desk()->findChild<QPushButton*>("remedy");
    ASSERT_TRUE(summary && button);
    EXPECT_LE(summary->geometry().bottom(), button->geometry().top());
    for (const char* name : {"hear", "remedy", "intended", "question"}) {
        auto* b = window->check_desk()->findChild<QPushButton*>(name);
        ASSERT_TRUE(b);
        EXPECT_GE(b->width(), QFontMetrics(b->font()).horizontalAdvance(b->text()) + 8) << name;
        EXPECT_LE(b->geometry().right(), window->check_desk()->width()) << name;
    }
    EXPECT_GE(summary->height(), summary->heightForWidth(summary->width())) << "all of the heading is shown";
    QTableWidget* table = window->check_desk()->findings();
    ASSERT_GT(table->rowCount(), 0);
    for (int row = 0; row < std::min(20, table->rowCount()); ++row) {
        const QRect cell = table->visualItemRect(table->item(row, 1));
        const QRect text = QFontMetrics(table->font()).boundingRect(QRect(0, 0, cell.width() - 6, 10000), Qt::TextWordWrap, table->item(row, 1)->text());
        EXPECT_GE(cell.height(), text.height()) << table->item(row, 1)->text().toStdString() << " is shown whole";
    }
    auto* device = window->findChild<QWidget*>("device");
    auto* meters = window->findChild<QWidget*>("meters");
    ASSERT_TRUE(device && meters);
    EXPECT_FALSE(device->geometry().intersects(meters->geometry()));
    EXPECT_LE(device->geometry().right(), device->parentWidget()->width());
    window->resize(1280, 800);
}

}  // namespace fw::app
