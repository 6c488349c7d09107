// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/main_window.hpp"

#include "app/recovery.hpp"
#include "app/words.hpp"

#include "app/check_desk.hpp"
#include "app/desks.hpp"
#include "app/facts_panel.hpp"
#include "app/ledger.hpp"
#include "app/listening_bar.hpp"
#include "app/page_view.hpp"
#include "app/song_strip.hpp"
#include "app/survey_desk.hpp"
#include "app/theme.hpp"
#include "base/guard.hpp"
#include "formats/midi_file.hpp"

#include <QAction>
#include <QButtonGroup>
#include <QCheckBox>
#include <QCloseEvent>
#include <QDialog>
#include <QDialogButtonBox>
#include <QDropEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QStackedWidget>
#include <QTimer>
#include <QVBoxLayout>

namespace fw::app {

MainWindow::MainWindow(Session& session, QWidget* parent) : QMainWindow(parent), session_(session) {
    setWindowTitle(tr("Fakturwerk"));
    setAcceptDrops(true);
    make_commands();
    setMinimumSize(1100, 700);
    resize(1280, 800);

    auto* body = new QWidget;
    auto* column = new QVBoxLayout(body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);

    auto* head = new QHBoxLayout;
    head->setContentsMargins(12, 2, 12, 0);
    head->setSpacing(2);
    title_ = new QLabel(tr("No recording open"));
    title_->setFont(text_font(10.5, true));
    title_->setMinimumWidth(224);
    head->addWidget(title_);
    desks_ = new QButtonGroup(this);
    for (const DeskName& d : desk_names()) {
        auto* b = new QPushButton(tr(d.name));
        b->setObjectName("desk");
        b->setCheckable(true);
        b->setToolTip(commands_.with_keys(tr(d.what), d.command));
        desks_->addButton(b, static_cast<int>(d.desk));
        head->addWidget(b);
    }
    head->addStretch(1);
    confirmed_ = new QLabel;
    confirmed_->setObjectName("heading");
    head->addWidget(confirmed_);
    column->addLayout(head);

    column->addWidget(strip_ = new SongStrip(session));
    // A sentence for the user stands in the window's flow: nothing to dismiss before work can go on.
    notice_ = new QWidget;
    auto* notice_row = new QHBoxLayout(notice_);
    notice_row->setContentsMargins(12, 5, 12, 5);
    notice_text_ = new QLabel;
    notice_text_->setWordWrap(true);
    notice_text_->setObjectName("notice");
    auto* dismiss = new QPushButton(tr("Close"));
    dismiss->setToolTip(commands_.with_keys(tr("Put this message away"), "message.dismiss"));
    connect(dismiss, &QPushButton::clicked, notice_, &QWidget::hide);
    notice_row->addWidget(notice_text_, 1);
    notice_row->addWidget(dismiss);
    notice_->hide();
    column->addWidget(notice_);
    job_bar_ = new QWidget;
    auto* job_row = new QHBoxLayout(job_bar_);
    job_row->setContentsMargins(12, 5, 12, 5);
    job_text_ = new QLabel;
    job_text_->setMinimumWidth(230);
    job_progress_ = new QProgressBar;
    job_progress_->setRange(0, 1000);
    job_progress_->setTextVisible(false);
    auto* stop = new QPushButton(tr("Stop"));
    stop->setToolTip(tr("Stop the analysis; what was open stays open"));
    connect(stop, &QPushButton::clicked, this, [this] { sources_.busy() ? sources_.cancel() : session_.cancel_job(); });
    job_row->addWidget(job_text_);
    job_row->addWidget(job_progress_, 1);
    job_row->addWidget(stop);
    job_bar_->hide();
    column->addWidget(job_bar_);

    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    auto* shelf = new QScrollArea;  // there may be more elements than fit
    shelf->setFixedWidth(236);
    shelf->setFrameShape(QFrame::NoFrame);
    shelf->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    shelf->setWidgetResizable(true);
    shelf->setWidget(ledger_ = new Ledger(session));
    connect(ledger_, &Ledger::wanted, shelf, [shelf](const QRect& row) { shelf->ensureVisible(0, row.center().y(), 0, row.height() / 2 + 2); });
    middle->addWidget(shelf);
    stack_ = new QStackedWidget;
    auto* survey = new SurveyDesk(session, commands_);
    page_ = survey->page();
    stack_->addWidget(survey);
    stack_->addWidget(transcribe_ = new TranscribeDesk(session, commands_));
    stack_->addWidget(rebuild_ = new RebuildDesk(session));
    stack_->addWidget(check_ = new CheckDesk(session, commands_));
    stack_->addWidget(hand_off_ = new HandOffDesk(session));
    middle->addWidget(stack_, 1);
    auto* rule = new QWidget;
    rule->setObjectName("rule");
    rule->setFixedWidth(1);
    middle->addWidget(rule);
    middle->addWidget(facts_ = new FactsPanel(session, commands_));
    column->addLayout(middle, 1);
    auto* line = new QWidget;
    line->setObjectName("rule");
    line->setFixedHeight(1);
    column->addWidget(line);
    column->addWidget(listening_ = new ListeningBar(session, commands_));
    setCentralWidget(body);

    connect(desks_, &QButtonGroup::idClicked, this, [this](int id) { show_desk(static_cast<Desk>(id)); });
    connect(page_, &PageView::chord_chosen, this, [this](Ticks t) {
        transcribe_->chords()->select_tick(t);
        facts_->focus_chord_name();
    });
    connect(transcribe_->chords(), &ChordCloseUp::chord_selected, facts_, &FactsPanel::set_chord_tick);
    connect(facts_, &FactsPanel::chord_wanted, transcribe_->chords(), &ChordCloseUp::select_tick);
    connect(transcribe_->chords(), &ChordCloseUp::name_wanted, this, [this](Ticks t) {
        transcribe_->chords()->select_tick(t);
        facts_->focus_chord_name();
    });
    make_menus();
    commands_.attach(*this, WindowCommand::Where::Everywhere);
    commands_.attach(*transcribe_, WindowCommand::Where::CloseUps);
    connect(&session_, &Session::document_changed, this, &MainWindow::follow);
    connect(&theme_teller(), &ThemeTeller::changed, this, [this] { commands_.refresh(); });
    connect(&session_, &Session::opened, this, [this] { show_desk(Desk::Survey); });
    connect(&session_, &Session::failed, this, &MainWindow::tell);
    connect(&session_, &Session::told, this, &MainWindow::tell);
    connect(&session_, &Session::reference_wanted, this, &MainWindow::ask_for_reference);
    const auto show_progress = [this](double f, const QString& stage) {
        job_bar_->show();
        job_text_->setText(QString(stage).replace(0, 1, stage.left(1).toUpper()));
        job_progress_->setValue(static_cast<int>(f * 1000));
    };
    connect(&session_, &Session::progress, this, [this, show_progress](double f, const QString& stage) {
        if (session_.busy()) show_progress(f, stage);
    });
    connect(&session_, &Session::job_finished, job_bar_, &QWidget::hide);
    connect(&sources_, &SourceSearch::progress, this, show_progress);
    connect(&sources_, &SourceSearch::finished, this, [this] {
        if (!sources_.busy()) job_bar_->hide();
    });
    connect(&sources_, &SourceSearch::placed, this, [this] { show_desk(Desk::Rebuild); });
    // The playhead moves in all views at once, thirty times a second while playing.
    auto* frames = new QTimer(this);
    frames->setInterval(33);
    connect(frames, &QTimer::timeout, this, [this] {
        if (session_.transport().player().playing()) emit session_.transport_changed();
    });
    frames->start();
    show_desk(Desk::Survey);
    QSettings settings;
    if (settings.contains("geometry")) restoreGeometry(settings.value("geometry").toByteArray());
    follow();
}

void MainWindow::show_desk(Desk desk) {
    stack_->setCurrentIndex(static_cast<int>(desk));
    desks_->button(static_cast<int>(desk))->setChecked(true);
    // Arriving at the close-up with nothing to show would be a dead end: the first part is taken instead.
    if (desk == Desk::Transcribe && !session_.selection().part() && session_.selection().element() != ElementId::chords() && !session_.remake().parts.empty())
        session_.selection().select_element(session_.remake().parts.front()->id);
    if (desk == Desk::Transcribe && transcribe_->current()) transcribe_->current()->setFocus();
}

Desk MainWindow::desk() const { return static_cast<Desk>(stack_->currentIndex()); }

void MainWindow::follow() {
    const Remake& r = session_.remake();
    const QString name = !session_.has_reference()               ? QString(tr("No recording open"))
                         : session_.documents().file().isEmpty() ? QFileInfo(QString::fromStdString(r.reference.path)).completeBaseName()
                                                                 : QFileInfo(session_.documents().file()).completeBaseName();
    title_->setText(QFontMetrics(title_->font()).elidedText(name + (session_.documents().unsaved() ? " •" : ""), Qt::ElideMiddle, 220));
    title_->setToolTip(session_.documents().file().isEmpty() ? QString(tr("Not saved yet")) : session_.documents().file());
    setWindowTitle(session_.has_reference() ? name + (session_.documents().unsaved() ? " • – Fakturwerk" : " – Fakturwerk") : QString("Fakturwerk"));
    int confirmed = 0;
    const auto ids = r.element_ids();
    for (const auto& id : ids) confirmed += r.element(id).state == State::Confirmed;
    const bool silenced = std::any_of(r.parts.begin(), r.parts.end(), [](const auto& p) { return p->mute || p->solo; });
    confirmed_->setText(session_.has_reference()
                            ? tr("%1%2 of %3 confirmed")
                                  .arg(silenced ? commands_.with_keys(tr("some parts muted or soloed"), "song.clear-mutes") + "   ·   " : QString())
                                  .arg(confirmed)
                                  .arg(ids.size())
                            : QString());
    commands_.refresh();
}

void MainWindow::tell(const QString& sentence) {
    last_message_ = sentence;
    notice_text_->setText(sentence);
    notice_->show();
}

void MainWindow::open(const QString& path) {
    if (path.endsWith(".mid", Qt::CaseInsensitive) || path.endsWith(".midi", Qt::CaseInsensitive)) return add_midi(path);
    if (!may_discard()) return;
    notice_->hide();
    remember(path);
    if (path.endsWith(".fakturwerk", Qt::CaseInsensitive)) session_.open_remake(path);
    else session_.open_recording(path);
}

void MainWindow::add_midi(const QString& path) {
    notice_->hide();
    if (!session_.has_reference()) {
        tell(tr("MIDI parts are added to a song: open its recording or remake first."));
        return;
    }
    const auto song = guarded("reading " + path.toStdString(), [&] { return read_midi(path.toStdString()); });
    if (!song) return tell(of_core(song.error().message()));
    // A file written here says where it begins; most others begin with bar 1.
    QInputDialog dialog(this);
    dialog.setObjectName("midi offset");
    dialog.setInputMode(QInputDialog::DoubleInput);
    dialog.setWindowTitle(tr("Add parts from MIDI"));
    dialog.setLabelText(tr("Where in the recording the MIDI file begins, in seconds\n(where it says so itself, else bar 1, is offered):"));
    dialog.setDoubleRange(-600.0, 36000.0);
    dialog.setDoubleDecimals(3);
    dialog.setDoubleValue(song->start_s.value_or(session_.remake().song->tempo.seconds(Ticks{0})));
    if (dialog.exec() == QDialog::Accepted) session_.add_midi(path, *song, dialog.doubleValue());
}

void MainWindow::cut_from_original() {
    if (!session_.has_reference() || session_.transport().loop_end() <= session_.transport().loop_start()) {
        tell(tr("Loop what is to be cut first: drag across it on the song strip or the page."));
        return;
    }
    const Remake& r = session_.remake();
    const Ticks from = r.song->tempo.nearest_tick(session_.transport().loop_start()), to = r.song->tempo.nearest_tick(session_.transport().loop_end());
    QDialog dialog(this);
    dialog.setObjectName("cut");
    dialog.setWindowTitle(tr("Cut from the original"));
    auto* form = new QFormLayout(&dialog);
    const auto line = [&](const char* object, const QString& label, const QString& text, const QString& tip) {
        auto* edit = new QLineEdit(text);
        edit->setObjectName(object);
        edit->setToolTip(tip);
        form->addRow(label, edit);
        return edit;
    };
    auto* name = line("cut_name", tr("Name"), tr("Cut from %1").arg(QString::fromStdString(place_text(r.song->meter, from))), tr("What the clip is called"));
    auto* place =
        line("cut_to", tr("Put it at"), QString::fromStdString(place_text(r.song->meter, r.song->tempo.nearest_tick(session_.transport().position_s()))),
             "A bar (5), a beat (5.3) or a section (verse 2)");
    auto* ends = new QCheckBox(tr("It ends there instead of beginning there"));
    ends->setObjectName("cut_ends");
    form->addRow(QString(), ends);
    auto* recipe = line("cut_recipe", tr("Recipe"), "fade 2 20", tr("What is done to it, in this order: fade 2 20, reverse, gain -6, pitch -12, stretch 2"));
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    form->addRow(buttons);
    if (dialog.exec() != QDialog::Accepted) return;
    Line cut("clip.from-original");
    cut.with("from", place_text(r.song->meter, from))
        .with("length", length_text(to - from))
        .with("to", place->text().toStdString())
        .with("name", name->text().toStdString());
    if (ends->isChecked()) cut.with("ends", "on");
    if (!recipe->text().trimmed().isEmpty()) cut.with("recipe", recipe->text().toStdString());
    if (session_.documents().run(cut)) show_desk(Desk::Rebuild);
}

void MainWindow::find_source_of_loop() {
    constexpr double kShortest_s = 2.0;
    const Transport& t = session_.transport();
    if (!session_.has_reference() || !session_.recording().sound || t.loop_end() - t.loop_start() < kShortest_s) {
        tell(tr("Loop the stretch first, two seconds or more: drag across it on the song strip or the page."));
        return;
    }
    const QString path =
        QFileDialog::getOpenFileName(this, tr("The recording it may have been taken from"), QSettings().value("folder").toString(), audio_filter());
    if (!path.isEmpty()) sources_.look(path, t.loop_start(), t.loop_end());
}

bool MainWindow::save() { return session_.documents().file().isEmpty() ? save_as() : session_.documents().save(session_.documents().file()); }

bool MainWindow::save_as() {
    const QString name = QFileInfo(QString::fromStdString(session_.remake().reference.path)).completeBaseName() + ".fakturwerk";
    QString f = QFileDialog::getSaveFileName(this, tr("Save the remake"), QSettings().value("folder").toString() + "/" + name, remake_filter());
    if (f.isEmpty()) return false;
    if (!f.endsWith(".fakturwerk")) f += ".fakturwerk";
    if (!session_.documents().save(f)) return false;
    remember(f);
    return true;
}

bool MainWindow::may_discard() {
    if (!session_.documents().unsaved()) return true;
    QMessageBox box(QMessageBox::Question, tr("Unsaved changes"), tr("The remake has changes that are not saved."),
                    QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
    box.setObjectName("unsaved");
    const int answer = box.exec();
    if (answer == QMessageBox::Save) return save();
    if (answer == QMessageBox::Discard && recovery_) recovery_->give_up();
    return answer == QMessageBox::Discard;
}

void MainWindow::offer(Recovery& recovery) {
    recovery_ = &recovery;
    const auto left = recovery.left_behind();
    if (left.empty()) return;
    // One at a time, the latest first; the others are offered when the program starts next.
    const Recovery::Left last = left.front();
    const QString name = last.file.isEmpty() ? tr("a remake that was never saved") : QFileInfo(last.file).fileName();
    auto* box = new QMessageBox(QMessageBox::Question, tr("Work that was not saved"),
                                tr("Fakturwerk ended before %1 was saved. A copy from %2 is here.").arg(name, last.when.toString("d MMM, HH:mm")),
                                QMessageBox::NoButton, this);
    box->setObjectName("recovery");
    box->setAttribute(Qt::WA_DeleteOnClose);
    auto* open = box->addButton(tr("Open it"), QMessageBox::AcceptRole);
    auto* away = box->addButton(tr("Throw it away"), QMessageBox::DestructiveRole);
    box->addButton(tr("Later"), QMessageBox::RejectRole);
    connect(box, &QMessageBox::finished, this, [this, box, open, away, last] {
        if (!recovery_) return;
        if (box->clickedButton() == open) recovery_->open(last);
        else if (box->clickedButton() == away) recovery_->throw_away(last);
    });
    box->open();
}

void MainWindow::ask_for_reference(const QString& remake, const QString& sentence) {
    tell(sentence);
    auto* box = new QMessageBox(QMessageBox::Question, tr("Where is the original?"), sentence, QMessageBox::Cancel, this);
    box->setObjectName("reference");
    box->setAttribute(Qt::WA_DeleteOnClose);
    auto* locate = box->addButton(tr("Find it…"), QMessageBox::AcceptRole);
    connect(box, &QMessageBox::finished, this, [this, box, locate, remake] {
        if (box->clickedButton() != locate) return;
        const QString f = QFileDialog::getOpenFileName(this, tr("Find the original"), QFileInfo(remake).path(), audio_filter());
        if (!f.isEmpty()) session_.open_remake(remake, f);
    });
    box->open();
}

void MainWindow::remember(const QString& path) {
    QSettings settings;
    QStringList list = settings.value("recent").toStringList();
    const QString full = QFileInfo(path).absoluteFilePath();
    list.removeAll(full);
    list.prepend(full);
    settings.setValue("recent", QStringList(list.mid(0, 10)));
    settings.setValue("folder", QFileInfo(path).absolutePath());
}

void MainWindow::fill_recent() {
    recent_->clear();
    for (const QString& path : QSettings().value("recent").toStringList()) {
        auto* a = recent_->addAction(QFileInfo(path).fileName());
        a->setToolTip(path);
        a->setEnabled(QFileInfo::exists(path));
        connect(a, &QAction::triggered, this, [this, path] { open(path); });
    }
    if (recent_->isEmpty()) recent_->addAction(tr("Nothing yet"))->setEnabled(false);
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!may_discard()) {
        e->ignore();
        return;
    }
    QSettings().setValue("geometry", saveGeometry());
    e->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls() && e->mimeData()->urls().size() == 1) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
    if (e->mimeData()->hasUrls()) open(e->mimeData()->urls().first().toLocalFile());
}

}  // namespace fw::app
