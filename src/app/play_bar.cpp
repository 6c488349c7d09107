// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/play_bar.hpp"

#include "app/main_window.hpp"
#include "app/number_field.hpp"
#include "app/painting.hpp"
#include "app/play_in.hpp"
#include "app/words.hpp"
#include "audio/audio_file.hpp"
#include "base/guard.hpp"
#include "dsp/constants.hpp"
#include "formats/midi_file.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QSettings>

namespace fw::app {

namespace {
constexpr int kComputerKeys = 0, kFileKeyboard = 1, kVoice = 2;  // before the system's own inputs
}

PlayBar::PlayBar(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("play_bar");
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 0, 12, 6);
    row->setSpacing(6);
    row->addWidget(new QLabel(tr("Play on")));
    source_ = new QComboBox;
    source_->setObjectName("play_source");
    source_->setToolTip(tr("The computer's keys: A to L are the white ones from C on, W to P the black ones, PageUp and PageDown change the octave"));
    row->addWidget(source_);
    latency_ = new NumberField(QSettings().value("play/latency_ms", 0.0).toDouble(), -50, 300, 1, tr(" ms"), 0);
    latency_->setObjectName("play_latency");
    latency_->setToolTip(tr("How much later than you mean it what you play arrives: taken off"));
    latency_->setFixedWidth(72);
    row->addWidget(latency_);
    record_ = new QPushButton(tr("Record"));
    record_->setObjectName("play_record");
    record_->setCheckable(true);
    record_->setToolTip(tr("Over what plays; with a loop each time round is a take"));
    row->addWidget(record_);
    steps_ = new QCheckBox(tr("Step by step"));
    steps_->setObjectName("play_steps");
    steps_->setToolTip(tr("Each key, or keys together, writes a note of the grid's length at the playhead, which goes on"));
    row->addWidget(steps_);
    voice_ = new QPushButton(tr("The voice"));
    voice_->setObjectName("hear_voice");
    voice_->setCheckable(true);
    voice_->setToolTip(tr("What was hummed sounds with its notes, as a clip of your own; once more takes it away"));
    voice_->hide();
    connect(voice_, &QPushButton::clicked, this, &PlayBar::let_voice_sound);
    row->addWidget(voice_);
    takes_ = new QHBoxLayout;
    takes_->setSpacing(4);
    row->addLayout(takes_);
    row->addStretch(1);
    PlayIn& play = session_.play_in();
    play.set_latency_ms(latency_->value());
    connect(latency_, &QDoubleSpinBox::valueChanged, this, [this](double ms) {
        session_.play_in().set_latency_ms(ms);
        QSettings().setValue("play/latency_ms", ms);
    });
    connect(record_, &QPushButton::clicked, this, [this](bool on) {
        session_.play_in().record(on);
        follow();
    });
    connect(steps_, &QCheckBox::clicked, this, [this](bool on) { session_.play_in().set_step_entry(on); });
    connect(source_, &QComboBox::activated, this, &PlayBar::choose);
    connect(&play, &PlayIn::changed, this, &PlayBar::follow);
    connect(&jobs_, &JobQueue::failed, &session_, &Session::failed);
    hide();
}

void PlayBar::listen_in(QWidget& widget) { widget.installEventFilter(this); }

std::optional<int> PlayBar::semitone_of(int key) {
    // As on a piano: the middle row the white keys, the row above the black ones.
    constexpr int kKeys[] = {Qt::Key_A, Qt::Key_W, Qt::Key_S, Qt::Key_E, Qt::Key_D, Qt::Key_F, Qt::Key_T, Qt::Key_G,
                             Qt::Key_Y, Qt::Key_H, Qt::Key_U, Qt::Key_J, Qt::Key_K, Qt::Key_O, Qt::Key_L, Qt::Key_P};
    for (std::size_t i = 0; i < std::size(kKeys); ++i)
        if (kKeys[i] == key) return static_cast<int>(i);
    return std::nullopt;
}

