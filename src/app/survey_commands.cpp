// SPDX-License-Identifier: GPL-3.0-or-later
// What the window does at keys and from menus about the map of the recording and how it is listened to.
#include "app/lens_panel.hpp"
#include "app/listening_bar.hpp"
#include "app/main_window.hpp"
#include "app/page_view.hpp"
#include "app/record_notes.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "formats/beat_text.hpp"

#include <QDialog>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QSettings>
#include <QVBoxLayout>

namespace fw::app {

void MainWindow::make_survey_commands() {
    Survey& survey = session_.survey();
    Transport& transport = session_.transport();
    const auto may_change = [this] { return session_.has_reference() && !session_.provisional(); };
    const auto add = [&](const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run, const QString& help = {}) {
        commands_.add({id, text, keys, std::move(run), WindowCommand::Where::Everywhere, help, may_change});
    };
    add(
        "song.tap", tr("&Tap along"), QKeySequence(Qt::Key_Y), [&survey] { survey.tap(); },
        tr("Four times or more, on every beat, while it plays: tempo and beats are taken once you rest"));
    add("song.pin", tr("Put the nearest beat at the &playhead"), QKeySequence(Qt::Key_P), [&survey] { survey.pin_here(); });
    add("song.unpin", tr("&Let go of the nearest pinned beat"), QKeySequence("Shift+P"), [&survey] { survey.unpin_here(); });
    add(
        "song.bar-more", tr("Count one bar m&ore"), QKeySequence("Ctrl+Shift+Right"), [&survey] { survey.count_more_bars(1); },
        tr("In the loop, or at the playhead; what follows keeps its time"));
    add(
        "song.bar-fewer", tr("Count one bar fe&wer"), QKeySequence("Ctrl+Shift+Left"), [&survey] { survey.count_more_bars(-1); },
        tr("In the loop; what follows keeps its time"));
    add(
        "song.steady", tr("Make the tempo stead&y"), QKeySequence("Ctrl+Shift+T"), [&survey] { survey.make_steady(); },
        tr("In the loop, or the bar at the playhead, between its ends"));
    add(
        "song.follow", tr("&Follow the recording"), QKeySequence("Ctrl+Shift+F"), [&survey] { survey.follow_recording(); },
        tr("In the loop, or the bar at the playhead: beats go where the recording has them"));
    add(
        "song.free", tr("Free ti&me or pulse"), QKeySequence("Ctrl+Shift+M"), [&survey] { survey.toggle_free_time(); },
        tr("The bars of the loop have no pulse, or have one after all"));
    add("song.split", tr("&Split the section at the playhead"), QKeySequence(Qt::Key_S), [&survey] { survey.split_section_here(); });
    add("song.merge", tr("Mer&ge the section with the next"), QKeySequence("Shift+S"), [&survey] { survey.merge_section_here(); });
    add("song.section-start", tr("Let the nearest section begin at the playhead"), QKeySequence("Ctrl+Shift+B"), [&survey] { survey.start_section_here(); });
    add(
        "song.clearest", tr("&Next clearest moment"), QKeySequence(Qt::Key_N), [&survey] { survey.next_clearest(); },
        tr("Where the chosen part stands most alone in the original"));
    add(
        "song.faint", tr("Look for what is &faint"), QKeySequence("Ctrl+Shift+K"), [&survey] { survey.scan_for_faint(); },
        tr("Soft layers, soft strokes and the noise of the recording, whatever has been built"));
    add(
        "song.probe", tr("Pro&be the pitch"), QKeySequence(Qt::Key_J), [&survey] { survey.probe(); },
        tr("Of what is looped or at the playhead, through the lens: note, octave, cents and Hz"));
    add("song.row", tr("Add a row of your o&wn…"), QKeySequence("Ctrl+Shift+R"), [this] { add_row(); });
    add("song.research", tr("Notes on the &record…"), QKeySequence("Ctrl+Shift+I"), [this] { RecordNotes(session_, this).exec(); });
    add("file.beats-in", tr("Take beats from te&xt…"), QKeySequence(), [this] { import_beats(); });
    add("file.beats-out", tr("Write &beats as text…"), QKeySequence(), [this] { export_beats(); });
    add(
        "view.go", tr("&Go to…"), QKeySequence(Qt::Key_G), [this] { go_to_place(); },
        tr("A bar, a beat, a section, a time: 5, 5.3, the and of 2 in 7, verse 2, 1:23"));
    add("view.nearer", tr("Page &nearer"), QKeySequence::ZoomIn, [this] { page_->zoom(1); });
    add("view.farther", tr("Page &farther"), QKeySequence::ZoomOut, [this] { page_->zoom(-1); });

    add("view.usual", tr("Page at its &usual size"), QKeySequence("Ctrl+0"), [this] { page_->zoom_to_usual(); });
    add("listen.panel", tr("Lens, click and places…"), QKeySequence(Qt::Key_V), [this] { listening_->toggle_panel(); });
    add("listen.click", tr("&Click"), QKeySequence(Qt::Key_C), [&] {
        Transport::Click click = session_.transport().click();
        click.on = !click.on;
        session_.survey().set_click(click);
    });
    add("listen.count-in", tr("Count &in"), QKeySequence("Shift+C"), [&] {
        Transport::Click click = session_.transport().click();
        click.count_in = !click.count_in;
        session_.survey().set_click(click);
        emit session_.told(click.count_in ? tr("A bar is counted in before it plays.") : tr("It plays at once, without a count-in."));
    });
    add("listen.loop-bar", tr("Loop the &bar"), QKeySequence("Ctrl+L"), [&survey] { survey.loop_bar(); });
    add("listen.loop-section", tr("Loop the s&ection"), QKeySequence("Shift+L"), [&survey] { survey.loop_section(); });
    add("listen.loop-notes", tr("Loop the selected n&otes"), QKeySequence("Ctrl+Shift+L"), [&survey] { survey.loop_notes(); });
    add("listen.slower", tr("Slo&wer"), QKeySequence(Qt::Key_BracketLeft), [&transport] { transport.set_speed(transport.player().speed() - 0.25); });
    add("listen.faster", tr("Fa&ster"), QKeySequence(Qt::Key_BracketRight), [&transport] { transport.set_speed(transport.player().speed() + 0.25); });
    add("spot.remember", tr("Re&member this place"), QKeySequence(Qt::Key_M), [&survey] { survey.remember_spot(); });
    add("spot.next", tr("Ne&xt remembered place"), QKeySequence("Shift+M"), [&survey] { survey.next_spot(); });

    for (const LensRow& l : lens_rows())
        add(
            l.command, tr("Lens: %1").arg(tr(l.text).toLower()), QKeySequence(l.keys),
            [this, kind = l.kind] {
                Lens lens = session_.transport().lens();
                lens.kind = kind;
                session_.survey().set_lens(lens);
            },
            tr(l.tip));
}

void MainWindow::go_to_place() {
    QInputDialog dialog(this);
    dialog.setObjectName("go to");
    dialog.setWindowTitle(tr("Go to"));
    dialog.setLabelText(tr("A bar (5), a beat (5.3, the and of 2 in 7), a section (verse 2) or a time (1:23):"));
    if (dialog.exec() != QDialog::Accepted || dialog.textValue().trimmed().isEmpty()) return;
    const auto place = parse_place(session_.remake(), dialog.textValue().toStdString());
    if (!place)
        return tell(tr("“%1” is no place here: say a bar (5), a beat (5.3, the and of 2 in 7), a section (verse 2) or a time (1:23).").arg(dialog.textValue()));
    session_.transport().seek(session_.remake().song->tempo.seconds(*place));
    page_->show_tick(*place);
}

void MainWindow::import_beats() {
    const QString f = QFileDialog::getOpenFileName(this, tr("Take beats from text or MIDI"), QSettings().value("folder").toString(),
                                                   tr("Beats (*.txt *.tsv *.csv *.mid *.midi);;All files (*)"));
    if (f.isEmpty()) return;
    const auto map = read_beat_map(f.toStdString());
    if (!map) return tell(of_core(map.error().message()));
    session_.documents().run(beat_map_line(*map));
}

void MainWindow::export_beats() {
    const QString name = QFileInfo(QString::fromStdString(session_.remake().reference.path)).completeBaseName() + "-beats.txt";
    const QString f = QFileDialog::getSaveFileName(this, tr("Write beats as text"), QSettings().value("folder").toString() + "/" + name, tr("Text (*.txt)"));
    if (f.isEmpty()) return;
    if (const auto done = write_beat_text(f.toStdString(), *session_.remake().song, session_.remake().reference.duration_s); !done)
        tell(of_core(done.error().message()));
}

void MainWindow::add_row() {
    QInputDialog dialog(this);
    dialog.setObjectName("add row");
    dialog.setWindowTitle(tr("Add a row"));
    dialog.setLabelText(tr("What it is called: a sound, an effect, anything that has to be got right:"));
    if (dialog.exec() == QDialog::Accepted && !dialog.textValue().trimmed().isEmpty())
        session_.documents().run(Line("row.add").with("name", dialog.textValue().trimmed().toStdString()));
}

}  // namespace fw::app
