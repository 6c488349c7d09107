// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/sound_recorder.hpp"

#include <QDialog>

class QComboBox;
class QLabel;
class QListWidget;
class QPushButton;

namespace fw::app {

/// Where one's own voice or instrument is recorded over the song: what is listened to, how loud it is, and the takes to choose from.
class RecordPanel final : public QDialog {
    Q_OBJECT

public:
    RecordPanel(Session& session, QWidget* parent);
    SoundRecorder& recorder() { return recorder_; }
    /// Lets a file stand in for a microphone; what is wrong with it is told.
    void hear_file(const QString& path);

protected:
    /// What is not seen does not record.
    void hideEvent(QHideEvent* event) override;

private:
    void follow();
    Session& session_;
    SoundRecorder recorder_;
    QComboBox* from_ = nullptr;
    QPushButton* record_ = nullptr;
    QLabel *level_ = nullptr, *say_ = nullptr;
    QListWidget* takes_ = nullptr;
    QTimer timer_;
};

}  // namespace fw::app