bool PlayBar::eventFilter(QObject* watched, QEvent* event) {
    PlayIn& play = session_.play_in();
    const bool keys = event->type() == QEvent::ShortcutOverride || event->type() == QEvent::KeyPress || event->type() == QEvent::KeyRelease;
    if (!isVisible() || !play.by_computer_keys() || !keys) return QWidget::eventFilter(watched, event);
    auto* e = static_cast<QKeyEvent*>(event);
    const auto semitone = semitone_of(e->key());
    const int octave = e->key() == Qt::Key_PageUp ? 1 : e->key() == Qt::Key_PageDown ? -1 : 0;
    if ((!semitone && octave == 0) || e->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) return QWidget::eventFilter(watched, event);
    event->accept();
    if (event->type() == QEvent::ShortcutOverride || e->isAutoRepeat()) return true;
    if (octave != 0) {
        if (event->type() == QEvent::KeyPress) play.set_octave(std::clamp(play.octave() + octave, 0, 8));
        return true;
    }
    play.key(12 * (play.octave() + 1) + *semitone, event->type() == QEvent::KeyPress);
    return true;
}

void PlayBar::showEvent(QShowEvent*) {
    // Asked anew each time: a keyboard may have come or gone.
    const QString before = source_->currentText();
    source_->clear();
    source_->addItem(tr("the computer's keys"));
    source_->addItem(tr("a MIDI file, as a hand plays it…"));
    source_->addItem(tr("a voice from a file…"));
    for (const std::string& name : midi_inputs()) source_->addItem(QString::fromStdString(name));
    source_->setCurrentIndex(std::max(0, source_->findText(before)));
    if (source_->currentIndex() == kFileKeyboard || source_->currentIndex() == kVoice) source_->setCurrentIndex(kComputerKeys);
    choose(source_->currentIndex());
    follow();
}

void PlayBar::hideEvent(QHideEvent*) { session_.play_in().stop_listening(); }

void PlayBar::choose(int index) {
    if (index == kComputerKeys) return session_.play_in().listen(nullptr);
    if (index == kFileKeyboard) return play_file();
    if (index == kVoice) {
        const QString path = QFileDialog::getOpenFileName(this, tr("Hummed, whistled or sung"), QSettings().value("folder").toString(), audio_filter());
        source_->setCurrentIndex(kComputerKeys);
        session_.play_in().listen(nullptr);
        if (!path.isEmpty()) hear_voice(path);
        return;
    }
    auto input = open_midi_input(source_->itemText(index).toStdString());
    if (input) return session_.play_in().listen(std::move(*input));
    emit session_.failed(of_core(input.error().message()));
    source_->setCurrentIndex(kComputerKeys);
    session_.play_in().listen(nullptr);
}

/// Notes of a voice, in the key of the place they go to: where the loop begins, or the playhead is.
void PlayBar::hear_voice(const QString& path) {
    const Song& song = *session_.remake().song;
    const Transport& t = session_.transport();
    const double at_s = t.loop_end() > t.loop_start() ? t.loop_start() : t.position_s();
    const Key* area = song.key_at(song.tempo.nearest_tick(at_s));
    jobs_.run("voice", tr("listening to %1").arg(path), [this, path, at_s, key = area ? std::optional(*area) : std::nullopt]() -> JobQueue::Work {
        return [this, path, at_s, key](const Progress& progress) -> Result<JobQueue::Delivery> {
            const auto voice = read_mono(path.toStdString(), progress);
            if (!voice) return voice.error();
            std::vector<float> mono(voice->samples.size());
            std::transform(voice->samples.begin(), voice->samples.end(), mono.begin(), [](auto s) { return static_cast<float>(s) / 32768.0F; });
            return JobQueue::Delivery([this, path, at_s, hummed = notes_of_voice(mono, kAnalysisRate, key)] { take_voice(path, at_s, hummed); });
        };
    });
}

