// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/record_panel.hpp"

#include "app/calm_combo.hpp"
#include "app/number_field.hpp"
#include "app/words.hpp"
#include "audio/mono.hpp"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace fw::app {

RecordPanel::RecordPanel(Session& session, QWidget* parent) : QDialog(parent), session_(session), recorder_(session) {
    setWindowTitle(tr("Record over the song"));
    setObjectName("record_panel");
    resize(420, 320);
    auto* column = new QVBoxLayout(this);
    auto* head = new QHBoxLayout;
    from_ = new CalmCombo;
    from_->setObjectName("record_from");
    from_->setToolTip(tr("What is listened to"));
    auto microphone = open_microphone(session_.transport().rate_hz());
    from_->addItem(microphone ? QString::fromStdString(microphone->name()) : tr("No microphone was found"));
    from_->addItem(tr("A sound file, as if it were played in…"));
    recorder_.use(std::move(microphone));
    connect(from_, &QComboBox::activated, this, [this](int n) {
        if (n == 0) {
            recorder_.use(open_microphone(session_.transport().rate_hz()));
            return;
        }
        const QString path = QFileDialog::getOpenFileName(this, tr("Sound that is heard instead of a microphone"), {},
                                                          tr("Sound (*.wav *.flac *.ogg *.oga *.mp3 *.aif *.aiff);;All files (*)"));
        if (!path.isEmpty()) hear_file(path);
        else from_->setCurrentIndex(0), recorder_.use(open_microphone(session_.transport().rate_hz()));
    });
    head->addWidget(from_, 1);
    level_ = new QLabel;
    level_->setObjectName("record_level");
    level_->setMinimumWidth(70);
    level_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    head->addWidget(level_);
    column->addLayout(head);
    auto* second = new QHBoxLayout;
    record_ = new QPushButton(tr("Record"));
    record_->setObjectName("record_sound");
    record_->setCheckable(true);
    record_->setToolTip(tr("Plays from here and keeps what is heard; with a loop on, a take each time round"));
    connect(record_, &QPushButton::toggled, &recorder_, &SoundRecorder::record);
    second->addWidget(record_);
    second->addStretch(1);
    second->addWidget(new QLabel(tr("Comes late by")));
    auto* late = new NumberField(0, -200, 1000, 1, tr(" ms"), 0);
    late->setObjectName("record_latency");
    late->setFixedWidth(84);
    late->setToolTip(tr("How much later than it was played the device delivers it: taken off each take"));
    connect(late, &QDoubleSpinBox::valueChanged, this, [this](double ms) { recorder_.set_latency_ms(ms); });
    second->addWidget(late);
    column->addLayout(second);
    takes_ = new QListWidget;
    takes_->setObjectName("takes");
    takes_->setToolTip(tr("Takes stand in the song one in the place of the other: choose the one that stays"));
    connect(takes_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0 && recorder_.taken() != static_cast<std::size_t>(row)) recorder_.take(static_cast<std::size_t>(row));
    });
    column->addWidget(takes_, 1);
    say_ = new QLabel;
    say_->setWordWrap(true);
    column->addWidget(say_);
    connect(&recorder_, &SoundRecorder::changed, this, &RecordPanel::follow);
    timer_.setInterval(80);
    connect(&timer_, &QTimer::timeout, this, [this] {
        const double peak = recorder_.peak();
        level_->setText(peak > 0.0 ? tr("%1 dBFS").arg(20.0 * std::log10(peak), 0, 'f', 0) : tr("silent"));
    });
    timer_.start();
    follow();
}

void RecordPanel::hear_file(const QString& path) {
    const auto sound = read_audio(path.toStdString());
    if (!sound) {
        emit session_.failed(of_core(sound.error().message()));
        return;
    }
    recorder_.use(std::make_unique<SimulatedMicrophone>(mono_of(*sound), sound->sample_rate_hz));
    from_->setCurrentIndex(1);
    from_->setItemText(1, tr("%1, as if it were played in").arg(QFileInfo(path).fileName()));
}

void RecordPanel::hideEvent(QHideEvent* event) {
    recorder_.record(false);
    QDialog::hideEvent(event);
}

void RecordPanel::follow() {
    const QSignalBlocker quiet(takes_), still(record_);
    record_->setEnabled(recorder_.microphone() != nullptr);
    record_->setChecked(recorder_.recording());
    record_->setText(recorder_.recording() ? tr("Stop") : tr("Record"));
    takes_->clear();
    for (std::size_t i = 0; i < recorder_.takes().size(); ++i) {
        const auto& t = recorder_.takes()[i];
        takes_->addItem(tr("Take %1   %2 s, up to %3 dBFS").arg(i + 1).arg(t.seconds, 0, 'f', 1).arg(20.0 * std::log10(t.peak), 0, 'f', 0));
    }
    if (recorder_.taken()) takes_->setCurrentRow(static_cast<int>(*recorder_.taken()));
    say_->setText(!recorder_.microphone()     ? tr("Connect a microphone and choose it anew, or let a file stand in for one.")
                  : recorder_.recording()     ? tr("Recording. Stop, or stop playback, to keep it.")
                  : recorder_.takes().empty() ? tr("Set a loop to sing or play a line several times: each time round becomes a take.")
                                              : tr("The chosen take is a clip beneath the arrangement: right button there to tune, clean or chop it."));
}

}  // namespace fw::app
