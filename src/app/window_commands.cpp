// SPDX-License-Identifier: GPL-3.0-or-later
// What the window does at keys and from menus.
#include "app/check_desk.hpp"
#include "app/desks.hpp"
#include "app/ledger.hpp"
#include "app/main_window.hpp"
#include "app/move_recorder.hpp"
#include "app/reckoner.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"

#include <QApplication>
#include <QClipboard>
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QLabel>
#include <QMenuBar>
#include <QMessageBox>
#include <QScrollArea>
#include <QSettings>
#include <QVBoxLayout>

namespace fw::app {

std::span<const DeskName> desk_names() {
    static constexpr DeskName names[] = {{Desk::Survey, "Survey", "Tempo, bars, key, sections, chords of the original", "desk.survey"},
                                         {Desk::Transcribe, "Transcribe", "One element, large, over its evidence", "desk.transcribe"},
                                         {Desk::Rebuild, "Rebuild", "Who plays where, and with what sound", "desk.rebuild"},
                                         {Desk::Check, "Check", "How far the rebuild agrees with the original", "desk.check"},
                                         {Desk::HandOff, "Hand-off", "What is delivered, and where", "desk.hand-off"}};
    return names;
}

QString audio_filter() { return tr("Recordings (*.wav *.flac *.ogg *.opus *.mp3 *.m4a *.aac *.aif *.aiff *.wma *.mp4 *.mkv *.webm);;All files (*)"); }
QString remake_filter() { return tr("Remakes (*.fakturwerk)"); }

void MainWindow::open_dialog(const QString& title, const QString& filter) {
    const QString f = QFileDialog::getOpenFileName(this, title, QSettings().value("folder").toString(), filter);
    if (!f.isEmpty()) open(f);
}

void MainWindow::make_commands() {
    using Where = WindowCommand::Where;
    DocumentStore& documents = session_.documents();
    Transport& transport = session_.transport();
    Selection& selection = session_.selection();
    const auto may_change = [this] { return session_.has_reference() && !session_.provisional(); };
    const auto add = [&](WindowCommand c) { commands_.add(std::move(c)); };
    const auto line = [&documents](Line l) { return [&documents, l] { documents.run(l); }; };

    add({"file.open-recording", tr("Open &recording…"), QKeySequence("Ctrl+Shift+O"), [this] { open_dialog(tr("Open a recording"), audio_filter()); }});
    add({"file.open-remake", tr("&Open remake…"), QKeySequence::Open, [this] { open_dialog(tr("Open a remake"), remake_filter()); }});
    add({"file.add-midi",
         tr("Add parts from &MIDI…"),
         QKeySequence("Ctrl+I"),
         [this] { open_dialog(tr("Add parts from a MIDI file"), tr("MIDI files (*.mid *.midi)")); },
         Where::Everywhere,
         {},
         may_change});
    add({"file.save", tr("&Save"), QKeySequence::Save, [this] { save(); }, Where::Everywhere, {}, may_change});
    add({"file.save-as", tr("Save &as…"), QKeySequence("Ctrl+Shift+S"), [this] { save_as(); }, Where::Everywhere, {}, may_change});
    add({"file.hand-off", tr("&Hand off…"), QKeySequence("Ctrl+E"), [this] { show_desk(Desk::HandOff); }});
    add({"file.quit", tr("&Quit"), QKeySequence::Quit, [this] { close(); }});

    const auto travelling = [](const QString& word, bool can, const std::string& label) {
        return can ? word + " " + QString::fromStdString(label).toLower() : word;
    };
    add({"edit.undo",
         tr("&Undo"),
         QKeySequence::Undo,
         [&documents] { documents.undo(); },
         Where::Everywhere,
         {},
         [&documents] { return documents.history().can_undo(); },
         [&documents, travelling] {
             return travelling(tr("&Undo"), documents.history().can_undo(), documents.history().can_undo() ? documents.history().undo_label() : "");
         }});
    add({"edit.redo",
         tr("&Redo"),
         QKeySequence("Ctrl+Shift+Z"),
         [&documents] { documents.redo(); },
         Where::Everywhere,
         {},
         [&documents] { return documents.history().can_redo(); },
         [&documents, travelling] {
             return travelling(tr("&Redo"), documents.history().can_redo(), documents.history().can_redo() ? documents.history().redo_label() : "");
         }});
    add({"edit.copy-done", tr("Copy what was done"), QKeySequence("Ctrl+Shift+C"),
         [&documents] { QApplication::clipboard()->setText(documents.what_was_done()); }, Where::Everywhere,
         tr("As lines of a script, for fakturwerk-cli do")});

    add({"song.halve", tr("&Halve tempo"), QKeySequence("Ctrl+H"), line(Line("tempo.reread").with("factor", "0.5"))});
    add({"song.double", tr("&Double tempo"), QKeySequence("Ctrl+D"), line(Line("tempo.reread").with("factor", "2"))});
    add({"song.downbeat", tr("Down&beat at the cursor"), QKeySequence(Qt::Key_B), [this] { session_.downbeat_here(); }});
    add({"song.cut", tr("C&ut the loop from the original…"), QKeySequence("Ctrl+Shift+X"), [this] { cut_from_original(); }});
    add({"song.source", tr("Find the loop's so&urce…"), QKeySequence("Ctrl+Alt+X"), [this] { find_source_of_loop(); }, Where::Everywhere,
         tr("Looks in another recording for what this stretch of the original was taken from: place, speed and pitch")});
    add({"song.confirm", tr("&Confirm element"), QKeySequence("Ctrl+K"), [this, &selection] { session_.toggle_confirmed(selection.element()); }});
    add({"song.clear-mutes", tr("Clear all solos and &mutes"), QKeySequence("Ctrl+M"), line(Line("parts.clear-mutes"))});
    add({"song.reckon", tr("Rec&koner…"), QKeySequence("Ctrl+Alt+K"),
         [this] {
             auto* reckoner = new Reckoner(session_, this);
             reckoner->setAttribute(Qt::WA_DeleteOnClose);
             reckoner->show();
         },
         Where::Everywhere, tr("Semitones and ratio, note values and milliseconds, notes and hertz, partials, decibels, bends")});
    add({"check.next", tr("&Next in the list"), QKeySequence(Qt::Key_Period), [this] { check_->walk(1); }});
    add({"check.previous", tr("&Previous in the list"), QKeySequence(Qt::Key_Comma), [this] { check_->walk(-1); }});
    add({"check.hear", tr("H&ear it"), QKeySequence(Qt::Key_H), [this] { check_->hear(); }});
    add({"check.lens", tr("Hear it through its &lens"), QKeySequence("Shift+H"), [this] { check_->hear_through_lens(); }, Where::Everywhere,
         tr("Around its pitch, its drum or its band; once more: the whole")});
    add({"check.intended", tr("The difference is &intended"), QKeySequence(Qt::Key_I), [this] { check_->mark_intended(); }});
    add({"check.question", tr("Leave a &question there"), QKeySequence(Qt::Key_U), [this] { check_->ask(); }});
    add({"check.remedy", tr("&Apply the finding's remedy"), QKeySequence("Ctrl+Return"), [this] { check_->apply_remedy(); }});

    add({"listen.play", tr("&Play or stop"), QKeySequence(Qt::Key_Space), [this] { session_.toggle_play(); }});
    add({"listen.flip", tr("&Flip original and rebuild"), QKeySequence(Qt::Key_F), [&transport] { transport.flip_source(); }});
    add({"listen.turns", tr("&Take turns"), QKeySequence(Qt::Key_T), [&transport] { transport.set_source(Source::TakeTurns); }});
    add({"listen.ears", tr("Left and right &ear"), QKeySequence(Qt::Key_E), [&transport] { transport.set_source(Source::LeftRight); }});
    add({"listen.remainder", tr("&Remainder"), QKeySequence("Shift+F"), [&transport] { transport.set_source(Source::Remainder); }});
    add({"listen.loop", tr("&Loop"), QKeySequence(Qt::Key_L),
         [&transport] { transport.set_loop(transport.loop_start(), transport.loop_end(), !transport.player().looping()); }});
    add({"listen.start", tr("To the &start"), QKeySequence(Qt::Key_Home),
         [&transport] { transport.seek(transport.player().looping() ? transport.loop_start() : 0.0); }});

    add({"edit.record-moves",
         tr("&Record moves"),
         QKeySequence("Ctrl+Alt+R"),
         [this] { session_.moves().arm(!session_.moves().armed()); },
         Where::Everywhere,
         tr("What is moved in the sheet while it plays becomes a curve"),
         {},
         {},
         [this] { return session_.moves().armed(); }});
    make_transcribe_commands();
    make_survey_commands();
    for (const DeskName& d : desk_names())
        add({d.command, "&" + tr(d.name), QKeySequence(tr("Alt+%1").arg(static_cast<int>(d.desk) + 1)), [this, desk = d.desk] { show_desk(desk); }});
    add({"view.night",
         tr("&Night theme"),
         QKeySequence("Ctrl+Shift+N"),
         [] {
             set_night(!theme().night);
             QSettings().setValue("night", theme().night);
         },
         Where::Everywhere,
         {},
         {},
         {},
         [] { return theme().night; }});
    add({"view.by-family",
         tr("Elements by &family"),
         {},
         [this] { ledger_->set_by_family(!ledger_->by_family()); },
         Where::Everywhere,
         tr("In the ledger: what belongs together under one heading, or all in working order"),
         {},
         {},
         [this] { return ledger_->by_family(); }});
    add({"message.dismiss", tr("Put the message away"), QKeySequence(Qt::Key_Escape), [this] { notice_->hide(); }});
    add({"help.shortcuts", tr("&Shortcuts"), QKeySequence("F1"), [this] { show_shortcuts(); }});
    add({"help.about", tr("&About Fakturwerk"), QKeySequence(), [this] {
             QMessageBox::about(this, tr("About Fakturwerk"),
                                tr("<b>Fakturwerk %1</b><p>Rebuild a recording, element by element, and check it against the original.</p><p>Free "
                                   "software under the GNU GPL, version 3 or later.</p>")
                                    .arg(FW_VERSION));
         }});
}

void MainWindow::make_menus() {
    const auto menu = [this](const QString& name, std::initializer_list<const char*> ids) {
        QMenu* m = menuBar()->addMenu(name);
        commands_.fill(*m, ids);
        return m;
    };
    QMenu* file = menu(tr("&File"), {"file.open-recording", "file.open-remake"});
    recent_ = file->addMenu(tr("Open r&ecent"));
    connect(recent_, &QMenu::aboutToShow, this, &MainWindow::fill_recent);
    commands_.fill(*file, {"file.add-midi", "file.beats-in", "file.beats-out", "", "file.save", "file.save-as", "", "file.hand-off", "", "file.quit"});
    menu(tr("&Edit"), {"edit.undo", "edit.redo", "", "note.select-all", "note.alternate", "note.delete", "note.copy", "note.paste", "note.reach", "",
                       "edit.record-moves", "edit.copy-done"});
    menu(tr("&Notes"), {"doubt.next",
                        "doubt.previous",
                        "doubt.try",
                        "doubt.try-back",
                        "doubt.take",
                        "doubt.accept",
                        "doubt.question",
                        "doubt.end",
                        "",
                        "note.semitone-up",
                        "note.semitone-down",
                        "note.octave-up",
                        "note.octave-down",
                        "note.step-up",
                        "note.step-down",
                        "note.double-up",
                        "note.double-down",
                        "",
                        "note.earlier",
                        "note.later",
                        "note.quantise",
                        "note.legato",
                        "note.detached",
                        "note.cut-overlaps",
                        "",
                        "note.split",
                        "note.join",
                        "note.repeat",
                        "note.repeat-to-end",
                        "note.mute",
                        "",
                        "note.glide",
                        "note.vibrato",
                        "note.draw-pitch",
                        "note.take-pitch",
                        "note.straighten",
                        "note.grace",
                        "note.flam",
                        "note.roll",
                        "",
                        "play.bar",
                        "play.record",
                        "note.midi-out"});
    menu(tr("&Song"), {"song.halve",
                       "song.double",
                       "song.tap",
                       "song.downbeat",
                       "",
                       "song.pin",
                       "song.unpin",
                       "song.bar-more",
                       "song.bar-fewer",
                       "song.steady",
                       "song.follow",
                       "song.free",
                       "",
                       "song.split",
                       "song.merge",
                       "song.section-start",
                       "",
                       "song.clearest",
                       "song.probe",
                       "song.faint",
                       "song.cut",
                       "song.source",
                       "song.row",
                       "song.reckon",
                       "song.research",
                       "",
                       "song.confirm",
                       "song.clear-mutes"});
    menu(tr("&Check"), {"check.next", "check.previous", "check.hear", "check.lens", "", "check.remedy", "check.intended", "check.question"});
    menu(tr("&Listen"), {"listen.play",
                         "listen.flip",
                         "listen.turns",
                         "listen.ears",
                         "listen.remainder",
                         "",
                         "listen.loop",
                         "listen.loop-bar",
                         "listen.loop-section",
                         "listen.loop-notes",
                         "listen.start",
                         "listen.slower",
                         "listen.faster",
                         "",
                         "listen.click",
                         "listen.count-in",
                         "",
                         "listen.panel",
                         "spot.remember",
                         "spot.next"});
    menu(tr("L&ens"), {"lens.whole", "lens.low", "lens.body", "lens.air", "lens.tonal", "lens.percussive", "lens.centre", "lens.sides", "lens.speaker",
                       "lens.loudspeakers", "lens.element", "lens.band", "lens.pitch"});
    menu(tr("&View"), {"desk.survey", "desk.transcribe", "desk.rebuild", "desk.check", "desk.hand-off", "", "view.go", "view.nearer", "view.farther",
                       "view.usual", "", "view.by-family", "view.night"});
    menu(tr("&Help"), {"help.shortcuts", "help.about"});
}

void MainWindow::show_shortcuts() {
    QDialog dialog(this);
    dialog.setWindowTitle(tr("Shortcuts"));
    auto* column = new QVBoxLayout(&dialog);
    QString table = "<table cellspacing=4>";
    for (const QAction* menu : menuBar()->actions()) {
        table += QString("<tr><td colspan=2><b>%1</b></td></tr>").arg(menu->text().remove('&'));
        for (const QAction* a : menu->menu()->actions())
            if (!a->shortcut().isEmpty())
                table += QString("<tr><td>%1</td><td>&nbsp;&nbsp;%2</td></tr>")
                             .arg(a->text().remove('&').toHtmlEscaped(), a->shortcut().toString(QKeySequence::NativeText).toHtmlEscaped());
    }
    table += "</table>";
    // Two columns would hide no line: the list is as long as the window is high.
    auto* label = new QLabel(table);
    auto* area = new QScrollArea;
    area->setWidget(label);
    area->setMinimumSize(360, 520);
    column->addWidget(area);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    column->addWidget(buttons);
    dialog.exec();
}

}  // namespace fw::app