void PlayBar::take_voice(const QString& path, double at_s, const Hummed& hummed) {
    if (hummed.notes.empty()) {
        emit session_.told(tr("No voice was heard in %1: one tone at a time is needed.").arg(path));
        return;
    }
    const TempoMap& tempo = session_.remake().song->tempo;
    std::vector<Note> notes;
    for (const HeardNote& h : hummed.notes) {
        Note n;
        n.start = tempo.nearest_tick(at_s + h.onset_s);
        n.length = std::max<Ticks>(1, tempo.nearest_tick(at_s + h.onset_s + h.duration_s) - n.start);
        n.pitch = h.pitch, n.velocity = h.velocity, n.origin = Origin::Played;
        notes.push_back(n);
    }
    voice_file_ = path, voice_at_s_ = at_s, voice_s_ = hummed.notes.back().onset_s + hummed.notes.back().duration_s + 0.3;
    session_.play_in().add_take(std::move(notes));
    voice_->setChecked(false);
    voice_->show();
    emit session_.told(tr("%1 notes of a voice, %2 cents %3; Q puts them on the grid.")
                           .arg(hummed.notes.size())
                           .arg(std::abs(hummed.sharp_cents), 0, 'f', 0)
                           .arg(hummed.sharp_cents < 0 ? tr("flat") : tr("sharp")));
}

/// Before and after: the voice itself, where its notes are.
void PlayBar::let_voice_sound(bool on) {
    const QString name = tr("my voice");
    const Song& song = *session_.remake().song;
    const bool done = on ? session_.documents().run(Line("clip.from-file")
                                                        .with("file", voice_file_.toStdString())
                                                        .with("to", place_text(song.meter, song.tempo.nearest_tick(voice_at_s_)))
                                                        .with("seconds", QString::number(voice_s_, 'f', 3).toStdString())
                                                        .with("name", name.toStdString()))
                         : session_.documents().run(Line("clip.remove").with("clip", name.toStdString()));
    if (!done) voice_->setChecked(!on);
}

/// A keyboard that is not there plays the first part of a file, a little unsteadily, from when recording begins.
void PlayBar::play_file() {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("What the simulated keyboard plays"), QSettings().value("folder").toString(), tr("MIDI files (*.mid *.midi)"));
    const auto song = path.isEmpty() ? Result<MidiSong>(Error{ErrorCode::Cancelled, {}, {}})
                                     : guarded("reading " + path.toStdString(), [&] { return read_midi(path.toStdString()); });
    if (!song || song->parts.empty()) {
        if (!path.isEmpty() && !song) emit session_.failed(of_core(song.error().message()));
        source_->setCurrentIndex(kComputerKeys);
        return session_.play_in().listen(nullptr);
    }
    constexpr double kUnsteady_s = 0.012;
    std::vector<SimulatedKeyboard::Key> keys;
    for (const HeardNote& n : song->parts.front().notes) keys.push_back({n.onset_s, n.duration_s, n.pitch, n.velocity});
    auto keyboard = std::make_unique<SimulatedKeyboard>(std::move(keys), kUnsteady_s, 1);
    keyboard->start(std::chrono::steady_clock::now());
    session_.play_in().listen(std::move(keyboard));
}

void PlayBar::follow() {
    const PlayIn& play = session_.play_in();
    record_->setChecked(play.recording());
    record_->setText(play.recording() ? tr("Stop") : tr("Record"));
    steps_->setChecked(play.step_entry());
    while (QLayoutItem* item = takes_->takeAt(0)) {
        item->widget()->deleteLater();
        delete item;
    }
    for (std::size_t i = 0; i < play.takes().size(); ++i) {
        const auto right = play.takes()[i].right;
        auto* b = new QPushButton(right ? tr("Take %1  %2").arg(i + 1).arg(percent_text(*right)) : tr("Take %1").arg(i + 1));
        b->setObjectName(QString("take%1").arg(i));
        b->setProperty("compact", true);
        b->setCheckable(true);
        b->setChecked(play.taken() == i);
        b->setToolTip((right ? tr("%1 notes, on average %2 likely right by the original") : tr("%1 notes%2"))
                          .arg(play.takes()[i].notes.size())
                          .arg(right ? percent_text(*right) : QString()) +
                      tr("; it takes the place of the take before"));
        connect(b, &QPushButton::clicked, this, [this, i] { session_.play_in().take(i); });
        takes_->addWidget(b);
    }
}

}  // namespace fw::app
