// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desks.hpp"
#include "app/words.hpp"
#include "model/edits/condense.hpp"

#include "app/theme.hpp"
#include "formats/hand_off.hpp"

#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

namespace fw::app {

HandOffDesk::HandOffDesk(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(28, 20, 28, 20);
    column->setSpacing(10);
    auto* title = new QLabel(tr("What will be delivered"));
    title->setFont(text_font(12, true));
    column->addWidget(title);
    for (const DeliveryKind& d : kDeliveries) {
        auto* box = new QCheckBox(QString("%1   —   %2: %3").arg(d.name, d.file, d.what));
        box->setChecked(true);
        box->setObjectName(QString("deliver_") + d.name);
        connect(box, &QCheckBox::toggled, this, &HandOffDesk::follow);
        choices_.push_back(box);
        column->addWidget(box);
    }
    without_original_ = new QCheckBox(tr("Leave out sounds cut from the original"));
    without_original_->setObjectName("without_original");
    without_original_->setToolTip(tr("Nothing of the recording itself is then in the mix or the stems"));
    column->addWidget(without_original_);
    auto* where = new QHBoxLayout;
    folder_ = new QLabel;
    folder_->setFont(figure_font(9));
    folder_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* choose = new QPushButton(tr("Choose folder…"));
    choose->setToolTip(tr("Where the files go"));
    connect(choose, &QPushButton::clicked, this, [this] {
        const QString chosen = QFileDialog::getExistingDirectory(this, tr("Folder for the hand-off"), folder_->text());
        if (!chosen.isEmpty()) QSettings().setValue("hand_off_folder", chosen), follow();
    });
    where->addWidget(new QLabel(tr("Into")));
    where->addWidget(folder_, 1);
    where->addWidget(choose);
    column->addLayout(where);
    preview_ = new QLabel;
    preview_->setObjectName("heading");
    preview_->setWordWrap(true);
    column->addWidget(preview_);
    auto* row = new QHBoxLayout;
    go_ = new QPushButton(tr("Deliver"));
    go_->setToolTip(tr("Write the chosen files"));
    connect(go_, &QPushButton::clicked, this, [this] { deliver(folder_->text()); });
    cancel_ = new QPushButton(tr("Stop"));
    cancel_->setObjectName("stop");
    cancel_->setEnabled(false);
    cancel_->setToolTip(tr("Stop writing; finished files stay"));
    connect(cancel_, &QPushButton::clicked, this, [this] { jobs_.cancel("hand-off"); });
    progress_ = new QProgressBar;
    progress_->setRange(0, 1000);
    progress_->setTextVisible(false);
    row->addWidget(go_);
    row->addWidget(cancel_);
    row->addWidget(progress_, 1);
    column->addLayout(row);
    message_ = new QLabel;
    message_->setWordWrap(true);
    column->addWidget(message_);
    column->addStretch(1);
    connect(this, &HandOffDesk::done, this, [this](bool, const QString& sentence) {
        message_->setText(sentence);
        go_->setEnabled(true);
        cancel_->setEnabled(false);
    });
    connect(&session_, &Session::document_changed, this, &HandOffDesk::follow);
    follow();
}

void HandOffDesk::follow() {
    const Remake& r = session_.remake();
    const QString stem = session_.documents().file().isEmpty() ? QFileInfo(QString::fromStdString(r.reference.path)).completeBaseName()
                                                               : QFileInfo(session_.documents().file()).completeBaseName();
    const QString base = QSettings().value("hand_off_folder", QDir::homePath()).toString();
    folder_->setText(QDir(base).filePath(stem.isEmpty() ? QString("hand-off") : stem + tr(" hand-off")));
    for (std::size_t i = 0; i < kDeliveries.size(); ++i)
        if (kDeliveries[i].delivery == Delivery::Condensed) {
            choices_[i]->setEnabled(is_condensed(*r.song));
            choices_[i]->setToolTip(is_condensed(*r.song) ? QString() : tr("Rebuild ▸ a section's head, right button: leave it out of the condensed version"));
        }
    bool any = false;
    for (const auto* box : choices_) any = any || (box->isChecked() && box->isEnabled());
    go_->setEnabled(session_.has_reference() && !session_.provisional() && any && !jobs_.busy("hand-off"));
    if (!session_.has_reference()) {
        preview_->setText(tr("Open a recording first; then choose what to hand over."));
        return;
    }
    QStringList names;
    for (const auto& part : r.parts) names << QString::fromStdString(part->name);
    preview_->setText(tr("%1, %2, %3 sections, %4 chords; parts: %5.")
                          .arg(time_text(r.reference.duration_s), QString::fromStdString(r.song->tempo_text()))
                          .arg(r.song->sections.size())
                          .arg(r.song->chords.size())
                          .arg(names.join(", ")));
}

void HandOffDesk::deliver(const QString& folder) {
    if (!session_.recording().sound) {
        message_->setText(tr("The recording's sound is still being read: hand over once it is there."));
        return;
    }
    go_->setEnabled(false);
    cancel_->setEnabled(true);
    message_->setText(tr("Writing…"));
    HandOff job;
    job.remake = session_.documents().document();
    job.analysis = session_.recording().analysis;
    job.original = session_.recording().summary;
    job.assets = assets_beside(session_.recording().sound);
    job.without_original = without_original_->isChecked();
    job.folder = folder.toStdString();
    job.inputs.emplace_back(session_.remake().reference.path);
    if (!session_.documents().file().isEmpty()) job.inputs.emplace_back(session_.documents().file().toStdString());
    for (std::size_t i = 0; i < kDeliveries.size(); ++i)
        if (choices_[i]->isChecked() && choices_[i]->isEnabled()) job.wanted.push_back(kDeliveries[i].delivery);
    jobs_.run(
        "hand-off", "the hand-off",
        [this, job = std::move(job)]() -> JobQueue::Work {
            return [this, job](const Progress& progress) -> Result<JobQueue::Delivery> {
                const auto files = hand_off(job, progress);
                const QString sentence =
                    files ? tr("%1 files are in %2.").arg(*files).arg(QString::fromStdString(job.folder.string())) : of_core(files.error().message());
                return JobQueue::Delivery([this, ok = files.ok(), sentence] { emit done(ok, sentence); });
            };
        },
        [this](double f, std::string_view) {
            QMetaObject::invokeMethod(
                progress_, [this, f] { progress_->setValue(static_cast<int>(f * 1000)); }, Qt::QueuedConnection);
        });
}

}  // namespace fw::app
