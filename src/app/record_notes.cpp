// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/record_notes.hpp"

#include "app/words.hpp"
#include "model/limits.hpp"

#include <QBuffer>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QImageReader>
#include <QLabel>
#include <QListWidget>
#include <QMessageBox>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScreen>
#include <QSettings>
#include <QVBoxLayout>
#include <algorithm>
#include <functional>

namespace fw::app {

namespace {

/// As large as asked for at most; null where it is no picture or is not there any more.
QImage image_of(const Picture& p, const QSize& most) {
    QByteArray kept = QByteArray::fromRawData(p.bytes->data(), static_cast<qsizetype>(p.bytes->size()));
    QBuffer buffer(&kept);
    QImageReader reader;
    if (p.bytes->empty()) reader.setFileName(QString::fromStdString(p.path));
    else reader.setDevice(&buffer);
    reader.setAutoTransform(true);
    if (const QSize size = reader.size(); size.isValid() && (size.width() > most.width() || size.height() > most.height()))
        reader.setScaledSize(size.scaled(most, Qt::KeepAspectRatio));
    return reader.read();
}

QString name_of(const Picture& p) { return p.words.empty() ? QFileInfo(QString::fromStdString(p.path)).fileName() : QString::fromStdString(p.words); }

constexpr QSize kThumbnail{120, 84};

}  // namespace

RecordNotes::RecordNotes(Session& session, QWidget* parent) : QDialog(parent), session_(session), pictures_(session.remake().notebook->pictures) {
    setObjectName("research");
    setWindowTitle(tr("Notes on the record"));
    resize(620, 500);
    kept_ = pictures_.size();
    for (std::size_t i = 0; i < kept_; ++i) places_.push_back(i);
    auto* column = new QVBoxLayout(this);
    column->addWidget(new QLabel(tr("How it was made, in your words: interviews, instruments, links. They are kept with the remake.")));
    words_ = new QPlainTextEdit(QString::fromStdString(session_.remake().notebook->research));
    words_->setObjectName("words");
    column->addWidget(words_, 3);
    column->addWidget(new QLabel(tr("Pictures; what one shows is written below it (F2).")));
    shelf_ = new QListWidget;
    shelf_->setObjectName("pictures");
    shelf_->setViewMode(QListView::IconMode);
    shelf_->setIconSize(kThumbnail);
    shelf_->setGridSize({kThumbnail.width() + 16, kThumbnail.height() + 34});
    shelf_->setMovement(QListView::Static);
    shelf_->setResizeMode(QListView::Adjust);
    shelf_->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::SelectedClicked);
    shelf_->setToolTip(tr("Double-click or Return: large"));
    connect(shelf_, &QListWidget::itemActivated, this, [this](QListWidgetItem* item) { show_large(shelf_->row(item)); });
    connect(shelf_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        const int row = shelf_->row(item);
        if (row >= 0) pictures_[static_cast<std::size_t>(row)].words = item->text().trimmed().toStdString();
    });
    column->addWidget(shelf_, 2);
    auto* row = new QHBoxLayout;
    const auto button = [&](const char* name, const QString& text, const QString& tip, const std::function<void()>& does) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        b->setToolTip(tip);
        b->setAutoDefault(false);
        connect(b, &QPushButton::clicked, this, does);
        row->addWidget(b);
    };
    button("add picture", tr("Add picture…"), tr("A photograph, a page, a screen: it is kept in the remake's file"), [this] { ask_for_picture(); });
    button("remove picture", tr("Remove picture"), tr("Takes the chosen one away; once accepted, undo brings it back"), [this] {
        const int chosen = shelf_->currentRow();
        if (chosen < 0) return;
        const auto at = static_cast<std::size_t>(chosen);
        if (at < kept_) {
            taken_away_.push_back(places_[at]);
            places_.erase(places_.begin() + chosen);
            --kept_;
        }
        pictures_.erase(pictures_.begin() + chosen);
        fill();
    });
    row->addStretch(1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    row->addWidget(buttons);
    column->addLayout(row);
    fill();
}

std::optional<QString> RecordNotes::add_picture(const QString& path) {
    if (pictures_.size() >= limits::kPictures) return tr("A remake keeps at most %1 pictures: take one away first.").arg(limits::kPictures);
    Picture p;
    p.path = path.toStdString();
    if (image_of(p, kThumbnail).isNull()) return tr("%1 is no picture this program can read: choose a PNG or JPEG file.").arg(QFileInfo(path).fileName());
    pictures_.push_back(std::move(p));
    fill();
    return std::nullopt;
}

void RecordNotes::ask_for_picture() {
    const QString path = QFileDialog::getOpenFileName(this, tr("A picture of how the record was made"), QSettings().value("folder").toString(),
                                                      tr("Pictures (*.png *.jpg *.jpeg *.webp *.gif *.bmp)"));
    if (path.isEmpty()) return;
    if (const auto wrong = add_picture(path)) QMessageBox::information(this, windowTitle(), *wrong);
}

void RecordNotes::fill() {
    const QSignalBlocker quiet(shelf_);
    shelf_->clear();
    for (const Picture& p : pictures_) {
        const QImage image = image_of(p, kThumbnail);
        auto* item = new QListWidgetItem(name_of(p));
        if (!image.isNull()) item->setIcon(QPixmap::fromImage(image));
        item->setToolTip(image.isNull() ? tr("%1 is not there any more").arg(QString::fromStdString(p.path)) : name_of(p));
        item->setFlags(item->flags() | Qt::ItemIsEditable);
        shelf_->addItem(item);
    }
}

void RecordNotes::show_large(int row) {
    if (row < 0 || row >= static_cast<int>(pictures_.size())) return;
    const Picture& p = pictures_[static_cast<std::size_t>(row)];
    const QImage image = image_of(p, QGuiApplication::primaryScreen()->availableSize() * 0.8);
    if (image.isNull()) return;
    QDialog large(this);
    large.setObjectName("picture");
    large.setWindowTitle(name_of(p));
    auto* column = new QVBoxLayout(&large);
    auto* label = new QLabel;
    label->setPixmap(QPixmap::fromImage(image));
    column->addWidget(label);
    large.exec();
}

void RecordNotes::accept() {
    DocumentStore& documents = session_.documents();
    const auto words = words_->toPlainText().toStdString();
    if (words != session_.remake().notebook->research) documents.run(Line("research.set").with("words", words));
    for (std::size_t i = 0; i < kept_; ++i) {
        const Picture& before = session_.remake().notebook->pictures[places_[i]];
        if (before.words == pictures_[i].words) continue;
        documents.run(Line("picture.describe").with("picture", std::to_string(places_[i] + 1)).with("words", pictures_[i].words));
    }
    std::sort(taken_away_.rbegin(), taken_away_.rend());
    for (const std::size_t at : taken_away_) documents.run(Line("picture.remove").with("picture", std::to_string(at + 1)));
    for (std::size_t i = kept_; i < pictures_.size(); ++i) {
        Line line = Line("picture.add").with("file", pictures_[i].path);
        if (!pictures_[i].words.empty()) line.with("words", pictures_[i].words);
        documents.run(line);
    }
    QDialog::accept();
}

}  // namespace fw::app
